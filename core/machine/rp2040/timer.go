package rp2040

import "hemble/core/clock"

// timer is the microsecond timer with its four alarms (4.6). count is what it had at the cycle since; it counts one
// more every period cycles, and stands where the period is 0.
type timer struct {
	count         uint64
	since, period int64
	latched       uint32 // the upper half at the last reading of TIMELR
	high          uint32 // written to TIMEHW, for TIMELW
	alarms        [4]uint32
	armed         uint32
	raw, enabled  uint32 // INTR, INTE
	forced        uint32
}

const (
	timeHW    = 0x00
	timeLW    = 0x04
	timeHR    = 0x08
	timeLR    = 0x0c
	alarm0    = 0x10
	armed     = 0x20
	timeRawH  = 0x24
	timeRawL  = 0x28
	timerIntr = 0x34
)

func (t *timer) at(cycle int64) uint64 {
	if t.period == 0 {
		return t.count
	}
	return t.count + uint64((cycle-t.since)/t.period)
}

// sync brings the count up to date; the part of a tick that has gone by stays.
func (t *timer) sync(m *Machine) {
	if t.period == 0 {
		t.since = m.core.Cycle
		return
	}
	n := (m.core.Cycle - t.since) / t.period
	t.count += uint64(n)
	t.since += n * t.period
}

// retime finds out how long a tick is: the watchdog's divider of the reference clock makes it (4.7.2).
func (t *timer) retime(m *Machine) {
	t.sync(m)
	t.period = 0
	ref := m.rateOf(clkRef)
	if m.watchdog.ticks() > 0 && ref > 0 {
		n := clock.Rate(m.watchdog.ticks())
		t.period = int64((m.now.Rate*n + ref/2) / ref)
	}
	t.since = m.core.Cycle
	t.schedule(m)
}

func (t *timer) restart(m *Machine) {
	period := t.period
	*t = timer{period: period, since: m.core.Cycle}
	t.schedule(m)
	m.core.Request(0, false)
	m.core.Request(1, false)
	m.core.Request(2, false)
	m.core.Request(3, false)
}

// schedule announces when the alarms that are armed come: where the lower half of the count is what they have.
func (t *timer) schedule(m *Machine) {
	for i := range t.alarms {
		due := never
		if t.armed>>i&1 == 1 && t.period > 0 {
			now := t.at(m.core.Cycle)
			wait := uint64(t.alarms[i] - uint32(now))
			if wait == 0 {
				wait = 1 << 32
			}
			due = t.since + int64(now-t.count+wait)*t.period
		}
		m.setDue(dueAlarm+i, due)
	}
}

// alarm is one that has come.
func (t *timer) alarm(m *Machine, i int) {
	t.armed &^= 1 << i
	t.raw |= 1 << i
	m.setDue(dueAlarm+i, never)
	t.request(m)
}

func (t *timer) request(m *Machine) {
	for i := range 4 {
		m.core.Request(i, (t.raw&t.enabled|t.forced)>>i&1 == 1)
	}
}

func (m *Machine) readTimer(offset uint32) uint32 {
	t := &m.timer
	if t.period == 0 && offset >= timeHR && offset <= timeRawL {
		m.note("no-tick", "the timer was used while it stands still: WATCHDOG TICK, which drives it, is not enabled")
	}
	now := t.at(m.core.Cycle)
	switch offset {
	case timeHR:
		return t.latched
	case timeLR:
		t.latched = uint32(now >> 32)
		return uint32(now)
	case timeRawH:
		return uint32(now >> 32)
	case timeRawL:
		return uint32(now)
	case armed:
		return t.armed
	case timerIntr:
		return t.raw
	case timerIntr + 4:
		return t.enabled
	case timerIntr + 8:
		return t.forced
	case timerIntr + 12:
		return t.raw&t.enabled | t.forced
	}
	if i := (offset - alarm0) / 4; offset >= alarm0 && i < 4 {
		return t.alarms[i]
	}
	return m.plain[0x4005_4000+offset]
}

func (m *Machine) writeTimer(offset, v uint32) {
	t := &m.timer
	switch i := (offset - alarm0) / 4; {
	case offset == timeHW:
		t.high = v
	case offset == timeLW:
		t.sync(m)
		t.count, t.since = uint64(t.high)<<32|uint64(v), m.core.Cycle
		t.schedule(m)
	case offset >= alarm0 && i < 4:
		t.alarms[i] = v
		t.armed |= 1 << i
		t.schedule(m)
	case offset == armed:
		t.armed &^= v
		t.schedule(m)
	case offset == timerIntr:
		t.raw &^= v
		t.request(m)
	case offset == timerIntr+4:
		t.enabled = v & 15
		t.request(m)
	case offset == timerIntr+8:
		t.forced = v & 15
		t.request(m)
	default:
		m.plain[0x4005_4000+offset] = v
	}
}

// watchdog also gives the timer its tick (4.7).
type watchdog struct {
	ctrl    uint32
	tick    uint32
	load    uint32
	since   int64
	scratch [8]uint32
	reason  uint32
	bitten  bool
}

func (w *watchdog) reset() {
	reason, scratch := w.reason, w.scratch
	if w.bitten {
		reason = 1
	}
	*w = watchdog{ctrl: 7 << 24, tick: 1 << 9, reason: reason, scratch: scratch}
}

// ticks is by how much the reference clock is divided, 0 where there is no tick.
func (w *watchdog) ticks() uint32 {
	if w.tick>>9&1 == 0 {
		return 0
	}
	return w.tick & 0x1ff
}

func (w *watchdog) bite(m *Machine) {
	m.setDue(dueWatchdog, never)
	w.bitten = true
}

// schedule announces when it bites: it counts down by two at each tick (erratum RP2040-E1).
func (w *watchdog) schedule(m *Machine) {
	due := never
	if w.ctrl>>30&1 == 1 && m.timer.period > 0 {
		due = w.since + int64(w.load+1)/2*m.timer.period
	}
	m.setDue(dueWatchdog, due)
}

func (m *Machine) readWatchdog(offset uint32) uint32 {
	w := &m.watchdog
	switch {
	case offset == 0:
		return w.ctrl
	case offset == 8:
		return w.reason
	case offset >= 0xc && offset < 0x2c:
		return w.scratch[(offset-0xc)/4]
	case offset == 0x2c:
		v := w.tick & 0x3ff
		if w.ticks() > 0 {
			v |= 1 << 10
		}
		return v
	}
	return 0
}

func (m *Machine) writeWatchdog(offset, v uint32) {
	w := &m.watchdog
	switch {
	case offset == 0:
		w.ctrl = v & 0x7700_0000
		if v>>31 == 1 { // TRIGGER
			w.bitten = true
			m.core.Deadline = min(m.core.Deadline, m.core.Cycle)
		}
		w.since = m.core.Cycle
		w.schedule(m)
	case offset == 4:
		w.load, w.since = v&0xff_ffff, m.core.Cycle
		w.schedule(m)
	case offset >= 0xc && offset < 0x2c:
		w.scratch[(offset-0xc)/4] = v
	case offset == 0x2c:
		w.tick = v & 0x3ff
		m.timer.retime(m)
	}
}
