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
const MOST = 32767, AGAIN = 25, MOST_TRIES = 8, MOST_WINDOWS = 1000, MOST_CHORDS = 2000, MOST_PANELS = 60, MOST_SIDE = 16384;
const HELD = 1 | 4 | 8 | 64 | 128; // Shift, Control, Mod1, Mod4, Mod5 of a state
const MODIFIERS = [[1, '<Shift>'], [4, '<Control>'], [8, '<Alt>'], [64, '<Super>'], [128, '<Mod5>']];
const BUTTONS = { 1: 1, 2: 2, 3: 3 };

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
    tellsReleases: !!GObject.signal_lookup('accelerator-deactivated', Meta.Display.$gtype),
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

function describe(w) {
    const frame = w.get_frame_rect(), fills = api.fills(w), is = isOfWayland(w), parent = w.get_transient_for();
    const cls = w.get_wm_class() || '', app = is ? Shell.WindowTracker.get_default().get_window_app(w) : null;
    const entry = app && !app.is_window_backed() ? app.get_id().replace(/\.desktop$/, '') : '';
    const types = Meta.WindowType, type = w.get_window_type();
    return {
        // Of a window of Wayland, the app id is its class, and its desktop entry stands for an instance.
        id: idOf(w), cls, name: is ? entry || cls : w.get_wm_class_instance() || '', title: w.get_title() || '', role: w.get_role() || '',
        pid: w.get_pid(), frame: rectOf(frame), inside: rectOf(w.frame_rect_to_client_rect(frame)), least: [1, 1], most: [MOST, MOST],
        minimised: w.minimized, above: w.is_above(), fullscreen: w.is_fullscreen(), maximised: fills === 3, tiled: fills === 1 || fills === 2,
        x11: is ? 0 : api.xid(w), workspace: w.is_on_all_workspaces() ? 0 : w.get_workspace() ? w.get_workspace().index() + 1 : 0,
        dialog: type === types.DIALOG || type === types.MODAL_DIALOG || is && !!parent, focusable: true,
        parent: parent ? idOf(parent) : '',
    };
}

