package exercise_test

import (
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/exercise"
)

var block = regexp.MustCompile("(?s)```yaml\n(.*?)```")

// What the guide shows reads: whole files as they are, expectations and benches within a file that has their displays.
func TestGuide(t *testing.T) {
	guide, err := os.ReadFile("../../docs/exercise-guide.md")
	require.NoError(t, err)
	const around = `hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench:
  board: {part: lcd, pins: {rs: PB0, rw: GND, e: PB1, d4: PD4, d5: PD5, d6: PD6, d7: PD7}}
  count: {part: seven-segment, digits: 4, common: cathode, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PD2, digit1: PB2, digit2: PB3, digit3: PB4, digit4: PB5}}
  gauge: {part: seven-segment, common: cathode, pins: {a: n1, b: n2, c: n3, d: n4, e: n5, f: n6, g: n7, common: GND}}
  log: {part: terminal, pins: {rx: PD1, tx: PD0}}
`
	seen := map[string]int{}
	blocks := block.FindAllStringSubmatch(string(guide), -1)
	for i, m := range blocks {
		text := m[1]
		switch {
		case strings.HasPrefix(text, "hemble:"): // it goes on in a later block
			seen["files"]++
			k := slices.IndexFunc(blocks[i:], func(b []string) bool { return strings.HasPrefix(b[1], "trials:") })
			require.GreaterOrEqual(t, k, 0)
			text += blocks[i+k][1]
		case strings.HasPrefix(text, "      - {"):
			seen["expectations"]++
			text = around + "trials:\n  - name: x\n    length: 9s\n    expect:\n" + text
		case strings.HasPrefix(text, "vary:"):
			seen["values"]++
			text = around + text
		case strings.HasPrefix(text, "bench:"):
			seen["benches"]++
			text = "hemble: 1\nname: x\ntitle: x\nchip: {is: atmega328p}\n" + text + "trials: [{name: x, length: 1s}]\n"
		default:
			continue
		}
		r := exercise.Reader{File: "x", Draft: strings.Contains(text, "length: 1s}"),
			Open: func(string) ([]byte, error) { return []byte(shared), nil }}
		x, problems := r.Read([]byte(text))
		assert.NotNil(t, x, "%v\n%s", problems, text)
	}
	for _, kind := range []string{"files", "expectations", "values", "benches"} {
		assert.Positive(t, seen[kind], kind)
	}
}
