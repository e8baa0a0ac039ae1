#!/bin/sh
# Rebuilds the firmware of the demo course: one .elf and .hex for each source.
set -eu
cd "$(dirname "$0")/course"
for source in */source/*.c; do
	out=$(echo "$source" | sed 's|/source/|/firmware/|; s|\.c$||')
	avr-gcc -mmcu=atmega328p -DF_CPU=16000000UL -std=gnu99 -Os -g -gdwarf-4 -gno-record-gcc-switches -Wall -Wno-unused-function \
		-fdebug-prefix-map="$PWD"=. -o "$out.elf" "$source"
	avr-objcopy -O ihex -R .eeprom "$out.elf" "$out.hex"
done
