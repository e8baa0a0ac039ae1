package exercise_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/exercise"
)

// varied is an exercise with values that differ.
var varied = strings.NewReplacer("title: A gauge\n",
	"title: A gauge from ${start}\nvary:\n  start: {from: 0, to: 8, step: 2}\n  word: [on, off]\n", `["-", 2, 4]`,
	`["-", "${start}", 9]`).Replace(good)

func TestVary(t *testing.T) {
	x, problems := exercise.Read("x", []byte(varied))
	require.Empty(t, problems)
	assert.Equal(t, "A gauge from 0", x.Title, "without a student the first choices stand")
	assert.Equal(t, []exercise.Varied{{Name: "start", Value: "0"}, {Name: "word", Value: "on"}}, x.Varied)

	secret := []byte("a secret of some length")
	values := map[string]int{}
	hashes := map[[32]byte]bool{}
	for _, student := range strings.Split("ames brook haq penn quill reyes stroud tarn oke wain marsh osei kemp lowe nash orton imre hollis jarvis bell", " ") {
		key := exercise.StudentKey(secret, "gauge", student)
		x, problems := exercise.Reader{File: "x", Student: key}.Read([]byte(varied))
		require.Empty(t, problems)
		again, _ := exercise.Reader{File: "x", Student: key}.Read([]byte(varied))
		assert.Equal(t, x.Varied, again.Varied, "the same each time")
		values[x.Varied[0].Value]++
		hashes[x.Hash] = true
		assert.NotEqual(t, key, exercise.StudentKey(secret, "another", student))
		assert.NotEqual(t, key, exercise.StudentKey([]byte("another secret, as long"), "gauge", student))
	}
	assert.Len(t, values, 5, "all of 0, 2, 4, 6, 8 come up among twenty")
	assert.Greater(t, len(hashes), 5, "runs of other values are other runs")
}

func TestVaryProblems(t *testing.T) {
	for old, want := range map[string]string{
		"${start}":                  `x:3:8: nothing called "strat" varies; did you mean "start"?`,
		"{from: 0, to: 8, step: 2}": "that are 0 choices",
		"[on, off]":                 "there is nothing to choose from",
		"word:":                     `"My word" cannot name a value`,
	} {
		text := map[string]string{"${start}": "${strat}", "{from: 0, to: 8, step: 2}": "{from: 9, to: 8}",
			"[on, off]": "[]", "word:": "My word:"}[old]
		_, problems := exercise.Read("x", []byte(strings.Replace(varied, old, text, 1)))
		all := ""
		for _, p := range problems {
			all += p.Error() + "\n"
		}
		assert.Contains(t, all, want)
	}
}

func TestTriggersAndMarks(t *testing.T) {
	for text, want := range map[string]string{
		"- {press: raise}": "takes one of at, after and when",
		"- {at: 1s, after: {cue: first}, press: raise}":                  "takes one of at, after and when",
		"- {after: {cue: frist}, press: raise}":                          `no cue before this one is called "frist"; did you mean "first"?`,
		"- {when: {display: raise, shows: 1}, press: raise}":             "no display of the bench",
		"- {when: {display: gauge, shows: W}, press: raise}":             "not what a seven-segment digit can show",
		"- {when: {display: gauge, shows: 1, within: 2s}, press: raise}": "",
		"- {after: {cue: first, from: start, by: 1s}, press: raise}":     "",
	} {
		_, problems := exercise.Read("x",
			[]byte(strings.Replace(good, "as: first}\n", "as: first}\n      "+text+"\n", 1)))
		if want == "" {
			assert.Empty(t, problems, text)
		} else if assert.NotEmpty(t, problems, text) {
			assert.Contains(t, problems[0].Error(), want)
		}
	}
	_, problems := exercise.Read("x", []byte("marks: 8\n"+good))
	require.Len(t, problems, 1)
	assert.Contains(t, problems[0].Error(), "x:1:8: the marks add up to 7, not to 8")
	x, problems := exercise.Read("x",
		[]byte("by-hand: [{what: style, marks: 2, notes: names}]\ndeductions: [{finding: floating, marks: 1}]\nfaults: once\n"+
			strings.Replace(good, "marks: 6}", "marks: 6, bonus: yes, gate: yes, notes: why}", 1)))
	require.Empty(t, problems)
	assert.Equal(t, "3", x.Marks().RatString(), "one of reads, two by hand; the bonus comes on top")
	assert.False(t, x.Each)
	e := x.Trials[0].Expect[0]
	assert.True(t, e.Bonus && e.Gate)
	assert.Equal(t, "why", e.Notes)
}
