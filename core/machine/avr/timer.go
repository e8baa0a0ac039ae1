package avr

import (
	"slices"

	"hemble/core/machine"
)

// Bits of TIFRn and TIMSKn.
const (
	bitTOV  = 1 << 0
	bitOCFA = 1 << 1
	bitOCFB = 1 << 2 // and so on for further channels
	bitICF  = 1 << 5
)

// prescaler is the free-running divider behind one or two timers; held means TSM keeps it in reset.
type prescaler struct {
	base int64
	held bool
}

// channels is how many compare channels a timer has at most.
const channels = 3

// timer is one of the Timer/Counters (datasheet 15, 16, 18). Its state is that at the cycle synced;
// a look at it first counts the ticks since. A flag is set at the tick that leaves the matching
// count, as the timing diagrams show (figures 15-9 to 15-11).
type timer struct {
	*timerLayout
	index   int
	mode    mode
	count   uint16
	down    bool
	ocr     [channels]uint16 // current
	ocrNext [channels]uint16 // as written; applied at TOP or BOTTOM in the PWM modes
	icr     uint16
	temp    uint8 // high byte of 16-bit accesses
	shift   uint8 // log2 of the divider, or stopped, pinFalling, pinRising
	masked  bool  // a write to TCNT blocks a match at the next tick
	synced  int64
	quiet   int64 // nothing can happen before this tick of the prescaler; 0 where that is not known
	frozen  bool
	level   [channels]bool // of the compare outputs
	by      machine.Place  // where the program last set it
	edge    int64          // of a wave: the cycle at which something happens next, where that is behind synced
}

func (v *Variant) defineTimers() {
	for i := range v.timers {
		l := &v.timers[i]
		n := l.number
		if n == "" {
			n = string(rune('0' + i))
		}
		v.isFlags[l.tifr], v.timersOf[l.tifr] = true, 1<<i
		for _, vector := range append([]uint{l.overflow, l.capture}, l.compare...) {
			if vector != 0 {
				v.acknowledged[vector] = func(m *Machine) { m.timers[i].acknowledge(m, vector) }
			}
		}
		v.define(l.tifr, "TIFR"+n, func(m *Machine, address uint16) uint8 {
			m.timers[i].sync(m, m.cycle)
			return m.io[address]
		}, func(m *Machine, address uint16, v uint8) {
			m.timers[i].sync(m, m.cycle)
			m.io[address] &^= v
			m.timers[i].requests(m)
			m.timers[i].schedule(m)
		})
		v.define(l.timsk, "TIMSK"+n, nil, func(m *Machine, address uint16, v uint8) {
			m.timers[i].sync(m, m.cycle)
			m.io[address] = v
			m.timers[i].requests(m)
			m.timers[i].schedule(m)
		})
		control := func(m *Machine, address uint16, v uint8) {
			m.timers[i].sync(m, m.cycle)
			m.io[address] = v
			m.timers[i].configure(m)
		}
		v.define(l.tccra, "TCCR"+n+"A", nil, control)
		if l.wide {
			v.define(l.tccrb, "TCCR"+n+"B", nil, control)
			v.define(l.tccrc, "TCCR"+n+"C", func(*Machine, uint16) uint8 { return 0 },
				func(m *Machine, _ uint16, v uint8) {
					m.timers[i].force(m, v)
				})
			v.defineWide(i, l.tcnt, "TCNT"+n)
			v.defineWide(i, l.icr, "ICR"+n)
			for c, address := range l.ocr {
				v.defineWide(i, address, "OCR"+n+string(rune('A'+c)))
			}
			continue
		}
		v.define(l.tccrb, "TCCR"+n+"B", nil, func(m *Machine, address uint16, v uint8) {
			m.timers[i].force(m, v)
			control(m, address, v&^0xc0)
		})
		v.define(l.tcnt, "TCNT"+n, func(m *Machine, _ uint16) uint8 {
			m.timers[i].sync(m, m.cycle)
			return uint8(m.timers[i].count)
		}, func(m *Machine, _ uint16, v uint8) { m.timers[i].setCount(m, uint16(v)) })
		for c, address := range l.ocr {
			v.define(address, "OCR"+n+string(rune('A'+c)),
				func(m *Machine, _ uint16) uint8 { return uint8(m.timers[i].ocrNext[c]) },
				func(m *Machine, _ uint16, v uint8) { m.timers[i].setCompare(m, c, uint16(v)) })
		}
	}
	v.define(regGTCCR, "GTCCR", nil, func(m *Machine, address uint16, v uint8) {
		for i := range m.timers {
			m.timers[i].sync(m, m.cycle)
		}
		held := v&0x80 != 0
		if v&0x01 != 0 {
			m.presync.base = m.cycle
		}
		if v&0x02 != 0 {
			m.preasync.base = m.cycle
		}
		m.presync.held, m.preasync.held = held && v&0x01 != 0, held && v&0x02 != 0
		if m.io[address] = v; !held {
			m.io[address] = 0
		}
		for i := range m.timers {
			m.timers[i].synced = m.cycle
			m.timers[i].schedule(m)
		}
	})
	if v.watchCrystal() {
		v.defineASSR()
	}
}

