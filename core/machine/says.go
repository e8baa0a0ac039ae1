package machine

import (
	"fmt"
	"strings"

	"hemble/core/firmware"
)

// Says is what a firmware's file says of itself, where a chip's programs usually do.
type Says struct {
	Name, Version string
	Pins          []PinSays
}

// PinSays is what a pin is for, in a word.
type PinSays struct {
	Pin  Pin
	Word string
}

// Tell has it in words, for a person; "" where there is nothing.
func (s Says) Tell(c *Chip) string {
	var out []string
	if s.Name != "" {
		out = append(out, "“"+s.Name+"”")
	}
	if s.Version != "" {
		out = append(out, "version "+s.Version)
	}
	for _, p := range s.Pins {
		out = append(out, fmt.Sprintf("%s is %s", c.Pins[p.Pin].Name, p.Word))
	}
	return strings.Join(out, ", ")
}

// SaysOf is what a firmware for a chip says of itself.
func (c *Chip) SaysOf(im *firmware.Image) Says {
	if c.Says == nil {
		return Says{}
	}
	return c.Says(im)
}
