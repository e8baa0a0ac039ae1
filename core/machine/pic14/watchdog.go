package pic14

import "hemble/core/clock"

// The watchdog has an oscillator of its own: 18 ms at 5 V, or 31 kHz with a divider (DS33023A, 26.4; DS41291, 14.5).
const (
	dogPeriod  = 18 * clock.Millisecond
	slowInside = clock.Rate(31_250)
)

// watchdog resets the chip where it was not cleared in time, or wakes it.
type watchdog struct {
	began  clock.Time // when it was cleared
	bitten bool
}

func (v *Variant) defineWatchdog() {
	if v.longDog != 0 {
		v.define(v.longDog, "WDTCON", 0x08, nil, func(m *Machine, x uint8) {
			m.ram[v.longDog] = x & 0x1f
			m.dog.configure(m)
		})
	}
}

func (d *watchdog) reset(m *Machine) {
	*d = watchdog{began: m.now.At(m.begins)} // it is cleared while the chip starts
	d.configure(m)
}

func (d *watchdog) on(m *Machine) bool {
	return m.fuse(m.v.fuses.dog) || m.v.longDog != 0 && m.ram[m.v.longDog]&1 == 1
}

func (d *watchdog) period(m *Machine) clock.Time {
	period := dogPeriod
	if a := m.v.longDog; a != 0 {
		period = slowInside.At(32 << min(m.ram[a]>>1&15, 11))
	}
	if o := m.ram[regOPTION]; o&bitPSA != 0 {
		period <<= o & 7
	}
	return period
}

// configure announces when it bites.
func (d *watchdog) configure(m *Machine) {
	if !d.on(m) {
		m.setDue(dueWatchdog, never)
		return
	}
	m.setDue(dueWatchdog, max(m.cycle+1, m.now.CycleAt(d.began+d.period(m))))
}

// clear is CLRWDT and SLEEP.
func (d *watchdog) clear(m *Machine) {
	d.began = m.Now()
	d.configure(m)
}

// timedOut wakes a chip that sleeps, and resets one that does not.
func (d *watchdog) timedOut(m *Machine) {
	d.began = m.Now()
	d.configure(m)
	if m.asleep {
		m.status &^= statusTO | statusPD
		m.wake()
		return
	}
	if m.cycle < m.begins {
		return
	}
	m.note("watchdog", "the watchdog reset the chip: the configuration word has it on, and no CLRWDT came within %s",
		d.period(m).Short())
	d.bitten, m.deadline = true, 0
}
