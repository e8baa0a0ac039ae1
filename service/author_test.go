package service_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/demo"
	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/wire"
)

// A draft is tried, recorded and weighed with the reference of its folder, with a file, and with source; nothing of it
// stays.
func TestDrafts(t *testing.T) {
	_, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	x, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	draft := client.Draft{Text: x.Text, Exercise: x.Name, Reference: "reference.elf"}
	tried, err := c.Try(t.Context(), draft)
	require.NoError(t, err)
	sh := tried.Sheet
	assert.Equal(t, sh.Of, sh.Marks)
	require.Len(t, tried.Reels, len(sh.Trials))
	assert.NotEmpty(t, tried.Reels[0].Tracks)

	source := client.Draft{Text: x.Text, File: "lamps.c", Data: []byte("int main(void)\n{\n\treturn nothing;\n}\n")}
	tried, err = c.Try(t.Context(), source)
	require.NoError(t, err, "what does not build is on the sheet")
	assert.Contains(t, fmt.Sprint(tried.Sheet.Messages), "nothing")
	_, err = c.Record(t.Context(), source, false)
	assert.ErrorContains(t, err, "lamps.c")

	bare := draft
	bare.Text = regexp.MustCompile(`(?s)    expect:.*`).ReplaceAll(x.Text, nil)
	require.NotContains(t, string(bare.Text), "shows")
	rec, err := c.Record(t.Context(), bare, false)
	require.NoError(t, err)
	assert.Contains(t, rec.Text, "- {shows: red")
	assert.NotEmpty(t, rec.Added)

	variants, err := c.Strength(t.Context(), draft)
	require.NoError(t, err)
	drawn := 0
	for _, v := range variants {
		if strings.HasPrefix(v.Picture, "<svg") {
			drawn++
		}
	}
	assert.Greater(t, drawn, len(variants)/2, "most variants show something else at some time")
	caught := 0
	for _, v := range variants {
		if v.Caught {
			caught++
		}
	}
	assert.Greater(t, caught, 3)

	checked, err := c.Check(t.Context(), x.Text)
	require.NoError(t, err)
	assert.Contains(t, servicetest.JSON(t, checked.Schematic), "ATmega328P")
	require.NotEmpty(t, checked.Wires)
	assert.NotZero(t, checked.Wires[0].Package)

	for _, d := range []client.Draft{
		{Text: []byte("hemble: 1\n"), Exercise: x.Name, Reference: "reference.elf"},
		{Text: x.Text, Exercise: x.Name, Reference: "../../etc/passwd"},
		{Text: x.Text, Exercise: "no-such", Reference: "reference.elf"},
		{Text: x.Text, File: "x.hex", Data: []byte("rubbish")},
	} {
		_, err := c.Strength(t.Context(), d)
		assert.Error(t, err)
		assert.NotEqual(t, "internal", client.Code(err), "%v", err)
	}
	now, err := c.Exercise(t.Context(), x.Name)
	require.NoError(t, err)
	assert.Equal(t, 1, now.Revision)
}

