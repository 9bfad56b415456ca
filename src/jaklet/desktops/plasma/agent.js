// What Jaklet lets KWin do and tell: a script that KWin runs (KWin scripting API, 5.27).
//
// It calls one connection of the bus and no other, by its unique name, which is never given to anybody else. It asks
// there for work, and answers are rows of numbers and words from a fixed set of requests: no code is ever run.
// Where nobody answers for that name any more, it takes itself away.

var SERVICE = "@SERVICE@", NAME = "@NAME@", PATH = "/jaklet", FACE = "org.jaklet.Agent";
var PATIENCE = 26000, LOOK = 2000; // ms: after which a call was not answered; between two looks whether we are needed

// All that is spelt otherwise in Plasma 6 (as its documentation says; not tried) stands here.
var six = typeof workspace.windowList === "function";
var api = {
    windows: function () { return six ? workspace.windowList() : workspace.clientList(); },
    active: function () { return six ? workspace.activeWindow : workspace.activeClient; },
    activate: function (w) { if (six) workspace.activeWindow = w; else workspace.activeClient = w; },
    raise: function (w) { if (six) workspace.raiseWindow(w); else workspace.activeClient = w; },
    added: six ? "windowAdded" : "clientAdded",
    removed: six ? "windowRemoved" : "clientRemoved",
    activated: six ? "windowActivated" : "clientActivated",
    workspace: function () { return six ? workspace.desktops.indexOf(workspace.currentDesktop) + 1 : workspace.currentDesktop; },
    workspaces: function () { return six ? workspace.desktops.length : workspace.desktops; },
    show: function (n) { workspace.currentDesktop = six ? workspace.desktops[n - 1] : n; },
    workspaceOf: function (w) {
        if (w.onAllDesktops) return 0;
        return six ? workspace.desktops.indexOf(w.desktops[0]) + 1 : w.desktop;
    },
    send: function (w, n) {
        if (six) w.desktops = n === 0 ? [] : [workspace.desktops[n - 1]];
        else w.desktop = n === 0 ? -1 : n;
    },
    screens: function () { return six ? workspace.screens : range(workspace.numScreens); },
};

var maximised = {}; // by window, as its signal has told; 5.27 lets nobody ask

function range(n) { var all = []; for (var i = 0; i < n; i++) all.push(i); return all; }
function rect(r) { return [Math.round(r.x), Math.round(r.y), Math.round(r.width), Math.round(r.height)]; }
function same(a, b) { return a[0] === b[0] && a[1] === b[1] && a[2] === b[2] && a[3] === b[3]; }

function idOf(w) { return w ? String(w.internalId) : ""; }
function find(id) { return windows.hasOwnProperty(id) ? windows[id] : null; }

function area(screen) { return rect(workspace.clientArea(KWin.MaximizeArea, screen, workspace.currentDesktop)); }
function whole(screen) { return rect(workspace.clientArea(KWin.ScreenArea, screen, workspace.currentDesktop)); }

function inside(w) { // what the program itself draws; 5.27 tells nobody, so that for windows of X11 their server is asked
    return rect(w.clientGeometry || w.frameGeometry);
}

function isMaximised(w) {
    var id = idOf(w);
    if (!(id in maximised)) // what it was before anybody looked is told by its frame alone
        maximised[id] = api.screens().some(function (s) { return same(rect(w.frameGeometry), area(s)); });
    return maximised[id] && !w.fullScreen;
}

function described(w) {
    return {
        // Of a window of Wayland, KWin has its app id for a class, and the name of its program's file for an instance.
        id: idOf(w), cls: String(w.resourceClass), name: String(w.resourceName), title: String(w.caption),
        role: String(w.windowRole), pid: w.pid, frame: rect(w.frameGeometry), inside: inside(w),
        least: [w.minSize.width, w.minSize.height], most: [w.maxSize.width, w.maxSize.height],
        minimised: !!w.minimized, above: !!w.keepAbove, fullscreen: !!w.fullScreen, maximised: !!isMaximised(w),
        x11: isOfWayland(w) ? 0 : Number(w.windowId), workspace: api.workspaceOf(w), dialog: !!w.dialog || isOfWayland(w) && !!w.transientFor, focusable: !!w.wantsInput,
        parent: w.transient && w.transientFor ? idOf(w.transientFor) : "",
    };
}

