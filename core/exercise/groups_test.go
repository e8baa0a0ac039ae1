package exercise_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/exercise"
)

// What cannot be a custom character is refused where it stands.
func TestBadCharacters(t *testing.T) {
	for characters, want := range map[string]string{
		`{"ab": ["#"]}`:                    "expected a single letter",
		`{"▢": ["#"]}`:                     "cannot name a character",
		`{"A": ["#"]}`:                     "a letter that displays have anyway",
		`{"▲": "#"}`:                       "a list of its rows",
		`{"▲": ["######"]}`:                "a row of a character has 5",
		`{"▲": ["x"]}`:                     `'x' is no dot`,
		`{"▲": []}`:                        "a character has 1 to 8",
		`{"▲": ["....."]}`:                 "has the same dots as",
		`{"▲": ["..#.."], "▼": ["..#.."]}`: "▼ and ▲ are the same",
		`{"▲": ["..#.."], "▲": ["..##."]}`: "▲ and ▲ are the same",
		`["▲"]`:                            "a mapping from a letter",
	} {
		_, problems := exercise.Read("x.yaml",
			[]byte("hemble: 1\nname: x\ntitle: x\nchip: {is: atmega328p}\ncharacters: "+characters+
				"\nbench: {board: {part: lcd-two-wire, size: 16x2, pins: {sda: PC4, scl: PC5}}}\ntrials: [{name: x, length: 1s, expect: [{steady: board}]}]\n"))
		if assert.NotEmpty(t, problems, characters) {
			assert.Contains(t, problems[0].Error(), want, characters)
			assert.Regexp(t, `^x\.yaml:5:`, problems[0].Error())
		}
	}
}