// watchCrystal tells whether a timer may have a crystal of its own.
func (v *Variant) watchCrystal() bool {
	return slices.ContainsFunc(v.timers, func(l timerLayout) bool { return l.async && l.modes == nil })
}

func (v *Variant) defineASSR() {
	v.define(0xb6, "ASSR", nil, func(m *Machine, address uint16, v uint8) {
		m.io[address] = v & 0x60
		if v&0x20 != 0 {
			m.note("unmodelled ASSR",
				"ASSR.AS2 (timer 2 on a watch crystal) is not modelled; it uses the system clock")
		}
	})
}

// defineWide is a 16-bit register: the high byte goes through TEMP (datasheet 16.3).
func (v *Variant) defineWide(i int, address uint16, name string) {
	v.define(address, name+"L", func(m *Machine, a uint16) uint8 {
		v := m.timers[i].wideValue(m, a)
		if a == m.timers[i].tcnt || a == m.timers[i].timerLayout.icr {
			m.timers[i].temp = uint8(v >> 8)
		}
		return uint8(v)
	}, func(m *Machine, a uint16, v uint8) {
		m.timers[i].setWide(m, a, uint16(m.timers[i].temp)<<8|uint16(v))
	})
	v.define(address+1, name+"H", func(m *Machine, a uint16) uint8 {
		if a-1 == m.timers[i].tcnt || a-1 == m.timers[i].timerLayout.icr {
			return m.timers[i].temp
		}
		return uint8(m.timers[i].wideValue(m, a-1) >> 8)
	}, func(m *Machine, _ uint16, v uint8) { m.timers[i].temp = v })
}

func (t *timer) wideValue(m *Machine, address uint16) uint16 {
	if c := slices.Index(t.timerLayout.ocr, address); c >= 0 {
		return t.ocrNext[c]
	}
	t.sync(m, m.cycle)
	if address == t.timerLayout.icr {
		return t.icr
	}
	return t.count
}

func (t *timer) setWide(m *Machine, address uint16, v uint16) {
	c := slices.Index(t.timerLayout.ocr, address)
	switch {
	case address == t.tcnt:
		t.setCount(m, v)
	case c >= 0:
		t.setCompare(m, c, v)
	default:
		if t.mode.top == topICR { // writable in these modes only (16.11.7)
			t.sync(m, m.cycle)
			t.icr = v
			t.schedule(m)
		}
	}
}

func (t *timer) reset(m *Machine, i int) {
	*t = timer{timerLayout: &m.v.timers[i], index: i, shift: stopped, synced: m.cycle}
	t.mode = modes8[0]
	t.icr = t.timerLayout.top
	switch {
	case t.modes != nil:
		t.mode = t.modes[0]
	case t.wide:
		t.mode = modes16[0]
	}
}

func (t *timer) externalClock() bool { return t.shift == pinFalling || t.shift == pinRising }
func (t *timer) captures() bool      { return t.wide && t.mode.top != topICR && t.shift != stopped }

