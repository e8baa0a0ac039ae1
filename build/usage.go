package build

import (
	"bytes"
	"debug/elf"
	"sort"

	"github.com/ianlancetaylor/demangle"

	"hemble/core/firmware"
)

// Usage is how much of the chip a program takes, and what for.
type Usage struct {
	Flash   int    `json:"flash"` // bytes
	RAM     int    `json:"ram"`   // bytes of variables; the stack comes on top; -1 where the file does not tell
	Largest []Item `json:"largest"`
}

// Item is a function or a variable.
type Item struct {
	Name  string `json:"name"`
	Bytes int    `json:"bytes"`
	RAM   bool   `json:"ram"` // a variable in RAM; else in flash
}

// mostItems is how many of the largest are told.
const mostItems = 12

func usage(file []byte, layout firmware.Layout) *Usage {
	im, err := firmware.Read(file, layout)
	if err != nil {
		return nil
	}
	u := &Usage{Flash: im.Size(), RAM: -1}
	if f, err := elf.NewFile(bytes.NewReader(file)); err == nil {
		u.RAM = 0
		for _, s := range f.Sections {
			switch s.Name {
			case ".data", ".bss", ".noinit":
				u.RAM += int(s.Size)
			}
		}
	}
	for _, s := range im.Symbols {
		if s.Size > 0 {
			u.Largest = append(u.Largest, Item{demangle.Filter(s.Name), int(s.Size), s.Space == firmware.Data})
		}
	}
	sort.SliceStable(u.Largest, func(i, j int) bool { return u.Largest[i].Bytes > u.Largest[j].Bytes })
	u.Largest = u.Largest[:min(len(u.Largest), mostItems)]
	return u
}
