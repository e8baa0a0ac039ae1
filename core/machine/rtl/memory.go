package rtl

import (
	"math/big"

	"hemble/core/netlist"
)

// memory is an array of words (yosys manual, "Memories").
type memory struct {
	index         int32
	width, size   int
	offset        int
	limbs         int // of a word
	data, initial []uint64
	readers       []int32 // cells
}

// Bounds of all memories of a design together, and of the ports of one.
const (
	maxMemory = 1 << 20 // 64-bit words; a row takes whole ones
	maxPorts  = 64
)

// declareMemory makes room for what reading ports give.
func (c *compiler) declareMemory(of *netlist.Cell) {
	width, ports := of.Number("WIDTH"), of.Number("RD_PORTS")
	bits := of.Ports["RD_DATA"]
	if width <= 0 || ports > maxPorts || len(bits) != width*ports {
		c.fail(of, "a memory of %d bits a word has %d for %d reading ports", width, len(bits), ports)
		return
	}
	for i := range ports {
		c.newWord(bits[i*width:(i+1)*width], of)
	}
}

// digit is one of a parameter that has a digit for each port, the last one for port 0.
func digit(of *netlist.Cell, name string, i int) bool {
	s := of.Parameters[name]
	return len(s)-1-i >= 0 && s[len(s)-1-i] == '1'
}

// addMemory adds a memory with its ports: cells that read at once, registers that read at a clock, and writing ports.
func (c *compiler) addMemory(of *netlist.Cell, index int32) {
	m := &memory{index: index, width: of.Number("WIDTH"), size: of.Number("SIZE"), offset: of.Number("OFFSET")}
	m.limbs = (m.width + 63) / 64
	if c.memory += m.size * m.limbs; m.size <= 0 || m.width <= 0 || m.size > maxMemory || c.memory > maxMemory {
		c.fail(of, "a memory of %d words of %d bits: there is room for %d words of up to 64 bits in all", m.size, m.width,
			maxMemory)
		return
	}
	m.initial = make([]uint64, m.size*m.limbs)
	for i, s := 0, of.Parameters["INIT"]; i < len(s) && i < m.size*m.width; i++ {
		if s[len(s)-1-i] == '1' {
			at := i % m.width
			m.initial[i/m.width*m.limbs+at/64] |= 1 << (at % 64)
		}
	}
	m.data = append([]uint64(nil), m.initial...)
	c.memories = append(c.memories, m)
	bits := of.Number("ABITS")
	readers, writers := of.Number("RD_PORTS"), of.Number("WR_PORTS")
	p := of.Ports
	if bits < 0 || readers > maxPorts || writers > maxPorts || len(p["RD_ADDR"]) != bits*readers ||
		len(p["WR_ADDR"]) != bits*writers || len(p["WR_DATA"]) != m.width*writers ||
		len(p["WR_EN"]) != m.width*writers || len(p["WR_CLK"]) != writers || len(p["RD_CLK"]) != readers ||
		len(p["RD_EN"]) != readers || len(p["RD_SRST"]) != readers || len(p["RD_ARST"]) != readers {
		c.fail(of, "a memory's ports have other widths than it says")
		return
	}
	one := func(port string, i int, polarity bool) line {
		l := line{used: true, high: polarity, at: place{limb: -1}, fixed: p[port][i] == netlist.One}
		if at, ok := c.at[p[port][i]]; ok && p[port][i] >= 0 {
			l.at = at
		}
		return l
	}
	for i := range readers {
		data := p["RD_DATA"][i*m.width : (i+1)*m.width]
		address := p["RD_ADDR"][i*bits : (i+1)*bits]
		if !digit(of, "RD_CLK_ENABLE", i) {
			reads := map[int32]bool{}
			c.cells = append(c.cells, cell{op: opRead, narrow: m.width <= 64 && bits <= 64, index: index,
				y: c.standsIn(data), width: m.width, cost: int64(1 + m.limbs/4), a: c.wide(address, reads), memory: m})
			c.depends = append(c.depends, reads)
			continue
		}
		r := register{index: index, q: c.standsIn(data), width: m.width, memory: m, port: i, address: c.wide(address,
			nil),
			clock: one("RD_CLK", i, digit(of, "RD_CLK_POLARITY", i)), enable: one("RD_EN", i, true)}
		value := func(name string) string {
			s := of.Parameters[name]
			return s[max(0, len(s)-(i+1)*m.width):max(0, len(s)-i*m.width)]
		}
		r.reset, r.resetTo = one("RD_SRST", i, true), []byte(value("RD_SRST_VALUE"))
		r.resetWaits = digit(of, "RD_CE_OVER_SRST", i)
		r.force, r.forceTo = one("RD_ARST", i, true), c.wide(digits(value("RD_ARST_VALUE"), m.width), nil)
		for k, b := range digits(value("RD_INIT_VALUE"), m.width) {
			if data[k] >= 0 && b == netlist.One {
				c.design.Init[data[k]] = true
			}
		}
		for w := range writers {
			r.transparency = append(r.transparency, digit(of, "RD_TRANSPARENCY_MASK", i*writers+w))
		}
		c.registers = append(c.registers, r)
	}
	for i := range writers {
		if !digit(of, "WR_CLK_ENABLE", i) {
			c.fail(of, "a memory that is written without a clock is not modelled")
			return
		}
		c.registers = append(c.registers, register{index: index, q: -1, width: m.width, memory: m, port: i, write: true,
			d: c.wide(p["WR_DATA"][i*m.width:(i+1)*m.width], nil), mask: c.wide(p["WR_EN"][i*m.width:(i+1)*m.width], nil),
			address: c.wide(p["WR_ADDR"][i*bits:(i+1)*bits], nil),
			clock:   one("WR_CLK", i, digit(of, "WR_CLK_POLARITY", i))})
	}
}

// nowhere is an address that no memory has.
const nowhere = ^uint64(0)

// at is a value as an address, gathered limb by limb.
func (w *wide) at(get func(*operand) uint64) (address uint64) {
	for i := range w.limbs {
		switch v := get(&w.limbs[i]); {
		case i == 0:
			address = v
		case v != 0:
			return nowhere
		}
	}
	return address
}

// row is where a word is; ok is false for an address that has none.
func (m *memory) row(address uint64) (at int, ok bool) {
	i := int64(address) - int64(m.offset)
	return int(i) * m.limbs, address < 1<<40 && i >= 0 && i < int64(m.size)
}

// word gives a word of up to 64 bits, 0 where there is none.
func (m *memory) word(address uint64) uint64 {
	if at, ok := m.row(address); ok {
		return m.data[at]
	}
	return 0
}

func (m *memory) big(address int) *big.Int {
	v := new(big.Int)
	if at, ok := m.row(uint64(address)); ok {
		for i := m.limbs - 1; i >= 0; i-- {
			v.Lsh(v, 64)
			v.Or(v, new(big.Int).SetUint64(m.data[at+i]))
		}
	}
	return v
}
