#!/bin/sh
# The window as a screen reader has it: on a bus and a display of its own. Needs xvfb, at-spi2-core, dbus and
# python3-pyatspi of the system.
set -eu
here=$(cd "$(dirname "$0")/../.." && pwd)
place=$(mktemp -d)
trap 'rm -rf "$place"' EXIT
chmod 700 "$place"
export XDG_RUNTIME_DIR="$place" KYANOSCRIPT_STATE="$place/state" KYANOSCRIPT_DATA="$place/data" LANGUAGE=en
exec dbus-run-session -- sh -c '
    Xvfb :87 -screen 0 1280x800x24 >/dev/null 2>&1 & display=$!
    sleep 4
    export DISPLAY=:87
    /usr/libexec/at-spi-bus-launcher --launch-immediately >/dev/null 2>&1 & bus=$!
    sleep 1
    QT_LINUX_ACCESSIBILITY_ALWAYS_ON=1 QT_QPA_PLATFORM=xcb "$0/.venv/bin/python" -m kyanoscript --demo & window=$!
    /usr/bin/python3 "$0/tools/access/walk.py"; status=$?
    kill $window $bus $display 2>/dev/null || true
    exit $status' "$here"
