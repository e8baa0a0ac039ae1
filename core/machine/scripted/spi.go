package scripted

// nobody stands for a line that a bus does without.
const nobody = 255

// spi is the master's end of a bus with a clock line: Motorola SPI Block Guide V03.06, 4.3, with its four modes.
type spi struct {
	clock, out, in, selected uint8  // its lines, or nobody
	half                     uint32 // ns of half a period of the clock
	polarity, phase          bool
	lowFirst                 bool // bits go from the lowest on
}

// transfer gives the steps in which bytes are exchanged.
func (b spi) transfer(data []byte) (steps []step) {
	do := func(after uint32, a act, pin uint8) {
		if pin == nobody {
			a, pin = rest, 0
		}
		steps = append(steps, step{after, a, pin})
	}
	level := func(on bool) act {
		if on {
			return high
		}
		return low
	}
	idle, active := level(b.polarity), level(!b.polarity)
	do(0, low, b.selected)
	for _, v := range data {
		for i := range 8 {
			at := 7 - i
			if b.lowFirst {
				at = i
			}
			if b.phase {
				do(0, active, b.clock)
			}
			do(0, level(v>>at&1 == 1), b.out)
			do(b.half, take, b.in)
			if b.phase {
				do(0, idle, b.clock)
			} else {
				do(0, active, b.clock)
			}
			do(b.half, rest, 0)
			if !b.phase {
				do(0, idle, b.clock)
			}
		}
	}
	do(b.half, high, b.selected)
	return steps
}
