"""The desktop's bus (D-Bus), where there is one: another window of the program, notices, and a machine kept awake.

Blocking, so for threads that nobody waits for; whatever is wrong with a bus is no concern of the work.
"""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

NAME = "app.kyanoscript.Kyanoscript"
PLACE = "/app/kyanoscript/Kyanoscript"
OPENS = "org.freedesktop.Application"  # Desktop Entry Specification 1.5, "D-Bus Activation"
_PATIENCE = 2.0  # seconds
_ASLEEP = 4  # of the portal's flags: suspend
_BUS = "org.freedesktop.DBus"


def there() -> bool:
    """Whether a session's bus is named, and lies where it is said to."""
    address = os.environ.get("DBUS_SESSION_BUS_ADDRESS", "")
    path = next((part[10:] for part in address.split(",") if part.startswith("unix:path=")), None)
    return bool(address) and (path is None or Path(path).exists())


@contextlib.contextmanager
def _connection() -> Iterator[Any]:
    from jeepney.io.blocking import open_dbus_connection

    connection = open_dbus_connection(bus="SESSION")
    try:
        yield connection
    finally:
        connection.close()


def _ask(connection: Any, at: tuple[str, str, str], method: str, signature: str, body: tuple[Any, ...]) -> Any:
    """What a service answers. ``at``: its name, object and interface. Raises what jeepney does, for an error too."""
    from jeepney import DBusAddress, new_method_call
    from jeepney.wrappers import unwrap_msg

    name, place, interface = at
    call = new_method_call(DBusAddress(place, bus_name=name, interface=interface), method, signature or None, body)
    return unwrap_msg(connection.send_and_get_reply(call, timeout=_PATIENCE))


def hand_over(files: Sequence[Path]) -> bool:
    """Give files to a window that is open already, which comes to the front; False if there is none that takes them."""
    if not there():
        return False
    with contextlib.suppress(Exception), _connection() as connection:
        (known,) = _ask(connection, (_BUS, "/org/freedesktop/DBus", _BUS), "NameHasOwner", "s", (NAME,))
        if known:
            at = NAME, PLACE, OPENS
            if files:
                uris = [file.absolute().as_uri() for file in files]
                _ask(connection, at, "Open", "asa{sv}", (uris, {}))
            else:
                _ask(connection, at, "Activate", "a{sv}", ({},))
            return True
    return False


def notify(summary: str, body: str) -> bool:
    """A notice of the desktop (Desktop Notifications Specification 1.2); whether there was somebody to show it."""
    if not there():
        return False
    with contextlib.suppress(Exception), _connection() as connection:
        at = "org.freedesktop.Notifications", "/org/freedesktop/Notifications", "org.freedesktop.Notifications"
        hints = {"desktop-entry": ("s", NAME)}
        _ask(connection, at, "Notify", "susssasa{sv}i", ("Kyanoscript", 0, NAME, summary, body, [], hints, -1))
        return True
    return False


class Awake:
    """The machine does not go to sleep by itself until `release`, where the desktop has a way to ask for that."""

    def __init__(self, reason: str) -> None:
        self._open: contextlib.ExitStack | None = None
        if there():
            self._begin(reason)

    def _begin(self, reason: str) -> None:
        ways = (
            (("org.freedesktop.portal.Desktop", "/org/freedesktop/portal/desktop", "org.freedesktop.portal.Inhibit"),
             "sua{sv}", ("", _ASLEEP, {"reason": ("s", reason)})),
            (("org.freedesktop.PowerManagement", "/org/freedesktop/PowerManagement/Inhibit",
              "org.freedesktop.PowerManagement.Inhibit"), "ss", ("Kyanoscript", reason)),
        )  # fmt: skip
        for at, signature, body in ways:
            with contextlib.suppress(Exception), contextlib.ExitStack() as stack:
                connection = stack.enter_context(_connection())
                _ask(connection, at, "Inhibit", signature, body)
                self._open = stack.pop_all()  # it holds as long as the connection is open
                return

    @property
    def held(self) -> bool:
        """Whether somebody keeps it awake."""
        return self._open is not None

    def release(self) -> None:
        """It may sleep again."""
        if self._open is not None:
            self._open.close()
            self._open = None
