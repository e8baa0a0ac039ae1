package grading

import (
	"encoding/json"
	"log/slog"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/machine/machinetest"
	"hemble/core/marking"
	"hemble/core/reel"
	"hemble/service/classes"
	"hemble/service/db"
	"hemble/service/exercises"
	"hemble/service/record"
	"hemble/service/submissions/submissionstest"
)

func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	os.Exit(m.Run())
}

const sluice = `hemble: 1
name: sluice
title: Sluice lamp
chip: {is: test40}
bench:
  lamp: {part: lamp, resistor: 150, pins: {anode: IO10, cathode: GND}}
trials:
  - name: on and off
    length: 2s
    expect: [{shows: lamp, frames: [on, {text: off, for: any}], each: 500ms, start: power, marks: 3}]
  - {name: at rest, length: 1s, expect: [{reads: lamp, text: off, at: 0.9s, marks: 1}]}
`

var blinks = machinetest.Program(machinetest.High(10), machinetest.Wait(500), machinetest.Low(10),
	machinetest.Wait(100), machinetest.Jump(3))

// handedIn is a desk over a data folder in which one student has submitted something.
func handedIn(t *testing.T, text []byte, file string, data []byte) (*Grader, *Store, *record.Submission) {
	t.Helper()
	open, err := db.Open(t.Context(), t.TempDir(), nil)
	require.NoError(t, err)
	t.Cleanup(func() { _ = open.Close() })
	f := submissionstest.Fill(t, open, text)
	id := f.Hand(t, file, data)
	sub, err := f.Submission(t.Context(), id)
	require.NoError(t, err)
	reader, err := exercises.NewReader(t.Context(), open, func() []byte { return []byte("secret") })
	require.NoError(t, err)
	s := &Store{DB: open, Submissions: f.Store}
	return NewGrader(s, &classes.Store{DB: open}, reader, t.TempDir()), s, sub
}

func TestMarkJob(t *testing.T) {
	d, s, sub := handedIn(t, []byte(sluice), "lamp.hex", blinks)
	var told []int
	r, err := d.MarkJob(t.Context(), sub.ID, sub.Job, func(done, of int) { told = append(told, done, of) })
	require.NoError(t, err)
	assert.Equal(t, "4", r.Marks)
	require.Len(t, r.Reels, 2)
	assert.Equal(t, []int{0, 2, 1, 2}, told)

	made, err := d.Reel(t.Context(), sub.ID, sub.Job, 0)
	require.NoError(t, err, "it is made again where it is not kept")
	var seen reel.Reel
	require.NoError(t, json.Unmarshal(made, &seen))
	assert.Equal(t, r.Reels[0].Tracks, seen.Tracks)
	kept, err := s.Reel(sub.Job, 0)
	require.NoError(t, err)
	assert.Equal(t, made, kept)
	_, err = d.Reel(t.Context(), sub.ID, sub.Job, 2)
	assert.ErrorIs(t, err, db.ErrNotFound)

	window, err := d.Window(t.Context(), sub.ID, sub.Job, 0, 499*clock.Millisecond, 501*clock.Millisecond)
	require.NoError(t, err)
	require.Len(t, window.Moments, 2, "all as it stood, and the lamp going out")
	assert.Equal(t, "low", window.Moments[1].Nets["IO10"])
	luck, err := d.SeedSensitivity(t.Context(), sub.ID, 3)
	require.NoError(t, err)
	assert.NotNil(t, luck)
	files, err := d.Source(t.Context(), sub.ID)
	require.NoError(t, err)
	assert.Empty(t, files)
	im, _, err := d.Image(t.Context(), sub.ID)
	require.NoError(t, err)
	assert.NotNil(t, im)
}

// Work that took too long counts, with nothing; what cannot be put on the chip has a sheet that says so.
func TestNothingToJudge(t *testing.T) {
	d, _, sub := handedIn(t, []byte(sluice), "lamp.hex", blinks)
	r, err := d.Stopped(t.Context(), sub.ID, sub.Job, "it took too long")
	require.NoError(t, err)
	assert.Equal(t, "0", r.Marks)
	assert.Equal(t, marking.Effort, r.Sheet.Findings[0].Code)

	d, _, sub = handedIn(t, []byte(sluice), "lamp.hex", []byte(":00000001FF\nno more"))
	r, err = d.MarkJob(t.Context(), sub.ID, sub.Job, func(int, int) {})
	require.NoError(t, err)
	assert.Equal(t, marking.Firmware, r.Sheet.Findings[0].Code)

	d, _, sub = handedIn(t, []byte(sluice), "lamp.c", []byte("int main(void) { return 0; }\n"))
	d.NoBuilder = "building is off here"
	r, err = d.MarkJob(t.Context(), sub.ID, sub.Job, func(int, int) {})
	require.NoError(t, err)
	assert.Equal(t, marking.Build, r.Sheet.Findings[0].Code)
	assert.Contains(t, r.Sheet.Messages[0].Text, "building is off here")
}

func TestAdjust(t *testing.T) {
	d, _, sub := handedIn(t, []byte(sluice), "lamp.hex", blinks)
	r, err := d.MarkJob(t.Context(), sub.ID, sub.Job, func(int, int) {})
	require.NoError(t, err)
	zero, nine := 0, 9
	sh, err := d.Adjust(t.Context(), sub, sub.Job, r.Sheet,
		[]Override{{Trial: &zero, Verdict: &zero, Marks: "1.5", Reason: "half", By: "I. Keeper"}})
	require.NoError(t, err)
	assert.Equal(t, "2.5", sh.Marks.String())
	assert.Equal(t, "4", r.Sheet.Marks.String(), "the sheet itself stays")
	_, err = d.Adjust(t.Context(), sub, sub.Job, r.Sheet,
		[]Override{{Trial: &nine, Verdict: &zero, Marks: "1", Reason: "none", By: "I. Keeper"}})
	var refusal *db.Refusal
	assert.ErrorAs(t, err, &refusal)
}

// A capture is of the trial whose name its file has.
func TestCaptured(t *testing.T) {
	x, problems := exercise.Read("x", []byte(sluice))
	require.NotNil(t, x, "%v", problems)
	for file, trial := range map[string]int{"on-and-off.vcd": 0, "marsh_At_Rest.vcd": 1, "x.vcd": 0} {
		assert.Equal(t, trial, captured(x, file), file)
	}
}
