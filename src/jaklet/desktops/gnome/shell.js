// What is GNOME Shell's of the agent (`agent.js` stands before this): an object on the session bus, which does nothing
// before somebody begins a conversation with it.
//
// Each connection has a conversation of its own, by its unique name, which the bus never gives to anybody else. It has
// to be a process of the program that set this up, and in the same file system. What a conversation holds (chords, the
// keyboard, panels) goes back when its connection goes, the extension is disabled, or the screen is locked.

const VERSION = '@VERSION@', PATH = '/org/jaklet/Desk', FACE = 'org.jaklet.Desk';
const METHODS = `<node><interface name="${FACE}">
<method name="Open"><arg type="s" direction="out"/></method>
<method name="Do"><arg type="s" direction="in"/></method>
<method name="Ask"><arg type="s" direction="in"/><arg type="s" direction="out"/></method>
<method name="Close"/>
<signal name="State"><arg type="s"/></signal>
<signal name="Heard"><arg type="s"/></signal>
<signal name="Began"><arg type="s"/></signal>
<signal name="Ended"/>
</interface></node>`;
const MOST_SIDE = 32767; // pixels of a window
const MOST = { windows: 1000, chords: 2000, panels: 400, side: 16384, keys: 12, text: 4000, workspaces: 36 };
// Times in ms: between two looks at a frame that was asked for; at a button that is down; until a click is a drag; of a
// program that has nothing to say of its cursor; until what is waited for is given up.
const AGAIN = 25, TRIES = 16, BESIDE = 15, CLICK = 80, QUIET = 40, LATE = 500;
const HELD = 1 | 4 | 8 | 64 | 128, LOCK = 2, BUTTON_MASK = 0x1f00; // of a state: Shift, Control, Mod1, Mod4, Mod5
const MODIFIERS = [[1, '<Shift>'], [4, '<Control>'], [8, '<Alt>'], [64, '<Super>'], [128, '<Mod5>']];
const MOST_KEY = 767, SENTINEL = 240; // evdev's numbers: KEY_MAX, and KEY_UNKNOWN, which no keyboard has
const MEDIA = 'org.gnome.settings-daemon.plugins.media-keys', CUSTOM = `${MEDIA}.custom-keybinding`;
const CUSTOM_AT = '/org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/';
const SHORTCUTS = ['org.gnome.desktop.wm.keybindings', 'org.gnome.shell.keybindings', 'org.gnome.mutter.keybindings',
    'org.gnome.mutter.wayland.keybindings', MEDIA];

// All that is spelt otherwise in one version of the shell than in another.
const api = {
    windows: () => global.display.list_all_windows ? global.display.list_all_windows() : global.get_window_actors().map(a => a.meta_window),
    fills: w => w.get_maximized ? w.get_maximized() : (w.is_maximized() ? 3 : (w.maximized_horizontally ? 1 : 0) | (w.maximized_vertically ? 2 : 0)),
    maximise: w => w.get_maximized ? w.maximize(Meta.MaximizeFlags.BOTH) : w.maximize(),
    restore: w => w.get_maximized ? w.unmaximize(Meta.MaximizeFlags.BOTH) : w.unmaximize(),
    backend: () => global.stage.context ? global.stage.context.get_backend() : Clutter.get_default_backend(),
    setBytes: (content, bytes, wide, high) => global.stage.context
        ? content.set_bytes(api.backend().get_cogl_context(), bytes, Cogl.PixelFormat.BGRA_8888_PRE, wide, high, 4 * wide)
        : content.set_bytes(bytes, Cogl.PixelFormat.BGRA_8888_PRE, wide, high, 4 * wide),
    // 43 tells of no key that is let go of.
    tellsReleases: 'TRIGGER_RELEASE' in Meta.KeyBindingFlags,
    xid: w => Number((w.get_description() || '').split(' ')[0]) || 0,
};

const rectOf = r => [r.x, r.y, r.width, r.height];
const idOf = w => w ? String(w.get_stable_sequence()) : '';
const now = () => global.display.get_current_time_roundtrip();
const same = (a, b) => a[0] === b[0] && a[1] === b[1];

function timer(ms, once, does) {
    let source = 0;
    const one = {
        start: () => {
            one.stop();
            source = GLib.timeout_add(GLib.PRIORITY_DEFAULT, ms, () => {
                if (once) source = 0;
                does();
                return !once;
            });
        },
        stop: () => { if (source) GLib.source_remove(source); source = 0; },
    };
    return one;
}

