package pic14

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// fuseLayout is where the configuration words have what (DS33023A, 27.2, and the chips' datasheets). A mask of 0 is for
// what a chip has not.
type fuseLayout struct {
	oscillators            map[uint16]oscillator // by the bits of select
	choose                 uint16                // those bits
	dog, powerUp, resetPin uint16
	brownOut               uint16
	lowVoltage             uint16
	programming            pinAt  // the pin that low-voltage programming takes
	compareElsewhere       uint16 // of CCP1 at its other pin, where 0
	fourVolts              bool   // the brown-out detector's voltage is in the second word
}

// oscillator is a kind of it, as a configuration word chooses.
type oscillator struct {
	name    string
	inside  bool
	crystal bool
	pins    uint8 // of OSC1 (1) and OSC2 (2), which of them are no ports
}

// The kinds there are.
var (
	oscLP       = oscillator{name: "LP", crystal: true, pins: 3}
	oscXT       = oscillator{name: "XT", crystal: true, pins: 3}
	oscHS       = oscillator{name: "HS", crystal: true, pins: 3}
	oscEC       = oscillator{name: "EC", pins: 1}
	oscInside   = oscillator{name: "INTOSC", inside: true}
	oscInsideCO = oscillator{name: "INTOSC with CLKOUT", inside: true, pins: 2}
	oscRC       = oscillator{name: "RC", pins: 1}
	oscRCCO     = oscillator{name: "RC with CLKOUT", pins: 3}
)

// oscillatorLayout is the oscillator inside.
type oscillatorLayout struct {
	osccon                    uint16 // 0 for none
	initial, settable, stable uint8  // of OSCCON: after a reset, what can be written, what is always set
	choose, inside            uint8  // the bits that choose a clock, and what they have for the one inside
	rates                     []clock.Rate
	slow                      bool // PCON.OSCF chooses between the two rates
	pins                      [2]pinAt
}

func (v *Variant) defineOscillator() {
	if l := &v.oscillator; l.osccon != 0 {
		a := l.osccon
		v.define(a, "OSCCON", l.initial, func(m *Machine) uint8 {
			return m.ram[a] | l.stable // at once, as far as a program sees
		}, func(m *Machine, x uint8) {
			m.ram[a] = x & l.settable
			if l.choose == 3 && x&3 == 1 {
				m.note("unmodelled OSCCON", "timer 1's oscillator as the clock of the chip (OSCCON.SCS) is not modelled")
			}
			m.setOscillator()
		})
		v.masked(0x90, "OSCTUNE", 0, 0x1f)
	}
	if v.oscillator.slow {
		v.define(regPCON, "PCON", 0, nil, func(m *Machine, x uint8) {
			m.ram[regPCON] = x & 0x0b
			m.setOscillator()
		})
	}
}

// insideRate is that of the oscillator inside.
func (m *Machine) insideRate() clock.Rate {
	l := &m.v.oscillator
	switch {
	case l.slow && m.ram[regPCON]&0x08 == 0:
		return l.rates[0]
	case l.slow:
		return l.rates[1]
	}
	return l.rates[m.ram[l.osccon]>>4&7]
}

// setOscillator takes the clock that configuration and registers choose.
func (m *Machine) setOscillator() {
	rate := m.config.Clock
	l := &m.v.oscillator
	inside := m.kind().inside && len(l.rates) > 0
	if l.osccon != 0 && m.ram[l.osccon]&l.choose == l.inside { // SCS
		inside = true
	}
	if inside {
		rate = m.insideRate()
	}
	if rate == m.now.Rate {
		return
	}
	until := m.now.At(m.until)
	times := map[int]clock.Time{}
	for _, slot := range []int{dueWatchdog, dueEEPROM} {
		if m.due[slot] != never {
			times[slot] = m.now.At(m.due[slot])
		}
	}
	m.now = machine.Timebase{Rate: rate, Clocks: 4, Cycle: m.cycle, Time: m.now.At(m.cycle)}
	if m.until != never {
		m.until = m.now.CycleAt(until)
	}
	for slot, at := range times {
		m.setDue(slot, m.now.CycleAt(at))
	}
	m.timer1.clockChanged(m)
	m.deadline = min(m.deadline, m.until)
}

// kind is the oscillator that the configuration word chooses.
func (m *Machine) kind() oscillator { return m.v.fuses.oscillators[m.fuses[0]&m.v.fuses.choose] }

// hasReset tells whether the reset pin is one.
func (m *Machine) hasReset() bool {
	f := m.v.fuses.resetPin
	return f == 0 || m.fuses[0]&f != 0
}

