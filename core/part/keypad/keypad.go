// Package keypad is a matrix of sixteen keys.
package keypad

import (
	"fmt"
	"strings"

	"hemble/core/part"
	"hemble/core/part/contact"
	"hemble/core/spec"
)

const size = 4

// usual is what stands on the keys, row by row.
const usual = "1 2 3 A 4 5 6 B 7 8 9 C * 0 # D"

func init() {
	var pins []spec.Key
	for _, line := range []string{"row", "column"} {
		for i := 1; i <= size; i++ {
			pins = append(pins,
				spec.Key{Name: fmt.Sprintf("%s%d", line, i),
					Doc: fmt.Sprintf("%s %d, counted from the top left", line, i)})
		}
	}
	part.Register(&part.Kind{
		Name:     "keypad",
		Also:     []string{"keyboard", "key-matrix"},
		Title:    "4×4 keypad",
		Function: "key matrix",
		Doc:      "Sixteen keys, each of which joins its row to its column while pressed. There are no diodes, so three keys at once can look like a fourth. Each key bounces like a button.",
		Source:   "the usual 8-pin membrane keypad; " + contact.Source,
		Settings: []spec.Field{contact.Bounce,
			{Name: "keys", Kind: spec.Text, Default: usual, Doc: "what the keys are called, row by row"}},
		Pins:    pins,
		Cues:    []string{part.Press, part.Hold, part.Release},
		Example: "keys: {part: keypad, pins: {row1: <1>, row2: <2>, row3: <3>, row4: <4>, column1: <5>, column2: <6>, column3: <7>, column4: <8>}}",
		Check: func(b part.Instance) (out []spec.Problem) {
			names := map[string]bool{}
			for _, k := range keysOf(b) {
				names[k] = true
			}
			if len(keysOf(b)) != size*size || len(names) != size*size {
				out = append(out,
					spec.Problem{Text: fmt.Sprintf("`keys`: expected sixteen different keys, such as %s", usual)})
			}
			return out
		},
		CheckCue: func(b part.Instance, c part.Cue) error {
			_, err := keyOf(b, c)
			return err
		},
		Controls: func(b part.Instance) (out []part.Control) {
			for _, k := range keysOf(b) {
				out = append(out, part.PressControls(k, k)[0])
			}
			return out
		},
		New: func(b part.Instance, w part.Host) part.Part {
			k := &keypad{world: w, built: b}
			for i := range k.contacts {
				k.contacts[i] = contact.New(w, i/size, size+i%size, i, b.Settings)
			}
			return k
		},
	})
}

func keysOf(b part.Instance) []string { return strings.Fields(b.Settings.Text("keys")) }

func keyOf(b part.Instance, c part.Cue) (int, error) {
	for i, k := range keysOf(b) {
		if k == c.Key {
			return i, nil
		}
	}
	return 0, fmt.Errorf("which key? `key:` is one of %s", b.Settings.Text("keys"))
}

type keypad struct {
	world    part.Host
	built    part.Instance
	contacts [size * size]*contact.Contact
}

// Changed does nothing: a contact is the same whatever its nets are at.
func (k *keypad) Changed(uint64) {}

// State is always the same while nobody works the part.
func (*keypad) State() any { return struct{}{} }

// Cue presses a key or lets it go.
func (k *keypad) Cue(c part.Cue) error {
	i, err := keyOf(k.built, c)
	if err != nil {
		return err
	}
	k.contacts[i].Move(c.Verb != part.Release)
	if c.Verb == part.Press {
		k.world.After(len(k.contacts)+i, c.For)
	}
	return nil
}

// Wake continues with a bounce, or lets a key go.
func (k *keypad) Wake(timer int) {
	if timer < len(k.contacts) {
		k.contacts[timer].Wake()
	} else {
		k.contacts[timer-len(k.contacts)].Move(false)
	}
}
