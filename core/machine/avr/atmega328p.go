package avr

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
)

func init() {
	machine.Register(&machine.Chip{
		Name:    "atmega328p",
		Title:   "ATmega328P",
		Source:  "Microchip DS40002061B (ATmega48A/PA/88A/PA/168A/PA/328/P), DS40002198A (AVR Instruction Set Manual)",
		Clock:   16_000_000,
		Pins:    pins(),
		Supply:  []machine.Rail{{Name: "VCC", Package: 7, Net: "VCC"}, {Name: "GND", Package: 8, Net: "GND"}, {Name: "AVCC", Package: 20, Net: "VCC"}, {Name: "AREF", Package: 21}, {Name: "GND", Package: 22, Net: "GND"}},
		Crystal: [2]string{"PB6", "PB7"},
		Inside:  []clock.Rate{8_000_000, 1_000_000},
		Flash:   2 * flashWords,
		SRAM:    ramEnd - sramStart + 1,
		Data:    sramStart,
		EEPROM:  1024, Reference: 1_100_000,
		Models:  []string{"core", "ports B, C, D", "timers 0, 1, 2", "USART0", "INT0, INT1", "pin-change interrupts", "sleep", "watchdog", "clock prescaler", "EEPROM", "SPI", "two-wire interface", "ADC", "analog comparator"},
		Leaves:  leaves(),
		Notes:   notes,
		New:     New,
		Machine: firmware.MachineAVR,
		Limits:  limits,
		Callers: callers,
		Shape:   instructionShape,
	})
}

// limits are the absolute maximum ratings (datasheet 29.1) and the sums of notes 3 and 4 to the DC
// characteristics (table 29-1), in nA.
var limits = machine.Limits{
	Pin: 40_000_000, Chip: 200_000_000,
	Take: []machine.Group{
		{Name: "PC0 to PC5", Pins: []machine.Pin{8, 9, 10, 11, 12, 13}, Most: 100_000_000},
		{Name: "PB0 to PB5 and PD5 to PD7", Pins: []machine.Pin{0, 1, 2, 3, 4, 5, 6, 7, 21, 22, 23}, Most: 100_000_000},
		{Name: "PD0 to PD4", Pins: []machine.Pin{16, 17, 18, 19, 20}, Most: 100_000_000},
	},
	Give: []machine.Group{
		{Name: "PC0 to PC5 and PD0 to PD4", Pins: []machine.Pin{8, 9, 10, 11, 12, 13, 16, 17, 18, 19, 20}, Most: 150_000_000},
		{Name: "PB0 to PB5 and PD5 to PD7", Pins: []machine.Pin{0, 1, 2, 3, 4, 5, 6, 7, 21, 22, 23}, Most: 150_000_000},
	},
}

func leaves() (out []string) {
	for _, r := range inert {
		if r.acts != 0 {
			out = append(out, fmt.Sprintf("%s (%s)", r.name, r.why))
		}
	}
	return append(out, "USART in synchronous and SPI modes", "timer 2 on a watch crystal", "moved interrupt vectors", "stopping single clocks (PRR: told by name)")
}

// pins lists PB0 to PD7 with their numbers on the 28-pin DIP (datasheet figure 1-1). A pin without a
// name does not exist.
func pins() []machine.PinInfo {
	packaged := [24]int{14, 15, 16, 17, 18, 19, 9, 10, 23, 24, 25, 26, 27, 28, 1, 0, 2, 3, 4, 5, 6, 11, 12, 13}
	second := map[int][]string{0: {"ICP1"}, 1: {"OC1A"}, 2: {"OC1B", "SS"}, 3: {"OC2A", "MOSI"}, 4: {"MISO"}, 5: {"SCK"}, 14: {"RESET"},
		12: {"SDA"}, 13: {"SCL"}, 16: {"RXD"}, 17: {"TXD"}, 18: {"INT0"}, 19: {"INT1", "OC2B"}, 20: {"T0"}, 21: {"T1", "OC0B"}, 22: {"OC0A"}}
	list := make([]machine.PinInfo, 24)
	for i := range list {
		if packaged[i] != 0 {
			list[i] = machine.PinInfo{Name: fmt.Sprintf("P%c%d", 'B'+i/8, i%8), Package: packaged[i], Also: second[i]}
		}
	}
	return list
}
