package service_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/core/author"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/demo"
	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/templates"
	"hemble/wire"
)

// guarded is an exercise with things that no student may see.
const guarded = `hemble: 1
name: guarded
title: Guarded lamp
brief: "On for ${time} ms, then off."
# SECRET remark
chip: {is: atmega328p, clock: 16MHz}
vary: {time: [101, 202, 303, 404, 505]}
bench:
  lamp: {part: lamp, pins: {anode: PB5, cathode: GND}}
by-hand: [{what: SECRET style, marks: 1}]
trials:
  - name: open one
    length: 1s
    notes: SECRET
    expect:
      - {shows: lamp, frames: [{text: on, for: "${time}ms"}, off], marks: 3, notes: SECRET}
  - name: SECRET one
    hidden: yes
    length: 2s
    expect: [{reads: lamp, text: off, at: 1711ms, marks: 2}]
`

// A student practises with their own values, without what is hidden, and sees of what is expected what sheets show by
// now; source is built, and nothing is kept.
func TestPractice(t *testing.T) {
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	_, err := c.NewExercise(t.Context(), "guarded", []byte(guarded))
	require.NoError(t, err)
	opens := time.Now().Add(-time.Hour)
	assign := func(sheet, marks wire.Moment) {
		_, err := c.Assign(t.Context(), class.Name, "guarded",
			wire.SetAssignment{Policy: wire.Policy{Opens: opens, ShowSheet: sheet, ShowMarks: marks}})
		require.NoError(t, err)
	}
	marsh := servicetest.SignIn(t, s.Address, class.Student, class.Password)
	choices := []string{"101", "202", "303", "404", "505"}
	for _, shown := range []struct {
		sheet, marks wire.Moment
	}{{wire.OnRelease, wire.OnRelease}, {wire.AtOnce, wire.OnRelease}, {wire.AtOnce, wire.AtOnce}} {
		assign(shown.sheet, shown.marks)
		p, err := marsh.Practice(t.Context(), class.Name, "guarded")
		require.NoError(t, err)
		brief, err := marsh.Brief(t.Context(), class.Name, "guarded", "")
		require.NoError(t, err)
		all := servicetest.JSON(t, p)
		for _, word := range append([]string{"SECRET", "1711", "hidden:", "notes:"}, choices...) {
			if word != brief.Values[0].Value {
				assert.NotContains(t, all, word)
			}
		}
		assert.Equal(t, shown.sheet == wire.AtOnce, p.Sheet)
		assert.Equal(t, shown.marks == wire.AtOnce, p.Marks)
		assert.Equal(t, p.Sheet, strings.Contains(p.Exercise, "expect"))
		assert.Equal(t, p.Marks, strings.Contains(p.Exercise, "marks:"))
		assert.Equal(t, !p.Sheet, p.Hidden != "")
		x, problems := exercise.Reader{Draft: true}.Read([]byte(p.Exercise))
		require.NotNil(t, x, "%v\n%s", problems, p.Exercise)
		assert.Contains(t, x.Brief, brief.Values[0].Value)
	}
	built, err := marsh.PracticeBuild(t.Context(), class.Name, "guarded", "a.c",
		[]byte("int main(void) { for (;;); }\n"))
	require.NoError(t, err)
	assert.Equal(t, "\x7fELF", string(built.Data[:4]))
	_, err = marsh.PracticeBuild(t.Context(), class.Name, "guarded", "a.c", []byte("int main(void) { retrun; }\n"))
	assert.ErrorContains(t, err, "a.c:1")
	list, err := marsh.Submissions(t.Context(), class.Name, "guarded")
	require.NoError(t, err)
	assert.Empty(t, list, "practice is no attempt")
	later := time.Now().Add(time.Hour)
	_, err = c.Assign(t.Context(), class.Name, "guarded", wire.SetAssignment{Policy: wire.Policy{Opens: later}})
	require.NoError(t, err)
	_, err = marsh.Practice(t.Context(), class.Name, "guarded")
	assert.Error(t, err, "it is not open yet")
	_, err = client.New(c.Server, "").Practice(t.Context(), class.Name, "guarded")
	assert.Equal(t, "sign-in", client.Code(err))
}

// A submission goes to a live bench whole, for those who mark and nobody else.
func TestBenchOfSubmission(t *testing.T) {
	s, c := servicetest.Start(t, t.TempDir())
	marked := servicetest.Course(t.Context(), t, c, func(x, file string) bool {
		return x == "boat-counter" && strings.HasPrefix(file, "hollis")
	})
	require.NotEmpty(t, marked)
	for file, sub := range marked {
		b, err := c.Bench(t.Context(), sub.ID)
		require.NoError(t, err)
		x, problems := exercise.Read("", []byte(b.Exercise))
		require.NotNil(t, x, "%v", problems)
		whole, err := demo.Find("boat-counter")
		require.NoError(t, err)
		y, _ := exercise.Read("", whole.Text)
		assert.Len(t, x.Trials, len(y.Trials))
		assert.Equal(t, file, b.File)
		assert.NotEmpty(t, b.Data)
		_, err = servicetest.SignIn(t, s.Address, class.Student, class.Password).Bench(t.Context(), sub.ID)
		assert.Error(t, err)
	}
}

// An exercise is made of a template, and a trial of what is done by hand with its reference.
func TestFromTemplate(t *testing.T) {
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	all, err := c.Templates(t.Context())
	require.NoError(t, err)
	own, err := templates.All()
	require.NoError(t, err)
	require.Len(t, all, len(own))
	from := wire.FromTemplate{Template: "digit-with-keys", Title: "Paddle", Brief: "Up and down."}
	x, err := c.FromTemplate(t.Context(), "paddle", from)
	require.NoError(t, err)
	assert.Contains(t, x.Files, "reference.elf")
	_, err = c.FromTemplate(t.Context(), "paddle", from)
	assert.Equal(t, "taken", client.Code(err))
	for name, bad := range map[string]wire.FromTemplate{"No Name": from,
		"a": {Template: "none", Title: "a", Brief: "b"},
		"b": {Template: from.Template, Brief: "b"}, "c": {Template: from.Template, Title: "a\nb", Brief: "b"},
		"d": {Template: from.Template, Title: "a"}} {
		_, err := c.FromTemplate(t.Context(), name, bad)
		assert.Error(t, err, name)
	}
	draft := client.Draft{Text: []byte(x.Text), Exercise: "paddle", Reference: "reference.elf"}
	made, err := c.Demonstrate(t.Context(), draft, author.Demonstration{Trial: "shown", Length: 2 * clock.Second,
		Done: []author.Doing{{At: clock.Second, Part: "raise", Verb: "hold"},
			{At: clock.Second + 200*clock.Millisecond, Part: "raise", Verb: "hold", Release: true}}})
	require.NoError(t, err)
	assert.Contains(t, made.Text, "press: raise, for: 200ms")
	require.Len(t, made.Expectations, 1)
	require.NotNil(t, made.Reel)
	_, err = c.Demonstrate(t.Context(), draft, author.Demonstration{Trial: "", Length: 1})
	assert.ErrorContains(t, err, "name")
	_, err = servicetest.SignIn(t, s.Address, class.Student, class.Password).Templates(t.Context())
	assert.Error(t, err)
}
