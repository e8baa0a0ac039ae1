package max7219

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/spec"
)

// What a log of registers tells, and that one of a program that is right tells nothing.
func TestSigns(t *testing.T) {
	type write struct {
		register uint16
		data     int
	}
	right := []write{{regScan, 3}, {regDecode, 0xff}, {regShutdown, 1}, {1, 4}, {2, 15}, {3, 7}, {8, 15}}
	patterns := []write{{regScan, 7}, {regDecode, 0}, {regShutdown, 1}, {1, 0x7e}, {2, 0x30}, {3, 0}}
	for _, c := range []struct {
		name string
		log  []write
		want finding.Code
	}{
		{"numbers", right, ""},
		{"patterns", patterns, ""},
		{"never out of shutdown", []write{{regScan, 7}, {regShutdown, 0}, {1, 4}}, "shutdown"},
		{"reset value of shutdown", []write{{regScan, 7}, {regDecode, 0xff}, {1, 4}}, "shutdown"},
		{"nothing sent", nil, ""},
		{"from the other end", []write{{regScan, 0xe0}, {regShutdown, 0x80}, {1, 4}}, "bit-order"},
		{"two digits of three", append([]write{{regScan, 1}}, right[1:]...), "scan-limit"},
		{"patterns decoded",
			append([]write{{regDecode, 0xff}}, append(patterns[2:], write{4, 0x6d}, write{regScan, 7})...),
			"decode-mode"},
		{"numbers as patterns", []write{{regScan, 7}, {regShutdown, 1}, {1, 4}, {2, 5}, {3, 6}, {4, 7}}, "decode-mode"},
		{"eight bits at a time", []write{{0, 8}, {1, 4}, {0, 8}, {4, 7}}, "clocks-too-few"},
		{"once too soon", append([]write{{0, 8}}, right...), ""},
	} {
		var log []part.Taken
		for i, w := range c.log {
			what := "register " + names[w.register]
			if w.register == 0 {
				what = shortWord
			}
			log = append(log, part.Taken{At: clock.Time(i), What: what, Data: []int{w.data}})
		}
		kind := part.Find("max7219")
		found := finding.Code("")
		for _, s := range kind.Signs {
			if text, _ := s.Find(part.Instance{Name: "desk", Kind: kind, Settings: spec.Values{}}, log); text != "" &&
				found == "" {
				found = s.Code
			}
		}
		assert.Equal(t, c.want, found, c.name)
	}
}
