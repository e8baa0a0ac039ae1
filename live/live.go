// Package live is a bench that is worked by hand, in slices of simulated time: what its displays show now, what its
// parts can be made to do, and at its end the reel. The console runs it in the page, as WebAssembly.
package live

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"hemble/core/bench"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/reel"
)

// Longest is how long a live bench runs.
const Longest = 24 * 60 * clock.Minute

// Control is something that a person can do to a part.
type Control struct {
	Part   string   `json:"part"`
	Label  string   `json:"label"`            // within the part; empty where it has one control
	Key    string   `json:"key"`              // of the keyboard; empty where none is left
	Verb   string   `json:"verb"`             // hold (and release), turn, set, type
	Of     string   `json:"of,omitempty"`     // which key of a keypad
	By     int64    `json:"by,omitempty"`     // detents of a turn
	For    int64    `json:"for,omitempty"`    // of a turn, in the unit of clock.Time
	Values []string `json:"values,omitempty"` // to set it to
	At     int      `json:"at"`               // which of them it is at
}

// Description is what a page needs to draw a bench.
type Description struct {
	Title    string          `json:"title"`
	Displays []display.Track `json:"displays"`
	Controls []Control       `json:"controls"`
}

// Session is one bench, from power-on.
type Session struct {
	Description
	bench *bench.Bench
	chip  *machine.Chip // nil for none
	probe *Probe        // nil for none
}

// Image reads a firmware for an exercise's chip; nil for a bench without one. An error says what it is not.
func Image(x *exercise.Exercise, file []byte) (*firmware.Image, error) {
	if x.Chip == nil {
		return nil, nil
	}
	return firmware.Read(file, x.Chip.Firmware)
}

// Read reads an exercise for the chip that a firmware is for, with a student's own wiring where there is one; its
// trials need no expectations. An error has its first problem.
func Read(text, wiring, file []byte) (*exercise.Exercise, error) {
	x, problems := exercise.Reader{File: "exercise.yaml", Draft: true}.Read(text)
	if x != nil {
		x = x.For(file)
	}
	if x != nil && len(wiring) > 0 {
		x, problems = x.Rewire("wiring.yaml", wiring)
	}
	if x == nil {
		return nil, fmt.Errorf("%v", problems[0])
	}
	return x, nil
}

// Way is what becomes of a trial's cues.
type Way string

// The ways.
const (
	ByHand Way = "hand"   // they are left out
	AsCued Way = "cues"   // they are carried out, and nothing else
	Handed Way = "handed" // they are carried out until hands go on
)

// Begin powers a bench on, with the seed of a trial; with a probe where one is wanted, which costs time.
func Begin(x *exercise.Exercise, trial int, im *firmware.Image, way Way, probed bool) (*Session, error) {
	if trial < 0 || trial >= len(x.Trials) {
		return nil, fmt.Errorf("the exercise has no trial %d", trial+1)
	}
	t := x.Trials[trial]
	switch way {
	case AsCued:
	case Handed:
		t.Length = Longest
	default:
		t.Length, t.Cues = Longest, nil
	}
	var probe *Probe
	var o bench.Options
	if probed {
		probe = newProbe(x.Parts)
		o.Watcher = probe
	}
	b, err := bench.New(x, &t, im, o)
	if err != nil {
		return nil, err
	}
	return &Session{bench: b, chip: x.Chip, probe: probe,
		Description: Description{Title: x.Title, Displays: b.Live(), Controls: controls(x.Parts)}}, nil
}

// ByHand leaves out what is left of the trial's cues: hands go on from here.
func (s *Session) ByHand() { s.bench.ByHand() }

// Now is how far it has come.
func (s *Session) Now() clock.Time { return s.bench.Now() }

// Advance lets simulated time go by.
func (s *Session) Advance(ctx context.Context, until clock.Time) error {
	return s.bench.Advance(ctx, until)
}

// AdvanceToChange goes on to the next moment at which a net changes, or to a time; it needs a probe.
func (s *Session) AdvanceToChange(ctx context.Context, until clock.Time) error {
	if s.probe == nil {
		return errNoProbe
	}
	return s.bench.AdvanceToChange(ctx, until)
}

var errNoProbe = errors.New("no probe is at the bench")

// Scope gives all nets from one time to another, in so many columns; it needs a probe.
func (s *Session) Scope(from, to clock.Time, columns int) ([]Trace, error) {
	if s.probe == nil {
		return nil, errNoProbe
	}
	return s.probe.Scope(from, to, columns), nil
}

