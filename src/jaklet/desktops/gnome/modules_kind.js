// Jaklet's extension for GNOME Shell 45 and later.
import Clutter from 'gi://Clutter';
import Cogl from 'gi://Cogl';
import Gio from 'gi://Gio';
import GLib from 'gi://GLib';
import Meta from 'gi://Meta';
import Shell from 'gi://Shell';
import St from 'gi://St';
import * as Main from 'resource:///org/gnome/shell/ui/main.js';
import { Extension } from 'resource:///org/gnome/shell/extensions/extension.js';
//@AGENT@
export default class Jaklet extends Extension {
    enable() { this._desk = new JakletDesk(this.path); }
    disable() { this._desk.close(); this._desk = null; }
}