func (t *timer) captureWakes(m *Machine) bool { return m.io[t.timsk]&bitICF != 0 }

// configure applies TCCRnA and TCCRnB.
func (t *timer) configure(m *Machine) {
	a, b := m.io[t.tccra], m.io[t.tccrb]
	switch {
	case t.modes != nil:
		t.mode = t.modes[a&3]
	case t.wide:
		t.mode = modes16[a&3|b>>1&12]
	default:
		t.mode = modes8[a&3|b>>1&4]
	}
	t.shift = t.dividers[int(b)&(len(t.dividers)-1)]
	if !t.mode.pwm() {
		t.ocr = t.ocrNext
	}
	if !t.mode.dual() {
		t.down = false
	}
	t.placed(m)
	t.outputs(m, m.cycle)
	m.sense()
	t.schedule(m)
}

func (t *timer) top() uint16 {
	switch t.mode.top {
	case topOCRA:
		return t.ocr[0]
	case topICR:
		return t.icr
	}
	return t.mode.fixed
}

func (t *timer) max() uint16 {
	switch {
	case t.most != 0:
		return t.most
	case t.wide:
		return 0xffff
	}
	return 0xff
}

func (t *timer) setCount(m *Machine, v uint16) {
	t.sync(m, m.cycle)
	t.placed(m)
	t.count, t.masked = v, true
	t.schedule(m)
}

func (t *timer) setCompare(m *Machine, c int, v uint16) {
	t.sync(m, m.cycle)
	t.placed(m)
	t.ocrNext[c] = v
	if !t.mode.pwm() {
		t.ocr[c] = v
	}
	t.schedule(m)
}

func (t *timer) prescaler(m *Machine) *prescaler {
	if t.async {
		return &m.preasync
	}
	return &m.presync
}

// sync counts the ticks up to and including the given cycle.
func (t *timer) sync(m *Machine, cycle int64) {
	if cycle <= t.synced {
		return
	}
	if m.waves>>t.index&1 == 1 { // in order with the others
		m.tellWaves(cycle)
		return
	}
	from := t.synced
	t.synced = cycle
	if t.shift >= pinRising || t.frozen {
		return
	}
	p := t.prescaler(m)
	if p.held {
		return
	}
	t.advance(m, (from-p.base)>>t.shift, (cycle-p.base)>>t.shift)
}

// advance makes the ticks of the prescaler after number from up to number to. Between the counts at
// which something happens it just adds. When nothing of that can matter to anybody, whole periods
// are left out.
func (t *timer) advance(m *Machine, from, to int64) {
	if to < t.quiet {
		t.add(to - from)
		return
	}
	if !t.matters(m) {
		for turns := 0; from < to && turns < 2; { // long enough for every flag to come up
			wasDown, was := t.down, t.count
			from = t.hop(m, from, to)
			if t.count == 0 || t.down != wasDown || t.count < was && !t.mode.dual() {
				turns++
			}
		}
		if period := t.period(); from < to {
			from += (to - from) / period * period
		}
	}
	for from < to {
		from = t.hop(m, from, to)
	}
	t.quiet = to + t.distance() + 1
	t.requests(m)
}

// hop goes to the next tick that can do something, and makes it, or to the last of the ticks.
func (t *timer) hop(m *Machine, from, to int64) int64 {
	quiet := t.distance()
	if to-from <= quiet {
		t.add(to - from)
		return to
	}
	t.add(quiet)
	from += quiet + 1
	t.tick(m, t.prescaler(m).base+from<<t.shift)
	return from
}

// add makes n ticks at which nothing happens.
func (t *timer) add(n int64) {
	if t.down {
		t.count -= uint16(n)
	} else {
		t.count += uint16(n)
	}
}

// period is the number of ticks after which the count repeats.
func (t *timer) period() int64 {
	top := int64(t.top())
	switch {
	case t.mode.shape == normal:
		return int64(t.max()) + 1
	case t.mode.dual():
		return max(1, 2*top)
	}
	return top + 1
}

