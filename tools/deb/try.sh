#!/bin/sh
# The package installed on this machine (as root), used by an ordinary user with an empty home, and taken off again.
set -eu
cd "$(dirname "$0")/../.."
package=$(ls build/deb/kyanoscript_*.deb)
place=$(mktemp -d)
trap 'dpkg --purge kyanoscript >/dev/null 2>&1; rm -rf "$place"' EXIT
dpkg --install "$package" >/dev/null
chmod 755 "$place"
mkdir "$place/home"
cat >"$place/use.sh" <<'SH'
set -eu
export HOME="$1/home" PATH=/usr/bin:/bin QT_QPA_PLATFORM=offscreen
unset XDG_CACHE_HOME XDG_CONFIG_HOME XDG_DATA_HOME XDG_STATE_HOME PYTHONPATH
cd "$HOME"
landing=/usr/lib/kyanoscript/kyanoscript/demo/photos/ferry-landing.jpg
kyanoscript --version
kyanoscript --demo --picture demo.png
kyanoscript render "$landing" --recipe sepia-bath -o sepia.png --longer-side 300
kyanoscript edition "$landing" --recipe sepia-bath -o prints --longer-side 200 --jobs 2
test -s prints/ferry-landing.tif
kyanoscript desktop
desktop-file-validate .local/share/applications/*.desktop 2>/dev/null || ! command -v desktop-file-validate >/dev/null
kyanoscript desktop --remove
test ! -e .local/share/applications/app.kyanoscript.Kyanoscript.desktop
man -w kyanoscript >/dev/null || ! command -v man >/dev/null
SH
chown -R 65534:65534 "$place/home"
setpriv --reuid 65534 --regid 65534 --clear-groups sh "$place/use.sh" "$place"
dpkg --purge kyanoscript >/dev/null
left=$(find /usr/lib/kyanoscript /usr/share/applications/app.kyanoscript* 2>/dev/null | head -3)
[ -z "$left" ] || { echo "left behind: $left"; exit 1; }
echo "installed, used and taken off again: $package"