function isOfWayland(w) { return w.get_client_type() === Meta.WindowClientType.WAYLAND; }

function workspaceOf(w) {
    const workspace = w.is_on_all_workspaces() ? null : w.get_workspace();
    return workspace ? workspace.index() + 1 : 0;
}

function describe(w) {
    const frame = w.get_frame_rect(), fills = api.fills(w), is = isOfWayland(w), parent = w.get_transient_for();
    const cls = w.get_wm_class() || '', app = is ? Shell.WindowTracker.get_default().get_window_app(w) : null;
    const entry = app && !app.is_window_backed() ? app.get_id().replace(/\.desktop$/, '') : '';
    const isDialog = [Meta.WindowType.DIALOG, Meta.WindowType.MODAL_DIALOG].includes(w.get_window_type());
    return {
        // Of a window of Wayland, the app id is its class, and its desktop entry stands for an instance.
        id: idOf(w), pid: w.get_pid(), x11: is ? 0 : api.xid(w), cls, name: is ? entry || cls : w.get_wm_class_instance() || '',
        title: w.get_title() || '', role: w.get_role() || '', dialog: isDialog || is && !!parent, parent: idOf(parent),
        frame: rectOf(frame), inside: rectOf(w.frame_rect_to_client_rect(frame)), least: [1, 1], most: [MOST_SIDE, MOST_SIDE],
        minimised: w.minimized, above: w.is_above(), fullscreen: w.is_fullscreen(), maximised: fills === 3,
        tiled: fills === 1 || fills === 2, workspace: workspaceOf(w), focusable: true,
    };
}

class Conversation {
    constructor(desk, sender) {
        this.desk = desk;
        this.sender = sender;
        this.chords = new Map(); // by the shell's number of each
        this.followed = new Set(); // those of which releases count
        this.following = null;
        this.lent = [];
        this.panels = new Map();
        this.keyboard = null; // the grab of all keys, while it is there
        this.isWanted = false; // and whether it is to be
        this.down = new Set(); // the keys that went down meanwhile
        this.ending = timer(LATE, true, () => this.letGo());
        this.click = this.beside = null; // what the pointer does beside the panels, and what waits for the end of that
        this.agent = jakletAgent({
            idOf, timer,
            windows: () => api.windows(),
            isOurs: w => desk.isOurs(w),
            described: describe,
            order: ids => {
                const known = new Set(ids);
                return global.display.sort_windows_by_stacking(api.windows()).map(idOf).filter(id => known.has(id));
            },
            desk: () => ({
                active: idOf(global.display.focus_window), workspace: global.workspace_manager.get_active_workspace_index() + 1,
                workspaces: global.workspace_manager.n_workspaces, placing: desk.aims.size,
            }),
            screens: () => Main.layoutManager.monitors.map((m, i) => ({
                whole: [m.x, m.y, m.width, m.height], primary: i === Main.layoutManager.primaryIndex,
                work: rectOf(global.workspace_manager.get_active_workspace().get_work_area_for_monitor(i)),
            })),
            tell: text => desk.tell(sender, 'State', text),
            requests: desk.requests,
            deskRequests: {
                stack: (_a, request) => request.ids.slice(0, MOST.windows).forEach(id => {
                    const w = this.agent.find(id);
                    if (w) w.raise();
                }),
                show: a => {
                    if (isNumber(a[0], 1, global.workspace_manager.n_workspaces))
                        global.workspace_manager.get_workspace_by_index(a[0] - 1).activate(now());
                },
                provide: a => { if (isNumber(a[0], 1, MOST.workspaces)) desk.provide(a[0]); },
            },
        });
        this.watch = Gio.bus_watch_name_on_connection(Gio.DBus.session, sender, Gio.BusNameWatcherFlags.NONE, null, () => desk.end(sender));
    }

    // Return the answer to a question; what it asks for is checked as in requests.
    ask(question) {
        const asked = {
            chords: () => this.hear(question.add, question.remove),
            taken: () => question.codes.slice(0, MOST.chords).filter(code => this.isTaken(code)),
            shortcuts: () => published(),
            lend: () => this.lend(question.rows),
            unlend: () => this.unlend(question.rows),
            keyboard: () => this.take(question.on === true),
            press: () => this.press(question),
            pointer: () => global.get_pointer(),
            panels: () => this.show(question.panels),
        };
        const answer = Object.hasOwn(asked, question.ask) ? asked[question.ask]() : null;
        return answer === undefined ? null : answer;
    }

