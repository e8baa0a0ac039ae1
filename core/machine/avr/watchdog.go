package avr

import "hemble/core/clock"

// Watchdog timer (datasheet 11.8).
const (
	regWDTCSR = 0x60
	bitWDIF   = 1 << 7
	bitWDIE   = 1 << 6
	bitWDCE   = 1 << 4
	bitWDE    = 1 << 3

	// dogTick is 2048 cycles of the 128 kHz oscillator, the shortest time-out.
	dogTick = 16 * clock.Millisecond
	// openCycles is how long WDE and the prescaler may change after WDCE (11.8.2).
	openCycles = 4
)

// watchdog barks (interrupt) or bites (reset) when it was not fed in time.
type watchdog struct {
	at       clock.Time // when it times out
	running  bool
	bitten   bool  // it bit: a reset is to come
	openedAt int64 // cycle of the write that allows changes; 0 for never
}

func (v *Variant) defineWatchdog() {
	v.acknowledged[v.vectors.watchdog] = func(m *Machine) { m.dog.acknowledge(m) }
	v.deepWakes |= 1 << v.vectors.watchdog
	v.define(regWDTCSR, "WDTCSR", nil, func(m *Machine, address uint16, v uint8) {
		d := &m.dog
		old := m.io[address]
		open := d.openedAt > 0 && m.cycle <= d.openedAt+openCycles
		next := old&^(bitWDIE|bitWDIF) | v&bitWDIE | old&bitWDIF&^v
		if open {
			next = next&^0x2f | v&0x2f
		} else if v&bitWDE != 0 {
			next |= bitWDE
		}
		if m.io[regMCUSR]&resetWatchdog != 0 {
			next |= bitWDE // WDRF holds WDE
		}
		d.openedAt = 0
		if v&(bitWDCE|bitWDE) == bitWDCE|bitWDE {
			d.openedAt = m.cycle
		}
		m.io[address] = next &^ bitWDCE
		running := next&(bitWDE|bitWDIE) != 0
		if running && (!d.running || open) {
			d.running = true
			d.feed(m)
		}
		d.running = running
		d.requests(m)
		d.clockChanged(m)
	})
}

func (d *watchdog) reset(m *Machine, causes uint8) {
	*d = watchdog{}
	if causes&resetWatchdog != 0 { // it continues running at its shortest time-out
		m.io[regWDTCSR] = bitWDE
		d.running = true
		d.feed(m)
	}
}

func (d *watchdog) timeout(m *Machine) clock.Time {
	w := m.io[regWDTCSR]
	return dogTick << min(w&7|w>>2&8, 9)
}

// feed is WDR.
func (d *watchdog) feed(m *Machine) {
	if d.running {
		d.at = m.Now() + d.timeout(m)
		d.clockChanged(m)
	}
}

// clockChanged announces the time-out in CPU cycles.
func (d *watchdog) clockChanged(m *Machine) {
	if !d.running {
		m.setDue(m.v.slots.watchdog, never)
		return
	}
	m.setDue(m.v.slots.watchdog, m.now.cycleAt(d.at))
}

// timedOut is an interrupt if WDIE is set, otherwise a reset, which Run carries out between two
// instructions.
func (d *watchdog) timedOut(m *Machine) {
	w := &m.io[regWDTCSR]
	if *w&bitWDIE == 0 {
		d.bitten = true
		m.setDue(m.v.slots.watchdog, never)
		m.deadline = 0
		return
	}
	*w |= bitWDIF
	d.at += d.timeout(m)
	d.clockChanged(m)
	d.requests(m)
}

func (d *watchdog) requests(m *Machine) {
	w := m.io[regWDTCSR]
	m.raise(m.v.vectors.watchdog, w&bitWDIF != 0 && w&bitWDIE != 0)
}

// acknowledge: taking the interrupt clears WDIF, and WDIE where a reset is to follow.
func (d *watchdog) acknowledge(m *Machine) {
	m.io[regWDTCSR] &^= bitWDIF
	if m.io[regWDTCSR]&bitWDE != 0 {
		m.io[regWDTCSR] &^= bitWDIE
	}
	d.requests(m)
}
