#!/bin/sh
# Rebuilds the firmware of the demo course: one .elf and .hex for each source, and of assembler one .cof and .hex, of a
# hardware description one .design, of a script one .script.
set -eu
cd "$(dirname "$0")/course"
support=../../core/machine/rp2040/support
chip() { sed -n 's/.*\bis: \([a-z0-9-]*\).*/\1/p' "${1%%/*}/exercise.yaml" | head -1; }
clock() { sed -n 's/^chip: .*clock: \([0-9]*\)MHz.*/\1000000UL/p' "${1%%/*}/exercise.yaml"; }
for source in */source/*.asm; do
	out=$(echo "$source" | sed 's|/source/|/firmware/|; s|\.asm$||')
	device=$(chip "$source" | sed 's/^pic//')
	made=$(mktemp -d)
	cp "$source" "$made"
	(
		cd "$made"
		gpasm -c -w 2 -p "$device" -o x.o "$(basename "$source")"
		gplink -c -l -s "/usr/share/gputils/lkr/${device}_g.lkr" -o x.hex x.o
	) >&2
	cp "$made/x.hex" "$out.hex"
	cp "$made/x.cof" "$out.cof"
	printf '\0\0\0\0' | dd of="$out.cof" bs=1 seek=4 conv=notrunc 2>/dev/null # when it was built
	rm -r "$made"
done
for source in */source/*.c; do
	out=$(echo "$source" | sed 's|/source/|/firmware/|; s|\.c$||')
	grep -q 'is: linux-board' "${source%%/*}/exercise.yaml" && continue
	if grep -q 'is: rp2040' "${source%%/*}/exercise.yaml" && ! grep -q '#include <avr/' "$source"; then
		arm-none-eabi-gcc -mcpu=cortex-m0plus -mthumb -std=gnu11 -Os -g -gdwarf-4 -gno-record-gcc-switches -Wall -Wno-unused-function \
			-ffunction-sections -fdata-sections -Wl,--gc-sections -nostartfiles -specs=nano.specs -T $support/link.ld \
			-I $support -fdebug-prefix-map="$PWD"=. -o "$out.elf" "$source" $support/*.c $support/second.S
		arm-none-eabi-objcopy -O ihex "$out.elf" "$out.hex"
		continue
	fi
	device=$(chip "$source") rate=$(clock "$source")
	[ -n "$rate" ] || device=atmega328p rate=16000000UL
	avr-gcc -mmcu="$device" -DF_CPU="$rate" -std=gnu99 -Os -g -gdwarf-4 -gno-record-gcc-switches -Wall -Wno-unused-function \
		-fdebug-prefix-map="$PWD"=. -o "$out.elf" "$source"
	avr-objcopy -O ihex -R .eeprom "$out.elf" "$out.hex"
done
(cd ../.. && go build -o /tmp/hemble-designs ./cmd/hemble)
for source in */source/*.v */source/*.vhd */source/*-pins; do
	out=$(echo "$source" | sed -E 's|/source/|/firmware/|; s|\.vh?d?$||')
	/tmp/hemble-designs build --chip fpga --output "$out.design" "$source" || exit 1
done
for source in */source/*.py crane-lamps/source/*.c; do
	out=$(echo "$source" | sed -E 's|/source/|/firmware/|; s/\.(py|c)$//')
	/tmp/hemble-designs build --chip "$(chip "$source")" --output "$out.script" "$source" || exit 1
done
rm /tmp/hemble-designs
