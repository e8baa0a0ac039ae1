package rtl

import (
	"fmt"
	"math/bits"
	"slices"
	"sort"

	"hemble/core/netlist"
)

// program is a netlist made ready to be evaluated. Every value is a word in an arena of 64-bit limbs: the output of a
// cell, a register, an input port.
type program struct {
	design    *netlist.Design
	limbs     int
	at        map[netlist.Bit]place
	words     []word
	cells     []cell // that compute, in the order in which they depend on each other
	registers []register
	groups    []group // registers by their clock
	latches   []int32 // registers that are open while a level lasts
	forced    []int32 // registers that a level sets, whatever their clock does
	memories  []*memory
	inputs    map[string]place // of the bits of input ports
	reset     []uint64         // what the arena is configured with
	undriven  int              // bits that something looks at and nothing drives
	wordOf    []int32          // the word of each limb, where it has no more than one; else -1
	driver    []int32          // the cell that computes each word; -1 for registers and inputs
}

// place is where a bit is.
type place struct {
	limb  int32
	shift uint8
	word  int32
}

// word is a value of some bits, and what must be computed anew when it changes.
type word struct {
	limb  int32
	width int
	fan   []int32 // cells
}

// piece is some bits of a limb, put where an operand has them.
type piece struct {
	limb         int32
	shift, width uint8
	to           uint8
}

// operand is a value of up to 64 bits that is gathered from words.
type operand struct {
	pieces []piece
	fixed  uint64
	width  int
}

// wide is a value of any width.
type wide struct {
	limbs []operand
	width int
}

func ones(n int) uint64 {
	if n >= 64 {
		return ^uint64(0)
	}
	return 1<<n - 1
}

// compiler makes a program.
type compiler struct {
	*program
	depends []map[int32]bool // words that each cell reads
	memory  int              // 64-bit words of all memories so far
	later   func()           // adds what stands for three-state drivers
	err     error
}

func (c *compiler) fail(of *netlist.Cell, format string, args ...any) {
	if c.err != nil {
		return
	}
	text := fmt.Sprintf(format, args...)
	if of != nil && of.Line > 0 {
		text = fmt.Sprintf("%s:%d: %s", of.File, of.Line, text)
	}
	c.err = fmt.Errorf("%s", text)
}

// newWord makes room for a value and has bits stand there.
func (c *compiler) newWord(of []netlist.Bit, by *netlist.Cell) int32 {
	w := int32(len(c.words))
	c.words = append(c.words, word{limb: int32(c.limbs), width: len(of)})
	for i, b := range of {
		if b < 0 {
			continue
		}
		if _, twice := c.at[b]; twice {
			c.fail(by, "a wire has two drivers")
			continue
		}
		c.at[b] = place{int32(c.limbs + i/64), uint8(i % 64), w}
	}
	c.limbs += (len(of) + 63) / 64
	return w
}

// operand gathers bits, which are at most 64.
func (c *compiler) operand(of []netlist.Bit, reads map[int32]bool) operand {
	o := operand{width: len(of)}
	for i, b := range of {
		p, ok := c.at[b]
		switch {
		case b == netlist.One:
			o.fixed |= 1 << i
			continue
		case b < 0:
			continue
		case !ok:
			c.undriven++
			continue
		}
		if reads != nil {
			reads[p.word] = true
		}
		if n := len(o.pieces); n > 0 {
			if last := &o.pieces[n-1]; last.limb == p.limb && last.shift+last.width == p.shift &&
				int(last.to+last.width) == i {
				last.width++
				continue
			}
		}
		o.pieces = append(o.pieces, piece{p.limb, p.shift, 1, uint8(i)})
	}
	return o
}

func (c *compiler) wide(of []netlist.Bit, reads map[int32]bool) wide {
	w := wide{width: len(of)}
	for len(of) > 0 {
		n := min(64, len(of))
		w.limbs = append(w.limbs, c.operand(of[:n], reads))
		of = of[n:]
	}
	return w
}

