"""Whether a desktop is dark: by the settings portal over D-Bus, which all large desktops have.

XDG Desktop Portal, org.freedesktop.portal.Settings: `color-scheme` of `org.freedesktop.appearance`.
"""

from typing import Any, Final

PATIENCE: Final = 0.5  # seconds for an answer of the bus
DARK, LIGHT = 1, 2


def portal_prefers_dark() -> bool | None:
    """Return whether the settings portal prefers dark; None where there is no portal, or no preference."""
    try:
        from jeepney import DBusAddress, new_method_call
        from jeepney.io.blocking import open_dbus_connection
        from jeepney.wrappers import unwrap_msg

        portal = DBusAddress(
            "/org/freedesktop/portal/desktop", "org.freedesktop.portal.Desktop", "org.freedesktop.portal.Settings"
        )
        call = new_method_call(portal, "Read", "ss", ("org.freedesktop.appearance", "color-scheme"))
        with open_dbus_connection(bus="SESSION") as connection:
            value: Any = unwrap_msg(connection.send_and_get_reply(call, timeout=PATIENCE))[0]
    except Exception:  # a bus can fail in many ways, and then it has said nothing
        return None
    while isinstance(value, tuple):  # a variant is a pair of signature and value, and `Read` wraps it once more
        value = value[1]
    return {DARK: True, LIGHT: False}.get(value)