function isOfWayland(w) { return !w.windowId; } // there, what belongs to another window is a dialog: there is no other type

function isOurs(w) { return w && w.managed !== false && !w.specialWindow && (w.normalWindow || w.dialog); }

// What has changed since it was last told: windows by id, those that are gone, the order, the outputs.
var windows = {}, dirty = {}, told = {}, gone = [], isOrder = true, isScreens = true;

function order() {
    return Object.keys(told).map(function (id) { return [windows[id].stackingOrder, id]; })
        .sort(function (a, b) { return a[0] - b[0]; }).map(function (one) { return one[1]; });
}

function news() {
    var found = [];
    Object.keys(dirty).forEach(function (id) {
        var w = windows[id];
        if (isOurs(w)) {
            isOrder = isOrder || !told[id];
            told[id] = true;
            found.push(described(w));
        } else if (told[id]) {
            delete told[id];
            gone.push(id);
        }
    });
    var active = api.active(), state = {
        windows: found, gone: gone, active: idOf(active),
        workspace: api.workspace(), workspaces: api.workspaces(), serial: serial,
    };
    if (isOrder || gone.length) state.order = order();
    if (isScreens) state.screens = api.screens().map(function (s) { return { whole: whole(s), work: area(s) }; });
    dirty = {};
    gone = [];
    isOrder = isScreens = false;
    return state;
}

// --- what can be asked ---

function whole32(n) { return typeof n === "number" && isFinite(n) && Math.abs(n) < 100000 ? Math.round(n) : null; }

var requests = {
    move: function (w, a) {
        var r = [whole32(a[0]), whole32(a[1]), whole32(a[2]), whole32(a[3])];
        if (r.indexOf(null) < 0 && r[2] > 0 && r[3] > 0) w.frameGeometry = { x: r[0], y: r[1], width: r[2], height: r[3] };
    },
    maximise: function (w, a) { w.setMaximize(a[0] === 1, a[0] === 1); },
    fullscreen: function (w, a) { w.fullScreen = a[0] === 1; },
    minimise: function (w, a) { w.minimized = a[0] === 1; },
    above: function (w, a) { w.keepAbove = a[0] === 1; },
    activate: function (w) { w.minimized = false; api.activate(w); },
    close: function (w) { w.closeWindow(); },
    send: function (w, a) { if (whole32(a[0]) !== null && a[0] >= 0 && a[0] <= api.workspaces()) api.send(w, a[0]); },
};

// Nothing in 5.27 raises a window without making it active. So windows are made active one after another, each once the
// one before is: in one burst, the focus ends anywhere. Nobody is told of what is so in between.
// Windows are compared by their ids: once a script of another has ended, the engine makes new objects for the same ones.
var pacing = new QTimer(), waiting = [], awaited = "", looked = 0, STEP = 2, MOST_LOOKS = 50; // ms
pacing.interval = STEP;
pacing.timeout.connect(function () {
    if (awaited && idOf(api.active()) !== awaited && looked++ < MOST_LOOKS) return;
    awaited = "";
    looked = 0;
    if (!waiting.length) { pacing.stop(); work(); return; }
    var w = find(waiting.shift());
    if (w && !w.minimized && isHere(w)) { awaited = w.wantsInput ? idOf(w) : ""; api.raise(w); }
});
function isHere(w) { var on = api.workspaceOf(w); return on === 0 || on === api.workspace(); }

function done(request) {
    if (request.op === "hears") { hears = request.args[0] === 1; return; }
    if (request.op === "stack") { waiting = request.ids.slice(0, 1000).map(String); pacing.start(); return; }
    var w = request.id ? find(request.id) : null;
    if (request.op === "show") {
        if (whole32(request.args[0]) !== null && request.args[0] >= 1 && request.args[0] <= api.workspaces()) api.show(request.args[0]);
    } else if (w && requests.hasOwnProperty(request.op)) {
        requests[request.op](w, request.args);
    }
}