    // --- chords: a key of the keyboard by its number, and modifiers ---

    hear(add, remove) {
        for (const [action, code] of [...this.chords]) if (remove.includes(code)) this.release(action);
        return add.slice(0, MOST.chords).filter(([code, isFollowed]) => !this.grab(code, isFollowed === true)).map(([code]) => code);
    }

    grab(code, isFollowed) {
        const action = accelerator(code, isFollowed);
        if (action === Meta.KeyBindingAction.NONE) return false;
        Main.wm.allowKeybinding(Meta.external_binding_name_for_action(action), Shell.ActionMode.ALL);
        this.chords.set(action, code);
        if (isFollowed) this.followed.add(code);
        return true;
    }

    release(action) {
        this.followed.delete(this.chords.get(action));
        this.chords.delete(action);
        Main.wm.allowKeybinding(Meta.external_binding_name_for_action(action), Shell.ActionMode.NONE);
        global.display.ungrab_accelerator(action);
    }

    isTaken(code) {
        if (this.desk.has(code)) return false;
        const action = accelerator(code, true);
        if (action !== Meta.KeyBindingAction.NONE) global.display.ungrab_accelerator(action);
        return action === Meta.KeyBindingAction.NONE;
    }

    pressed(code, down, time) {
        this.tellHeard({ chord: code, down, time });
        if (!down || api.tellsReleases) return;
        if (this.followed.has(code)) this.follow(code);
        else this.tellHeard({ chord: code, down: 0, time });
    }

    // Where no release is told of, all keys are ours until the key is let go of.
    follow(code) {
        if (this.keyboard || this.following) return;
        const modal = this.desk.grabbed(Shell.ActionMode.ALL);
        if (!modal) { this.tellHeard({ chord: code, down: 0, time: 0 }); return; }
        this.following = modal;
        modal.on('key-release-event', event => {
            if (event.get_key_code() - 8 !== code >> 8) return Clutter.EVENT_STOP;
            this.unfollow();
            this.tellHeard({ chord: code, down: 0, time: event.get_time() });
            return Clutter.EVENT_STOP;
        });
    }

    unfollow() {
        if (this.following) this.following.close();
        this.following = null;
    }

    // --- shortcuts of the desktop's own that are lent ---

    lend(rows) {
        for (const [schema, path, key, text] of rows.slice(0, MOST.chords)) {
            const settings = settingsOf(schema, path), before = settings ? textsOf(settings, key) : null;
            if (!before || !before.includes(text)) continue;
            const after = before.filter(one => one !== text);
            setTexts(settings, key, after);
            this.lent.push({ row: [schema, path, key, text].join('\n'), settings, key, text, before, after });
        }
        return null;
    }

    unlend(rows) {
        const wanted = rows && new Set(rows.map(row => row.join('\n')));
        for (const one of this.lent.filter(lent => !wanted || wanted.has(lent.row)).reverse()) {
            const there = textsOf(one.settings, one.key), isSame = there.join() === one.after.join();
            if (isSame) setTexts(one.settings, one.key, one.before);
            else if (!there.includes(one.text)) setTexts(one.settings, one.key, [...there, one.text]);
            this.lent.splice(this.lent.indexOf(one), 1);
        }
        return null;
    }

    // --- all keys, while a layer is on ---

    take(on) {
        if (!on) { this.giveKeys(); return true; }
        this.ending.stop();
        if (this.isWanted || this.keyboard) { this.isWanted = true; return true; }
        this.unfollow();
        if (!this.grabKeys()) return false;
        this.isWanted = true;
        if (!(global.get_pointer()[2] & HELD)) this.tellHeard({ released: true });
        return true;
    }

    grabKeys() {
        const modal = this.desk.grabbed(Shell.ActionMode.NONE);
        if (!modal) return false;
        this.keyboard = modal;
        modal.on('key-press-event', event => this.key(event, 1));
        modal.on('key-release-event', event => this.key(event, 0));
        modal.on('button-press-event', event => this.pressedBeside(event.get_button()));
        modal.on('button-release-event', event => this.releasedBeside(event.get_button()));
        modal.on('scroll-event', event => this.scrolledBeside(event.get_scroll_direction()));
        return true;
    }

