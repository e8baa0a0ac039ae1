package source

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// Numbers that a compiler made, or that stand for addresses, are hardly what is wrong.
func TestWeigh(t *testing.T) {
	text := "#define LAST 60\nconst int LIMIT = 30;\nenum mode { SHUT, DRIPS = 4, RUNS };\n" +
		"if (n > 9) line(0x40, \"peas\");\n" + // 4
		"n = LAST;\n" + // 5
		"mode = RUNS;\n" + // 6
		"PORTB |= 1 << PB3;\n" + // 7
		"x = 8 * 1023L;\n" + // 8
		"key = '5';\n" + // 9
		"show(\n\tLIMIT,\n\t7);\n" + // 10
		"left--;\n" // 13
	for _, c := range []struct {
		line     int
		number   int64
		unlikely bool
	}{
		{4, 9, false}, {4, 10, false}, {4, 64, false}, {4, 0x0110, true}, {5, 60, false}, {5, 61, false},
		{5, 271, true}, {6, 5, false}, {6, 9, true}, {7, 8, false}, {7, 0xf7, false}, {8, 8184, false},
		{9, 53, false}, {10, 30, false}, {10, 7, false}, {10, 12, true}, {13, 1, true}, {13, -1, true},
		{13, 14, true}, {99, 14, false},
	} {
		list := []machine.Alteration{{Line: firmware.Line{File: "gate.c", Line: c.line}, From: c.number}}
		(&built{}).program(text).Weigh(list)
		assert.Equal(t, c.unlikely, list[0].Rare == machine.Unlikely, "%d: %d", c.line, c.number)
	}
	other := []machine.Alteration{
		{Line: firmware.Line{File: "gate.c", Line: 5}, From: 7, Slip: machine.Sign},
		{Line: firmware.Line{File: "elsewhere.c", Line: 5}, From: 7},
		{From: 7, Table: "levels"},
	}
	(&built{}).program(text).Weigh(other)
	for _, a := range other {
		assert.Zero(t, a.Rare)
	}
}

// A number that a compiler took elsewhere is told where the author wrote it, if that is one place alone.
func TestWeighMoved(t *testing.T) {
	text := "#define LONG 4000\n#define BIT 0x20\n" +
		"right = row[n];\n" + // 3
		"judge(down >= LONG);\nwait(250);\nwait(250);\nleft = 5;\n"
	for _, c := range []struct{ number, line, rare int }{
		{4000, 1, 0}, {250, 3, machine.Unlikely}, {32, 3, machine.Unlikely}, {5, 3, machine.Unlikely},
		{4001, 3, machine.Unlikely},
	} {
		list := []machine.Alteration{{Line: firmware.Line{File: "lock.c", Line: 3}, From: int64(c.number)}}
		p := &Program{Files: map[string]string{"src/lock.c": text}}
		p.Weigh(list)
		assert.Equal(t, firmware.Line{File: "lock.c", Line: c.line}, list[0].Line, "%d", c.number)
		assert.Equal(t, c.rare, list[0].Rare, "%d", c.number)
	}
}

// A text that is made to take long is weighed as quickly as others, or not at all.
func TestWeighBounds(t *testing.T) {
	for _, word := range []string{"enum ", "enum {", "#define X ", "x = ", "for (", "(", "{", "f() {"} {
		text := strings.Repeat(word, (mostText-100)/len(word))
		lines := strings.Repeat(word+"\n", (mostText-100)/(len(word)+1))
		for _, of := range []string{text, lines} {
			list := make([]machine.Alteration, 1000)
			for i := range list {
				list[i] = machine.Alteration{Line: firmware.Line{File: "gate.c", Line: i + 1}, From: 7}
			}
			p := (&built{}).program(of)
			require.NotEmpty(t, p.listers())
			p.Weigh(list)
			p.Alterations(t.Context(), &firmware.Image{}, machine.Hints{})
		}
	}
	list := []machine.Alteration{{Line: firmware.Line{File: "gate.c", Line: 1}, From: 7}}
	(&built{}).program(strings.Repeat("x = 6; ", mostText)).Weigh(list)
	assert.Zero(t, list[0].Rare, "nobody looks at so much")
}

// Any text is weighed, and nothing but how likely a change is becomes another, or the line that it is on.
func FuzzWeigh(f *testing.F) {
	f.Add("enum { A, B = 0x7f, } x; #define Y (A + 3)\nPORTB = ~(1 << Y);", 2, int64(8))
	f.Add("enum {{{ = '\\'' 09 9999999999999999999 #define\n#define X", 1, int64(-1))
	f.Fuzz(func(t *testing.T, text string, line int, number int64) {
		list := []machine.Alteration{{Line: firmware.Line{File: "gate.c", Line: line}, From: number}}
		(&built{}).program(text).Weigh(list)
		assert.Contains(t, []int{0, machine.Unlikely}, list[0].Rare)
		if at := list[0].Line; at.Line != line {
			assert.Equal(t, firmware.Line{File: "gate.c", Line: at.Line}, at)
			assert.Zero(t, list[0].Rare)
			assert.LessOrEqual(t, at.Line, 1+strings.Count(text, "\n"))
			list[0].Line.Line = line
		}
		list[0].Rare = 0
		assert.Equal(t, []machine.Alteration{{Line: firmware.Line{File: "gate.c", Line: line}, From: number}}, list)
	})
}
