"""Finding the profile of a monitor: from colord over D-Bus, or as a property of the X screen.

Sources: colord's D-Bus interface (org.freedesktop.ColorManager); ICC Profiles in X (freedesktop.org, 0.4): the property
``_ICC_PROFILE`` of the root window. Whatever is not there, or does not answer within a second, is no profile.
"""

from __future__ import annotations

import os
import re
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from kyanoscript.files.base.opening import read_plain
from kyanoscript.files.colour.profiles import named, space

_MOST = 16 << 20  # bytes of a profile
_PATIENCE = 1.0  # seconds
_BUS = "org.freedesktop.ColorManager"


@dataclass(frozen=True)
class MonitorProfile:
    """A profile, and where it was found."""

    data: bytes
    name: str  # the profile's own
    where: str  # for people


def find(screen: str) -> MonitorProfile | None:
    """The profile of the screen of that name, as the window system calls it; None if none is found."""
    for look in (_from_colord, _from_x):
        try:
            found = look(screen)
        except Exception:  # no bus, no server, no such service: whatever stands in the way is usual somewhere
            continue
        if found is not None and space(found.data) == "RGB":
            return found
    return None


def read(path: Path) -> MonitorProfile:
    """A profile chosen by hand. Raises FileError for a file that cannot be read."""
    data = read_plain(path, _MOST)
    return MonitorProfile(data, named(data), str(path))


def _from_colord(screen: str) -> MonitorProfile | None:
    bus = os.environ.get("DBUS_SYSTEM_BUS_ADDRESS", "unix:path=/run/dbus/system_bus_socket")
    if not Path(bus.removeprefix("unix:path=").partition(",")[0]).exists():
        return None
    from jeepney.io.blocking import open_dbus_connection

    connection = open_dbus_connection(bus="SYSTEM")
    try:
        return from_colord(connection, screen)
    finally:
        connection.close()


def from_colord(connection: Any, screen: str) -> MonitorProfile | None:
    """Ask colord, over an open connection to the system's bus."""
    from jeepney import DBusAddress, Properties, new_method_call

    def address(path: str, of: str = "") -> Any:
        return DBusAddress(path, bus_name=_BUS, interface=_BUS + of)

    def told(path: str, of: str, name: str) -> Any:
        reply = connection.send_and_get_reply(Properties(address(path, of)).get(name), timeout=_PATIENCE)
        return reply.body[0][1]

    call = new_method_call(address("/org/freedesktop/ColorManager"), "GetDevicesByKind", "s", ("display",))
    devices = connection.send_and_get_reply(call, timeout=_PATIENCE).body[0]
    mine = [path for path in devices if told(path, ".Device", "Metadata").get("XRANDR_name") == screen]
    for device in mine or (devices if len(devices) == 1 else ()):
        for profile in told(device, ".Device", "Profiles"):  # the first is the one in use
            file = told(profile, ".Profile", "Filename")
            if file:
                data = read_plain(Path(file), _MOST)
                return MonitorProfile(data, named(data), "the system's colour settings")
    return None


def _from_x(screen: str) -> MonitorProfile | None:
    number = re.match(r":(\d+)", os.environ.get("DISPLAY", ""))
    if number is None or not Path(f"/tmp/.X11-unix/X{number[1]}").exists():  # a screen of another machine has its own
        return None
    from Xlib import X
    from Xlib.display import Display

    server = Display()
    try:
        known = server.screen().root.get_full_property(server.intern_atom("_ICC_PROFILE"), X.AnyPropertyType)
    finally:
        server.close()
    if known is None:
        return None
    data = bytes(known.value)
    return MonitorProfile(data, named(data), "the X screen")