// Driven are the displays as they are driven now; it needs a probe.
func (s *Session) Driven() ([]Shown, error) {
	if s.probe == nil {
		return nil, errNoProbe
	}
	return shown(s.probe.Driven(s.Now())), nil
}

// Shown is what a display shows now: a frame, of a terminal its latest lines. What it is made of stands in the
// description.
type Shown struct {
	Display string          `json:"display"`
	Custom  [][8]uint8      `json:"custom,omitempty"` // as of a display.Track
	Frames  []display.Frame `json:"frames"`
}

func shown(tracks []display.Track) []Shown {
	out := []Shown{}
	for _, t := range tracks {
		out = append(out, Shown{t.Display, t.Custom, t.Frames})
	}
	return out
}

// Displays are as a person sees them now.
func (s *Session) Displays() []Shown { return shown(s.bench.Live()) }

// Sure are those that vision is sure of, somewhat later.
func (s *Session) Sure() []Shown { return shown(s.bench.Sure()) }

// Transmitted is how much Serial has to tell, in bytes.
func (s *Session) Transmitted() int { return s.bench.Transmitted() }

// Port is a serial port of the chip, and what it sent so far.
type Port struct {
	Name string `json:"name"`
	Text string `json:"text"`
}

// Serial is what the chip's serial ports sent so far, of those that sent something.
func (s *Session) Serial() []Port {
	out := []Port{}
	for i, text := range s.bench.Serial() {
		if text != "" {
			out = append(out, Port{s.chip.Serial[i].Name, text})
		}
	}
	return out
}

// Stop is why the program ended; "" while it runs.
func (s *Session) Stop() string {
	if stop := s.bench.Stop(); stop != nil {
		return stop.Text
	}
	return ""
}

// Do carries out what a control does, now. A release ends a hold; to is the value of a set, or the text that is typed.
func (s *Session) Do(number int, release bool, to string) error {
	if number < 0 || number >= len(s.Controls) {
		return fmt.Errorf("there is no control %d", number)
	}
	c := s.Controls[number]
	cue := part.Cue{Verb: c.Verb, Key: c.Of, By: c.By, For: clock.Time(c.For)}
	switch c.Verb {
	case part.Hold:
		if release {
			cue.Verb = part.Release
		}
	case part.Set:
		cue.To = to
	case part.Type:
		cue.Text = to
	}
	s.bench.Cue(exercise.Cue{At: s.bench.Now(), Part: c.Part, Cue: cue})
	return nil
}

// Reel ends the session.
func (s *Session) Reel() *reel.Reel { return s.bench.Finish() }

// Bound is a control of a part with its key.
type Bound struct {
	part.Control
	Part string
	Key  string // of the keyboard; empty where none is left
}

// Bind gives every control a key that is not reserved: the one that suits it, a letter of its part's name, any letter.
func Bind(parts []*part.Instance, reserved string) (out []Bound) {
	taken := map[string]bool{}
	for _, k := range reserved {
		taken[string(k)] = true
	}
	for _, b := range parts {
		if b.Kind.Controls == nil {
			continue
		}
		for _, c := range b.Kind.Controls(*b) {
			one := Bound{Control: c, Part: b.Name}
			for _, k := range strings.ToLower(c.Wish + b.Name + c.Label + "abcdefghijklmnopqrstuvwxyz") {
				key := string(k)
				if letter := k >= 'a' && k <= 'z'; !taken[key] &&
					(letter || c.Wish != "" && k > ' ' && strings.HasPrefix(c.Wish, key)) {
					taken[key], one.Key = true, key
					break
				}
			}
			out = append(out, one)
		}
	}
	return out
}

// controls are those of all parts, as a page takes them: there a contact is held as long as a finger holds it, so that
// none is needed that presses it for some time.
func controls(parts []*part.Instance) (out []Control) {
	out = []Control{}                 // a list in JSON, also where there is nothing to do
	pressed := map[[2]string]string{} // keys of contacts, by part and key
	for _, c := range Bind(parts, "") {
		if contact := [2]string{c.Part, c.Cue.Key}; c.Cue.Verb == part.Press {
			pressed[contact] = c.Key
			continue
		} else if key, ok := pressed[contact]; ok && c.Cue.Verb == part.Hold {
			c.Key, c.Label = key, strings.TrimSpace(strings.TrimPrefix(c.Label, "hold"))
		}
		out = append(out, Control{Part: c.Part, Label: c.Label, Key: c.Key, Verb: c.Cue.Verb, Of: c.Cue.Key,
			By:  c.Cue.By,
			For: int64(c.Cue.For), Values: c.Values, At: c.At})
	}
	return out
}