// Something that a submission showed is accepted: the preview tells whose marks would change, and marking again by the
// revision that comes of it changes exactly those.
func TestAcceptingASight(t *testing.T) {
	_, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	x, err := demo.Find("chamber-gauge")
	require.NoError(t, err)
	ids, err := class.HandIn(t.Context(), c, x, nil)
	require.NoError(t, err)
	require.NoError(t, c.Wait(t.Context(), lockHouse, x.Name, ids, func(wire.Submission) {}))
	all, err := c.Submissions(t.Context(), lockHouse, x.Name)
	require.NoError(t, err)
	tarn := ""
	for _, s := range all {
		if s.Login == "tarn" {
			tarn = s.ID
		}
	}
	result, err := c.Result(t.Context(), tarn)
	require.NoError(t, err)
	sh := result.Sheet
	pair := -1
	for i, p := range sh.Trials[0].Verdicts[0].Alignment {
		if pair < 0 && p.Operation == "wrong" {
			pair = i
		}
	}
	require.GreaterOrEqual(t, pair, 0)
	a, err := c.Accept(t.Context(), tarn, wire.Accept{Pair: &pair})
	require.NoError(t, err)
	assert.Contains(t, a.Now, "one-of: [6, ")
	assert.NotContains(t, a.Was, "one-of")
	require.Len(t, a.Moves, 1)
	assert.Equal(t, "tarn", a.Moves[0].Login)
	assert.Equal(t, len(ids), len(a.Moves)+a.Same)
	require.NotEmpty(t, a.Moves[0].Why)
	assert.Contains(t, a.Moves[0].Why[0], "was partly")

	unchanged, err := c.Exercise(t.Context(), x.Name)
	require.NoError(t, err)
	assert.Equal(t, string(x.Text), unchanged.Text, "a preview keeps nothing")
	now, err := c.PutExercise(t.Context(), x.Name, []byte(a.Text))
	require.NoError(t, err)
	p, err := c.Propose(t.Context(), lockHouse, x.Name, now.Revision)
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		p, err = c.Proposal(t.Context(), lockHouse, x.Name, p.ID)
		return err == nil && p.Waiting == 0
	}, time.Minute, 20*time.Millisecond)
	require.Len(t, p.Moves, 1)
	assert.Equal(t, a.Moves[0].New, p.Moves[0].New)
	assert.Equal(t, a.Moves[0].Why, p.Moves[0].Why)

	beside, err := c.Accept(t.Context(), tarn, wire.Accept{Pair: &pair})
	require.NoError(t, err)
	assert.Equal(t, now.Revision, beside.NewerRevision, "it is told that a newer revision stands beside")
	_, err = c.PutInForce(t.Context(), lockHouse, x.Name, now.Revision)
	require.NoError(t, err)
	_, err = c.Accept(t.Context(), tarn, wire.Accept{Pair: &pair})
	assert.Equal(t, "revised", client.Code(err), "the sheet is of another revision than the one current")
	far := 99
	for _, s := range all {
		if s.Login == "ames" {
			_, err = c.Accept(t.Context(), s.ID, wire.Accept{Pair: &far})
			assert.Error(t, err)
		}
	}
	marsh := servicetest.As(t, c, lockHouse, "tarn")
	_, err = marsh.Accept(t.Context(), tarn, wire.Accept{Pair: &pair})
	assert.True(t, strings.Contains(err.Error(), "may not"), "%v", err)
}

// An archive brings a shared bench along; what is kept is alone. A text alone cannot include anything, and says so.
func TestIncludedBench(t *testing.T) {
	_, c := servicetest.Start(t, t.TempDir())
	x, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	head, rest, _ := strings.Cut(string(x.Text), "bench:\n")
	bench, trials, _ := strings.Cut(rest, "trials:")
	text := head + "bench:\n  include: ../benches/lamps.yaml\ntrials:" + trials
	archive := func(files map[string]string) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for name, content := range files {
			w, err := z.Create(name)
			require.NoError(t, err)
			_, err = w.Write([]byte(content))
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		return b.Bytes()
	}
	parts := strings.ReplaceAll("\n"+bench, "\n  ", "\n")
	kept, err := c.PutExerciseFolder(t.Context(), x.Name,
		archive(map[string]string{"lamps/exercise.yaml": text, "benches/lamps.yaml": parts}))
	require.NoError(t, err)
	assert.NotContains(t, kept.Text, "include")
	assert.Contains(t, kept.Text, "  red:   {part: lamp")
	tried, err := c.Try(t.Context(), client.Draft{Text: []byte(kept.Text), File: "a.elf", Data: x.Reference})
	require.NoError(t, err)
	assert.Equal(t, "10", tried.Sheet.Marks.String())

	_, err = c.PutExerciseFolder(t.Context(), x.Name, archive(map[string]string{"lamps/exercise.yaml": text}))
	assert.Equal(t, "invalid", client.Code(err))
	checked, err := c.Check(t.Context(), []byte(text))
	require.NoError(t, err)
	require.NotEmpty(t, checked.Mistakes)
	assert.Contains(t, checked.Mistakes[0].Text, "there is this text alone")
}
