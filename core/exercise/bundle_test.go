package exercise_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/exercise"
)

const secretive = `
hemble: 1
name: gate-lamp
title: Gate lamp
brief: On for ${time} ms.
# a comment that says the SECRET
chip: {is: atmega328p}
takes: [firmware]
vary:
  time: [200, 300, 4321]
bench: {lamp: &lamp {part: lamp, pins: {anode: PB5, cathode: GND}}, go: {part: button, pins: {1: PC0, 2: GND}}}
deductions: [{finding: floating, marks: 1}]
by-hand: [{what: style SECRET, marks: 2, notes: SECRET}]
trials:
  - name: seen
    length: 2s
    seed: 77
    notes: SECRET
    cues: [{at: 1s, press: go}]
    expect:
      - {shows: lamp, frames: [{text: on, for: "${time}ms"}, off], marks: 7, notes: SECRET}
      - any-of:
          - {reads: lamp, text: off, at: end}
          - {steady: lamp}
        marks: 3
        gate: yes
        notes: SECRET
  - name: SECRET trial
    hidden: yes
    length: 3s
    cues: [{at: 1250ms, press: go}]
    expect: [{reads: lamp, text: on, at: 2718ms}]
`

// cues are those of a trial, wherever they are written.
func cues(t exercise.Trial) (out []exercise.Cue) {
	for _, c := range t.Cues {
		c.Line = 0
		out = append(out, c)
	}
	return out
}

// A student's bundle has their own values, what they may see, and nothing else, to the byte.
func TestBundle(t *testing.T) {
	key := exercise.StudentKey([]byte("k"), "gate-lamp", "abney")
	own, problems := exercise.Reader{Student: key}.Read([]byte(secretive))
	require.NotNil(t, own, "%v", problems)
	for _, p := range []exercise.Share{{}, {Expectations: true}, {Expectations: true, Marks: true}} {
		text, err := exercise.Reader{Student: key}.Bundle([]byte(secretive), p)
		require.NoError(t, err)
		for _, word := range []string{"SECRET", "hidden", "vary", "4321", "1250", "2718", "notes", "style", "&lamp",
			"${"} {
			if word != own.Varied[0].Value {
				assert.NotContains(t, string(text), word)
			}
		}
		assert.Equal(t, p.Expectations, strings.Contains(string(text), "expect"))
		assert.Equal(t, p.Marks, strings.Contains(string(text), "marks"))
		x, problems := exercise.Reader{Draft: true}.Read(text)
		require.NotNil(t, x, "%v\n%s", problems, text)
		assert.Equal(t, own.Brief, x.Brief)
		require.Len(t, x.Trials, 1)
		assert.Equal(t, own.Trials[0].Seed, x.Trials[0].Seed)
		assert.Equal(t, cues(own.Trials[0]), cues(x.Trials[0]))
		assert.Equal(t, own.Trials[0].Length, x.Trials[0].Length)
		if p.Marks {
			assert.Equal(t, "10", x.Marks().RatString())
		}
	}
	whole, err := exercise.Reader{Student: key}.Bundle([]byte(secretive), exercise.Share{Whole: true})
	require.NoError(t, err)
	x, problems := exercise.Read("", whole)
	require.NotNil(t, x, "%v\n%s", problems, whole)
	assert.Len(t, x.Trials, 2)

	all := strings.Replace(secretive, "name: seen\n", "name: seen\n    hidden: yes\n", 1)
	text, err := exercise.Reader{Student: key}.Bundle([]byte(all), exercise.Share{Expectations: true, Marks: true})
	require.NoError(t, err)
	assert.NotContains(t, string(text), "seen")
	x, problems = exercise.Reader{Draft: true}.Read(text)
	require.NotNil(t, x, "%v\n%s", problems, text)
	bomb := "hemble: 1\na0: &a0 [x, x]\n"
	for i := range 20 {
		bomb += fmt.Sprintf("a%d: &a%d [*a%d, *a%d, *a%d]\n", i+1, i+1, i, i, i)
	}
	for _, bad := range []string{bomb, "", "- a", "{", "bench: {include: x.yaml}"} {
		_, err := exercise.Reader{}.Bundle([]byte(bad), exercise.Share{})
		assert.Error(t, err, bad)
	}
}

// The bundles of the whole demo course read, with the same bench and the same cues.
func TestBundles(t *testing.T) {
	files, err := filepath.Glob("../../demo/course/*/exercise.yaml")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, path := range files {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		x, _ := exercise.Read(path, text)
		require.NotNil(t, x)
		for _, p := range []exercise.Share{{}, {Expectations: true, Marks: true}, {Whole: true}} {
			bundle, err := exercise.Reader{}.Bundle(text, p)
			require.NoError(t, err, path)
			y, problems := exercise.Reader{Draft: true}.Read(bundle)
			require.NotNil(t, y, "%s: %v\n%s", path, problems, bundle)
			require.Len(t, y.Parts, len(x.Parts))
			for i := range x.Parts {
				assert.Equal(t, x.Parts[i].Wired, y.Parts[i].Wired, path)
			}
			for _, a := range x.Trials {
				for _, b := range y.Trials {
					if a.Name == b.Name {
						assert.Equal(t, cues(a), cues(b), path)
						assert.Equal(t, a.Seed, b.Seed, path)
					}
				}
				assert.Equal(t, a.Hidden && !p.Whole, !strings.Contains(string(bundle), "name: "+a.Name), path)
			}
		}
	}
}

// Whatever is in a file that reads: its bundles read, a student's has no trial that is hidden, and the whole one all.
func FuzzBundle(f *testing.F) {
	f.Add(secretive)
	f.Add(strings.Replace(secretive, "hidden: yes", "hidden: no", 1))
	f.Add(strings.Replace(secretive, "{lamp: &lamp", "{other: *lamp, lamp: &lamp", 1))
	f.Fuzz(func(t *testing.T, text string) {
		x, _ := exercise.Read("", []byte(text))
		whole, err := exercise.Reader{}.Bundle([]byte(text), exercise.Share{Whole: true})
		if x == nil {
			return
		}
		require.NoError(t, err)
		y, problems := exercise.Read("", whole)
		require.NotNil(t, y, "%v\n%s", problems, whole)
		require.Len(t, y.Trials, len(x.Trials))
		for _, p := range []exercise.Share{{}, {Expectations: true, Marks: true}} {
			part, err := exercise.Reader{}.Bundle([]byte(text), p)
			require.NoError(t, err)
			y, problems := exercise.Reader{Draft: true}.Read(part)
			require.NotNil(t, y, "%v\n%s", problems, part)
			for _, trial := range x.Trials {
				if trial.Hidden && trial.Name != "practice" {
					for _, shown := range y.Trials {
						assert.NotEqual(t, trial.Name, shown.Name)
					}
				}
			}
		}
	})
}
