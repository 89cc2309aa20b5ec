#!/bin/sh
# The program as people get it: a wheel, in an environment of its own, used by an ordinary user from another folder,
# without compiler, linker or a place to keep anything that was compiled. Part of CI.
set -eu
cd "$(dirname "$0")/.."
place=$(mktemp -d)
trap 'rm -rf "$place" build' EXIT
chmod 755 "$place"
mkdir "$place/home"

rm -rf build
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

.venv/bin/pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir "$place" .
"$python" -m venv "$place/venv"
"$place/venv/bin/pip" install --quiet --disable-pip-version-check "$place"/kyanoscript-*.whl
rm -f "$place"/kyanoscript-*.whl

cat >"$place/use.sh" <<'SH'
set -eu
export HOME="$1/home" XDG_CACHE_HOME="$1/home/cache" PATH="$1/venv/bin:/nowhere" PYTHONDONTWRITEBYTECODE=1
export QT_QPA_PLATFORM=offscreen
cd "$1/home"
kyanoscript --version
photo=$(python -c "from kyanoscript import demo; print(demo.PRINTS[0].photo)")
script=$(python -c "from kyanoscript import demo; print(demo.PRINTS[0].script)")
for processor in x86-64-v3 x86-64-v2; do
    KYANOSCRIPT_PROCESSOR=$processor python - <<'PY'
import importlib.util, sys, time
began = time.perf_counter()
from kyanoscript.core import kernel
from kyanoscript.core.render.prepare import prepare
prepare()
assert importlib.util.find_spec("numba") is None, "the environment has a compiler: this shows nothing"
wrong = [file for file in kernel.backends().values() if "/site-packages/" not in file]
assert not wrong and len(kernel.backends()) > 30, wrong
print(f"{len(kernel.backends())} libraries ready in {time.perf_counter() - began:.2f} s")
PY
done
kyanoscript render "$photo" --script "$script" --output print.tif --longer-side 600
kyanoscript --demo --picture window.png
python -c "
import os, sys
for file in ('print.tif', 'window.png'):
    assert os.path.getsize(file) > 20000, file
assert not os.path.exists('cache/kyanoscript'), 'something was compiled'
"
SH
if [ -n "$user" ]; then chown -R 65534:65534 "$place/home"; fi
$user sh "$place/use.sh" "$place"
printf 'used by %s; environment: %s MB\n' "${user:-this user}" "$(du -sm "$place/venv" | cut -f1)"