class Conversation {
    constructor(desk, sender) {
        this.desk = desk;
        this.sender = sender;
        this.chords = new Map(); // by the shell's number of each
        this.panels = new Map();
        this.keyboard = null;
        this.heard = [];
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
                stack: (_a, request) => request.ids.slice(0, MOST_WINDOWS).forEach(id => {
                    const w = this.agent.find(id);
                    if (w) w.raise();
                }),
                show: a => {
                    if (isNumber(a[0], 1, global.workspace_manager.n_workspaces))
                        global.workspace_manager.get_workspace_by_index(a[0] - 1).activate(now());
                },
                provide: a => { if (isNumber(a[0], 1, 36)) desk.provide(a[0]); },
            },
        });
        this.watch = Gio.bus_watch_name_on_connection(Gio.DBus.session, sender, Gio.BusNameWatcherFlags.NONE, null, () => desk.end(sender));
    }

    // Return the answer to a question; what it asks for is checked as in requests.
    ask(question) {
        const asked = { chords: () => this.hear(question.add, question.remove), keyboard: () => this.take(question.on === true),
            held: () => global.get_pointer()[2], press: () => this.press(question.keys, question.window),
            pointer: () => global.get_pointer(), panels: () => this.show(question.panels) };
        return Object.hasOwn(asked, question.ask) ? asked[question.ask]() : null;
    }

    // --- chords: a key of the keyboard by its number, and modifiers ---

    hear(add, remove) {
        for (const [action, code] of [...this.chords]) if (remove.includes(code)) this.release(action);
        return add.slice(0, MOST_CHORDS).filter(code => !this.grab(code));
    }

    grab(code) {
        if (!isNumber(code >> 8, 1, 767) || (code & 255 & ~HELD)) return false;
        const held = MODIFIERS.filter(([bit]) => code & bit).map(([, name]) => name).join('');
        const action = global.display.grab_accelerator(`${held}0x${((code >> 8) + 8).toString(16).padStart(2, '0')}`, Meta.KeyBindingFlags.NONE);
        if (action === Meta.KeyBindingAction.NONE) return false;
        Main.wm.allowKeybinding(Meta.external_binding_name_for_action(action), Shell.ActionMode.ALL);
        this.chords.set(action, code);
        return true;
    }

    release(action) {
        this.chords.delete(action);
        Main.wm.allowKeybinding(Meta.external_binding_name_for_action(action), Shell.ActionMode.NONE);
        global.display.ungrab_accelerator(action);
    }

    // --- all keys, while a layer is on ---

    take(on) {
        if (!on || this.keyboard) {
            if (!on) this.giveKeys();
            return true;
        }
        const actor = new Clutter.Actor({ reactive: true });
        Main.uiGroup.add_child(actor);
        const grab = Main.pushModal(actor, { actionMode: Shell.ActionMode.NONE });
        if (!grab || grab.get_seat_state && !(grab.get_seat_state() & Clutter.GrabState.KEYBOARD)) {
            if (grab) Main.popModal(grab);
            actor.destroy();
            return false;
        }
        this.keyboard = { actor, grab, down: new Set() };
        actor.connect('key-press-event', (_a, event) => this.key(event, 1));
        actor.connect('key-release-event', (_a, event) => this.key(event, 0));
        actor.connect('event', (_a, event) => this.elsewhere(event));
        global.stage.set_key_focus(actor);
        if (!(global.get_pointer()[2] & HELD)) this.tellHeard({ released: true });
        return true;
    }

    // A click beside the panels is for a window: the keyboard is given back for it, as if it had been taken away.
    elsewhere(event) {
        return Clutter.EVENT_PROPAGATE;
    }

    key(event, down) {
        const again = !!(event.get_flags() & Clutter.EventFlags.FLAG_REPEATED), code = event.get_key_code() - 8;
        this.tellHeard({ key: code, down, again, state: event.get_state() & 255, time: event.get_time() });
        if (!down && !(global.get_pointer()[2] & HELD)) this.tellHeard({ released: true });
        return Clutter.EVENT_STOP;
    }

    giveKeys() {
        if (!this.keyboard) return;
        const { actor, grab } = this.keyboard;
        this.keyboard = null;
        Main.popModal(grab);
        actor.destroy();
    }

    tellHeard(one) { this.desk.tell(this.sender, 'Heard', JSON.stringify(one)); }

    // --- pressing keys for a program ---

    press(keys, window) {
        const focus = global.display.focus_window, held = global.get_pointer()[2];
        if (held & HELD || this.keyboard || !focus || idOf(focus) !== window) return { held, isFront: !!focus && idOf(focus) === window };
        this.device = this.device || api.backend().get_default_seat().create_virtual_device(Clutter.InputDeviceType.KEYBOARD_DEVICE);
        const codes = keys.filter(key => isNumber(key, 1, 767)).slice(0, 12), time = () => GLib.get_monotonic_time();
        codes.forEach(key => this.device.notify_key(time(), key, Clutter.KeyState.PRESSED));
        codes.reverse().forEach(key => this.device.notify_key(time(), key, Clutter.KeyState.RELEASED));
        return { held: 0, isFront: true, isDone: true };
    }

    // --- panels over the windows ---

    show(panels) {
        const wanted = new Map(panels.slice(0, MOST_PANELS).map(one => [String(one.name), one]));
        for (const [name, shown] of this.panels) if (!wanted.has(name) || wanted.get(name).clicked !== shown.clicked) this.hide(name);
        for (const [name, one] of wanted) {
            const at = frameOf(one.at);
            if (!at || at[2] > MOST_SIDE || at[3] > MOST_SIDE) continue;
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
        Main.layoutManager.addTopChrome(widget, { affectsInputRegion: clicked });
        if (clicked) widget.connect('button-press-event', (_w, event) => {
            const [x, y] = event.get_coords(), [left, top] = widget.get_transformed_position(), button = BUTTONS[event.get_button()];
            if (button) this.tellHeard({ panel: name, x: Math.floor(x - left), y: Math.floor(y - top), button });
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
        [...this.chords.keys()].forEach(action => this.release(action));
        [...this.panels.keys()].forEach(name => this.hide(name));
        this.device = null;
    }
}

// Return the content of a panel: pixels in a file of the user's runtime folder.
function picture(one) {
    const file = GLib.build_filenamev([GLib.get_user_runtime_dir(), 'jaklet', GLib.path_get_basename(String(one.file))]);
    const [wide, high] = [whole32(one.wide), whole32(one.high)];
    const bytes = GLib.MappedFile.new(file, false).get_bytes();
    if (!isNumber(wide, 1, MOST_SIDE) || !isNumber(high, 1, MOST_SIDE) || bytes.get_size() !== 4 * wide * high) throw new Error('no picture');
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
                invocation.return_value(new GLib.Variant('(s)', [JSON.stringify({ version: VERSION, tellsReleases: api.tellsReleases, state: one.agent.state() })]));
            } catch (e) { refuse(invocation, String(e)); }
        });
    }

    DoAsync([text], invocation) {
        this.answer(invocation, one => { one.agent.take(JSON.parse(text)); return null; });
    }

    AskAsync([text], invocation) {
        this.answer(invocation, one => new GLib.Variant('(s)', [JSON.stringify(one.ask(JSON.parse(text)))]));
    }

    CloseAsync(_params, invocation) {
        this.answer(invocation, () => { this.end(invocation.get_sender()); return null; });
    }

    answer(invocation, does) {
        const one = this.conversations.get(invocation.get_sender());
        if (!one) { refuse(invocation, 'no conversation has begun'); return; }
        try { invocation.return_value(does(one)); } catch (e) { refuse(invocation, String(e)); }
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
            if (one.chords.has(action)) one.tellHeard({ chord: one.chords.get(action), down, time });
    }

    followWindow(w) {
        const id = idOf(w), touched = () => this.each(agent => agent.touched(w));
        for (const signal of ['position-changed', 'size-changed', 'notify::title', 'notify::minimized', 'notify::wm-class', 'notify::fullscreen',
            'notify::above', 'notify::maximized-horizontally', 'notify::maximized-vertically', 'notify::on-all-workspaces', 'notify::window-type', 'workspace-changed'])
            this.on(w, signal, touched);
        this.on(w, 'size-changed', () => this.placed(w));
        const actor = w.get_compositor_private();
        if (!actor || this.ready.has(id)) return;
        this.unseen.set(id, [actor, actor.connect('show', () => {
            this.seen(id);
            this.ready.add(id);
            touched();
        })]);
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
    }

    seen(id) {
        const [actor, signal] = this.unseen.get(id);
        actor.disconnect(signal);
        this.unseen.delete(id);
    }

    unfollow() {
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
        if (frame.join() === aim.at.join() || aim.tries++ === MOST_TRIES) {
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
