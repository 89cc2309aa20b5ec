#!/bin/sh
# The program as people get it: a wheel, in an environment of its own, used by an ordinary user with an empty home from
# another folder, without compiler, linker or a place where anything compiled was kept. Part of CI.
#   wheel.sh [WHEEL]   a wheel that is there already, in place of one made now
set -eu
cd "$(dirname "$0")/../.."
place=$(mktemp -d)
trap 'rm -rf "$place" build' EXIT
chmod 755 "$place"
mkdir "$place/home" "$place/wheel" "$place/checkout"
cp tools/wheel/used.py tools/wheel/prints.py README.md "$place"

# Whoever is root here becomes somebody else; Python has to be one that such a user may run.
other() { setpriv --reuid 65534 --regid 65534 --clear-groups "$@"; }
fits='import ensurepip, sys; raise SystemExit(sys.version_info < (3, 11))'
python="" user=""
if [ "$(id -u)" = 0 ]; then
    user=other
    for candidate in /usr/local/bin/python3 /usr/bin/python3; do
        if [ -z "$python" ] && other "$candidate" -c "$fits" 2>/dev/null; then python=$candidate; fi
    done
fi
if [ -z "$python" ]; then # only its own user may run the Python that there is
    python=.venv/bin/python user=""
fi

rm -rf build
if [ -n "${1:-}" ]; then cp "$1" "$place/wheel"; else
    .venv/bin/pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir "$place/wheel" .
fi
"$python" -m venv "$place/venv"
"$place/venv/bin/pip" install --quiet --disable-pip-version-check "$place"/wheel/kyanoscript-*.whl
.venv/bin/python -P tools/wheel/prints.py "$place/checkout" >"$place/prints.json"

cat >"$place/use.sh" <<'SH'
set -eu
unset DISPLAY WAYLAND_DISPLAY XDG_CACHE_HOME XDG_CONFIG_HOME XDG_DATA_HOME XDG_STATE_HOME XDG_RUNTIME_DIR PYTHONPATH
unset KYANOSCRIPT_KERNELS KYANOSCRIPT_CACHE KYANOSCRIPT_STATE KYANOSCRIPT_DATA KYANOSCRIPT_PROCESSOR
export HOME="$1/home" PATH="$1/venv/bin:/nowhere" PYTHONDONTWRITEBYTECODE=1 QT_QPA_PLATFORM=offscreen
cd "$1/home"
kyanoscript --version
python -P ../used.py ../README.md ../prints.json
SH
if [ -n "$user" ]; then chown -R 65534:65534 "$place/home"; fi
$user sh "$place/use.sh" "$place"
printf 'used by %s; environment: %s MB\n' "${user:-this user}" "$(du -sm "$place/venv" | cut -f1)"
