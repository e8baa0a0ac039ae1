package rtl

import (
	"crypto/sha256"
	"fmt"
	"maps"
	"math/bits"
	"path"
	"slices"
	"strconv"

	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/netlist"
)

// alterations lists how single operations and numbers of a design may have been meant.
func alterations(im *firmware.Image, hints machine.Hints) []machine.Alteration {
	if im.Design == nil {
		return nil
	}
	l := &lister{design: im.Design, hints: hints, stands: map[int64][]site{}}
	l.cell = -1
	l.beginnings()
	for i := range im.Design.Cells {
		l.cell = i
		l.operation()
		l.operands()
		l.choice()
		l.reset()
	}
	l.cell = -1
	l.everywhere()
	return l.out
}

// lister lists the alterations of a design.
type lister struct {
	design *netlist.Design
	cell   int // that is looked at; -1 for what is none
	hints  machine.Hints
	out    []machine.Alteration
	stands map[int64][]site // the numbers of the source
}

// site is where a number stands: what puts another one there, that has at most so many bits (0: any).
type site struct {
	at    netlist.Place
	width int
	put   func(d *netlist.Design, n int64)
}

// full reports whether no more are listed.
func (l *lister) full() bool { return len(l.out) == machine.MostAltered }

// put adds an alteration of a place in the source. Where the place is known by what surrounds it alone, it says so.
func (l *lister) put(at netlist.Place, a machine.Alteration, change func(*netlist.Design)) {
	if at.Line == 0 || l.full() {
		return
	}
	if a.Address == 0 {
		a.Address = uint32(l.cell) + 1
	}
	a.Line = firmware.Line{File: path.Base(at.File), Line: at.Line, Column: at.Column}
	before, number := l.design, len(l.out)
	a.Change = func(im *firmware.Image) *firmware.Image {
		if im.Design != before { // another change came first
			return im
		}
		d := *before
		d.Cells, d.Init = slices.Clone(d.Cells), maps.Clone(d.Init)
		change(&d)
		d.Hash = sha256.Sum256(fmt.Appendf(before.Hash[:], "%d", number))
		return &firmware.Image{Format: im.Format, Design: &d}
	}
	l.out = append(l.out, a)
}

// replace puts another cell in the place of this one.
func (l *lister) replace(a machine.Alteration, change func(*netlist.Cell)) {
	i := l.cell
	l.put(l.design.Cells[i].Place, a, func(d *netlist.Design) { replaced(d, i, change) })
}

func replaced(d *netlist.Design, i int, change func(*netlist.Cell)) {
	c := &d.Cells[i]
	c.Ports, c.Parameters = maps.Clone(c.Ports), maps.Clone(c.Parameters)
	change(c)
}

// number looks at a number in this cell that has at most so many bits (0: any).
func (l *lister) number(is int64, width int, around bool, put func(c *netlist.Cell, n int64)) {
	if l.full() {
		return
	}
	i := l.cell
	l.stands[is] = append(l.stands[is], site{l.design.Cells[i].Place, width, func(d *netlist.Design, n int64) {
		replaced(d, i, func(c *netlist.Cell) { put(c, n) })
	}})
	l.each(is, width, func(a machine.Alteration, n int64) {
		a.Around = around
		l.replace(a, func(c *netlist.Cell) { put(c, n) })
	})
}

