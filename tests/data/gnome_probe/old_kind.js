const { Clutter, Cogl, Gio, GLib, GObject, Meta, Shell, St } = imports.gi;
const Main = imports.ui.main;
//@PROBE@
let probe = null;
function init() {}
function enable() { probe = new Probe(); }
function disable() { probe.close(); }
