#!/bin/sh
# The tests with the oldest or the newest versions of everything that it is built on, in a copy of the checkout.
#   versions.sh oldest   the first Python that it runs on, every dependency at its lower bound
#   versions.sh newest   the last Python there is here, every dependency as new as it may be
# What comes after goes to pytest; without it, all tests are run.
set -eu
cd "$(dirname "$0")/.."
which=$1
shift
place=.versions/$which
case $which in
oldest) pythons="python3.11" ;;
newest) pythons="python3.14 python3.13 python3.12 python3.11" ;;
*) sed -n '2,5s/^# //p' "$0" && exit 2 ;;
esac

# One of the Pythons on the path, or of those that pyenv keeps.
python=""
for name in $pythons; do
    for found in "$name" "${PYENV_ROOT:-$HOME/.pyenv}"/versions/"${name#python}"*/bin/python3; do
        if [ -z "$python" ] && "$found" -c 'import ensurepip' 2>/dev/null; then python=$found; fi
    done
done
[ -n "$python" ] || { echo "none of these is here: $pythons" >&2 && exit 1; }

rm -rf "$place"
mkdir -p "$place"
git ls-files -z | tar --null --files-from=- -c | tar -x -C "$place"
cd "$place"
"$python" -m venv .venv
pip() { .venv/bin/python -m pip --quiet --disable-pip-version-check "$@"; }
pip install --no-compile "setuptools>=77"
pip install --no-compile --no-build-isolation --upgrade --upgrade-strategy eager --editable ".[dev]"
if [ "$which" = oldest ]; then # after the tools, some of which would ask for newer ones
    .venv/bin/python tools/lowest.py >lowest.txt
    pip install --no-compile --requirement lowest.txt
fi
.venv/bin/python --version
pip freeze --exclude-editable | grep -iE "^(numpy|scipy|opencv|numba|llvmlite|pyside|rawpy|pillow|tifffile|imagecodecs|pikepdf|openexr|simplejpeg|jeepney|python-xlib|platformdirs)"
.venv/bin/python -P tools/kernels.py
QT_QPA_PLATFORM=offscreen .venv/bin/python -m pytest -n 2 --dist loadfile --no-loadscope-reorder "$@"
