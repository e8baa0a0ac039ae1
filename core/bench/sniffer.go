package bench

import (
	"fmt"
	"strings"

	"hemble/core/circuit"
)

// sniffer reads a two-wire bus (UM10204, I²C-bus specification) and logs every transfer, answered or not.
type sniffer struct {
	sda, scl *node
	name     string
	high     [2]bool // SDA, SCL before
	active   bool    // between a START and a STOP
	bits     int
	shift    uint8
	first    bool // the byte is the address
	entry    int  // of the log, -1 for none
}

// sniff listens to the bus of a part, once for each pair of nets.
func (b *Bench) sniff(f *instance) {
	k := f.of.Kind
	if k.Bus[0] == "" {
		return
	}
	sda, scl := f.terminals[k.Terminal(k.Bus[0])], f.terminals[k.Terminal(k.Bus[1])]
	if sda == nil || scl == nil || sda == scl {
		return
	}
	for _, s := range b.buses {
		if s.sda == sda && s.scl == scl {
			return
		}
	}
	s := &sniffer{sda: sda, scl: scl, name: "two-wire " + sda.Name + "/" + scl.Name}
	b.buses = append(b.buses, s)
	sda.sniffers = append(sda.sniffers, s)
	scl.sniffers = append(scl.sniffers, s)
}

// changed looks at the lines.
func (s *sniffer) changed(b *Bench) {
	now := [2]bool{s.sda.Drive.Level == circuit.High, s.scl.Drive.Level == circuit.High}
	was := s.high
	s.high = now
	switch {
	case was[1] && now[1] && was[0] && !now[0]:
		s.active, s.first, s.bits, s.shift = true, true, 0, 0
	case was[1] && now[1] && !was[0] && now[0]:
		s.active = false
	case s.active && !was[1] && now[1]:
		s.bit(b, now[0])
	}
}

func (s *sniffer) bit(b *Bench, high bool) {
	if s.bits++; s.bits <= 8 {
		s.shift <<= 1
		if high {
			s.shift |= 1
		}
		return
	}
	switch {
	case s.first:
		direction := "write to"
		if s.shift&1 != 0 {
			direction = "read from"
		}
		s.entry = b.log(b.now, s.name, fmt.Sprintf("%s 0x%02X", direction, s.shift>>1), nil)
	case s.entry >= 0 && !b.joins(s.entry, []byte{s.shift}):
		s.entry = b.log(b.now, s.name, b.reel.Log[s.entry].What, []byte{s.shift})
	case b.ear != nil:
		b.ear.Sent(b.now, s.name, "", []byte{s.shift})
	}
	if high && b.ear != nil {
		b.ear.Sent(b.now, s.name, "NACK", nil)
	}
	if high && s.entry >= 0 {
		if e := &b.reel.Log[s.entry]; s.first {
			e.What += ", not acknowledged"
			b.note(fmt.Sprintf("nobody-0x%02X", s.shift>>1),
				"no device on the two-wire bus at %s and %s answers address 0x%02X", s.sda.Name, s.scl.Name, s.shift>>1)
		} else if !strings.Contains(e.What, ",") {
			e.What += ", last byte not acknowledged"
		}
	}
	s.first, s.bits, s.shift = false, 0, 0
}