// fuse tells whether a bit of the first configuration word is set.
func (m *Machine) fuse(mask uint16) bool { return m.fuses[0]&mask != 0 }

// configure takes the configuration words of an image. Those that a file leaves out are what a programmer would be told
// by hand: the oscillator that the bench has, no watchdog, no low-voltage programming.
func (m *Machine) configure(im *firmware.Image) {
	f := &m.v.fuses
	m.fuses = [2]uint16{erased, erased}
	for i := range m.fuses {
		if 2*i+1 < len(im.Fuses) {
			m.fuses[i] = (uint16(im.Fuses[2*i]) | uint16(im.Fuses[2*i+1])<<8) & erased
		}
	}
	if len(im.Fuses) == 0 {
		m.fuses[0] &^= f.dog | f.lowVoltage | f.choose
		m.fuses[0] |= m.assumed()
	}
	m.reset(byPower)
	switch {
	case len(im.Fuses) == 0 && len(im.Flash) > 0:
		m.note("configuration", "the file has no configuration word; taken were the %s oscillator, no watchdog and no "+
			"low-voltage programming", m.kind().name)
	case f.lowVoltage != 0 && m.fuse(f.lowVoltage):
		p := f.programming
		if m.ports[p.port].watched&p.mask != 0 && m.config.Watched != nil {
			m.note("low-voltage-programming", "low-voltage programming is on (LVP in the configuration word): %s is its "+
				"pin and is neither output nor input", m.v.name(p.port, bit(p.mask)))
		}
	}
	m.tellOscillator(len(im.Fuses) > 0)
	m.tellBrownOut()
}

// assumed is the oscillator's choice for the bench's clock.
func (m *Machine) assumed() (choice uint16) {
	want := "XT"
	switch rate := m.config.Clock; {
	case slices.Contains(m.v.oscillator.rates, rate) && rate == m.insideAtReset():
		want = "INTOSC"
	case rate > 4_000_000:
		want = "HS"
	case rate < 200_000:
		want = "LP"
	}
	for bits, o := range m.v.fuses.oscillators {
		if o.name == want {
			return bits
		}
	}
	return 0
}

// insideAtReset is what the oscillator inside begins with.
func (m *Machine) insideAtReset() clock.Rate {
	l := &m.v.oscillator
	switch {
	case l.slow:
		return l.rates[1]
	case l.osccon != 0:
		return l.rates[l.initial>>4&7]
	}
	return 0
}

// tellOscillator tells where the configuration does not fit the clock that the bench has (DS33023A, table 2-1).
func (m *Machine) tellOscillator(chosen bool) {
	rate, kind := m.config.Clock, m.kind()
	switch {
	case !chosen:
	case kind.inside:
		if !slices.Contains(m.v.oscillator.rates, rate) {
			m.note("oscillator", "the configuration word chooses the oscillator inside the chip; the bench has %s", rate)
		}
	case kind.name == "XT" && rate > 4_000_000, kind.name == "LP" && rate > 200_000:
		m.note("oscillator", "the configuration word chooses the %s oscillator, which is for slower crystals than %s: on a "+
			"real board it may not start", kind.name, rate)
	case kind.name[0] == 'R':
		m.note("oscillator", "the configuration word chooses an RC oscillator; the bench has %s, and with a crystal in "+
			"its place a real board would not start", rate)
	}
}

// tellBrownOut stops a chip that its brown-out detector keeps in reset.
func (m *Machine) tellBrownOut() {
	f, least := &m.v.fuses, int64(4_000_000)
	if f.fourVolts && m.fuses[1]&0x100 == 0 {
		least = 2_100_000
	}
	if f.brownOut != 0 && m.fuses[0]&f.brownOut == f.brownOut && m.config.Supply < least {
		m.end(machine.NoStart, "the supply of %.1f V is below the %.1f V of the brown-out detector, which the "+
			"configuration word has on: the chip stays in reset", float64(m.config.Supply)/1e6, float64(least)/1e6)
	}
}

// startUp is how many cycles pass from a reset to the first instruction: the power-up timer, and 1024 clocks of a
// crystal (3.4, 3.5).
func (m *Machine) startUp(why cause) int64 {
	if why != byPower {
		return 0
	}
	start := m.oscillatorStart()
	if f := m.v.fuses.powerUp; f != 0 && !m.fuse(f) {
		start += m.span(72 * clock.Millisecond)
	}
	return start
}

// oscillatorStart is how long a crystal takes to start, in cycles.
func (m *Machine) oscillatorStart() int64 {
	if m.kind().crystal {
		return 256
	}
	return 0
}
