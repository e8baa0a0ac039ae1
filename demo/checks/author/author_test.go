package author_test

import (
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/author"
	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/marking"
	"hemble/demo"
	"hemble/demo/checks"
)

var expectations = regexp.MustCompile(`(?m)^    expect:\n((      .*)?\n)*?(  - |[a-z]|\z)`)

// What is recorded of a reference reads back, gives the reference full marks, and leaves the rest of the file as it
// was, comments too.
func TestRecord(t *testing.T) {
	checks.Each(t, func(t *testing.T, e demo.Exercise) {
		bare := "# set in autumn\n" + expectations.ReplaceAllString(string(e.Text), "$3")
		require.NotContains(t, bare, "expect:")
		x, problems := exercise.Reader{File: "x", Draft: true}.Read([]byte(bare))
		require.NotNil(t, x, "%v", problems)
		rec, err := author.Record(t.Context(), x, []byte(bare), e.Reference, false)
		require.NoError(t, err)
		assert.NotEmpty(t, rec.Added)
		for _, line := range strings.Split(bare, "\n") {
			assert.Contains(t, string(rec.Text), line)
		}
		full, problems := exercise.Read("x", rec.Text)
		require.NotNil(t, full, "%v\n%s", problems, rec.Text)
		r, err := marking.Mark(t.Context(), full, "x", e.Reference)
		require.NoError(t, err)
		assert.Equal(t, r.Sheet.Of.String(), r.Sheet.Marks.String(), "%s", rec.Text)
		again, err := author.Record(t.Context(), full, rec.Text, e.Reference, false)
		require.NoError(t, err)
		for _, added := range again.Added { // what does not change is told by always
			assert.Contains(t, added, "always")
		}
	})
}

// A list in brackets cannot take lines; the error says what to do.
func TestRecordIntoBrackets(t *testing.T) {
	e := checks.One(t, "boat-lamps")
	text := expectations.ReplaceAllString(string(e.Text), "    expect: [{reads: red, text: on, at: 1s}]\n$3")
	x, problems := exercise.Reader{File: "x", Draft: true}.Read([]byte(text))
	require.NotNil(t, x, "%v", problems)
	_, err := author.Record(t.Context(), x, []byte(text), e.Reference, false)
	assert.ErrorContains(t, err, "without brackets")
}

// The demo course catches nearly all faulty variants of its references; what slips through comes with what to add.
func TestStrength(t *testing.T) {
	checks.Each(t, func(t *testing.T, e demo.Exercise) {
		x := checks.Read(t, e.Text)
		variants, err := author.Strength(t.Context(), x, e.Reference, nil)
		require.NoError(t, err)
		caught := 0
		for _, v := range variants {
			assert.NotEmpty(t, v.Effect, v.Fault)
			if v.Caught {
				caught++
			} else {
				assert.NotEmpty(t, v.Add, v.Fault)
			}
		}
		assert.GreaterOrEqual(t, caught*100/len(variants), 80)
	})
}

// Loose expectations let faults through, and a reference must be right itself.
func TestStrengthOfLoose(t *testing.T) {
	e := checks.One(t, "chamber-gauge")
	require.Equal(t, "chamber-gauge", e.Name)
	loose := expectations.ReplaceAllString(string(e.Text), "    expect: [{reads: gauge, text: 2, at: 1s}]\n$3")
	loose = loose[:strings.Index(loose, "  - name: raising")]
	x, problems := exercise.Read("x", []byte(loose))
	require.NotNil(t, x, "%v", problems)
	variants, err := author.Strength(t.Context(), x, e.Reference, nil)
	require.NoError(t, err)
	slipped := map[string]bool{}
	for _, v := range variants {
		slipped[v.Fault] = slipped[v.Fault] || !v.Caught
	}
	assert.True(t, slipped["segments-swapped"], "one symbol does not need all segments told apart")
	assert.False(t, slipped["segments-inverted"])

	wrong := strings.Replace(loose, "text: 2", "text: 9", 1)
	x, _ = exercise.Read("x", []byte(wrong))
	_, err = author.Strength(t.Context(), x, e.Reference, nil)
	assert.ErrorIs(t, err, author.ErrReference)
}

// A reference that changed is recorded anew: what it does not meet any more is replaced, for the same marks; the rest
// stays.
func TestRecordAnew(t *testing.T) {
	e := checks.One(t, "boat-lamps")
	text := strings.Replace(string(e.Text), "frames: [on, off], each: 3s, repeat: 2",
		"frames: [on, off], each: 2s, repeat: 3", 1)
	require.NotEqual(t, string(e.Text), text)
	x, problems := exercise.Read("x", []byte(text))
	require.NotNil(t, x, "%v", problems)
	rec, err := author.Record(t.Context(), x, []byte(text), e.Reference, false)
	require.NoError(t, err)
	assert.Equal(t, text, string(rec.Text))
	rec, err = author.Record(t.Context(), x, []byte(text), e.Reference, true)
	require.NoError(t, err)
	require.Len(t, rec.Replaced, 1)
	assert.Empty(t, rec.Added)
	assert.Contains(t, string(rec.Text),
		"- {shows: red, frames: [on, off, on, off, on, off], each: 3s, start: power, marks: 4}\n      - shows: green\n")
	full, problems := exercise.Read("x", rec.Text)
	require.NotNil(t, full, "%v", problems)
	r, err := marking.Mark(t.Context(), full, "x", e.Reference)
	require.NoError(t, err)
	assert.Equal(t, r.Sheet.Of.String(), r.Sheet.Marks.String())
}

// Nothing is to be said of the exercises of the course.
func TestCourseIsChecked(t *testing.T) {
	course := checks.Course(t)
	for _, e := range course {
		x := checks.Read(t, e.Text)
		assert.Empty(t, author.Check("x", x), e.Name)
	}
}
