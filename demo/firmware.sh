#!/bin/sh
# Rebuilds the firmware of the demo course: one .elf and .hex for each source.
set -eu
cd "$(dirname "$0")/course"
support=../../core/machine/rp2040/support
for source in */source/*.c; do
	out=$(echo "$source" | sed 's|/source/|/firmware/|; s|\.c$||')
	if grep -q 'is: rp2040' "${source%%/*}/exercise.yaml" && ! grep -q '#include <avr/' "$source"; then
		arm-none-eabi-gcc -mcpu=cortex-m0plus -mthumb -std=gnu11 -Os -g -gdwarf-4 -gno-record-gcc-switches -Wall -Wno-unused-function \
			-ffunction-sections -fdata-sections -Wl,--gc-sections -nostartfiles -specs=nano.specs -T $support/link.ld \
			-I $support -fdebug-prefix-map="$PWD"=. -o "$out.elf" "$source" $support/*.c $support/second.S
		arm-none-eabi-objcopy -O ihex "$out.elf" "$out.hex"
		continue
	fi
	avr-gcc -mmcu=atmega328p -DF_CPU=16000000UL -std=gnu99 -Os -g -gdwarf-4 -gno-record-gcc-switches -Wall -Wno-unused-function \
		-fdebug-prefix-map="$PWD"=. -o "$out.elf" "$source"
	avr-objcopy -O ihex -R .eeprom "$out.elf" "$out.hex"
done
