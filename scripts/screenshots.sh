#!/bin/sh
# Makes the pictures of docs/screenshots from the demo course: the console in a browser, the terminal
# in a terminal window.
set -eu
cd "$(dirname "$0")/.."
for p in Xvfb:xvfb xterm:xterm import:imagemagick xdotool:xdotool; do
	command -v "${p%%:*}" >/dev/null 2>&1 || { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${p##*:}" >/dev/null; }
done
out=$PWD/docs/screenshots
mkdir -p "$out"
HEMBLE_PICTURES=$out go test -count=1 ./console/

Xvfb :97 -screen 0 1280x800x24 >/dev/null 2>&1 &
x=$!
trap 'kill $x 2>/dev/null || true' EXIT
sleep 1
export DISPLAY=:97
keys="" # pressed once the command runs
shot() { # NAME COMMAND: what a command prints, in a terminal window
	name=$1
	shift
	xterm -fa 'DejaVu Sans Mono' -fs 9 -geometry 158x53+0+0 -bg '#f4efe3' -fg '#1e2a2b' -e sh -c "PATH=$PWD/bin:\$PATH; printf '\$ %s\n' '$*'; $*; sleep 30" &
	term=$!
	sleep 4
	for key in $keys; do
		xdotool key "$key"
		sleep 0.4
	done
	import -window root "$out/$name.png"
	kill $term
	wait $term 2>/dev/null || true
}
shot grade-folder 'hemble grade demo/course/chamber-gauge demo/course/chamber-gauge/firmware'
shot grade 'hemble grade demo/course/chamber-gauge demo/course/chamber-gauge/firmware/stroud-b-f-swapped.elf'
shot strength 'hemble strength demo/course/boat-counter demo/course/boat-counter/firmware/imre-timer.elf'
shot trace 'hemble trace --for 16s demo/course/boat-lamps/firmware/marsh-waits.elf; hemble check demo/course/*/; hemble parts lamp'
keys="period period period period period l"
shot play 'hemble play demo/course/sluice-dial demo/course/sluice-dial/firmware/bell-table.elf'

sheet=$(mktemp -d)
bin/hemble parts --svg "$sheet/parts.svg"
chromium --headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-component-update --disable-sync \
	--user-data-dir="$sheet/browser" --hide-scrollbars --window-size=1280,1640 --screenshot="$out/parts.png" "file://$sheet/parts.svg" >/dev/null 2>&1
bin/hemble picture --scale 1 demo/course/chamber-gauge demo/course/chamber-gauge/firmware/tarn-wrong-six.elf "$out/film.png"
bin/hemble grade --format html demo/course/chamber-gauge demo/course/chamber-gauge/firmware/stroud-b-f-swapped.elf > "$sheet/sheet.html"
chromium --headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-component-update --disable-sync \
	--user-data-dir="$sheet/browser" --hide-scrollbars --window-size=1280,1000 --screenshot="$out/sheet-html.png" "file://$sheet/sheet.html" >/dev/null 2>&1
rm -rf "$sheet"