    // A grab is of the pointer, too, and what is done beside the panels is meant for a window. So the grab is let go of,
    // the same is done once more by a pointer of ours, and the keys are ours again when no button is down. A click is
    // done again when it is over; a button that stays down is taken over, so that windows can be dragged.
    pressedBeside(button) {
        if (!this.click) {
            this.click = { button, timer: timer(CLICK, true, () => this.replayed(button, !!(global.get_pointer()[2] & BUTTON_MASK))) };
            this.click.timer.start();
        }
        return Clutter.EVENT_STOP;
    }

    releasedBeside(button) {
        if (this.click && this.click.button === button) this.replayed(button, false);
        return Clutter.EVENT_STOP;
    }

    replayed(button, isDown) {
        const { PRESSED, RELEASED } = Clutter.ButtonState, does = state => this.mouse().notify_button(GLib.get_monotonic_time(), button, state);
        this.click.timer.stop();
        this.click = null;
        if (isDown) does(RELEASED); // what the seat counts as down cannot be pressed
        this.letGo();
        does(PRESSED);
        if (!isDown) does(RELEASED);
        this.grabLater();
    }

    scrolledBeside(direction) {
        if (direction === Clutter.ScrollDirection.SMOOTH) return Clutter.EVENT_STOP;
        this.letGo();
        this.mouse().notify_discrete_scroll(GLib.get_monotonic_time(), direction, Clutter.ScrollSource.WHEEL);
        this.grabLater();
        return Clutter.EVENT_STOP;
    }

    mouse() {
        this.pointer = this.pointer || api.backend().get_default_seat().create_virtual_device(Clutter.InputDeviceType.POINTER_DEVICE);
        return this.pointer;
    }

    grabLater() {
        this.beside = this.beside || timer(BESIDE, false, () => {
            if (global.get_pointer()[2] & BUTTON_MASK) return;
            this.beside.stop();
            if (this.isWanted && !this.keyboard) this.grabKeys();
        });
        this.beside.start();
    }

    letGo() {
        this.ending.stop();
        this.down.clear();
        if (this.keyboard) this.keyboard.close();
        this.keyboard = null;
    }

    stopBeside() {
        if (this.beside) this.beside.stop();
        if (this.click) this.click.timer.stop();
        this.click = null;
    }

    key(event, down) {
        const again = !!(event.get_flags() & Clutter.EventFlags.FLAG_REPEATED), code = event.get_key_code() - 8;
        this.tellHeard({ key: code, down, again, state: event.get_state() & 255, time: event.get_time() });
        if (!down && !(global.get_pointer()[2] & HELD)) this.tellHeard({ released: true });
        if (down) this.down.add(code); else this.down.delete(code);
        if (!this.isWanted && !this.down.size) this.letGo();
        return Clutter.EVENT_STOP;
    }

    // What went down here comes up here, too: nobody else is told of it.
    giveKeys() {
        this.isWanted = false;
        this.stopBeside();
        if (this.down.size) this.ending.start(); else this.letGo();
    }

    tellHeard(one) { this.desk.tell(this.sender, 'Heard', JSON.stringify(one)); }

    // --- pressing keys for a program ---