// turned are the operations that are taken for each other.
var turned = map[string][]struct {
	to   string
	slip machine.Slip
	rare int
}{
	"$lt": {{"$le", machine.Inclusive, 0},
		{"$gt", machine.Reversed, machine.Seldom}, {"$ge", machine.Reversed, machine.Seldom}},
	"$le": {{"$lt", machine.Inclusive, 0},
		{"$ge", machine.Reversed, machine.Seldom}, {"$gt", machine.Reversed, machine.Seldom}},
	"$gt": {{"$ge", machine.Inclusive, 0},
		{"$lt", machine.Reversed, machine.Seldom}, {"$le", machine.Reversed, machine.Seldom}},
	"$ge": {{"$gt", machine.Inclusive, 0},
		{"$le", machine.Reversed, machine.Seldom}, {"$lt", machine.Reversed, machine.Seldom}},
	"$eq":          {{"$ne", machine.Reversed, 0}},
	"$ne":          {{"$eq", machine.Reversed, 0}},
	"$logic_not":   {{"$reduce_bool", machine.Reversed, 0}},
	"$reduce_bool": {{"$logic_not", machine.Reversed, 0}},
	"$add":         {{"$sub", machine.Sign, 0}},
	"$sub":         {{"$add", machine.Sign, 0}},
	"$logic_and":   {{"$logic_or", machine.Mask, 0}},
	"$logic_or":    {{"$logic_and", machine.Mask, 0}},
	"$and":         {{"$or", machine.Mask, machine.Seldom}},
	"$or":          {{"$and", machine.Mask, machine.Seldom}},
	"$xor":         {{"$xnor", machine.Inverted, machine.Seldom}},
	"$xnor":        {{"$xor", machine.Inverted, machine.Seldom}},
	"$not":         {{"$pos", machine.Inverted, 0}},
	"$shl":         {{"$shr", machine.Shift, machine.Seldom}},
	"$shr":         {{"$shl", machine.Shift, machine.Seldom}},
	"$div":         {{"$mod", machine.Mask, machine.Unlikely}},
	"$mod":         {{"$div", machine.Mask, machine.Unlikely}},
}

// operation looks at what a cell does.
func (l *lister) operation() {
	for _, t := range turned[l.design.Cells[l.cell].Type] {
		l.replace(machine.Alteration{Slip: t.slip, Rare: t.rare}, func(c *netlist.Cell) { c.Type = t.to })
	}
}

// value is what bits are that are all constant.
func value(of []netlist.Bit) (n int64, ok bool) {
	if len(of) == 0 {
		return 0, false
	}
	for i, b := range of {
		switch {
		case b != netlist.Zero && b != netlist.One, b == netlist.One && i > 40:
			return 0, false
		case b == netlist.One:
			n |= 1 << i
		}
	}
	return n, true
}

// constant writes a number with some bits, or with as many as it needs.
func constant(n int64, width int) []netlist.Bit {
	out := make([]netlist.Bit, max(width, bits.Len64(uint64(n))))
	for i := range out {
		if out[i] = netlist.Zero; i < 63 && n>>i&1 == 1 {
			out[i] = netlist.One
		}
	}
	return out
}

// large is from where on a number is a time rather than a count.
const large = 1000

// each gives the numbers that one may have been meant to be, of those that are not negative and fit.
func (l *lister) each(is int64, width int, put func(a machine.Alteration, to int64)) {
	tried := map[int64]bool{is: true}
	l.hints.Each(is, false, func(rare int, to int64) {
		if to < 0 || tried[to] || width > 0 && bits.Len64(uint64(to)) > width {
			return
		}
		tried[to] = true
		if off := to - is; is > large && -is/large < off && off < is/large { // nobody would see it
			rare = machine.Unlikely
		}
		put(machine.Alteration{Slip: machine.Number, Rare: rare, From: is, To: to}, to)
	})
}

// counted are the operations of which one operand may be a number of the source.
var counted = map[string]bool{"$lt": true, "$le": true, "$gt": true, "$ge": true, "$eq": true, "$ne": true, "$add": true,
	"$sub": true, "$mul": true, "$div": true, "$mod": true, "$shl": true, "$shr": true}

// operands looks at numbers that something is compared with, or counted by.
func (l *lister) operands() {
	c := &l.design.Cells[l.cell]
	if c.Type == "$logic_not" || c.Type == "$reduce_bool" { // a comparison with 0
		if width := len(c.Ports["A"]); width > 1 {
			to := map[string]string{"$logic_not": "$eq", "$reduce_bool": "$ne"}[c.Type]
			l.each(0, width, func(a machine.Alteration, n int64) {
				l.replace(a, func(c *netlist.Cell) { c.Type, c.Ports["B"] = to, constant(n, 0) })
			})
		}
		return
	}
	if !counted[c.Type] {
		return
	}
	for _, port := range []string{"B", "A"} {
		is, ok := value(c.Ports[port])
		if !ok {
			continue
		}
		width := 0 // a divider is never 0, and everything else may be as wide as it needs to be
		if c.Type == "$shl" || c.Type == "$shr" {
			width = 6
		}
		l.number(is, width, false, func(c *netlist.Cell, n int64) {
			if n == 0 && (c.Type == "$div" || c.Type == "$mod") { // nobody divides by that
				n = 1
			}
			c.Ports[port] = constant(n, len(c.Ports[port]))
		})
	}
}

