#!/bin/sh
# A Debian package of the program and of all that Debian does not have in these versions: build/deb/kyanoscript_VERSION_ARCH.deb,
# for the Python that this machine's python3 is. lintian looks it over, where it is there.
set -eu
cd "$(dirname "$0")/../.."
say() { printf '%s\n' "$*" >&2; }

python=/usr/bin/python3
command -v dpkg-deb >/dev/null || { say "There is no dpkg-deb here: a Debian package is made on a Debian-like machine."; exit 1; }
"$python" -c 'import sys; raise SystemExit(sys.version_info < (3, 11))' || { say "$python must be at least 3.11."; exit 1; }
this=$("$python" -c 'import sys; print("%d.%d" % sys.version_info[:2])')
next=$("$python" -c 'import sys; print("%d.%d" % (sys.version_info[0], sys.version_info[1] + 1))')
version=$(sed -n 's/^version = "\(.*\)"$/\1/p' pyproject.toml)
arch=$(dpkg --print-architecture)

build=build/deb
stage=$build/stage
own=$stage/usr/lib/kyanoscript
share=$stage/usr/share
rm -rf "$build"
mkdir -p "$own" "$stage/usr/bin" "$stage/DEBIAN" "$share/doc/kyanoscript" "$share/lintian/overrides"

say "The wheel…"
.venv/bin/pip wheel --quiet --disable-pip-version-check --no-deps --no-build-isolation --wheel-dir "$build" .
say "What it needs…"
.venv/bin/pip --python "$python" install --quiet --disable-pip-version-check --no-compile --target "$own" "$build"/*.whl
rm -rf "$own/bin" "$own/PySide6/scripts"
find "$own/numpy" "$own/scipy" -type d -name tests -prune -exec rm -rf {} +
find "$own" -name __pycache__ -prune -exec rm -rf {} +
find "$own" -type f -exec chmod 644 {} +
find "$own" -type d -exec chmod 755 {} +

cat >"$stage/usr/bin/kyanoscript" <<'PY'
#!/usr/bin/python3 -sP
import sys

sys.path.insert(1, "/usr/lib/kyanoscript")
if __name__ == "__main__":  # a worker of an edition reads this file again
    from kyanoscript.cli import main

    sys.exit(main())
PY
chmod 755 "$stage/usr/bin/kyanoscript"

KYANOSCRIPT_CACHE=$build/cache .venv/bin/python -P -m kyanoscript desktop --quiet --into "$share" --program kyanoscript
find "$share" -name '*.cache' -delete
find "$share/mime" -mindepth 1 -maxdepth 1 ! -name packages -exec rm -rf {} +
gzip -9n "$share/man/man1/kyanoscript.1"
mkdir -p "$share/zsh/vendor-completions"
mv "$share/zsh/site-functions/_kyanoscript" "$share/zsh/vendor-completions/_kyanoscript"
rmdir "$share/zsh/site-functions"
find "$share" -type f -exec chmod 644 {} +

cp tools/deb/copyright "$share/doc/kyanoscript/copyright"
sed "s/VERSION/$version/" tools/deb/changelog | gzip -9n >"$share/doc/kyanoscript/changelog.gz"
cp tools/deb/overrides "$share/lintian/overrides/kyanoscript"
for script in postinst prerm; do install -m 755 "tools/deb/$script" "$stage/DEBIAN/$script"; done
size=$(du -sk --exclude=DEBIAN "$stage" | cut -f1)
sed -e "s/VERSION/$version/" -e "s/ARCH/$arch/" -e "s/SIZE/$size/" -e "s/THIS/$this/" -e "s/NEXT/$next/" tools/deb/control \
    >"$stage/DEBIAN/control"
(cd "$stage" && find usr -type f -print0 | sort -z | xargs -0 md5sum >DEBIAN/md5sums)

package=$build/kyanoscript_${version}_$arch.deb
say "The package…"
dpkg-deb --root-owner-group -Zxz -z1 --build "$stage" "$package" >&2
rm -rf "$stage"
if command -v lintian >/dev/null; then
    say "lintian…"
    lintian --fail-on error "$package" >&2
else
    say "There is no lintian here to look it over."
fi
echo "$package"