    // Keys of one chord after another, or a text as an input method gives it. Nothing is pressed while a hand holds a modifier,
    // or another window has the focus; Caps Lock is off for the while.
    press({ strokes, text, late, window, caps }) {
        const focus = global.display.focus_window, held = global.get_pointer()[2];
        if (held & HELD || this.keyboard || !focus || idOf(focus) !== window) return { held: held & HELD };
        if (text) {
            if (!Main.inputMethod.currentFocus) return { held: 0, takesNone: true };
            return this.commit(String(text).slice(0, MOST.text), late === true);
        }
        this.device = this.device || api.backend().get_default_seat().create_virtual_device(Clutter.InputDeviceType.KEYBOARD_DEVICE);
        const isLocked = held & LOCK && isNumber(caps, 1, MOST_KEY), all = isLocked ? [[caps], ...strokes, [caps]] : strokes;
        const sent = accelerator(SENTINEL << 8, false), does = (key, state) => this.device.notify_key(GLib.get_monotonic_time(), key, state);
        for (const keys of all.slice(0, MOST.keys)) {
            const codes = keys.filter(key => isNumber(key, 1, MOST_KEY)).slice(0, MOST.keys);
            codes.forEach(key => does(key, Clutter.KeyState.PRESSED));
            codes.reverse().forEach(key => does(key, Clutter.KeyState.RELEASED));
        }
        // A key that nobody has comes behind them: it is heard when all before it has been handed out.
        return new Promise(back => {
            const ended = () => {
                late.stop();
                global.display.disconnect(heard);
                global.display.ungrab_accelerator(sent);
                back({ isDone: true });
            };
            const heard = global.display.connect('accelerator-activated', (_d, action) => { if (action === sent) ended(); });
            const late = timer(LATE, true, ended);
            Main.wm.allowKeybinding(Meta.external_binding_name_for_action(sent), Shell.ActionMode.ALL);
            late.start();
            does(SENTINEL, Clutter.KeyState.PRESSED);
            does(SENTINEL, Clutter.KeyState.RELEASED);
        });
    }

    // A program drops letters that come while it is telling of its cursor (text-input-v3, done): that is waited for.
    commit(text, isLate) {
        return new Promise(back => {
            const done = () => {
                [quiet, latest].forEach(one => one.stop());
                Main.inputMethod.disconnect(moved);
                Main.inputMethod.commit(text);
                back({ isDone: true });
            };
            const quiet = timer(isLate ? LATE : QUIET, true, done), latest = timer(2 * LATE, true, done);
            const moved = Main.inputMethod.connect('cursor-location-changed', () => quiet.start());
            [quiet, latest].forEach(one => one.start());
        });
    }

    // --- panels over the windows ---

    show(panels) {
        const wanted = new Map(panels.slice(0, MOST.panels).map(one => [String(one.name), one]));
        for (const [name, shown] of this.panels) if (!wanted.has(name) || wanted.get(name).clicked !== shown.clicked) this.hide(name);
        for (const [name, one] of wanted) {
            const at = areaOf(one.at);
            if (!at || at[2] > MOST.side || at[3] > MOST.side) continue;
            if (!this.panels.has(name)) this.panels.set(name, this.panel(name, one.clicked === true));
            const { widget } = this.panels.get(name);
            widget.set_position(at[0], at[1]);
            widget.set_size(at[2], at[3]);
            if (one.file) widget.set_content(picture(one));
        }
        return [...this.panels.keys()];
    }

    panel(name, clicked) {
        const widget = new St.Widget({ reactive: clicked });
        this.desk.layer().add_child(widget);
        if (clicked) widget.connect('button-press-event', (_w, event) => {
            const [x, y] = event.get_coords(), [left, top] = widget.get_transformed_position(), button = event.get_button();
            if (isNumber(button, 1, 3)) this.tellHeard({ panel: name, x: x - left, y: y - top, button });
            return Clutter.EVENT_STOP;
        });
        return { widget, clicked };
    }

    hide(name) {
        this.panels.get(name).widget.destroy();
        this.panels.delete(name);
    }

    close() {
        Gio.bus_unwatch_name(this.watch);
        this.agent.close();
        this.giveKeys();
        this.letGo();
        this.unfollow();
        [...this.chords.keys()].forEach(action => this.release(action));
        this.unlend(null);
        [...this.panels.keys()].forEach(name => this.hide(name));
        this.device = this.pointer = null;
    }
}

// Return the shell's number of a chord that it hears from now on, or that of none.
function accelerator(code, isRepeated) {
    if (!isNumber(code >> 8, 1, MOST_KEY) || (code & 255 & ~HELD)) return Meta.KeyBindingAction.NONE;
    const held = MODIFIERS.filter(([bit]) => code & bit).map(([, name]) => name).join('');
    const flags = api.tellsReleases ? Meta.KeyBindingFlags.TRIGGER_RELEASE
        : isRepeated ? Meta.KeyBindingFlags.NONE : Meta.KeyBindingFlags.IGNORE_AUTOREPEAT;
    return global.display.grab_accelerator(`${held}0x${((code >> 8) + 8).toString(16).padStart(2, '0')}`, flags);
}

