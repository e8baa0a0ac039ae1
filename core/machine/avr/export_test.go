package avr

import (
	"slices"
	"testing"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// TranslateSoon has programs translated at once, while the test runs.
func TranslateSoon(t testing.TB) {
	after, warm, apart := hotAfter, warmAfter, aside
	hotAfter, warmAfter, aside = 500, 100, false
	t.Cleanup(func() { hotAfter, warmAfter, aside = after, warm, apart })
}

// Translated is how many instructions of a machine were carried out by translations.
func Translated(m machine.Machine) int64 { return m.(*Machine).heat.done }

// Asked is how many translations a machine has asked for.
func Asked(m machine.Machine) int { return m.(*Machine).heat.asked }

// Eager is a machine that is translated as a whole when a program is loaded.
type Eager struct{ *Machine }

func (e Eager) Load(im *firmware.Image) error {
	if err := e.Machine.Load(im); err != nil || e.config.Reference {
		return err
	}
	j := &job{}
	queue <- struct{}{}
	code, _ := e.hotCode(slices.Repeat([]seen{seenHere | seenIO}, len(e.code)))
	j.make(code)
	if j.ready.Load() {
		e.enter(j)
	}
	return nil
}
