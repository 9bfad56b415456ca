// What is KWin's of the agent (`agent.js` stands before this): a script that KWin runs (KWin scripting API, 5.27).
//
// It calls one connection of the bus and no other, by its unique name, which is never given to anybody else. It asks
// there for work. Where nobody answers for that name any more, it takes itself away.

var SERVICE = "@SERVICE@", NAME = "@NAME@", PATH = "/jaklet", FACE = "org.jaklet.Agent";
var PATIENCE = 26000, LOOK = 2000; // ms: after which a call was not answered; between two looks whether we are needed
var FULL = 3; // KWin::MaximizeFull

// All that is spelt otherwise in Plasma 6 stands here.
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
        minimised: !!w.minimized, above: !!w.keepAbove, fullscreen: !!w.fullScreen, maximised: !!isMaximised(w), tiled: false,
        x11: isOfWayland(w) ? 0 : Number(w.windowId), workspace: api.workspaceOf(w), dialog: !!w.dialog || isOfWayland(w) && !!w.transientFor, focusable: !!w.wantsInput,
        parent: w.transient && w.transientFor ? idOf(w.transientFor) : "",
    };
}

function isOfWayland(w) { return !w.windowId; } // there, what belongs to another window is a dialog: there is no other type

// A bar of any kind: one by wlr-layer-shell counts as a normal window in KWin, but for what can be done with it.
function isBar(w) { return !!w.dock || isOfWayland(w) && !w.moveable && !w.minimizable && !w.maximizable; }

function isOurs(w) { return w && w.managed !== false && !w.specialWindow && (w.normalWindow || w.dialog) && !isBar(w); }

function order(ids) {
    return ids.map(function (id) { return [agent.find(id).stackingOrder, id]; })
        .sort(function (a, b) { return a[0] - b[0]; }).map(function (one) { return one[1]; });
}

function timer(ms, once, does) {
    var one = new QTimer();
    one.interval = ms;
    one.singleShot = once;
    one.timeout.connect(does);
    return one;
}

// Nothing in 5.27 raises a window without making it active. So windows are made active one after another, each once the
// one before is: in one burst, the focus ends anywhere. Nobody is told of what is so in between.
// Windows are compared by their ids: once a script of another has ended, the engine makes new objects for the same ones.
var waiting = [], awaited = "", looked = 0, STEP = 2, MOST_LOOKS = 50; // ms
var pacing = timer(STEP, false, function () {
    if (awaited && idOf(api.active()) !== awaited && looked++ < MOST_LOOKS) return;
    awaited = "";
    looked = 0;
    if (!waiting.length) { pacing.stop(); agent.isBusy = false; agent.work(); return; }
    var w = agent.find(waiting.shift());
    if (w && !w.minimized && isHere(w)) { awaited = w.wantsInput ? idOf(w) : ""; api.raise(w); }
});
function isHere(w) { var on = api.workspaceOf(w); return on === 0 || on === api.workspace(); }

var hears = false; // chords
var agent = jakletAgent({
    windows: function () { return []; }, // they come by `follow`
    idOf: idOf, isOurs: isOurs, described: described, order: order, timer: timer,
    desk: function () { return { active: idOf(api.active()), workspace: api.workspace(), workspaces: api.workspaces() }; },
    screens: function () { return api.screens().map(function (s) { return { whole: whole(s), work: area(s) }; }); },
    tell: function (text) { callDBus(SERVICE, PATH, FACE, "State", text); },
    requests: {
        move: function (w, a) {
            var r = frameOf(a);
            if (r) w.frameGeometry = { x: r[0], y: r[1], width: r[2], height: r[3] };
        },
        maximise: function (w, a) { w.setMaximize(a[0] === 1, a[0] === 1); },
        fullscreen: function (w, a) { w.fullScreen = a[0] === 1; },
        minimise: function (w, a) { w.minimized = a[0] === 1; },
        above: function (w, a) { w.keepAbove = a[0] === 1; },
        activate: function (w) { w.minimized = false; api.activate(w); },
        close: function (w) { w.closeWindow(); },
        send: function (w, a) { if (isNumber(a[0], 0, api.workspaces())) api.send(w, a[0]); },
    },
    deskRequests: {
        hears: function (a) { hears = a[0] === 1; },
        show: function (a) { if (isNumber(a[0], 1, api.workspaces())) api.show(a[0]); },
        stack: function (_a, request) {
            waiting = request.ids.slice(0, 1000).map(String);
            agent.isBusy = true;
            pacing.start();
        },
    },
});

// --- asking for work ---

var waits = false, since = 0;
function next() {
    waits = true;
    since = Date.now();
    callDBus(SERVICE, PATH, FACE, "Next", function (answer) {
        waits = false;
        agent.take(JSON.parse(answer));
        next();
    });
}

// Nothing tells of a work area that is another one: it is looked at again with every bar that comes, goes or changes.
function touched(w) {
    if (isBar(w)) agent.rescreened();
    agent.touched(w);
}

function follow(w) {
    if (!w) return;
    ["frameGeometryChanged", "captionChanged", "minimizedChanged", "fullScreenChanged", "desktopChanged", "desktopsChanged",
        "keepAboveChanged", "windowClassChanged", "screenChanged", "outputChanged", "transientChanged"].forEach(function (signal) {
        if (w[signal] && w[signal].connect) w[signal].connect(function () { touched(w); });
    });
    if (w.stackingOrderChanged) w.stackingOrderChanged.connect(agent.reordered);
    if (w.clientMaximizedStateChanged)
        w.clientMaximizedStateChanged.connect(function (_w, h, v) { maximised[idOf(w)] = h && v; touched(w); });
    // In 6 that signal has gone. This one comes before it is so; the frame that follows is told of anyway.
    else if (w.maximizedAboutToChange) w.maximizedAboutToChange.connect(function (mode) { maximised[idOf(w)] = mode === FULL; touched(w); });
    agent.added(w);
    touched(w);
}
api.windows().forEach(follow);
workspace[api.added].connect(function (w) { maximised[idOf(w)] = false; follow(w); });
workspace[api.removed].connect(function (w) {
    delete maximised[idOf(w)];
    agent.removed(w);
    if (isBar(w)) agent.rescreened();
});
workspace[api.activated].connect(agent.reordered);
["currentDesktopChanged", "numberDesktopsChanged", "desktopsChanged", "numberScreensChanged", "screensChanged",
    "screenResized", "virtualScreenGeometryChanged"].forEach(function (signal) {
    if (workspace[signal] && workspace[signal].connect) workspace[signal].connect(agent.rearranged);
});

// Chords stay taken until somebody gives them back: for a listener that is gone, this script does.
var ACCEL = "org.kde.kglobalaccel";
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
var looking = timer(LOOK, false, function () {
    if (waits && Date.now() - since < PATIENCE) {
        callDBus("org.freedesktop.DBus", "/org/freedesktop/DBus", "org.freedesktop.DBus", "NameHasOwner", SERVICE, function (is) {
            if (!is && hears) giveBack();
            else if (!is) leave();
        });
    } else next();
});
looking.start();
agent.changed();
next();
