-- What Neovim shows of a config by `jaklet lsp`, for the picture: findings while a line is written, and what is under the cursor.
vim.o.termguicolors = true
vim.o.number = true
vim.o.laststatus = 0
vim.o.ruler = false
vim.o.showcmd = false
vim.o.signcolumn = 'yes'
vim.o.shortmess = vim.o.shortmess .. 'F'
for name, colours in pairs({
  NormalFloat = 'guibg=#22323c guifg=#e6e6e6', SignColumn = 'guibg=NONE', LineNr = 'guifg=#667788',
  DiagnosticError = 'guifg=#ff7b72', DiagnosticWarn = 'guifg=#f0c674', DiagnosticHint = 'guifg=#79b8ff',
}) do vim.cmd('highlight ' .. name .. ' ' .. colours) end
vim.diagnostic.config({virtual_text = {spacing = 3}, severity_sort = true})
local client = vim.lsp.start_client({name = 'jaklet', cmd = {'jaklet', 'lsp'}, root_dir = vim.fn.getcwd()})
vim.cmd('edit jaklet.yaml')
vim.lsp.buf_attach_client(0, client)
vim.wait(15000, function() return vim.lsp.buf_is_attached(0, client) end, 20)
local function put(words, new)
  local row = vim.fn.search(words, 'w') - 1
  vim.api.nvim_buf_set_lines(0, row, row + 1, true, {new})
  return row
end
put('super+n: focus next', '  super+n: focus nxet')
put('super+h: focus left', '  super+z: focus left')
put('super+l: focus right', '  ctrl+c: focus right')
put('super+left: place left 2/3', '  super+left: place left 5/3')
local first = vim.fn.search('# the focus', 'w')
local letters = vim.fn.search('show layout arrivals', 'w')
vim.wait(15000, function() return #vim.diagnostic.get(0) > 2 end, 20)
vim.fn.cursor(letters, 33)
vim.cmd('normal! zt')
vim.fn.winrestview({topline = first - 1})
vim.defer_fn(function()
  vim.lsp.buf.hover()
  vim.defer_fn(function() vim.fn.writefile({''}, 'shown') end, 1500)
end, 800)
