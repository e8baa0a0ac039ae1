package similarity

import (
	"cmp"
	"fmt"
	"hash/fnv"
	"slices"
	"strings"

	"hemble/core/firmware"
	"hemble/core/netlist"
)

// cells gives the cells of a design in the order of its source. What is equal of two of them does not depend on names
// or numbers: the kind, the widths, and what kinds of cells its inputs come from.
func cells(im *firmware.Image) (out []instruction) {
	d := im.Design
	from := map[netlist.Bit]string{} // kinds of cells by what they drive
	for _, p := range d.Ports {
		for _, b := range p.Bits {
			from[b] = "port"
		}
	}
	for i := range d.Cells {
		for _, name := range []string{"Y", "Q", "RD_DATA"} {
			for _, b := range d.Cells[i].Ports[name] {
				from[b] = d.Cells[i].Type
			}
		}
	}
	order := make([]int, len(d.Cells))
	shapes := make([]uint32, len(d.Cells))
	for i := range order {
		order[i], shapes[i] = i, shape(&d.Cells[i], from)
	}
	slices.SortStableFunc(order, func(a, b int) int {
		x, y := &d.Cells[a], &d.Cells[b]
		return cmp.Or(strings.Compare(x.File, y.File), cmp.Compare(x.Line, y.Line), cmp.Compare(shapes[a], shapes[b]))
	})
	for _, i := range order {
		line, ok := im.Line(uint32(i) + 1)
		out = append(out, instruction{uint32(i) + 1, shapes[i], ok && line.System})
	}
	return out
}

func shape(c *netlist.Cell, from map[netlist.Bit]string) uint32 {
	h := fnv.New32a()
	fmt.Fprint(h, c.Type)
	names := []string{}
	for name := range c.Ports {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		fmt.Fprint(h, name, len(c.Ports[name]))
		last := ""
		for _, b := range c.Ports[name] {
			if kind := from[b]; kind != last {
				fmt.Fprint(h, kind)
				last = kind
			}
		}
	}
	return h.Sum32()
}
