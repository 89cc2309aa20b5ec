#!/bin/sh
# Makes .venv, and installs the system libraries that Qt needs where that is possible.
#   setup.sh program   the program from where it lies, with its kernels ready for this machine
#   setup.sh tools     and what it is tested and built with
set -eu
cd "$(dirname "$0")/.."

say() { printf '%s\n' "$*" >&2; }
as_root() { [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; }

python=""
for candidate in python3 python3.14 python3.13 python3.12 python3.11; do
    if command -v "$candidate" >/dev/null 2>&1 &&
        "$candidate" -c 'import sys; raise SystemExit(sys.version_info < (3, 11))' 2>/dev/null; then
        python=$candidate
        break
    fi
done

# Shared libraries that Qt loads, and the Debian packages that hold them.
missing() {
    "$1" - <<'PY'
import ctypes
needed = {"libEGL.so.1": "libegl1", "libGL.so.1": "libgl1", "libxkbcommon.so.0": "libxkbcommon0",
          "libfontconfig.so.1": "libfontconfig1", "libdbus-1.so.3": "libdbus-1-3", "libglib-2.0.so.0": "libglib2.0-0",
          "libxcb-cursor.so.0": "libxcb-cursor0", "libxkbcommon-x11.so.0": "libxkbcommon-x11-0",
          "libxcb-icccm.so.4": "libxcb-icccm4", "libxcb-keysyms.so.1": "libxcb-keysyms1",
          "libxcb-image.so.0": "libxcb-image0", "libxcb-render-util.so.0": "libxcb-render-util0",
          "libxcb-shape.so.0": "libxcb-shape0", "libxcb-xinerama.so.0": "libxcb-xinerama0"}
for library, package in needed.items():
    try:
        ctypes.CDLL(library)
    except OSError:
        print(package, end=" ")
PY
}

packages=""
if [ -z "$python" ]; then packages="python3 python3-venv"; fi
if [ -n "$python" ]; then
    packages=$(missing "$python")
    "$python" -c 'import ensurepip, venv' 2>/dev/null || packages="$packages python3-venv"
fi
# A linker turns the compiled kernels into libraries.
command -v cc >/dev/null 2>&1 || command -v gcc >/dev/null 2>&1 || command -v clang >/dev/null 2>&1 ||
    command -v ld >/dev/null 2>&1 || packages="$packages binutils"

# Profiles of printers, inks and grays that others made, for the tests.
if [ "${1:-tools}" != program ]; then
    [ -e /usr/share/color/icc/ghostscript/default_cmyk.icc ] || packages="$packages libgs9-common"
    [ -e /usr/share/color/icc/colord/sRGB.icc ] || packages="$packages colord-data"
fi

if [ -n "${packages# }" ]; then
    if as_root; then
        say "Installing: $packages"
        apt-get update -qq
        # shellcheck disable=SC2086
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $packages >/dev/null
    else
        say "Some system packages are missing. Install them with"
        say "    sudo apt-get install $packages"
        say "and run this again."
        [ -n "$python" ] || exit 1
    fi
fi
[ -n "$python" ] || python=python3

# An interrupted set-up leaves an interpreter without pip behind; making it again mends it.
[ -x .venv/bin/pip ] || "$python" -m venv .venv
# Everything goes into the one environment, once: no second one to build in. Python compiles what is used when it is.
quick() { .venv/bin/pip install --quiet --disable-pip-version-check --no-compile "$@"; }
with=compiler
[ "${1:-tools}" = program ] || with=dev
.venv/bin/python -c 'import setuptools as s; raise SystemExit(int(s.__version__.split(".")[0]) < 77)' 2>/dev/null ||
    quick "setuptools>=77"
quick --no-build-isolation --editable ".[$with]"
touch .venv/.program
[ "$with" = compiler ] || touch .venv/.ready
