package service_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/core/judge"
	"hemble/core/reel"
	"hemble/core/sheet"
	"hemble/demo"
	"hemble/service"
	"hemble/service/servicetest"
	"hemble/wire"
)

func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	os.Exit(m.Run())
}

func status(t *testing.T, err error) int {
	t.Helper()
	var e *client.Error
	require.True(t, errors.As(err, &e), "%v", err)
	return e.Status
}

func TestFromFileToSheet(t *testing.T) {
	s, c := servicetest.Start(t, t.TempDir())
	marked := servicetest.Course(t.Context(), t, c, func(x, _ string) bool { return x == "chamber-gauge" })
	require.Len(t, marked, 8)
	sub := marked["stroud-b-f-swapped.elf"]
	assert.Equal(t, json.Number("4"), sub.Marks)
	assert.Equal(t, "V. Stroud", sub.Student)

	r, err := c.Result(t.Context(), sub.ID)
	require.NoError(t, err)
	var sh sheet.Sheet
	require.NoError(t, json.Unmarshal(r.Sheet, &sh))
	assert.Equal(t, "4", sh.Marks.String())
	assert.Equal(t, judge.Partly, sh.Trials[0].Verdicts[0].Outcome)
	assert.NotEmpty(t, r.Previous+r.Next)

	var run reel.Reel
	require.NoError(t, c.Reel(t.Context(), sub.ID, 1, &run))
	assert.Equal(t, "raising by hand", run.Trial)
	assert.Equal(t, "gauge", run.Tracks[0].Display)
	assert.Equal(t, 404, status(t, c.Reel(t.Context(), sub.ID, 2, &run)))

	list, err := c.Exercises(t.Context())
	require.NoError(t, err)
	require.Len(t, list, 12)
	gauge := slices.IndexFunc(list, func(x wire.Exercise) bool { return x.Name == "chamber-gauge" })
	require.NotEqual(t, -1, gauge)
	assert.Equal(t, 8, list[gauge].Submissions)
	assert.Zero(t, list[gauge].Waiting)

	answer, err := http.Get("http://" + s.Address + "/metrics")
	require.NoError(t, err)
	defer answer.Body.Close()
	text, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	assert.Contains(t, string(text), `hemble_submissions_total{outcome="marked"} 8`)
}

// A reel that is no longer kept is made again, and is the same.
func TestReelsAreACache(t *testing.T) {
	dir := t.TempDir()
	_, c := servicetest.Start(t, dir)
	marked := servicetest.Course(t.Context(), t, c, func(_, f string) bool { return f == "quill-bounce.elf" })
	id := marked["quill-bounce.elf"].ID
	var before, after json.RawMessage
	require.NoError(t, c.Reel(t.Context(), id, 1, &before))
	require.NoError(t, os.RemoveAll(filepath.Join(dir, "reels", id)))
	require.NoError(t, c.Reel(t.Context(), id, 1, &after))
	assert.JSONEq(t, string(before), string(after))
}

func TestSigningIn(t *testing.T) {
	s, _ := servicetest.Start(t, t.TempDir())
	stranger := client.New(s.Address, "")
	_, err := stranger.Exercises(t.Context())
	assert.Equal(t, http.StatusUnauthorized, status(t, err))
	_, err = stranger.SignIn(t.Context(), "nobody", "x")
	assert.Equal(t, http.StatusUnauthorized, status(t, err))
	for i := 0; i < 12; i++ {
		_, err = stranger.SignIn(t.Context(), "someone", "wrong")
	}
	assert.Equal(t, http.StatusTooManyRequests, status(t, err))

	r, err := http.NewRequest(http.MethodPut, "http://"+s.Address+"/api/v1/exercises/x", strings.NewReader("x"))
	require.NoError(t, err)
	r.Header.Set("Sec-Fetch-Site", "cross-site")
	answer, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusForbidden, answer.StatusCode)
}