// --- telling, and asking for work ---

var serial = 0, telling = new QTimer();
telling.singleShot = true;
telling.timeout.connect(function () {
    if (pacing.active) return; // it is told once that is done
    callDBus(SERVICE, PATH, FACE, "State", JSON.stringify(news()));
});
function changed() { telling.start(3); } // all that happens at once is told once

var queue = [];
function work() {
    while (queue.length && !pacing.active) {
        var one = queue.shift();
        if (one.op === "done") {
            serial = one.serial || serial;
            if (one.told) changed();
        } else {
            try { done(one); } catch (e) { /* the window has gone */ }
        }
    }
}

var waits = false, since = 0;
function next() {
    waits = true;
    since = Date.now();
    callDBus(SERVICE, PATH, FACE, "Next", function (answer) {
        waits = false;
        var given = JSON.parse(answer);
        queue = queue.concat(given.requests, [{ op: "done", serial: given.serial, told: given.requests.length > 0 }]);
        work();
        next();
    });
}

// Nothing tells of a work area that is another one: it is looked at again with every bar that comes, goes or changes.
function touched(w) {
    dirty[idOf(w)] = true;
    isScreens = isScreens || !!w.dock;
    changed();
}
function reordered() { isOrder = true; changed(); }
function rearranged() { isScreens = true; Object.keys(windows).forEach(function (id) { dirty[id] = true; }); changed(); }

function follow(w) {
    if (!w) return;
    windows[idOf(w)] = w;
    ["frameGeometryChanged", "captionChanged", "minimizedChanged", "fullScreenChanged", "desktopChanged", "desktopsChanged",
        "keepAboveChanged", "windowClassChanged", "screenChanged", "outputChanged", "transientChanged"].forEach(function (signal) {
        if (w[signal] && w[signal].connect) w[signal].connect(function () { touched(w); });
    });
    if (w.stackingOrderChanged) w.stackingOrderChanged.connect(reordered);
    if (w.clientMaximizedStateChanged)
        w.clientMaximizedStateChanged.connect(function (_w, h, v) { maximised[idOf(w)] = h && v; touched(w); });
    touched(w);
}
api.windows().forEach(follow);
workspace[api.added].connect(function (w) { maximised[idOf(w)] = false; follow(w); });
workspace[api.removed].connect(function (w) {
    var id = idOf(w);
    delete maximised[id];
    delete windows[id];
    delete dirty[id];
    if (told[id]) { delete told[id]; gone.push(id); }
    isScreens = isScreens || !!w.dock;
    changed();
});
workspace[api.activated].connect(reordered);
["currentDesktopChanged", "numberDesktopsChanged", "desktopsChanged", "numberScreensChanged", "screensChanged",
    "screenResized", "virtualScreenGeometryChanged"].forEach(function (signal) {
    if (workspace[signal] && workspace[signal].connect) workspace[signal].connect(rearranged);
});

// Chords stay taken until somebody gives them back: for a listener that is gone, this script does.
var hears = false, ACCEL = "org.kde.kglobalaccel";
function leave() {
    callDBus("org.kde.KWin", "/Scripting", "org.kde.kwin.Scripting", "unloadScript", NAME);
}
function giveBack() {
    callDBus(ACCEL, "/component/jaklet", "org.kde.kglobalaccel.Component", "shortcutNames", function (names) {
        names.forEach(function (name) { callDBus(ACCEL, "/kglobalaccel", "org.kde.KGlobalAccel", "unregister", "jaklet", name); });
        leave();
    });
    hears = false; // where that is not answered, the next look leaves
}

// A call that nobody answers is never told of: whether there is anybody is asked of the bus.
var looking = new QTimer();
looking.interval = LOOK;
looking.timeout.connect(function () {
    if (waits && Date.now() - since < PATIENCE) {
        callDBus("org.freedesktop.DBus", "/org/freedesktop/DBus", "org.freedesktop.DBus", "NameHasOwner", SERVICE, function (is) {
            if (!is && hears) giveBack();
            else if (!is) leave();
        });
    } else next();
});
looking.start();
changed();
next();
