package rp2040

import "hemble/core/clock"

// rtc is the real-time clock (4.8): it counts seconds of its own clock, and days as the calendar has them.
type rtc struct {
	divider, ctrl  uint32
	setup, alarm   [2]uint32 // date, time
	now            date
	latched        uint32 // RTC_1, at the last reading of RTC_0
	mask, force    uint32
	next           clock.Time // when the second is over
	running, match bool
}

// date is a moment of the calendar.
type date struct{ year, month, day, weekday, hour, minute, second uint32 }

// Bits of CTRL (4.8.6).
const (
	rtcEnable = 1 << 0
	rtcActive = 1 << 1
	rtcLoad   = 1 << 4
	rtcNoLeap = 1 << 8
)

func (d date) words() (day, time uint32) {
	return d.year<<12 | d.month<<8 | d.day, d.weekday<<24 | d.hour<<16 | d.minute<<8 | d.second
}

func dateOf(day, time uint32) date {
	return date{day >> 12 & 0xfff, day >> 8 & 15, day & 31, time >> 24 & 7, time >> 16 & 31, time >> 8 & 63, time & 63}
}

// days of a month.
func (d date) days(leap bool) uint32 {
	switch d.month {
	case 2:
		if leap {
			return 29
		}
		return 28
	case 4, 6, 9, 11:
		return 30
	}
	return 31
}

// after is a second later.
func (d date) after(leapYears bool) date {
	if d.second++; d.second < 60 {
		return d
	}
	d.second = 0
	if d.minute++; d.minute < 60 {
		return d
	}
	d.minute = 0
	if d.hour++; d.hour < 24 {
		return d
	}
	d.hour = 0
	d.weekday = (d.weekday + 1) % 7
	if d.day++; d.day <= d.days(leapYears && d.year%4 == 0) {
		return d
	}
	d.day = 1
	if d.month++; d.month > 12 {
		d.month = 1
		d.year = (d.year + 1) & 0xfff
	}
	return d
}

// retime announces the end of the second where the clock runs; from is when it began.
func (r *rtc) retime(m *Machine, from clock.Time) {
	rate := m.rateOf(clkRTC)
	if r.running = r.ctrl&rtcEnable != 0 && rate > 0; !r.running {
		m.setDue(dueRTC, never)
		return
	}
	r.next = from + rate.At(int64(r.divider)+1)
	m.setDue(dueRTC, m.now.CycleAt(r.next))
}

// second is one that is over.
func (r *rtc) second(m *Machine) {
	r.now = r.now.after(r.ctrl&rtcNoLeap == 0)
	r.retime(m, r.next)
	r.request(m)
}

// request compares the moment with the alarm, as far as its fields are enabled (4.8.5).
func (r *rtc) request(m *Machine) {
	r.match = false
	if r.alarm[0]>>28&1 == 1 && r.ctrl&rtcEnable != 0 {
		day, time := r.now.words()
		differs := (day ^ r.alarm[0]) & fields(r.alarm[0]>>24&7, 0x1f, 0xf00, 0xfff000)
		differs |= (time ^ r.alarm[1]) & fields(r.alarm[1]>>28&15, 0x3f, 0x3f00, 0x1f_0000, 0x0700_0000)
		r.match = differs == 0
	}
	m.core.Request(25, r.interrupt() != 0)
}

// fields are the masks of those whose bit is set, the lowest first.
func fields(enabled uint32, masks ...uint32) (v uint32) {
	for i, mask := range masks {
		if enabled>>i&1 == 1 {
			v |= mask
		}
	}
	return v
}

func (r *rtc) interrupt() uint32 {
	v := r.force & 1
	if r.match {
		v |= r.mask & 1
	}
	return v
}

func (m *Machine) readRTC(offset uint32) uint32 {
	r := &m.rtc
	day, time := r.now.words()
	switch offset {
	case 0x00:
		return r.divider
	case 0x04, 0x08:
		return r.setup[offset>>2-1]
	case 0x0c:
		v := r.ctrl
		if r.ctrl&rtcEnable != 0 {
			v |= rtcActive
		}
		return v
	case 0x10:
		v := r.alarm[0]
		if v>>28&1 == 1 {
			v |= 1 << 29 // MATCH_ACTIVE
		}
		return v
	case 0x14:
		return r.alarm[1]
	case 0x18:
		return r.latched
	case 0x1c:
		r.latched = day
		return time
	case 0x20:
		if r.match {
			return 1
		}
	case 0x24:
		return r.mask
	case 0x28:
		return r.force
	case 0x2c:
		return r.interrupt()
	}
	return 0
}

func (m *Machine) writeRTC(offset, v uint32) {
	r := &m.rtc
	switch offset {
	case 0x00:
		r.divider = v & 0xffff
	case 0x04, 0x08:
		r.setup[offset>>2-1] = v
	case 0x0c:
		was := r.ctrl & rtcEnable
		if r.ctrl = v & (rtcEnable | rtcNoLeap); v&rtcLoad != 0 {
			r.now = dateOf(r.setup[0], r.setup[1])
		}
		if r.ctrl&rtcEnable != was {
			r.retime(m, m.Now())
		}
	case 0x10:
		r.alarm[0] = v &^ (1 << 29)
	case 0x14:
		r.alarm[1] = v
	case 0x24:
		r.mask = v & 1
	case 0x28:
		r.force = v & 1
	}
	r.request(m)
}
