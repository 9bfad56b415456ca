"""A real editor, Neovim, with the language server: a mistake that is typed is underlined."""

import json
import shutil
import subprocess

import pytest

from tests.conftest import JAKLET, Office

SCRIPT = """
local client = vim.lsp.start_client({name = 'jaklet', cmd = {'%s', 'lsp'}, root_dir = vim.fn.getcwd()})
vim.cmd('edit jaklet.yaml')
vim.lsp.buf_attach_client(0, client)
local function found(words)
  for _, one in ipairs(vim.diagnostic.get(0)) do
    if string.find(one.message, words, 1, true) then return one end
  end
end
vim.wait(15000, function() return vim.lsp.buf_is_attached(0, client) end, 20)
local row = vim.fn.search('super+b: go berths') - 1
vim.api.nvim_buf_set_lines(0, row, row + 1, true, {'  super+b: go ferry'})
vim.wait(15000, function() return found('ferry') end, 20)
local one = found('ferry') or {}
local answer = vim.lsp.buf_request_sync(0, 'textDocument/completion', {
  textDocument = vim.lsp.util.make_text_document_params(0), position = {line = row, character = 14}}, 15000)
local labels = {}
for _, reply in pairs(answer or {}) do
  for _, item in ipairs(reply.result and (reply.result.items or reply.result) or {}) do table.insert(labels, item.label) end
end
vim.fn.writefile({vim.fn.json_encode({row = row, lnum = one.lnum, col = one.col, end_col = one.end_col,
  severity = one.severity, labels = labels})}, 'told.json')
vim.cmd('qa!')
"""


def test_a_mistake_is_underlined_in_neovim(office: Office) -> None:
    if not shutil.which("nvim"):
        pytest.skip("nvim is not installed; on Debian: apt install neovim")
    script = office.folder / "edit.lua"
    script.write_text(SCRIPT % JAKLET)
    command = ["nvim", "--headless", "-u", "NONE", "-n", "-S", str(script)]
    env = {**office.env, "HOME": str(office.folder), "TERM": "dumb"}
    subprocess.run(command, cwd=office.folder, env=env, check=True, capture_output=True, timeout=60)
    told = json.loads((office.folder / "told.json").read_text())
    assert (told["lnum"], told["col"], told["end_col"]) == (told["row"], 14, 19)
    assert told["severity"] == 1
    assert {"berths", "radio"} <= {*told["labels"]}
