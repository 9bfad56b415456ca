// What Jaklet's code in a compositor does in any of them: it tells how the desk is by differences, and does what is
// asked from a fixed set of requests. All that it is handed are numbers and words, which are checked; none is ever run.
//
// `host` is the compositor: `windows()`, `idOf(w)`, `isOurs(w)`, `described(w)`, `order(ids)`, `desk()` and `screens()`
// tell; `requests` (about a window) and `deskRequests` change; `tell(text)` sends; `timer(ms, once, does)` returns one
// that is started and stopped.

function whole32(n) { return typeof n === "number" && isFinite(n) && Math.abs(n) < 100000 ? Math.round(n) : null; }
function frameOf(a) {
    var r = [whole32(a[0]), whole32(a[1]), whole32(a[2]), whole32(a[3])];
    return r.indexOf(null) < 0 && r[2] > 0 && r[3] > 0 ? r : null;
}
function isNumber(n, least, most) { return whole32(n) === n && n >= least && n <= most; }

function jakletAgent(host) {
    var TOGETHER = 3; // ms: all that happens in them is told once
    var agent; // before its first use: the journal would have a warning for each else
    // What has changed since it was told last: windows by id, those that are gone, the order, the outputs.
    var windows = {}, dirty = {}, told = {}, gone = [], isOrder = true, isScreens = true;
    var serial = 0, queue = [];
    var telling = host.timer(TOGETHER, true, function () {
        if (!agent.isBusy) host.tell(JSON.stringify(news())); // else it is told once that is done
    });

    function news() {
        var found = [];
        Object.keys(dirty).forEach(function (id) {
            var w = windows[id];
            if (host.isOurs(w)) {
                isOrder = isOrder || !told[id];
                told[id] = true;
                found.push(host.described(w));
            } else if (told[id]) {
                delete told[id];
                gone.push(id);
            }
        });
        var state = host.desk();
        state.windows = found;
        state.gone = gone;
        state.serial = serial;
        if (isOrder || gone.length) state.order = host.order(Object.keys(told));
        if (isScreens) state.screens = host.screens();
        dirty = {};
        gone = [];
        isOrder = isScreens = false;
        return state;
    }

    function done(request) {
        var args = Array.isArray(request.args) ? request.args : [];
        if (host.deskRequests.hasOwnProperty(request.op)) { host.deskRequests[request.op](args, request); return; }
        var w = agent.find(request.id);
        if (w && host.requests.hasOwnProperty(request.op)) host.requests[request.op](w, args);
    }

    agent = {
        isBusy: false, // something is under way of which only the end is to be told
        find: function (id) { return windows.hasOwnProperty(id) ? windows[id] : null; },
        // --- what has happened ---
        changed: function () { telling.start(); },
        touched: function (w) { dirty[host.idOf(w)] = true; telling.start(); },
        reordered: function () { isOrder = true; telling.start(); },
        rescreened: function () { isScreens = true; telling.start(); },
        rearranged: function () {
            isScreens = true;
            Object.keys(windows).forEach(function (id) { dirty[id] = true; });
            telling.start();
        },
        added: function (w) { windows[host.idOf(w)] = w; agent.touched(w); },
        removed: function (w) {
            var id = host.idOf(w);
            delete windows[id];
            delete dirty[id];
            if (told[id]) { delete told[id]; gone.push(id); }
            telling.start();
        },
        // --- what is asked ---
        take: function (given) {
            queue = queue.concat(given.requests, [{ op: "", serial: given.serial, isNews: given.requests.length > 0 }]);
            agent.work();
        },
        work: function () {
            while (queue.length && !agent.isBusy) {
                var one = queue.shift();
                if (one.op === "") {
                    serial = one.serial || serial;
                    if (one.isNews) telling.start();
                } else {
                    try { done(one); } catch (e) { /* the window has gone */ }
                }
            }
        },
        state: news,
        close: function () { telling.stop(); },
    };
    host.windows().forEach(agent.added);
    return agent;
}