// distance is how many ticks pass before the next one at which something may happen.
func (t *timer) distance() int64 {
	if t.masked {
		return 0
	}
	here := int64(t.count)
	best := int64(t.max()) - here
	if t.down {
		best = here
	}
	values := [...]uint16{t.ocr[0], t.ocr[1], t.top(), t.ocr[2]}
	for _, v := range values[:len(t.compare)+1] {
		d := int64(v) - here
		if t.down {
			d = -d
		}
		if d >= 0 && d < best {
			best = d
		}
	}
	return best
}

// tick is one tick of the timer's clock.
func (t *timer) tick(m *Machine, cycle int64) {
	top := t.top()
	value := t.count
	if t.mode.dual() { // the direction turns where the end is reached
		if value >= top {
			t.down = true
		}
		if value == 0 {
			t.down = false
		}
	}
	flags := uint8(0)
	if !t.masked {
		for c := range t.compare {
			if value == t.ocr[c] {
				flags |= bitOCFA << c
				t.match(m, c, cycle)
			}
		}
	}
	t.masked = false
	switch {
	case t.mode.dual():
		if value == 0 {
			flags |= bitTOV
			if t.mode.shape == bothPWM {
				t.ocr = t.ocrNext
			}
		}
		if value == top {
			if t.mode.shape == phasePWM {
				t.ocr = t.ocrNext
			}
			flags |= t.topFlag()
		}
		switch {
		case top == 0:
			t.count = 0
		case t.down:
			t.count = value - 1
		default:
			t.count = value + 1
		}
	case value == top && t.mode.shape != normal:
		t.count = 0
		flags |= t.topFlag()
		if t.mode.shape == fastPWM {
			flags |= bitTOV
			t.ocr = t.ocrNext
			t.bottom(m, cycle)
		}
		if t.mode.shape == clearOnMatch && (top == t.max() || t.topOverflows) {
			flags |= bitTOV
		}
	case value == t.max():
		t.count = 0
		flags |= bitTOV
	default:
		t.count = value + 1
	}
	m.io[t.tifr] |= flags
	m.adc.timerFlags(m, t.index, flags, cycle)
	if t.index == 0 && flags&bitOCFA != 0 {
		m.usi.timer(m)
	}
}

// topFlag is ICF1 where ICR1 is TOP (16.7.3).
func (t *timer) topFlag() uint8 {
	if t.mode.top == topICR {
		return bitICF
	}
	return 0
}

// action is COMnx1:0.
func (t *timer) action(m *Machine, c int) uint8 { return m.io[t.tccra] >> (6 - 2*c) & 3 }

// connected reports whether a compare output has its pin.
func (t *timer) connected(m *Machine, c int) bool {
	switch a := t.action(m, c); {
	case a == 0:
		return false
	case a == 1 && t.mode.pwm(): // toggling: OCnA only, and only where OCRnA is TOP (or mode 14)
		return c == 0 && (t.mode.top == topOCRA || t.mode.top == topICR && t.mode.shape == fastPWM)
	}
	return true
}

// match is a compare match: what it does to the output (tables 15-2 to 15-7).
func (t *timer) match(m *Machine, c int, cycle int64) {
	switch t.action(m, c) {
	case 1:
		t.level[c] = !t.level[c]
	case 2:
		t.level[c] = t.mode.dual() && t.down
	case 3:
		t.level[c] = !(t.mode.dual() && t.down)
	default:
		return
	}
	t.outputs(m, cycle)
}

// bottom sets or clears the outputs where fast PWM starts over.
func (t *timer) bottom(m *Machine, cycle int64) {
	for c := range t.compare {
		switch t.action(m, c) {
		case 2:
			t.level[c] = true
		case 3:
			t.level[c] = false
		}
	}
	t.outputs(m, cycle)
}

// force is a write of FOCnA and FOCnB: a match at once, in the modes without PWM (15.9.2).
func (t *timer) force(m *Machine, v uint8) {
	t.sync(m, m.cycle)
	if t.mode.pwm() {
		return
	}
	for c := range t.compare {
		if v>>(7-c)&1 == 1 {
			t.match(m, c, m.cycle)
		}
	}
}

