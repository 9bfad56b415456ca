// Jaklet's extension for GNOME Shell 43 and 44.
const { Clutter, Cogl, Gio, GLib, Meta, Shell, St } = imports.gi;
const Main = imports.ui.main;
//@AGENT@
let jaklet = null;
function init() {}
function enable() { jaklet = new JakletDesk(imports.misc.extensionUtils.getCurrentExtension().path); }
function disable() { jaklet.close(); jaklet = null; }