// compile makes a program of a design. Its error tells what is not modelled, or wrong, and where.
func compile(d *netlist.Design) (*program, error) {
	c := &compiler{program: &program{design: d, at: map[netlist.Bit]place{}, inputs: map[string]place{}}}
	for _, p := range d.Ports {
		if p.Input && !p.Output {
			c.newWord(p.Bits, nil)
			for i, b := range p.Bits {
				if at, ok := c.at[b]; ok {
					c.inputs[p.Bit(i)] = at
				}
			}
		}
	}
	c.threeStates()
	var computing []*netlist.Cell
	for i := range d.Cells {
		of := &d.Cells[i]
		switch kind := kinds[of.Type]; {
		case of.Type == "$tribuf", ignored[of.Type]:
		case of.Type == "$mem_v2":
			c.declareMemory(of)
		case clocked[of.Type]:
			c.newWord(of.Ports["Q"], of)
		case kind != opNone:
			c.newWord(of.Ports["Y"], of)
			computing = append(computing, of)
		default:
			c.fail(of, "%s is not modelled", of.Type)
		}
	}
	if c.err != nil {
		return nil, c.err
	}
	for i := range d.Cells {
		of := &d.Cells[i]
		switch {
		case of.Type == "$mem_v2":
			c.addMemory(of, int32(i))
		case clocked[of.Type]:
			c.addRegister(of, int32(i))
		}
	}
	for _, of := range computing {
		c.addCell(of)
	}
	c.later()
	c.order()
	if c.err != nil {
		return nil, c.err
	}
	c.groupRegisters()
	c.limbsToWords()
	c.configure()
	return c.program, nil
}

// index is the place of a cell in the design, which is its program address.
func (c *compiler) index(of *netlist.Cell) int32 {
	i := sort.Search(len(c.design.Cells), func(i int) bool { return c.design.Cells[i].Name >= of.Name })
	return int32(i)
}

// order sorts cells so that each comes behind those that it depends on. A circle without a register in it is no design.
func (c *compiler) order() {
	if c.err != nil {
		return
	}
	driver := make([]int32, len(c.words))
	for i := range driver {
		driver[i] = -1
	}
	for i := range c.cells {
		driver[c.cells[i].y] = int32(i)
	}
	waits := make([]int, len(c.cells))
	users := make([][]int32, len(c.cells))
	for i, reads := range c.depends {
		for w := range reads {
			if d := driver[w]; d >= 0 {
				waits[i]++
				users[d] = append(users[d], int32(i))
			}
		}
	}
	var ready, sorted []int32
	for i, n := range waits {
		if n == 0 {
			ready = append(ready, int32(i))
		}
	}
	for len(ready) > 0 {
		i := ready[0]
		ready = ready[1:]
		sorted = append(sorted, i)
		slices.Sort(users[i])
		for _, u := range users[i] {
			if waits[u]--; waits[u] == 0 {
				ready = append(ready, u)
			}
		}
	}
	if len(sorted) < len(c.cells) {
		for i, n := range waits {
			if n > 0 {
				of := &c.design.Cells[c.cells[i].index]
				c.fail(of, "the logic goes round in a circle: what is computed here depends on itself, with no register in "+
					"between")
				return
			}
		}
	}
	cells := make([]cell, len(sorted))
	for to, from := range sorted {
		cells[to] = c.cells[from]
		for w := range c.depends[from] {
			c.words[w].fan = append(c.words[w].fan, int32(to))
		}
		if m := cells[to].memory; m != nil {
			m.readers = append(m.readers, int32(to))
		}
	}
	for i := range c.words {
		slices.Sort(c.words[i].fan)
	}
	c.cells = cells
	for i := range cells {
		driver[cells[i].y] = int32(i)
	}
	c.driver = driver
}

// limbsToWords finds the words of limbs.
func (c *compiler) limbsToWords() {
	c.wordOf = make([]int32, c.limbs)
	for i, w := range c.words {
		for k := range (w.width + 63) / 64 {
			if c.wordOf[int(w.limb)+k] = -1; w.width <= 64 {
				c.wordOf[w.limb] = int32(i)
			}
		}
	}
}

// configure finds what registers and memories begin with.
func (c *compiler) configure() {
	c.reset = make([]uint64, c.limbs)
	for b, one := range c.design.Init {
		if p, ok := c.at[b]; ok && one {
			c.reset[p.limb] |= 1 << p.shift
		}
	}
}

func bitAt(arena []uint64, p place) bool { return arena[p.limb]>>p.shift&1 == 1 }

// get gathers an operand.
func (o *operand) get(arena []uint64) uint64 {
	v := o.fixed
	for i := range o.pieces {
		p := &o.pieces[i]
		v |= arena[p.limb] >> p.shift & ones(int(p.width)) << p.to
	}
	return v
}

// signed extends a value of some bits.
func signed(v uint64, width int) uint64 {
	if width == 0 || width >= 64 {
		return v
	}
	return uint64(int64(v<<(64-width)) >> (64 - width))
}

func parity(v uint64) uint64 { return uint64(bits.OnesCount64(v) & 1) }
