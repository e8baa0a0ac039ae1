package firmware

import (
	"fmt"
	"path"

	"hemble/core/netlist"
)

// readDesign reads a design of programmable logic. Its cells are its program: the address of one is its number, from 1.
func readDesign(file []byte) (*Image, error) {
	if !netlist.Is(file) {
		return nil, fmt.Errorf("this is no design of programmable logic as hemble builds it: submit its source (.v, .sv, "+
			".vhd) with its constraints; the file starts with %q", file[:min(len(file), 8)])
	}
	d, err := netlist.Read(file)
	if err != nil {
		return nil, err
	}
	im := &Image{Format: "design", Design: d}
	for i, c := range d.Cells {
		if c.Line > 0 {
			im.lines.entries = append(im.lines.entries, lineEntry{address: uint32(i) + 1,
				line: Line{File: path.Base(c.File), System: isSystem(c.File), Line: c.Line, Column: c.Column}},
				lineEntry{address: uint32(i) + 2, end: true})
		}
	}
	im.lines.once.Do(im.lines.sort)
	return im, nil
}
