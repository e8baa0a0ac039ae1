// Package reel is the record of what the displays of a bench showed, as a person would have seen
// it: a track of frames for each display, with how each display is drawn.
package reel

import (
	"sort"

	"hemble/core/clock"
	"hemble/core/machine"
)

// Reel is one run.
type Reel struct {
	Trial    string           `json:"trial"`
	Seed     uint64           `json:"seed"`
	Length   clock.Time       `json:"length"`
	Times    string           `json:"times,omitempty"` // the unit of all times: clock.Unit
	Tracks   []Track          `json:"tracks"`
	Cues     []Fired          `json:"cues,omitempty"`
	Stop     *machine.Stop    `json:"stop,omitempty"` // where the run ended before its length
	Notes    []machine.Note   `json:"notes,omitempty"`
	Counters machine.Counters `json:"counters"`
	Program  *Program         `json:"program,omitempty"`  // nil on a bench without a chip
	Serial   string           `json:"serial,omitempty"`   // what the USART sent, at most MaxSerial bytes
	Log      []Entry          `json:"log,omitempty"`      // what went over buses, at most MaxLog entries of each
	Unlogged int              `json:"unlogged,omitempty"` // how many entries came beyond those
}

// Program is what a firmware takes, in bytes; RAM is -1 where the file does not tell.
type Program struct {
	Flash int `json:"flash"`
	RAM   int `json:"ram"`
}

// MaxLog bounds the log of each part or bus, MaxData the bytes of one entry.
const (
	MaxLog  = 1000
	MaxData = 32
)

// Entry is one line of the log: what a part took from its bus.
type Entry struct {
	At   clock.Time `json:"at"`
	Part string     `json:"part"`
	What string     `json:"what"`
	Data []int      `json:"data,omitempty"` // bytes that belong to it
}

// MaxSerial bounds the terminal output that a reel keeps.
const MaxSerial = 64 << 10

// Fired is a cue as it happened.
type Fired struct {
	Name  string     `json:"name,omitempty"`
	Verb  string     `json:"verb"`
	Part  string     `json:"part"`
	Text  string     `json:"text"`          // what it did, in words
	To    string     `json:"to,omitempty"`  // the value, of set
	Key   string     `json:"key,omitempty"` // of a part with several
	Start clock.Time `json:"start"`
	End   clock.Time `json:"end"`
}

// Track is what one display showed.
type Track struct {
	Display string     `json:"display"`
	Kind    string     `json:"kind"`
	Look    Look       `json:"look"`
	Frames  []Frame    `json:"frames"`
	Custom  [][8]uint8 `json:"custom,omitempty"` // custom characters, named by Cells from CustomCell on
	Quality *Quality   `json:"quality,omitempty"`
	Of      []string   `json:"of,omitempty"` // of a group: the displays that it is made of
}

// Quality tells how well a scanned display was driven.
type Quality struct {
	Refresh  float64 `json:"refresh,omitempty"`  // of the scan in Hz, the mean over the run; 0 for none
	Evenness int     `json:"evenness,omitempty"` // the dimmest digit's brightness in percent of the brightest's, at worst
	Ghost    int     `json:"ghost,omitempty"`    // strength of ghosts in percent of the pattern they are the tail of
}

// Frame is a stable sight with its start and end; From and To are those of the edges that caused
// it. At is the program point of the edge that completed it.
type Frame struct {
	From  clock.Time     `json:"from"`
	To    clock.Time     `json:"to"`
	Text  string         `json:"text"` // what it shows, in words
	Sight Sight          `json:"sight"`
	At    *machine.Place `json:"at,omitempty"`

	Stages []Stage `json:"stages,omitempty"` // of a terminal's line: what it read when it paused, in order
}

// Stage is what a line read until a time, since the stage before or since it began.
type Stage struct {
	To   clock.Time `json:"to"`
	Line string     `json:"line"`
}

// Length is how long the frame lasted.
func (f Frame) Length() clock.Time { return f.To - f.From }

// State is what one light is to the eye.
type State uint8

// The states of a light: dark, lit, or visible without counting as lit.
const (
	Dark State = iota
	Lit
	Dim
)

// Sight is what one display shows. A display of lights has Lights and Levels, one of characters
// has Cells, a graphic one Pixels and one level, a sounder its Pitch, a terminal its Line.
type Sight struct {
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
type Lights []State

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
		(*l)[i] = State(c-'0') & 3
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
// Custom; one that is expected may have NamedCell and an index into Grid.Characters. WashedOut marks a character that was rewritten too often to settle.
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

// At gives the frame that was there at a time, nil before the first.
func (t *Track) At(at clock.Time) *Frame {
	i := sort.Search(len(t.Frames), func(i int) bool { return t.Frames[i].From > at })
	if i == 0 {
		return nil
	}
	return &t.Frames[i-1]
}
