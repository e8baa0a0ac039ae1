package exercise_test

import (
	"errors"
	"fmt"
	"io/fs"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/exercise"
)

const shared = `# of the gate
green: {part: lamp, pins: {anode: PB1, cathode: GND}}
raise:
  part: button
  pins: {1: PD7, 2: GND}
`

// including is an exercise whose bench has what is given.
func including(bench string) string {
	return fmt.Sprintf(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench:
%s
trials: # two seconds
  - {name: one, length: 2s, cues: [{at: 1s, press: raise}], expect: [{reads: green, text: on, at: end}]}
`, bench)
}

func reader(files map[string]string) exercise.Reader {
	return exercise.Reader{File: "gate/exercise.yaml", Open: func(name string) ([]byte, error) {
		if text, ok := files[name]; ok {
			return []byte(text), nil
		}
		return nil, fs.ErrNotExist
	}}
}

// A bench takes parts from a file that others share, and reads as if they stood there; flattened it is alone.
func TestInclude(t *testing.T) {
	files := map[string]string{"../gate.yaml": shared,
		"red.yaml": "red: {part: lamp, pins: {anode: PB0, cathode: GND}}\n"}
	for _, bench := range []string{
		"  include: ../gate.yaml # shared\n  red: {part: lamp, pins: {anode: PB0, cathode: GND}}",
		"  red: {part: lamp, pins: {anode: PB0, cathode: GND}}\n  include: [../gate.yaml]",
		"  include:\n    - ../gate.yaml\n    - red.yaml",
	} {
		text := []byte(including(bench))
		x, problems := reader(files).Read(text)
		require.NotNil(t, x, "%v", problems)
		var names []string
		for _, p := range x.Parts {
			names = append(names, p.Name)
		}
		assert.ElementsMatch(t, []string{"red", "green", "raise"}, names)
		flat, err := exercise.Flatten(text, reader(files).Open)
		require.NoError(t, err)
		assert.NotContains(t, string(flat), "include")
		assert.Contains(t, string(flat), "  # of the gate\n  green: {")
		assert.Contains(t, string(flat), "trials: # two seconds\n")
		alone, problems := exercise.Read("x", flat)
		require.NotNil(t, alone, "%v\n%s", problems, flat)
		assert.Len(t, alone.Parts, 3)
		assert.NotEqual(t, x.Hash, alone.Hash)
		other, _ := reader(map[string]string{"../gate.yaml": strings.Replace(shared, "PB1", "PB2", 1),
			"red.yaml": files["red.yaml"]}).Read(text)
		require.NotNil(t, other)
		assert.NotEqual(t, x.Hash, other.Hash, "what is included tells exercises apart")
		again, problems := x.Again(text)
		require.NotNil(t, again, "%v", problems)
	}
	plain := []byte(including("  green: {part: lamp, pins: {anode: PB1, cathode: GND}}\n  raise: {part: button, pins: {1: PD7, 2: GND}}"))
	flat, err := exercise.Flatten(plain, nil)
	require.NoError(t, err)
	assert.Equal(t, string(plain), string(flat))
}

// What is wrong is told in the file that it is in.
func TestIncludeWrong(t *testing.T) {
	for _, c := range []struct {
		bench, file, want string
	}{
		{"  include: ../gate.yaml", "green: {part: lmap, pins: {}}\n",
			`gate.yaml:1:15: no kind of part is called "lmap"`},
		{"  include: ../gate.yaml\n  green: {part: lamp, pins: {anode: PB0, cathode: GND}}", shared,
			"gate/exercise.yaml:7:3: two parts are called \"green\""},
		{"  include: gone.yaml", shared, "gate/exercise.yaml:6:12: gone.yaml cannot be included: file does not exist"},
		{"  include: ../gate.yaml", "- a\n", "expected a mapping of parts"},
		{"  include: ../gate.yaml", "a: [", "cannot be included: line 1"},
		{"  include: ../gate.yaml", "include: other.yaml\n", "gate.yaml:1:1: an included file includes no others"},
		{"  include: /etc/passwd", shared, "include names a file by its path from this one"},
		{"  include: {a: b}", shared, "include names a file"},
		{"  include: [" + strings.Repeat("../gate.yaml, ", 9) + "]", "", "at most 8 files"},
		{"  include: ../gate.yaml", strings.Repeat("#", 1<<20+1), "bytes"},
	} {
		x, problems := reader(map[string]string{"../gate.yaml": c.file}).Read([]byte(including(c.bench)))
		assert.Nil(t, x, c.bench)
		var all []error
		for _, p := range problems {
			all = append(all, p)
		}
		assert.ErrorContains(t, errors.Join(all...), c.want)
	}
	_, problems := exercise.Read("x", []byte(including("  include: ../gate.yaml")))
	assert.ErrorContains(t, exercise.Error(problems), "there is this text alone")
	_, err := exercise.Flatten([]byte(including("  {include: ../gate.yaml}")), reader(nil).Open)
	assert.Error(t, err)
}

// Whatever is included: what reads with it reads as well when it is alone, with as many parts.
func FuzzInclude(f *testing.F) {
	f.Add(including("  include: ../gate.yaml # shared\n  red: {part: lamp, pins: {anode: PB0, cathode: GND}}"), shared)
	f.Add(including("  include:\n    - a\n    - b\n"), "green: {part: lamp, pins: {anode: PB1, cathode: GND}}\n")
	f.Fuzz(func(t *testing.T, text, part string) {
		open := func(string) ([]byte, error) { return []byte(part), nil }
		x, problems := exercise.Reader{File: "x", Open: open}.Read([]byte(text))
		if x == nil {
			if exercise.Error(problems) == nil {
				t.Fatal("refused without a reason")
			}
			return
		}
		flat, err := exercise.Flatten([]byte(text), open)
		if err != nil {
			return
		}
		alone, problems := exercise.Read("x", flat)
		if alone == nil || len(alone.Parts) != len(x.Parts) {
			t.Fatalf("%v\n%s", problems, flat)
		}
	})
}