// choice looks at a condition and at the numbers that it chooses from.
func (l *lister) choice() {
	c := &l.design.Cells[l.cell]
	a, b, s := c.Ports["A"], c.Ports["B"], c.Ports["S"]
	switch {
	case c.Type == "$mux" && len(a) == len(b) && len(s) == 1:
		l.replace(machine.Alteration{Slip: machine.Reversed}, func(c *netlist.Cell) { c.Ports["A"], c.Ports["B"] = b, a })
		for _, always := range []netlist.Bit{netlist.One, netlist.Zero} {
			l.replace(machine.Alteration{Slip: machine.Regardless, Rare: machine.Seldom},
				func(c *netlist.Cell) { c.Ports["S"] = []netlist.Bit{always} })
		}
	case c.Type == "$pmux" && len(a) > 0 && len(b) == len(a)*len(s):
		for i := 1; i < len(s); i++ {
			one, other := b[(i-1)*len(a):i*len(a)], b[i*len(a):(i+1)*len(a)]
			if !slices.Equal(one, other) {
				change := machine.Alteration{Slip: machine.Neighbours, Rare: machine.Seldom, Around: true}
				l.replace(change, func(c *netlist.Cell) {
					c.Ports["B"] = slices.Concat(b[:(i-1)*len(a)], other, one, b[(i+1)*len(a):])
				})
			}
		}
	default:
		return
	}
	for _, port := range []string{"A", "B"} {
		of := c.Ports[port]
		for from := 0; from < len(of); from += len(a) {
			is, ok := value(of[from : from+len(a)])
			if !ok || len(a) == 1 {
				continue
			}
			l.number(is, len(a), true, func(c *netlist.Cell, n int64) {
				c.Ports[port] = slices.Concat(c.Ports[port][:from], constant(n, len(a)), c.Ports[port][from+len(a):])
			})
		}
	}
}

// reset looks at what a register is reset to.
func (l *lister) reset() {
	for _, name := range []string{"SRST_VALUE", "ARST_VALUE"} {
		digits := l.design.Cells[l.cell].Parameters[name]
		is, err := strconv.ParseInt(digits, 2, 40)
		if err != nil {
			continue
		}
		l.number(is, len(digits), true, func(c *netlist.Cell, n int64) {
			c.Parameters[name] = fmt.Sprintf("%0*b", len(digits), n)
		})
	}
}

// beginnings looks at what registers are configured with.
func (l *lister) beginnings() {
	for k, r := range l.design.Begin {
		is := int64(0)
		for i, b := range r.Bits[:min(len(r.Bits), 40)] {
			if l.design.Init[b] {
				is |= 1 << i
			}
		}
		if len(r.Bits) < 2 {
			continue
		}
		put := func(d *netlist.Design, n int64) {
			for i, b := range constant(n, len(r.Bits)) {
				d.Init[r.Bits[i]] = b == netlist.One
			}
		}
		l.stands[is] = append(l.stands[is], site{r.Place, len(r.Bits), put})
		l.each(is, len(r.Bits), func(a machine.Alteration, n int64) {
			// by its name: it may be set on another line than it is declared on
			a.Address, a.Table, a.Bytes = uint32(len(l.design.Cells)+k)+1, r.Name, 1
			l.put(r.Place, a, func(d *netlist.Design) { put(d, n) })
		})
	}
}

// everywhere looks at numbers that stand in several places: the source may have them from one.
func (l *lister) everywhere() {
	for _, is := range slices.Sorted(maps.Keys(l.stands)) {
		sites := l.stands[is]
		if is < 2 || len(sites) < 2 {
			continue
		}
		width := 0
		for _, s := range sites {
			if s.width > 0 && (width == 0 || s.width < width) {
				width = s.width
			}
		}
		l.each(is, width, func(a machine.Alteration, n int64) {
			a.Rare = max(a.Rare, machine.Seldom)
			l.put(sites[0].at, a, func(d *netlist.Design) {
				for _, s := range sites {
					s.put(d, n)
				}
			})
		})
	}
}
