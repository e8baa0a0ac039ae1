package avr

import (
	"fmt"

	"hemble/core/machine"
)

func init() {
	b := &machine.Board{Name: "numbered-20", Title: "pins D0 to D13 and A0 to A5, which are D14 to D19, too", Chip: "atmega328p", Aliases: map[string]string{}}
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
