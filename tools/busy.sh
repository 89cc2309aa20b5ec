#!/bin/sh
# A command beside busy loops, as on a machine that others use too. Usage: busy.sh [HOW MANY] COMMAND...
loops=4
case $1 in [0-9]*) loops=$1; shift ;; esac
trap 'kill $others 2>/dev/null' EXIT
others=""
while [ "$loops" -gt 0 ]; do
    while :; do :; done &
    others="$others $!"
    loops=$((loops - 1))
done
"$@"
