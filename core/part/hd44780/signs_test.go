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

// Text that begins off the glass and runs on to it; what is written off it altogether is not seen, and no mistake.
func TestBeforeRow(t *testing.T) {
	written := func(text string) part.Taken {
		one := part.Taken{What: toText}
		for _, r := range text {
			one.Data = append(one.Data, int(r))
		}
		return one
	}
	for _, c := range []struct {
		name, before string
		address      uint8
		text, want   string
	}{
		{"on the first row", "", 0x00, "Level 102 cm", ""},
		{"on the second row", "", 0x40, "Level 102 cm", ""},
		{"before the second row", "", 0x22, "Level 102 cm",
			"board is sent text to address 0x22, which is off its glass: only the end of it is seen, in row 2, which begins at 0x40."},
		{"before the first row", "", 0x64, "Wherry Lock",
			"board is sent text to address 0x64, which is off its glass: only the end of it is seen, in row 1, which begins at 0x00."},
		{"off the glass altogether", "", 0x14, "Level", ""},
		{"spaces", "", 0x22, "      102 cm", ""},
		{"a picture that moves", describe(0x18), 0x22, "Level 102 cm", ""},
	} {
		log := []part.Taken{{What: c.before}, {What: describe(0x80 | c.address)}, written(c.text)}
		text, _ := beforeRow(part.Instance{Name: "board"}, log)
		assert.Equal(t, c.want, text, c.name)
		off := c.before == "" && c.text[0] != ' ' && c.address != 0x00 && c.address != 0x40
		assert.Equal(t, off, elsewhere.Told(part.Instance{Name: "board"}, log), c.name)
	}
}
