package part

import "strconv"

// Control is something that a person does with a part by hand: carries out a cue, or steps through the values
// of one.
type Control struct {
	Label  string
	Wish   string   // the keyboard's key that suits it best; may be empty
	Cue    Cue      // for Hold: let go again by the same key
	Values []string // of a cue Set: what it can be set to, in order ...
	At     int      // ... and which of them it is at power-on
}

// tap is how long a person presses, turns by one detent.
const (
	tap    = 150e9
	detent = 40e9
)

// PressControls are those of a push contact; key is empty for a part with one.
func PressControls(name, key string) []Control {
	return []Control{
		{Label: "press " + name, Wish: key, Cue: Cue{Verb: Press, For: tap, Key: key}},
		{Label: "hold " + name, Wish: "h", Cue: Cue{Verb: Hold, Key: key}},
	}
}

// TurnControls are those of a shaft.
func TurnControls() []Control {
	return []Control{
		{Label: "turn right", Wish: ".", Cue: Cue{Verb: Turn, By: 1, For: detent}},
		{Label: "turn left", Wish: ",", Cue: Cue{Verb: Turn, By: -1, For: detent}},
	}
}

// Scale is a control that steps through whole numbers with a unit, from one to another, beginning at the one
// next to start.
func Scale(label string, from, to, step, start int, write func(int) string) Control {
	c := Control{Label: label, Cue: Cue{Verb: Set}}
	for v := from; v <= to; v += step {
		if v <= start {
			c.At = len(c.Values)
		}
		c.Values = append(c.Values, write(v))
	}
	return c
}

// Unit writes a number and its unit.
func Unit(unit string) func(int) string {
	return func(v int) string { return strconv.Itoa(v) + unit }
}