// Return the shortcuts in the settings: schema, path, key, purpose, accelerators.
function published() {
    const rows = [];
    for (const schema of SHORTCUTS) {
        const settings = settingsOf(schema, '');
        for (const key of settings ? settings.settings_schema.list_keys() : []) {
            const about = settings.settings_schema.get_key(key), texts = textsOf(settings, key);
            if (texts && key !== 'custom-keybindings') rows.push([schema, '', key, about.get_summary() || key, texts]);
            for (const path of key === 'custom-keybindings' ? texts : []) {
                const custom = settingsOf(CUSTOM, path);
                if (custom) rows.push([CUSTOM, path, 'binding', custom.get_string('name'), textsOf(custom, 'binding')]);
            }
        }
    }
    return rows;
}

function settingsOf(schema, path) {
    const isCustom = schema === CUSTOM && typeof path === 'string' && path.startsWith(CUSTOM_AT);
    const found = isCustom || SHORTCUTS.includes(schema) ? Gio.SettingsSchemaSource.get_default().lookup(schema, true) : null;
    if (!found) return null;
    return isCustom ? Gio.Settings.new_full(found, null, path) : new Gio.Settings({ settings_schema: found });
}

function textsOf(settings, key) {
    if (!settings.settings_schema.has_key(key)) return null;
    const value = settings.get_value(key), type = value.get_type_string();
    if (type === 'as') return value.deepUnpack();
    return type === 's' && key === 'binding' ? [value.deepUnpack()].filter(text => text) : null;
}

function setTexts(settings, key, texts) {
    if (settings.get_value(key).get_type_string() === 's') settings.set_string(key, texts[0] || '');
    else settings.set_strv(key, texts);
}

// Return where a panel is: corner and size, which are in fractions where the shell enlarges what it shows.
function areaOf(one) {
    const area = Array.isArray(one) ? one.slice(0, 4) : [];
    return frameOf(area) && area.every(number => typeof number === 'number') ? area : null;
}

// Return the content of a panel: pixels in a file of the user's runtime folder.
function picture(one) {
    const file = GLib.build_filenamev([GLib.get_user_runtime_dir(), 'jaklet', GLib.path_get_basename(String(one.file))]);
    const [wide, high] = [whole32(one.wide), whole32(one.high)];
    const bytes = GLib.MappedFile.new(file, false).get_bytes();
    if (!isNumber(wide, 1, MOST.side) || !isNumber(high, 1, MOST.side) || bytes.get_size() !== 4 * wide * high) throw new Error('no picture');
    const content = St.ImageContent.new_with_preferred_size(wide, high);
    api.setBytes(content, bytes, wide, high);
    return content;
}

class JakletDesk {
    constructor(folder) {
        this.program = new TextDecoder().decode(GLib.file_get_contents(GLib.build_filenamev([folder, 'program']))[1]).trim();
        this.conversations = new Map();
        this.ready = new Set(); // windows that have been shown
        this.unseen = new Map(); // those that are about to be: what tells of it
        this.signals = [];
        this.aims = new Map();
        this.requests = {
            move: (w, a) => this.move(w, frameOf(a)),
            maximise: (w, a) => { if (a[0] === 1) api.maximise(w); else if (api.fills(w)) api.restore(w); },
            fullscreen: (w, a) => { if (a[0] === 1) w.make_fullscreen(); else w.unmake_fullscreen(); },
            minimise: (w, a) => { if (a[0] === 1) w.minimize(); else w.unminimize(); },
            above: (w, a) => { if (a[0] === 1) w.make_above(); else w.unmake_above(); },
            activate: w => {
                if (Main.overview.visible) Main.overview.hide();
                w.activate(now());
            },
            close: w => w.delete(now()),
            send: (w, a) => {
                if (!isNumber(a[0], 0, global.workspace_manager.n_workspaces)) return;
                if (a[0] === 0) { w.stick(); return; }
                if (w.is_on_all_workspaces()) w.unstick();
                w.change_workspace_by_index(a[0] - 1, false);
            },
        };
        this.object = Gio.DBusExportedObject.wrapJSObject(METHODS, this);
        this.object.export(Gio.DBus.session, PATH);
        this.object.emit_signal('Began', new GLib.Variant('(s)', [VERSION]));
    }

    // --- the bus ---