// Bad input of any kind gets a clear answer, and the service stays up.
func TestBadInput(t *testing.T) {
	s, c := servicetest.Start(t, t.TempDir())
	lamps, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	_, err = c.PutExercise(t.Context(), "boat-lamps", []byte("hemble: 1\nname: boat-lamps\nbench: {red: {part: lmap}}"))
	require.Equal(t, http.StatusUnprocessableEntity, status(t, err))
	assert.Contains(t, err.Error(), `exercise.yaml:1:1: "chip" is missing`)
	_, err = c.PutExercise(t.Context(), "other", lamps.Text)
	assert.Contains(t, err.Error(), "the file says name: boat-lamps")
	_, err = c.PutExercise(t.Context(), "boat-lamps", bytes.Repeat([]byte("x"), 2<<20))
	assert.Equal(t, http.StatusRequestEntityTooLarge, status(t, err))
	x, err := c.PutExercise(t.Context(), "boat-lamps", lamps.Text)
	require.NoError(t, err)
	assert.Equal(t, 1, x.Revision)
	x, err = c.PutExercise(t.Context(), "boat-lamps", lamps.Text)
	require.NoError(t, err)
	assert.Equal(t, 1, x.Revision, "the same text is no new revision")
	x, err = c.PutExercise(t.Context(), "boat-lamps", append(lamps.Text, "# changed\n"...))
	require.NoError(t, err)
	assert.Equal(t, 2, x.Revision)

	_, err = c.Submit(t.Context(), "boat-lamps", "A", "big.hex", make([]byte, 40<<20))
	assert.Equal(t, http.StatusRequestEntityTooLarge, status(t, err))
	_, err = c.Submit(t.Context(), "boat-lamps", " ", "x.hex", nil)
	assert.Equal(t, http.StatusBadRequest, status(t, err))
	_, err = c.Submit(t.Context(), "no-such", "A", "x.hex", nil)
	assert.Equal(t, http.StatusNotFound, status(t, err))
	_, err = c.Result(t.Context(), "no-such")
	assert.Equal(t, http.StatusNotFound, status(t, err))
	answer, err := http.Get("http://" + s.Address + "/api/v1/nothing")
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusNotFound, answer.StatusCode)

	var ids []string
	for i, data := range [][]byte{nil, []byte(":00"), bytes.Repeat([]byte{0xff}, 1000), []byte("\x7fELF\x01\x01\x01")} {
		sub, err := c.Submit(t.Context(), "boat-lamps", "A", fmt.Sprintf("../../bad %d.hex", i), data)
		require.NoError(t, err)
		assert.Equal(t, i+1, sub.Attempt)
		assert.Equal(t, fmt.Sprintf("bad %d.hex", i), sub.File)
		ids = append(ids, sub.ID)
	}
	require.NoError(t, c.Wait(t.Context(), "boat-lamps", ids, func(sub wire.Submission) {
		assert.Equal(t, wire.Marked, sub.State)
		assert.Equal(t, json.Number("0"), sub.Marks)
		assert.NotEmpty(t, sub.First)
	}))
}

func TestFolderIsHeldByOne(t *testing.T) {
	dir := t.TempDir()
	servicetest.Start(t, dir)
	_, err := service.Start(t.Context(), service.Config{Dir: dir, Listen: "127.0.0.1:0"})
	assert.ErrorContains(t, err, "in use by another")
}

// What is on disk and acknowledged comes back where the database lost it.
func TestReceiptsAreAdopted(t *testing.T) {
	dir := t.TempDir()
	s, c := servicetest.Start(t, dir)
	marked := servicetest.Course(t.Context(), t, c, func(_, f string) bool { return f == "haq-interrupts.elf" })
	id := marked["haq-interrupts.elf"].ID
	require.NoError(t, s.Close())
	receipt, err := os.ReadFile(filepath.Join(dir, "receipts", id+".json"))
	require.NoError(t, err)
	lost := strings.Replace(string(receipt), id, "0000000lost", 1)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "receipts", "0000000lost.json"), []byte(lost), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "receipts", "damaged.json"), []byte("{"), 0o600))
	_, c = servicetest.Start(t, dir)
	require.NoError(t, c.Wait(t.Context(), "chamber-gauge", []string{"0000000lost"}, func(sub wire.Submission) {
		assert.Equal(t, json.Number("10"), sub.Marks)
		assert.Equal(t, 2, sub.Attempt)
	}))
}

// Source is built by the service; a source that does not compile is marked 0, with the compiler's messages.
func TestSource(t *testing.T) {
	if _, err := exec.LookPath("bwrap"); err != nil {
		t.Skip("bubblewrap is not installed; `make tools` installs it")
	}
	_, c := servicetest.Start(t, t.TempDir())
	x, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	_, err = c.PutExercise(t.Context(), x.Name, x.Text)
	require.NoError(t, err)
	source, err := os.ReadFile("../demo/course/boat-lamps/source/marsh-waits.c")
	require.NoError(t, err)
	hand := func(name string, data []byte) (*wire.Submission, sheet.Sheet) {
		s, err := c.Submit(t.Context(), x.Name, "A. Marsh", name, data)
		require.NoError(t, err)
		require.NoError(t, c.Wait(t.Context(), x.Name, []string{s.ID}, func(done wire.Submission) { s = &done }))
		r, err := c.Result(t.Context(), s.ID)
		require.NoError(t, err)
		var sh sheet.Sheet
		require.NoError(t, json.Unmarshal(r.Sheet, &sh), "%s %s", s.State, s.Error)
		return s, sh
	}
	s, sh := hand("lamps.c", source)
	assert.Equal(t, "10", sh.Marks.String())
	var run reel.Reel
	require.NoError(t, c.Reel(t.Context(), s.ID, 0, &run))
	assert.NotEmpty(t, run.Tracks)
	_, sh = hand("lamps.c", bytes.Replace(source, []byte("red(1);"), []byte("red(1)"), 1))
	assert.Equal(t, "0", sh.Marks.String())
	assert.Contains(t, sh.Failed, "the source could not be built: lamps.c:")
	require.NotEmpty(t, sh.Messages)
	assert.NotZero(t, sh.Messages[0].Line)
	_, sh = hand("work.zip", []byte("PK\x03\x04nonsense"))
	assert.Contains(t, sh.Failed, "damaged zip archive")
}
