package hd44780

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/part"
)

// What the instructions tell, where it is text that is sent.
func TestSigns(t *testing.T) {
	text := func(control, mode string, more ...string) (out []string) {
		return append(append([]string{"function set: 4 bits, two lines", control, "clear display", mode}, more...), "A", "B", "C")
	}
	for _, c := range []struct {
		name string
		log  []string
		want finding.Code
	}{
		{"right", text("display on", describe(0x06)), ""},
		{"to the left", text("display on", describe(0x04)), "entry-mode"},
		{"the picture moves", text("display on", describe(0x07)), "entry-mode"},
		{"clearing sets it back", text("display on", describe(0x04), "clear display"), ""},
		{"off", text(describe(0x08), describe(0x06)), "not-shown"},
		{"off at first", append([]string{describe(0x08)}, text("display on", describe(0x06))...), ""},
		{"over wrong wires", []string{describe(0x04), describe(0x08), "\x01", "\x02", "A"}, ""},
		{"nothing sent", nil, ""},
	} {
		var log []part.Taken
		for i, what := range c.log {
			one := part.Taken{At: clock.Time(i), What: what}
			if len(what) == 1 {
				one.What, one.Data = toText, []int{int(what[0])}
			}
			log = append(log, one)
		}
		found := finding.Code("")
		for _, s := range part.Find("lcd").Signs {
			if text, _ := s.Find(part.Instance{Name: "board"}, log); text != "" {
				found = s.Code
			}
		}
		assert.Equal(t, c.want, found, c.name)
	}
}
