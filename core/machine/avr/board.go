package avr

import (
	"fmt"
	"strings"

	"hemble/core/machine"
)

func init() {
	b := &machine.Board{Name: "numbered-20", Title: "pins D0 to D13 and A0 to A5, which are D14 to D19, too",
		Chips: []string{"atmega328p", "atmega168", "atmega8"}, Aliases: map[string]string{}}
	for i := range 20 {
		pin := fmt.Sprintf("PD%d", i)
		switch {
		case i >= 14:
			pin = fmt.Sprintf("PC%d", i-14)
			b.Aliases[fmt.Sprintf("A%d", i-14)] = pin
		case i >= 8:
			pin = fmt.Sprintf("PB%d", i-8)
		}
		b.Aliases[fmt.Sprintf("D%d", i)] = pin
	}
	machine.RegisterBoard(b)
}

// board2560 numbers the pins of an ATmega2560 as boards with seventy of them do.
func board2560() *machine.Board {
	pins := strings.Fields(`PE0 PE1 PE4 PE5 PG5 PE3 PH3 PH4 PH5 PH6 PB4 PB5 PB6 PB7 PJ1 PJ0 PH1 PH0 PD3 PD2 PD1 PD0
		PA0 PA1 PA2 PA3 PA4 PA5 PA6 PA7 PC7 PC6 PC5 PC4 PC3 PC2 PC1 PC0 PD7 PG2 PG1 PG0 PL7 PL6 PL5 PL4 PL3 PL2 PL1 PL0 PB3 PB2 PB1 PB0
		PF0 PF1 PF2 PF3 PF4 PF5 PF6 PF7 PK0 PK1 PK2 PK3 PK4 PK5 PK6 PK7`)
	const analog = 54 // the first of the pins that are called A0 and so on, too
	b := &machine.Board{Name: "numbered-70", Title: "pins D0 to D53 and A0 to A15, which are D54 to D69, too",
		Chips: []string{"atmega2560"}, Aliases: map[string]string{}}
	for i, pin := range pins {
		b.Aliases[fmt.Sprintf("D%d", i)] = pin
		if i >= analog {
			b.Aliases[fmt.Sprintf("A%d", i-analog)] = pin
		}
	}
	return b
}

// board32U4 numbers the pins of an ATmega32U4 as boards with a USB socket do.
func board32U4() *machine.Board {
	b := &machine.Board{Name: "numbered-26", Title: "pins D0 to D13, and A0 to A11, some of which are the same",
		Chips: []string{"atmega32u4"}, Aliases: map[string]string{}}
	for i, pin := range strings.Fields("PD2 PD3 PD1 PD0 PD4 PC6 PD7 PE6 PB4 PB5 PB6 PB7 PD6 PC7") {
		b.Aliases[fmt.Sprintf("D%d", i)] = pin
	}
	for i, pin := range strings.Fields("PF7 PF6 PF5 PF4 PF1 PF0 PD4 PD7 PB4 PB5 PB6 PD6") {
		b.Aliases[fmt.Sprintf("A%d", i)] = pin
	}
	return b
}
