package exercise

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/spec"
)

var (
	placeholder = regexp.MustCompile(`<(\w+)>`)
	rate        = regexp.MustCompile(`baud: \d+`)
)

// Example is how a kind of part stands under bench:, wired to pins of a chip: <TXD> and the like are the chip's pins
// for that task, <1>, <2> … any others.
func Example(k *part.Kind, chip *machine.Chip) string {
	var plain, tasked []string // the pins without a task that an example may ask for, and those with one
	task := map[string]string{}
	for i, p := range chip.Pins {
		if p.Name == "" || machine.Pin(i) == chip.Reset || slices.Contains(chip.Crystal[:], p.Name) {
			continue
		}
		for _, also := range p.Also {
			task[also] = p.Name
		}
		port := slices.ContainsFunc(chip.Serial, func(s machine.SerialPort) bool {
			return s.Receive == machine.Pin(i) ||
				s.Transmit == machine.Pin(i)
		})
		if port || slices.Contains(p.Also, "SDA") || slices.Contains(p.Also, "SCL") {
			tasked = append(tasked, p.Name)
		} else {
			plain = append(plain, p.Name)
		}
	}
	example := k.Example
	// a console, whose rate is its own, is for people; modules are at a port that a program sets
	if i := slices.IndexFunc(chip.Serial, func(s machine.SerialPort) bool {
		return s.Baud == 0 || slices.Contains(k.Cues, part.Type)
	}); i >= 0 {
		s := chip.Serial[i]
		task["RXD"], task["TXD"] = chip.Pins[s.Receive].Name, chip.Pins[s.Transmit].Name
		if s.Baud > 0 {
			example = rate.ReplaceAllString(example, fmt.Sprintf("baud: %d", s.Baud))
		}
	}
	free := append(plain, tasked...)
	return placeholder.ReplaceAllStringFunc(example, func(word string) string {
		word = strings.Trim(word, "<>")
		if n, err := strconv.Atoi(word); err == nil && n <= len(free) {
			return free[n-1]
		}
		if pin := task[word]; pin != "" {
			return pin
		}
		return free[0]
	})
}

// Examples builds the displays that the kinds of parts give as their own example, in the order of their
// kinds; each is called by its kind.
func Examples() (displays []*part.Instance, err error) {
	chip := machine.Usual()
	for _, k := range part.Kinds() {
		if k.Geometry == nil {
			continue
		}
		text := "hemble: 1\nname: x\ntitle: x\nchip: {is: " + chip.Name + "}\nbench:\n  " +
			strings.ReplaceAll(Example(k, chip), "\n", "\n  ") +
			"\ntrials: [{name: x, length: 1s, expect: []}]\n"
		ps := &spec.Problems{File: k.Name}
		x := read([]byte(text), nil, true, 0, &included{},
			ps) // there are no expectations, and that is the only problem
		if x == nil || len(x.Parts) == 0 {
			return nil, fmt.Errorf("the example of %s: %v", k.Name, ps.List)
		}
		for _, p := range x.Parts {
			if p.Kind == k {
				p.Name = k.Name
				displays = append(displays, p)
			}
		}
	}
	return displays, nil
}
