package rp2040

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// Programs for this chip may say of themselves what they are: behind the second stage stands a header, two magic words
// around the addresses of the first and behind the last of a list of addresses, each of an entry.
const (
	saysBegin   = 0x7188_ebf2
	saysEnd     = 0xe71a_a390
	saysWithin  = 256 // bytes behind the second stage, in which the header begins
	saysTag     = 'R' | 'P'<<8
	saysEntries = 256
	saysText    = 80 // characters of a text
)

// Kinds of entries, and what the texts among them are.
const (
	saysString   = 6
	saysFunction = 8
	saysPins     = 9
	saysName     = 0x0203_1c86
	saysVersion  = 0x11a9_bc3a
)

// says reads what a program says of itself.
func says(im *firmware.Image) (s machine.Says) {
	m := file{im}
	for at := uint32(flashAt + secondStage); at < flashAt+secondStage+saysWithin; at += 4 {
		if m.word(at) != saysBegin || m.word(at+16) != saysEnd {
			continue
		}
		from, to := m.word(at+4), m.word(at+8)
		for n := 0; from < to && n < saysEntries; from, n = from+4, n+1 {
			m.entry(m.word(from), &s)
		}
		break
	}
	return s
}

// file reads words and texts of flash; where nothing was programmed it is as erased.
type file struct{ im *firmware.Image }

func (m file) word(at uint32) uint32 { return uint32(m.im.Word(at)) | uint32(m.im.Word(at+2))<<16 }

// text ends with a 0; what a terminal would take for more than a character is left out.
func (m file) text(at uint32) string {
	var out []byte
	for len(out) < 4*saysText {
		c := byte(m.im.Word(at&^1) >> (8 * (at & 1)))
		if c == 0 || c == 0xff {
			break
		}
		out = append(out, c)
		at++
	}
	text := strings.Map(func(c rune) rune {
		if c == utf8.RuneError || !unicode.IsPrint(c) {
			return -1
		}
		return c
	}, string(out))
	if r := []rune(text); len(r) > saysText {
		text = string(r[:saysText])
	}
	return strings.TrimSpace(text)
}

// entry adds what one says.
func (m file) entry(at uint32, s *machine.Says) {
	if at < flashAt || at >= flashAt+flashSize || m.word(at)>>16 != saysTag {
		return
	}
	v := m.word(at + 4)
	switch m.word(at) & 0xffff {
	case saysString: // of what, and where
		switch v {
		case saysName:
			s.Name = m.text(m.word(at + 8))
		case saysVersion:
			s.Version = m.text(m.word(at + 8))
		}
	case saysFunction:
		for _, pin := range functionPins(v) {
			if word := functionWord(v>>3&15, pin); word != "" {
				s.Pins = append(s.Pins, machine.PinSays{Pin: pin, Word: word})
			}
		}
	case saysPins: // a mask, and a text for all, or one for each between bars
		words := strings.Split(m.text(m.word(at+8)), "|")
		for i, n := machine.Pin(0), 0; i < gpios; i++ {
			if v>>i&1 == 1 {
				if word := strings.TrimSpace(words[min(n, len(words)-1)]); word != "" {
					s.Pins = append(s.Pins, machine.PinSays{Pin: i, Word: word})
				}
				n++
			}
		}
	}
}

// functionPins are those of an entry: from one to another, or up to five that are named.
func functionPins(v uint32) (out []machine.Pin) {
	first, second := machine.Pin(v>>7&31), machine.Pin(v>>12&31)
	if v&7 == 1 {
		for p := first; p <= min(second, gpios-1); p++ {
			out = append(out, p)
		}
		return out
	}
	for shift := 7; shift < 32; shift += 5 {
		p := machine.Pin(v >> shift & 31)
		if p >= gpios || len(out) > 0 && out[len(out)-1] == p { // the last one fills the rest
			break
		}
		out = append(out, p)
	}
	return out
}

// functionWord is what a function makes of a pin.
func functionWord(function uint32, pin machine.Pin) string {
	switch function {
	case functionSPI:
		return [4]string{"RX", "CS", "SCK", "TX"}[pin&3]
	case functionUART:
		return [4]string{"TX", "RX", "CTS", "RTS"}[pin&3]
	case functionI2C:
		return [2]string{"SDA", "SCL"}[pin&1]
	}
	return ""
}
