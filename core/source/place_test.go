package source

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/script"
)

// Where a word is in the compiled program: its own line's instructions, or, for a definition, those that use its name.
func TestPlace(t *testing.T) {
	text := "#define CRATE 12\nint jars = 1;\nif (jars == CRATE)\n\tjars = 0;\nlost = 5;\nint unused = 7;\nint never[] = {8};\nnever = 9;\n"
	at := map[uint32]clock.Time{30: 5 * clock.Second, 32: 3 * clock.Second, 40: 8 * clock.Second}
	row := func(line int) firmware.Line { return firmware.Line{File: "gate.c", Line: line} }
	l := &lister{name: "src/gate.c", text: text, tokens: script.Tokens("gate.c", text),
		rows: rows{row(3): {30, 32}, row(4): {40}, row(5): {50}, row(8): {80}},
		hints: machine.Hints{Reached: func(address uint32) (clock.Time, bool) {
			when, ok := at[address]
			return when, ok
		}}}
	l.uses = usesOf([]*lister{l})
	of := func(word string) place {
		for i, token := range l.tokens {
			if token.Word == word {
				return l.place(i)
			}
		}
		t.Fatal(word)
		return place{}
	}
	assert.Equal(t, place{address: 32, reached: 3 * clock.Second}, of("if"), "the first of its instructions")
	assert.Equal(t, place{reached: 3 * clock.Second}, of("12"), "where CRATE is used")
	assert.Equal(t, place{reached: 8 * clock.Second}, of("1"), "where jars is used last")
	assert.True(t, of("5").never, "that line was not carried out")
	assert.Equal(t, place{}, of("7"), "nobody knows")
	assert.True(t, of("8").never, "nothing that uses it was carried out")
	l.hints.Reached = nil
	assert.Equal(t, place{address: 50}, of("5"), "nobody looked")
}
