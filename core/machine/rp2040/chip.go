// Package rp2040 simulates the RP2040 microcontroller around one of its two Cortex-M0+ cores, by the RP2040 Datasheet
// (build of 2024): memories and boot (2.6, 2.8), clocks (2.15 to 2.18), the single-cycle I/O block (2.3), pins (2.19),
// timer (4.6), watchdog (4.7), UART (4.2), I2C (4.3), SPI (4.4), PWM (4.5), RTC (4.8), ADC (4.9) and DMA (2.5).
// Registers stand in a file for each block of it.
package rp2040

import (
	"embed"
	"fmt"
	"io/fs"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/armm"
)

// Where the memories are (2.2).
const (
	flashAt   = 0x1000_0000
	ramAt     = 0x2000_0000
	flashSize = 2 << 20
	ramSize   = 264 << 10
)

const (
	gpios = 30
	run   = machine.Pin(gpios) // the reset pin, behind the others
)

// layout is where linkers put what: addresses are the chip's own.
var layout = firmware.Layout{Erased: 0xffff, Family: 0xe48b_ff56, Raw: raw,
	Regions: []firmware.Region{{Kind: firmware.Ignored},
		{From: flashAt, Kind: firmware.Flash, Shown: flashAt},
		{From: flashAt + flashSize, Kind: firmware.Ignored},
		{From: ramAt, Kind: firmware.RAM, Shown: ramAt},
		{From: ramAt + ramSize, Kind: firmware.Ignored}}}

// raw tells a plain copy of flash by the checksum of its second stage.
func raw(file []byte) (from uint32, ok bool) {
	return flashAt, len(file) > secondStage && checksum(file[:secondStage-4]) == word(file[secondStage-4:])
}

// Chip is the RP2040 with 2 MB of flash and a crystal of 12 MHz, as boards have it.
var Chip = &machine.Chip{
	Name: "rp2040", Title: "RP2040",
	Source: "RP2040 Datasheet; ARM DDI 0419E (ARMv6-M Architecture Reference Manual), ARM DDI 0484C (Cortex-M0+)",
	Clock:  12_000_000, Clocks: [2]clock.Rate{1_000_000, 15_000_000}, Crystal: [2]string{"XIN", "XOUT"},
	Pins: pins(), Vectors: map[string][]machine.Pin{"GP": all(), "GPIO": all()}, Reset: run,
	Supplies: []machine.Rail{{Name: "IOVDD", Package: 1, Net: "VCC"}, {Name: "GND", Package: 57, Net: "GND"}},
	Serial:   []machine.SerialPort{{Name: "UART0", Receive: 1, Transmit: 0}, {Name: "UART1", Receive: 5, Transmit: 4}},
	// 5.5.3: an output of the usual 4 mA drops at most 0.5 V; pulls have 50 to 80 kΩ.
	Electric: machine.Electric{Supply: 3_300_000, Supplies: [2]int64{1_800_000, 3_630_000}, Drive: 60, Pull: 65_000,
		Over: 500_000},
	Limits: machine.Limits{Pin: 12_000_000, Chip: 50_000_000},
	Flash:  flashSize, SRAM: ramSize, Data: ramAt,
	Firmware: layout, Machine: firmware.MachineARM,
	Toolchain: machine.Toolchain{Compiler: "arm-none-eabi-gcc", Device: []string{"-mcpu=cortex-m0plus", "-mthumb"},
		Headers: []string{"board.h"}},
	Models: []string{"core 0", "boot checksum", "resets", "clocks, crystal, PLLs", "watchdog tick and reset", "timer",
		"single-cycle I/O: pins, divider, spinlocks", "pins, pads, pin interrupts", "UART0, UART1", "I2C0, I2C1 as masters",
		"SPI0, SPI1 as masters", "PWM", "ADC", "RTC", "DMA"},
	Unmodelled: []string{"core 1", "PIO0, PIO1", "USB", "interpolators"},
	Notes:      notes,

	ReturnAddresses: callers,
	Normalise:       shape,
	Alterations:     armm.Alterations,
	Says:            says,
}

