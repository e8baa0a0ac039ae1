package scripted

import (
	"embed"
	"fmt"
	"io/fs"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// Python is the interpreter of scripts: the system's own, whatever PATH has.
const Python = "/usr/bin/python3"

//go:embed support
var support embed.FS

// header is where a GPIO of the Linux board is on its header of 40 pins.
var header = [28]int{27, 28, 3, 5, 7, 29, 31, 26, 24, 21, 19, 23, 32, 33, 8, 10, 36, 11, 12, 35, 38, 40, 15, 16, 18,
	22, 37, 13}

// Linux is a single-board computer with a header of 40 pins, on which Python runs.
var Linux = &machine.Chip{
	Name: "linux-board", Title: "Linux board with a header of 40 pins",
	Source: "BCM2835 ARM Peripherals, 6.1 (functions of its pins); the Python 3.11 documentation",
	Clock:  1_000_000_000, Clocks: [2]clock.Rate{1_000_000_000, 1_000_000_000},
	Pins: headerPins(),
	Supplies: []machine.Rail{{Name: "3V3", Package: 1, Net: "VCC"}, {Name: "3V3", Package: 17, Net: "VCC"},
		{Name: "5V", Package: 2}, {Name: "5V", Package: 4}, {Name: "GND", Package: 6, Net: "GND"},
		{Name: "GND", Package: 9, Net: "GND"}, {Name: "GND", Package: 14, Net: "GND"}, {Name: "GND", Package: 20, Net: "GND"},
		{Name: "GND", Package: 25, Net: "GND"}, {Name: "GND", Package: 30, Net: "GND"}, {Name: "GND", Package: 34, Net: "GND"},
		{Name: "GND", Package: 39, Net: "GND"}},
	Serial: []machine.SerialPort{{Name: "console", Receive: 29, Transmit: 28, Baud: consoleBaud}},
	Electric: machine.Electric{Supply: 3_300_000, Supplies: [2]int64{3_135_000, 3_465_000}, Drive: 50, Pull: 50_000,
		Over: 300_000},
	Limits:    machine.Limits{Pin: 16_000_000, Chip: 50_000_000},
	Firmware:  firmware.Layout{Script: true, Regions: []firmware.Region{{Kind: firmware.Ignored}}},
	Toolchain: machine.Toolchain{Compiler: Python},
	Models: []string{"RPi.GPIO: pins in either numbering, pulls, PWM, edges and their callbacks", "gpiozero",
		"smbus, smbus2, spidev", "for C: wiringPi.h and its headers for buses, displays and threads, pthread.h",
		"time, threads, timers, queues", "the console, at CONSOLE_OUT and CONSOLE_IN, 115,200 Bd"},
	Unmodelled: []string{"a serial port at the header", "the pins' other functions"},
	Notes: []finding.Entry{{Code: "floating", Doc: "a pin was read while nothing drove it"},
		{Code: "numbered", Doc: "pins of a program are wired to nothing, and those of the same numbers in another numbering are"},
		{Code: machine.ThreadException, Doc: "a thread of a script ended by an exception"}},
	ReturnAddresses: func(*firmware.Image, []uint8) []uint32 { return nil }, Alterations: alterations,
}

// Micro is a board with an RP2040 on which Python runs.
var Micro = &machine.Chip{
	Name: "rp2040-python", Title: "RP2040 with Python",
	Source: "RP2040 Datasheet, 1.4.1 (pins) and 5.5.3 (electrical); the MicroPython 1.22 documentation of machine and time",
	Clock:  125_000_000, Clocks: [2]clock.Rate{125_000_000, 125_000_000},
	Pins:     microPins(),
	Supplies: []machine.Rail{{Name: "IOVDD", Package: 1, Net: "VCC"}, {Name: "GND", Package: 57, Net: "GND"}},
	Vectors:  map[string][]machine.Pin{},
	Serial: []machine.SerialPort{{Name: "console", Receive: 31, Transmit: 30, Baud: consoleBaud},
		{Name: "UART0", Receive: 1, Transmit: 0}, {Name: "UART1", Receive: 5, Transmit: 4}},
	Electric: machine.Electric{Supply: 3_300_000, Supplies: [2]int64{1_800_000, 3_630_000}, Drive: 60, Pull: 65_000,
		Over: 500_000},
	Limits:    machine.Limits{Pin: 12_000_000, Chip: 50_000_000},
	Firmware:  firmware.Layout{Script: true, Regions: []firmware.Region{{Kind: firmware.Ignored}}},
	Toolchain: machine.Toolchain{Compiler: Python},
	Models: []string{"machine: Pin, Signal, PWM, ADC, Timer, I2C, SPI, UART, time_pulse_us", "time and utime", "dht",
		"asyncio, select, _thread", "the console, at CONSOLE_OUT and CONSOLE_IN, 115,200 Bd"},
	Unmodelled: []string{"PIO (rp2)", "neopixel, onewire", "USB", "files that stay"},
	Notes: []finding.Entry{{Code: "floating", Doc: "a pin was read while nothing drove it"},
		{Code: machine.ThreadException, Doc: "a thread of a script ended by an exception"}},
	ReturnAddresses: func(*firmware.Image, []uint8) []uint32 { return nil }, Alterations: alterations,
}

// microPins are GP0 to GP29, as on the RP2040 with firmware, and RUN.
func microPins() (out []machine.PinInfo) {
	for i := range 30 {
		out = append(out, machine.PinInfo{Name: fmt.Sprintf("GP%d", i), Also: []string{fmt.Sprintf("GPIO%d", i)}})
	}
	out[8].Also, out[9].Also = append(out[8].Also, "SDA"), append(out[9].Also, "SCL") // of the bus 0
	return append(out, others...)
}

// others are what boards have besides their GPIOs: the line of the console, at 115,200 Bd, and RUN: pulled low, the
// board starts anew.
var others = []machine.PinInfo{{Name: "CONSOLE_OUT"}, {Name: "CONSOLE_IN"}, {Name: "RUN"}}

func init() {
	Linux.Toolchain.Support, _ = fs.Sub(support, "support")
	Linux.Settings = numberSettings()
	Micro.New = func(c machine.Config) machine.Machine { return newMachine(Micro, c) }
	Micro.Reset = machine.Pin(len(Micro.Pins) - 1)
	machine.Register(Micro)
	Linux.New = func(c machine.Config) machine.Machine { return newMachine(Linux, c) }
	Linux.Reset = machine.Pin(len(Linux.Pins) - 1)
	machine.Register(Linux)
	aliases := map[string]string{}
	for gpio, position := range header {
		aliases[fmt.Sprintf("pin%d", position)] = fmt.Sprintf("GPIO%d", gpio)
	}
	machine.RegisterBoard(&machine.Board{Name: "header-40", Title: "pin1 to pin40, as they stand on the header",
		Chips: []string{Linux.Name}, Aliases: aliases})
}

func headerPins() (out []machine.PinInfo) {
	for gpio, position := range header {
		out = append(out, machine.PinInfo{Name: fmt.Sprintf("GPIO%d", gpio), Package: position})
	}
	out[2].Also, out[3].Also = []string{"SDA"}, []string{"SCL"}
	return append(out, others...)
}
