#!/bin/sh
# Checks the systemd units with the binary that was built, where systemd-analyze is there.
set -eu
cd "$(dirname "$0")/.."
if ! command -v systemd-analyze >/dev/null; then
	echo "systemd-analyze is not installed: the units were not checked"
	exit 0
fi
dir=$(mktemp -d)
trap 'rm -rf "$dir"' EXIT
for unit in packaging/*.service packaging/*.timer; do
	sed "s#/usr/local/bin/hemble#$PWD/bin/hemble#" "$unit" >"$dir/$(basename "$unit")"
done
systemd-analyze verify --man=no "$dir"/*.service "$dir"/*.timer
echo "the systemd units are well formed"