// notes are what the chip may report of a program.
var notes = []finding.Entry{
	{Code: "dma-address", Doc: "a DMA channel came to an address where nothing is"},
	{Code: "floating", Doc: "a pin was read while nothing drove it"},
	{Code: "i2c-lines", Doc: "an I2C bus has no pull-ups, or no pins"},
	{Code: "in-reset", Fact: true, Doc: "a peripheral was used that is still held in reset"},
	{Code: "no-tick", Fact: true, Doc: "the timer was read while it stands still: nothing gives it its tick"},
	{Code: "pin-says", Doc: "the program's file says that a pin is for something that the bench has at another"},
	{Code: "unmodelled", Doc: "the program used something of the chip that is not modelled"},
}

//go:embed support
var support embed.FS

func init() {
	Chip.New = newMachine
	Chip.Toolchain.Support, _ = fs.Sub(support, "support")
	machine.Register(Chip)
	b := &machine.Board{Name: "numbered-29", Title: "pins GP0 to GP28, also 0 to 28, and A0 to A2",
		Chips:   []string{Chip.Name},
		Aliases: map[string]string{}}
	for i := range gpios - 1 {
		b.Aliases[fmt.Sprint(i)] = fmt.Sprintf("GP%d", i)
	}
	for i := range 3 {
		b.Aliases[fmt.Sprintf("A%d", i)] = fmt.Sprintf("GP%d", 26+i)
	}
	machine.RegisterBoard(b)
}

func all() (out []machine.Pin) {
	for i := range gpios {
		out = append(out, machine.Pin(i))
	}
	return out
}

// pins lists GP0 to GP29 with their numbers on the package (1.4.1), and RUN.
func pins() (out []machine.PinInfo) {
	packaged := [gpios]int{2, 3, 4, 5, 6, 7, 8, 9, 11, 12, 13, 14, 15, 16, 17, 18, 27, 28, 29, 30, 31, 32, 34, 35, 36,
		37,
		38, 39, 40, 41}
	for i, n := range packaged {
		info := machine.PinInfo{Name: fmt.Sprintf("GP%d", i), Package: n, Also: []string{fmt.Sprintf("GPIO%d", i)}}
		if i >= 26 {
			info.Also = append(info.Also, fmt.Sprintf("ADC%d", i-26))
		}
		out = append(out, info)
	}
	return append(out, machine.PinInfo{Name: "RUN", Package: 26})
}

// callers finds return addresses among the words of a stack: odd addresses of flash behind a call.
func callers(im *firmware.Image, stack []uint8) (out []uint32) {
	for i := 0; i+4 <= len(stack); i += 4 {
		v := uint32(stack[i]) | uint32(stack[i+1])<<8 | uint32(stack[i+2])<<16 | uint32(stack[i+3])<<24
		if v&1 == 0 || v < flashAt+4 || v >= flashAt+flashSize {
			continue
		}
		switch back := v &^ 1; {
		case im.Word(back-4)>>11 == 0b11110 && im.Word(back-2)&0xd000 == 0xd000: // BL
			out = append(out, back-4)
		case im.Word(back-2)&0xff87 == 0x4780: // BLX
			out = append(out, back-2)
		}
	}
	return out
}

// shape masks the offsets in an instruction: those of branches and calls, and of loads beside the program counter.
func shape(im *firmware.Image, address uint32) (uint32, uint32) {
	w := uint32(im.Word(address))
	switch {
	case w>>11 == 0b11110:
		return w & 0xf800, 4
	case w>>11 == 0b11100, w>>11 == 0b01001:
		return w & 0xf800, 2
	case w>>12 == 0b1101:
		return w & 0xff00, 2
	}
	return w, 2
}
