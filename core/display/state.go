package display

import (
	"bytes"
	"slices"
)

// Light is what one light is to vision.
type Light uint8

// The states of a light: dark, lit, or visible without counting as lit.
const (
	Dark Light = iota
	Lit
	Dim
)

// State is what one display shows. A display of lights has Lights and Levels, one of characters
// has Cells, a graphic one Pixels and one level, a sounder its Pitch, a terminal its Line.
type State struct {
	Lights  Lights  `json:"lights,omitempty"`
	Levels  []int   `json:"levels,omitempty"` // brightness, 255 at nominal current
	Cells   []Cell  `json:"cells,omitempty"`  // row by row
	Pixels  []byte  `json:"pixels,omitempty"` // pages of eight rows, a byte for each column, bit 0 on top
	Pitch   int     `json:"pitch,omitempty"`  // of a sound in Hz
	Line    string  `json:"line,omitempty"`   // of a terminal
	Cursor  *Cursor `json:"cursor,omitempty"`
	Uneven  bool    `json:"uneven,omitempty"`  // some digit is less than half as bright as another
	Flicker bool    `json:"flicker,omitempty"` // steady, but at 16 to 40 Hz
}

// Lights holds a state for each light; in JSON one digit each.
type Lights []Light

// MarshalText writes one digit a light.
func (l Lights) MarshalText() ([]byte, error) {
	out := make([]byte, len(l))
	for i, s := range l {
		out[i] = '0' + byte(s)
	}
	return out, nil
}

// UnmarshalText reads what MarshalText wrote.
func (l *Lights) UnmarshalText(text []byte) error {
	*l = make(Lights, len(text))
	for i, c := range text {
		(*l)[i] = Light(c-'0') & 3
	}
	return nil
}

// Bits gives the lit lights as a bit set, light 0 in bit 0.
func (l Lights) Bits() (b uint64) {
	for i, s := range l {
		if s == Lit {
			b |= 1 << i
		}
	}
	return b
}

// Cell is one character of a display: a code of its ROM, or CustomCell and an index into the track's
// Custom; one that is expected may have NamedCell and an index into Grid.Characters. WashedOut marks a character that
// was rewritten too often to settle.
type Cell uint16

// The ranges of a Cell.
const (
	CustomCell Cell = 0x100
	NamedCell  Cell = 0x4000 // an expected custom character, by its index in the characters of the display's Grid
	AnyCustom  Cell = 0x7fff // an expected custom character, whatever its dots
	WashedOut  Cell = 0x8000
)

// Cursor is where a character display shows its cursor.
type Cursor struct {
	Cell  int  `json:"cell"`
	Block bool `json:"block"` // blinking block; else an underline
}

// Same reports whether two states are the same, to the last bit.
func (s *State) Same(o *State) bool {
	return slices.Equal(s.Lights, o.Lights) && slices.Equal(s.Levels, o.Levels) && slices.Equal(s.Cells, o.Cells) &&
		bytes.Equal(s.Pixels, o.Pixels) && s.Pitch == o.Pitch && s.Line == o.Line && s.Uneven == o.Uneven &&
		s.Flicker == o.Flicker && (s.Cursor == o.Cursor || s.Cursor != nil && o.Cursor != nil && *s.Cursor == *o.Cursor)
}

// Blank reports whether a state shows nothing at all: what is dim counts as dark.
func (s State) Blank() bool {
	for _, c := range s.Cells {
		if c&^WashedOut != ' ' {
			return false
		}
	}
	return s.Lights.Bits() == 0 && s.Pitch == 0 && s.Line == "" && !slices.ContainsFunc(s.Pixels,
		func(b byte) bool { return b != 0 })
}

// Relit is a state with other lights; their levels follow.
func (s State) Relit(change func(Lights)) State {
	was := s.Lights
	s.Lights, s.Levels = slices.Clone(s.Lights), slices.Clone(s.Levels)
	change(s.Lights)
	for i, l := range s.Lights {
		if l != was[i] && i < len(s.Levels) {
			if s.Levels[i] = 0; l == Lit {
				s.Levels[i] = 255
			}
		}
	}
	return s
}

// Emissive is the state of n lights that are fully lit, those of a bit set, or dark.
func Emissive(pattern uint64, n int) State {
	s := State{Lights: make(Lights, n), Levels: make([]int, n)}
	for i := range s.Lights {
		if pattern>>i&1 == 1 {
			s.Lights[i], s.Levels[i] = Lit, 255
		}
	}
	return s
}

// Flip is the other of lit and dark.
func (l Light) Flip() Light {
	if l == Lit {
		return Dark
	}
	return Lit
}

// Unlit reports whether nothing shines, not even dimly, and nothing sounds. What shows text or pictures is never unlit.
func (s State) Unlit() bool {
	for _, l := range s.Lights {
		if l != Dark {
			return false
		}
	}
	return s.Lights != nil || s.Pitch == 0 && s.Cells == nil && s.Line == "" && s.Pixels == nil
}
