#!/bin/sh
# Rebuilds the reference firmware of the templates.
set -eu
cd "$(dirname "$0")"
for source in */reference.c; do
	avr-gcc -mmcu=atmega328p -DF_CPU=16000000UL -std=gnu99 -Os -g -gdwarf-4 -gno-record-gcc-switches -Wall \
		-fdebug-prefix-map="$PWD"=. -o "${source%.c}.elf" "$source"
done