// outputs gives the compare outputs to their pins or takes them away.
func (t *timer) outputs(m *Machine, cycle int64) {
	m.tellWaves(cycle)
	for c := range t.compare {
		i, mask := t.timerLayout.outputs[c].port, t.timerLayout.outputs[c].mask
		p := &m.ports[i]
		compare, compared := p.compare&^mask, p.compared&^mask
		if t.connected(m, c) {
			compare |= mask
			if t.level[c] {
				compared |= mask
			}
		}
		if compare != p.compare || compared != p.compared {
			p.compare, p.compared = compare, compared
			m.by = &t.by
			if m.inWaves {
				m.waveEdge(i, mask, cycle)
			} else {
				m.updatePort(i, cycle)
			}
			m.by = nil
		}
	}
}

// matters reports whether the timer's next effects concern anybody at their time: an enabled
// interrupt, a connected output, or conversions that it triggers.
func (t *timer) matters(m *Machine) bool {
	return m.io[t.timsk]&^bitICF != 0 || t.mode.top == topICR && m.io[t.timsk] != 0 || t.connected(m, 0) ||
		t.connected(m, 1) || len(t.compare) > 2 && t.connected(m, 2) || m.adc.waitsFor(m, t.index) ||
		t.index == 0 && m.usi.byTimer(m)
}

// schedule announces the next tick at which something may happen.
func (t *timer) schedule(m *Machine) {
	t.quiet, t.edge = 0, 0
	m.waves &^= 1 << t.index
	if !t.runs() || t.prescaler(m).held || !t.matters(m) {
		m.setDue(m.v.slots.timer+t.index, never)
		return
	}
	if t.isWave(m) {
		m.waves |= 1 << t.index
		m.setDue(m.v.slots.timer+t.index, never)
		return
	}
	m.setDue(m.v.slots.timer+t.index, t.due(m))
}

// run handles a due tick.
func (t *timer) run(m *Machine, cycle int64) {
	t.sync(m, cycle)
	t.schedule(m)
}

// requests brings the interrupt requests in line with flags and masks.
func (t *timer) requests(m *Machine) {
	on := m.io[t.tifr] & m.io[t.timsk]
	m.raise(t.overflow, on&bitTOV != 0)
	for c, vector := range t.compare {
		m.raise(vector, on&(bitOCFA<<c) != 0)
	}
	if t.wide {
		m.raise(t.timerLayout.capture, on&bitICF != 0)
	}
}

func (t *timer) acknowledge(m *Machine, vector uint) {
	flag := uint8(bitICF)
	if c := slices.Index(t.compare, vector); c >= 0 {
		flag = bitOCFA << c
	} else if vector == t.overflow {
		flag = bitTOV
	}
	t.sync(m, m.cycle)
	m.io[t.tifr] &^= flag
	t.requests(m)
}

// clockEdge is an edge at Tn.
func (t *timer) clockEdge(m *Machine, rising bool, cycle int64) {
	if t.externalClock() && rising == (t.shift == pinRising) && !t.frozen {
		t.tick(m, cycle)
		t.quiet = 0
		t.requests(m)
	}
}

// captureEdge is an edge at ICPn: the count is stored, four cycles later with the noise canceler.
func (t *timer) captureEdge(m *Machine, rising bool, cycle int64) {
	if rising != (m.io[t.tccrb]&0x40 != 0) {
		return
	}
	if m.io[t.tccrb]&0x80 != 0 {
		m.setDue(m.v.slots.capture+t.captureSlot, cycle+4)
		return
	}
	t.capture(m, cycle)
}

func (t *timer) capture(m *Machine, cycle int64) {
	t.sync(m, cycle)
	t.icr = t.count
	m.io[t.tifr] |= bitICF
	m.adc.timerFlags(m, t.index, bitICF, cycle)
	t.requests(m)
}

// freeze and thaw stop the timer over a deep sleep.
func (t *timer) freeze(m *Machine) {
	t.sync(m, m.cycle)
	t.frozen = true
	t.schedule(m)
}

// thaw lets the timer go on at a cycle to come, when the clock does.
func (t *timer) thaw(m *Machine, at int64) {
	t.sync(m, at)
	t.frozen = false
	t.schedule(m)
}
