// Package reel is the record of what the displays of a bench showed, as a person would have seen it: one track of
// frames per display, and how each display is drawn.
package reel

import (
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
	"hemble/core/part"
)

// Reel is one run.
type Reel struct {
	Trial    string           `json:"trial"`
	Seed     uint64           `json:"seed"`
	Length   clock.Time       `json:"length"`
	Times    string           `json:"times,omitempty"` // the unit of all times: clock.Unit
	Tracks   []display.Track  `json:"tracks"`
	Cues     []Fired          `json:"cues,omitempty"`
	Stop     *machine.Stop    `json:"stop,omitempty"` // where the run ended before its length
	Notes    []machine.Note   `json:"notes,omitempty"`
	Counters machine.Counters `json:"counters"`
	Program  *Program         `json:"program,omitempty"`  // nil on a bench without a chip
	Serial   string           `json:"serial,omitempty"`   // what the first serial port sent, at most MaxSerial bytes
	Log      []Entry          `json:"log,omitempty"`      // what went over buses, at most MaxLog entries of each
	Unlogged int              `json:"unlogged,omitempty"` // how many entries came beyond those
	Pins     Pins             `json:"-"`                  // how the chip's pins stood at the end
}

// Pins tell of the pins of a chip at the end of a run that are not what a bench would expect.
type Pins struct {
	Silent []string // wired to something, and no output
	Loose  []string // an output, and wired to nothing

	Down, Up []string // wired to something, and pulled by the chip
	Waiting  []string // pulled up by the chip, and wired to nothing
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

// Taken is what a part took from its bus.
func (r *Reel) Taken(name string) (out []part.Taken) {
	for _, e := range r.Log {
		if e.Part == name {
			out = append(out, part.Taken{At: e.At, What: e.What, Data: e.Data})
		}
	}
	return out
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

// Track finds a display's track.
func (r *Reel) Track(display string) *display.Track {
	for i := range r.Tracks {
		if r.Tracks[i].Display == display {
			return &r.Tracks[i]
		}
	}
	return nil
}
