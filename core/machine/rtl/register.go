package rtl

import (
	"strings"

	"hemble/core/netlist"
)

// clocked are the cells that keep something (yosys manual, "Registers"): flip-flops, with enables and resets of both
// kinds, and latches.
var clocked = map[string]bool{"$dff": true, "$dffe": true, "$adff": true, "$adffe": true, "$sdff": true,
	"$sdffe": true, "$sdffce": true, "$aldff": true, "$aldffe": true, "$dffsr": true, "$dffsre": true, "$sr": true,
	"$dlatch": true, "$adlatch": true, "$dlatchsr": true}

// line is one bit that controls a register, and the level at which it does.
type line struct {
	used  bool
	fixed bool // the level of a constant
	at    place
	high  bool
}

func (l line) active(arena []uint64) bool {
	if !l.used {
		return false
	}
	if l.at.limb < 0 {
		return l.fixed == l.high
	}
	return bitAt(arena, l.at) == l.high
}

// register is a word that keeps its value.
type register struct {
	index        int32
	q            int32 // word
	width        int
	d            wide
	clock        line // high for rising edges
	enable       line
	reset        line   // at the clock
	resetTo      []byte // digits of the value, the highest first
	resetWaits   bool   // for the enable
	force        line   // whatever the clock does
	forceTo      wide
	set, clear   wide // bit by bit
	setHigh      bool
	clearHigh    bool
	open         line // of a latch
	memory       *memory
	port         int // of the memory: a reading port
	write        bool
	address      wide
	mask         wide
	transparency []bool // by writing ports
}

// group is the registers that an edge sets.
type group struct {
	clock     line
	was       bool
	registers []int32
	cost      int64
}

func (c *compiler) line(of *netlist.Cell, port, polarity string, reads map[int32]bool) line {
	bits := of.Ports[port]
	if len(bits) == 0 {
		return line{}
	}
	l := line{used: true, high: polarity == "" || of.Flag(polarity), at: place{limb: -1}}
	if p, ok := c.at[bits[0]]; ok && bits[0] >= 0 {
		l.at = p
		if reads != nil {
			reads[p.word] = true
		}
		return l
	}
	l.fixed = bits[0] == netlist.One
	return l
}

// addRegister adds a flip-flop or a latch.
func (c *compiler) addRegister(of *netlist.Cell, index int32) {
	kind := strings.TrimPrefix(of.Type, "$")
	r := register{index: index, q: c.standsIn(of.Ports["Q"]), width: len(of.Ports["Q"]), d: c.wide(of.Ports["D"], nil)}
	if kind != "sr" && r.d.width != r.width {
		c.fail(of, "a register of %d bits takes %d", r.width, r.d.width)
		return
	}
	if kind == "dlatch" || kind == "adlatch" || kind == "dlatchsr" {
		r.open = c.line(of, "EN", "EN_POLARITY", nil)
	} else {
		r.clock = c.line(of, "CLK", "CLK_POLARITY", nil)
		r.enable = c.line(of, "EN", "EN_POLARITY", nil)
	}
	r.reset = c.line(of, "SRST", "SRST_POLARITY", nil)
	r.resetTo, r.resetWaits = []byte(of.Parameters["SRST_VALUE"]), kind == "sdffce"
	if of.Ports["ARST"] != nil {
		r.force = c.line(of, "ARST", "ARST_POLARITY", nil)
		r.forceTo = c.wide(digits(of.Parameters["ARST_VALUE"], r.width), nil)
	}
	if of.Ports["ALOAD"] != nil {
		r.force = c.line(of, "ALOAD", "ALOAD_POLARITY", nil)
		r.forceTo = c.wide(of.Ports["AD"], nil)
	}
	if of.Ports["SET"] != nil {
		r.set, r.clear = c.wide(of.Ports["SET"], nil), c.wide(of.Ports["CLR"], nil)
		r.setHigh, r.clearHigh = of.Flag("SET_POLARITY"), of.Flag("CLR_POLARITY")
	}
	for _, w := range []wide{r.set, r.clear, r.forceTo} {
		if w.width > 0 && w.width != r.width {
			c.fail(of, "a register of %d bits is set to %d", r.width, w.width)
		}
	}
	if (r.set.width > 0) != (r.clear.width > 0) || r.width == 0 {
		c.fail(of, "a register has no bits, or is only set")
		return
	}
	c.registers = append(c.registers, r)
}

// effort is what an edge of a register costs, as for cells.
func (r *register) effort() int64 {
	pieces := 0
	for _, w := range []wide{r.d, r.mask, r.address} {
		for i := range w.limbs {
			pieces += len(w.limbs[i].pieces)
		}
	}
	return int64(1 + pieces/8 + r.width/512)
}

// digits are constant bits of binary digits, the highest first.
func digits(s string, width int) []netlist.Bit {
	out := make([]netlist.Bit, width)
	for i := range out {
		if out[i] = netlist.Zero; i < len(s) && s[len(s)-1-i] == '1' {
			out[i] = netlist.One
		}
	}
	return out
}

// groupRegisters joins registers that share a clock.
func (c *compiler) groupRegisters() {
	at := map[line]int{}
	for i := range c.registers {
		r := &c.registers[i]
		switch {
		case r.open.used:
			c.latches = append(c.latches, int32(i))
		case r.clock.used && r.clock.at.limb >= 0:
			g, ok := at[r.clock]
			if !ok {
				g = len(c.groups)
				at[r.clock] = g
				c.groups = append(c.groups, group{clock: r.clock})
			}
			c.groups[g].registers = append(c.groups[g].registers, int32(i))
			c.groups[g].cost += r.effort()
		}
		if r.force.used || r.set.width > 0 {
			c.forced = append(c.forced, int32(i))
		}
	}
}

// sample gives what an edge makes of a register, limb by limb; ok is false where it stays as it is.
func (r *register) sample(s *state, into []uint64, together []int32) (ok bool) {
	arena := s.arena
	if r.enable.used && !r.enable.active(arena) && (!r.reset.used || r.resetWaits || !r.reset.active(arena)) {
		return false
	}
	if r.reset.active(arena) {
		for i := range into {
			into[i] = 0
		}
		for i := range r.width {
			if n := len(r.resetTo) - 1 - i; n >= 0 && r.resetTo[n] == '1' {
				into[i/64] |= 1 << (i % 64)
			}
		}
		return true
	}
	if r.memory != nil {
		s.read(r, into, together)
		return true
	}
	for i := range r.d.limbs {
		into[i] = r.d.limbs[i].get(arena)
	}
	return true
}

// level gives what a level makes of a register, whatever its clock does.
func (r *register) level(arena []uint64, now, into []uint64) (ok bool) {
	if r.force.active(arena) {
		for i := range r.forceTo.limbs {
			into[i] = r.forceTo.limbs[i].get(arena)
		}
		return true
	}
	if r.set.width == 0 {
		return false
	}
	for i := range into {
		set, clear := r.set.limbs[i].get(arena), r.clear.limbs[i].get(arena)
		if !r.setHigh {
			set = ^set & ones(r.set.limbs[i].width)
		}
		if !r.clearHigh {
			clear = ^clear & ones(r.clear.limbs[i].width)
		}
		into[i] = (now[i] | set) &^ clear
		ok = ok || set|clear != 0
	}
	return ok
}