    OpenAsync(_params, invocation) {
        const sender = invocation.get_sender();
        this.whenKnown(sender, isKnown => {
            if (!isKnown) { refuse(invocation, 'it is for Jaklet alone'); return; }
            if (!this.object) { refuse(invocation, 'the extension has ended'); return; }
            try {
                this.end(sender);
                if (!this.conversations.size) this.follow();
                const one = new Conversation(this, sender);
                this.conversations.set(sender, one);
                invocation.return_value(new GLib.Variant('(s)', [JSON.stringify({ version: VERSION, state: one.agent.state() })]));
            } catch (e) { refuse(invocation, String(e)); }
        });
    }

    DoAsync([text], invocation) {
        this.answer(invocation, one => { one.agent.take(JSON.parse(text)); });
    }

    AskAsync([text], invocation) {
        this.answer(invocation, one => one.ask(JSON.parse(text)));
    }

    CloseAsync(_params, invocation) {
        this.answer(invocation, () => { this.end(invocation.get_sender()); });
    }

    answer(invocation, does) {
        const one = this.conversations.get(invocation.get_sender());
        if (!one) { refuse(invocation, 'no conversation has begun'); return; }
        const say = value => invocation.return_value(value === undefined ? null : new GLib.Variant('(s)', [JSON.stringify(value)]));
        try {
            const value = does(one);
            if (value instanceof Promise) value.then(say); else say(value);
        } catch (e) { refuse(invocation, String(e)); }
    }

    // Call back with whether a connection is one of the program that set this up, and sees the same files.
    whenKnown(sender, back) {
        Gio.DBus.session.call('org.freedesktop.DBus', '/org/freedesktop/DBus', 'org.freedesktop.DBus', 'GetConnectionUnixProcessID',
            new GLib.Variant('(s)', [sender]), null, Gio.DBusCallFlags.NONE, -1, null, (bus, result) => {
                let isKnown = false;
                try {
                    const [pid] = bus.call_finish(result).deepUnpack(), link = name => GLib.file_read_link(`/proc/${name}`);
                    isKnown = link(`${pid}/exe`) === this.program && link(`${pid}/ns/mnt`) === link('self/ns/mnt');
                } catch (e) { /* it has gone */ }
                back(isKnown);
            });
    }

    tell(sender, signal, text) {
        Gio.DBus.session.emit_signal(sender, PATH, FACE, signal, text === undefined ? null : new GLib.Variant('(s)', [text]));
    }

    end(sender) {
        const one = this.conversations.get(sender);
        if (!one) return;
        this.conversations.delete(sender);
        one.close();
        if (!this.conversations.size) this.unfollow();
    }

    // --- following the desk, while somebody wants to know ---

    on(object, signal, does) { this.signals.push([object, object.connect(signal, does)]); }
    each(does) { for (const one of this.conversations.values()) does(one.agent); }

    follow() {
        const { display, workspace_manager: workspaces } = global;
        api.windows().forEach(w => { this.ready.add(idOf(w)); this.followWindow(w); });
        this.on(display, 'window-created', (_d, w) => {
            this.followWindow(w);
            this.each(agent => agent.added(w));
        });
        this.on(display, 'notify::focus-window', () => this.each(agent => agent.reordered()));
        this.on(display, 'restacked', () => this.each(agent => agent.reordered()));
        this.on(display, 'workareas-changed', () => this.each(agent => agent.rescreened()));
        this.on(Main.layoutManager, 'monitors-changed', () => this.each(agent => agent.rearranged()));
        this.on(display, 'accelerator-activated', (_d, action, _device, time) => this.pressed(action, 1, time));
        if (api.tellsReleases) this.on(display, 'accelerator-deactivated', (_d, action, _device, time) => this.pressed(action, 0, time));
        for (const signal of ['workspace-switched', 'notify::n-workspaces']) this.on(workspaces, signal, () => this.each(agent => agent.rearranged()));
    }

    pressed(action, down, time) {
        for (const one of this.conversations.values())
            if (one.chords.has(action)) one.pressed(one.chords.get(action), down, time);
    }

    has(code) { return [...this.conversations.values()].some(one => [...one.chords.values()].includes(code)); }

    followWindow(w) {
        const id = idOf(w), touched = () => this.each(agent => agent.touched(w));
        for (const signal of ['position-changed', 'size-changed', 'notify::title', 'notify::minimized', 'notify::wm-class', 'notify::fullscreen',
            'notify::above', 'notify::maximized-horizontally', 'notify::maximized-vertically', 'notify::on-all-workspaces', 'notify::window-type', 'workspace-changed'])
            this.on(w, signal, touched);
        this.on(w, 'size-changed', () => this.placed(w));
        this.on(w, 'unmanaged', () => {
            this.ready.delete(id);
            this.forget(id);
            this.unseen.delete(id); // its signals go with it
            this.signals = this.signals.filter(([object, signal]) => {
                if (object === w) w.disconnect(signal);
                return object !== w;
            });
            this.each(agent => agent.removed(w));
        });
        const actor = w.get_compositor_private();
        if (!actor || this.ready.has(id)) return;
        this.unseen.set(id, [actor, actor.connect('show', () => {
            this.seen(id);
            this.ready.add(id);
            touched();
        })]);
    }

    seen(id) {
        const [actor, signal] = this.unseen.get(id);
        actor.disconnect(signal);
        this.unseen.delete(id);
    }

    // What all panels are on. Who grabs the keyboard grabs it for this, as nothing else gets clicks then.
    layer() {
        if (!this.glass) {
            this.glass = new St.Widget({ reactive: true });
            Main.layoutManager.addTopChrome(this.glass);
        }
        return this.glass;
    }

    // Return a grab of the keyboard, or null where another one has it.
    grabbed(actionMode) {
        const layer = this.layer(), grab = Main.pushModal(layer, { actionMode }), signals = [];
        if (!grab) return null;
        if (grab.get_seat_state && !(grab.get_seat_state() & Clutter.GrabState.KEYBOARD)) { Main.popModal(grab); return null; }
        global.stage.set_key_focus(layer);
        return {
            on: (signal, does) => signals.push(layer.connect(signal, (_layer, event) => does(event))),
            close: () => {
                signals.forEach(signal => layer.disconnect(signal));
                Main.popModal(grab);
            },
        };
    }

    unfollow() {
        if (this.glass) this.glass.destroy();
        this.glass = null;
        this.signals.forEach(([object, signal]) => object.disconnect(signal));
        this.signals = [];
        [...this.unseen.keys()].forEach(id => this.seen(id));
        this.ready.clear();
        [...this.aims.keys()].forEach(id => this.forget(id));
    }

    isOurs(w) {
        const types = Meta.WindowType;
        return !!w && !w.is_override_redirect() && [types.NORMAL, types.DIALOG, types.MODAL_DIALOG].includes(w.get_window_type())
            && (this.ready.has(idOf(w)) || w.minimized);
    }

    // --- what takes more than one call ---

    // A size that a program takes otherwise than asked can leave the window where it was: its place is asked for again.
    move(w, r) {
        if (!r) return;
        const id = idOf(w), aim = { at: r, tries: 0, timer: timer(AGAIN, true, () => this.placed(w)) };
        this.forget(id);
        w.move_resize_frame(true, ...r);
        this.aims.set(id, aim);
        aim.timer.start();
    }

    placed(w) {
        const id = idOf(w), aim = this.aims.get(id), frame = rectOf(w.get_frame_rect());
        if (!aim) return;
        if (frame.join() === aim.at.join() || aim.tries++ === TRIES) {
            this.forget(id);
            this.each(agent => agent.changed());
            return;
        }
        if (!same(frame, aim.at)) w.move_frame(true, aim.at[0], aim.at[1]);
        aim.timer.start();
    }

    forget(id) {
        const aim = this.aims.get(id);
        if (aim) aim.timer.stop();
        this.aims.delete(id);
    }

    // With workspaces that come and go by themselves, an empty one stays long enough for a window to be sent to it.
    provide(count) {
        const manager = global.workspace_manager;
        while (manager.n_workspaces < count) Main.wm.keepWorkspaceAlive(manager.append_new_workspace(false, now()), 3000);
        for (let i = manager.n_workspaces - 1; i >= count; i--) manager.remove_workspace(manager.get_workspace_by_index(i), now());
    }

    close() {
        [...this.conversations.keys()].forEach(sender => { this.tell(sender, 'Ended'); this.end(sender); });
        this.object.unexport();
        this.object = null;
    }
}

function refuse(invocation, why) { invocation.return_dbus_error('org.jaklet.Desk.Refused', why); }
