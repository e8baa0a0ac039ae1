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
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/core/judge"
	"hemble/core/sheet"
	"hemble/demo"
	"hemble/demo/class"
	"hemble/service"
	"hemble/service/backup"
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
	marked := servicetest.Course(t.Context(), t, c, func(x, _ string) bool { return x == gauge })
	require.Len(t, marked, 8)
	sub := marked["stroud-b-f-swapped.elf"]
	assert.Equal(t, json.Number("5"), sub.Marks)
	assert.Equal(t, "V. Stroud", sub.Student)

	r, err := c.Result(t.Context(), sub.ID)
	require.NoError(t, err)
	sh := r.Sheet
	assert.Equal(t, "5", sh.Marks.String())
	assert.Equal(t, judge.Partly, sh.Trials[0].Verdicts[0].Outcome)
	assert.NotEmpty(t, r.Previous+r.Next)
	assert.True(t, r.Counts)

	run, err := c.Reel(t.Context(), sub.ID, 1)
	require.NoError(t, err)
	assert.Equal(t, "raising by hand", run.Trial)
	assert.Equal(t, "gauge", run.Tracks[0].Display)
	_, err = c.Reel(t.Context(), sub.ID, 2)
	assert.Equal(t, 404, status(t, err))

	list, err := c.Assignments(t.Context(), lockHouse)
	require.NoError(t, err)
	require.Len(t, list, 29)
	at := slices.IndexFunc(list, func(o wire.Assignment) bool { return o.Exercise == gauge })
	require.NotEqual(t, -1, at)
	assert.Equal(t, 8, list[at].Submissions)
	assert.Zero(t, list[at].Waiting)
	assert.Equal(t, json.Number("7.06"), list[at].Mean)

	answer, err := http.Get("http://" + s.Address + "/metrics")
	require.NoError(t, err)
	defer answer.Body.Close()
	text, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	assert.Contains(t, string(text), `hemble_submissions_total{outcome="marked"} 8`)

	file, err := c.File(t.Context(), sub.ID)
	require.NoError(t, err)
	_, data, err := demo.Pick(gauge, "stroud-b-f-swapped")
	require.NoError(t, err)
	assert.Equal(t, data, file)
}

// A reel that is no longer kept is made again, and is the same; the cache stays under its bound.
func TestReelsAreACache(t *testing.T) {
	dir := t.TempDir()
	config := servicetest.Config(dir)
	config.MostReels = 20_000
	_, c := servicetest.StartWith(t, config)
	marked := servicetest.Course(t.Context(), t, c,
		func(x, f string) bool { return f == "quill-bounce.elf" || x == "keeper-board" })
	id := marked["quill-bounce.elf"].ID
	before, err := c.Reel(t.Context(), id, 1)
	require.NoError(t, err)
	reels, err := filepath.Glob(filepath.Join(dir, "reels", "*.reel.gz"))
	require.NoError(t, err)
	require.NotEmpty(t, reels)
	size := int64(0)
	for _, path := range reels {
		info, err := os.Stat(path)
		require.NoError(t, err)
		size += info.Size()
		require.NoError(t, os.Remove(path))
	}
	assert.LessOrEqual(t, size, config.MostReels)
	after, err := c.Reel(t.Context(), id, 1)
	require.NoError(t, err)
	assert.Equal(t, before, after)
}

// Bad input of any kind gets a clear answer, and the service stays up.
func TestBadInput(t *testing.T) {
	_, c := servicetest.Start(t, t.TempDir())
	lamps, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	_, err = c.PutExercise(t.Context(), "boat-lamps", []byte("hemble: 1\nname: boat-lamps\nbench: {red: {part: lmap}}"))
	require.Equal(t, http.StatusUnprocessableEntity, status(t, err))
	assert.Contains(t, err.Error(), `exercise.yaml:1:1: chip is missing`)
	checked, err := c.Check(t.Context(), []byte("hemble: 1\nname: boat-lamps\nbench: {red: {part: lmap}}"))
	require.NoError(t, err)
	assert.False(t, checked.Valid)
	assert.NotEmpty(t, checked.Mistakes)
	_, err = c.PutExercise(t.Context(), "other", lamps.Text)
	assert.Contains(t, err.Error(), "the file says name: boat-lamps")
	_, err = c.PutExercise(t.Context(), "boat-lamps", bytes.Repeat([]byte("x"), 2<<20))
	assert.Equal(t, http.StatusRequestEntityTooLarge, status(t, err))
	for i, text := range []string{string(lamps.Text), string(lamps.Text), string(lamps.Text) + "# changed\n"} {
		x, err := c.PutExercise(t.Context(), "boat-lamps", []byte(text))
		require.NoError(t, err)
		assert.Equal(t, []int{1, 1, 2}[i], x.Revision, "the same text is no new revision")
	}
	first, err := c.Revision(t.Context(), "boat-lamps", 1)
	require.NoError(t, err)
	assert.Equal(t, string(lamps.Text), first.Text, "a revision never changes")

	// The folder goes out and comes in whole.
	archive, err := c.ExerciseFolder(t.Context(), "boat-lamps")
	require.NoError(t, err)
	x, err := c.PutExerciseFolder(t.Context(), "boat-lamps", archive)
	require.NoError(t, err)
	assert.Equal(t, 2, x.Revision)

	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	_, err = c.Submit(t.Context(), lockHouse, "no-such",
		client.Work{Student: "marsh", File: "x.hex", Data: []byte(":")})
	assert.Equal(t, http.StatusNotFound, status(t, err))
	_, err = c.Result(t.Context(), "no-such")
	assert.Equal(t, http.StatusNotFound, status(t, err))
	var ids []string
	for i, data := range [][]byte{[]byte(":00"), bytes.Repeat([]byte{0xff}, 1000), []byte("\x7fELF\x01\x01\x01")} {
		r, err := c.Submit(t.Context(), lockHouse, "boat-lamps",
			client.Work{Student: "marsh", File: fmt.Sprintf("../../bad %d.hex", i), Data: data})
		require.NoError(t, err)
		assert.Equal(t, i+1, r.Attempt)
		assert.Equal(t, fmt.Sprintf("bad %d.hex", i), r.File)
		ids = append(ids, r.ID)
	}
	require.NoError(t, c.Wait(t.Context(), lockHouse, "boat-lamps", ids, func(sub wire.Submission) {
		assert.Equal(t, wire.Marked, sub.State)
		assert.Equal(t, json.Number("0"), sub.Marks)
		assert.NotEmpty(t, sub.First)
	}))
}

func TestFolderIsHeldByOne(t *testing.T) {
	dir := t.TempDir()
	servicetest.Start(t, dir)
	_, err := service.Start(t.Context(), servicetest.Config(dir))
	assert.ErrorContains(t, err, "in use by another")
	config := servicetest.Config(t.TempDir())
	config.BasePath = "no slash"
	_, err = service.Start(t.Context(), config)
	assert.ErrorContains(t, err, "base path")
	config = servicetest.Config(t.TempDir())
	config.Cert = "cert.pem"
	_, err = service.Start(t.Context(), config)
	assert.ErrorContains(t, err, "TLS takes a certificate and its key")
}

// What is on disk and acknowledged comes back where the database lost it.
func TestReceiptsAreAdopted(t *testing.T) {
	dir := t.TempDir()
	s, c := servicetest.Start(t, dir)
	marked := servicetest.Course(t.Context(), t, c, func(_, f string) bool {
		return f == "haq-interrupts.elf" ||
			f == "quill-bounce.elf"
	})
	id, other := marked["haq-interrupts.elf"].ID, marked["quill-bounce.elf"].ID
	require.NoError(t, s.Close())
	receipt, err := os.ReadFile(filepath.Join(dir, "receipts", id+".json"))
	require.NoError(t, err)
	second, err := os.ReadFile(filepath.Join(dir, "receipts", other+".json"))
	require.NoError(t, err)
	blob := func(text []byte) string {
		var r struct{ Blob string }
		require.NoError(t, json.Unmarshal(text, &r))
		return r.Blob
	}
	// Haq's receipt with another id and quill's file: work that the database has not.
	lost := strings.NewReplacer(id, "0000000105e7", blob(receipt), blob(second)).Replace(string(receipt))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "receipts", "0000000105e7.json"), []byte(lost), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "receipts", "damaged.json"), []byte("{"), 0o600))
	require.NoError(t,
		os.WriteFile(filepath.Join(dir, "receipts", "gone.json"),
			[]byte(`{"id": "gone", "class": "no-such", "exercise": "x", "student": "y", "blob": "`+blob(receipt)+`"}`),
			0o600))
	_, c = servicetest.Start(t, dir)
	require.NoError(t, c.Wait(t.Context(), lockHouse, gauge, []string{"0000000105e7"}, func(sub wire.Submission) {
		assert.Equal(t, json.Number("7.5"), sub.Marks)
		assert.Equal(t, 2, sub.Attempt)
		assert.Equal(t, "haq", sub.Login)
	}))
}

// Source is built by the service; a source that does not compile is marked 0, with the compiler's messages. A wiring
// file goes with it where the exercise lets students wire.
func TestSource(t *testing.T) {
	if _, err := exec.LookPath("bwrap"); err != nil {
		t.Skip("bubblewrap is not installed; `make tools` installs it")
	}
	_, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	source, err := os.ReadFile("../demo/course/boat-lamps/source/marsh-waits.c")
	require.NoError(t, err)
	hand := func(name string, data []byte) (wire.Receipt, *sheet.Sheet) {
		s, err := c.Submit(t.Context(), lockHouse, "boat-lamps",
			client.Work{Student: "marsh", File: name, Data: data})
		require.NoError(t, err)
		require.NoError(t, c.Wait(t.Context(), lockHouse, "boat-lamps", []string{s.ID}, func(wire.Submission) {}))
		r, err := c.Result(t.Context(), s.ID)
		require.NoError(t, err)
		require.NotNil(t, r.Sheet, "%s %s", r.State, r.Error)
		return s, r.Sheet
	}
	s, sh := hand("lamps.c", source)
	assert.Equal(t, "10", sh.Marks.String())
	run, err := c.Reel(t.Context(), s.ID, 0)
	require.NoError(t, err)
	assert.NotEmpty(t, run.Tracks)
	files, err := c.Source(t.Context(), s.ID)
	require.NoError(t, err)
	assert.Equal(t, []wire.SourceFile{{Path: "lamps.c", Text: string(source)}}, files)
	film, err := c.Film(t.Context(), s.ID, 0)
	require.NoError(t, err)
	assert.Contains(t, string(film), "10 / 10</text>")
	still, err := c.Still(t.Context(), s.ID, 0, 1_000_000)
	require.NoError(t, err)
	assert.Equal(t, "image/png", http.DetectContentType(still))
	window, err := c.Window(t.Context(), s.ID, 0, 2_900_000, 3_100_000) // the red lamp goes out after three seconds
	require.NoError(t, err)
	require.Greater(t, len(window.Moments), 1)
	assert.NotEmpty(t, window.Moments[0].States, "all as it stood before")
	assert.Regexp(t, `^lamps.c:\d+$`, window.Moments[1].Source)
	for _, w := range [][2]int64{{5, 5}, {0, 2_000_000}, {-1, 5}} {
		_, err = c.Window(t.Context(), s.ID, 0, w[0], w[1])
		assert.Equal(t, "bad-request", client.Code(err))
	}
	_, err = c.Window(t.Context(), s.ID, 9, 0, 10)
	assert.Equal(t, "not-found", client.Code(err))
	_, sh = hand("lamps.c", bytes.Replace(source, []byte("red(1);"), []byte("red(1)"), 1))
	assert.Equal(t, "0", sh.Marks.String())
	assert.Contains(t, sh.Failed, "the source could not be built: lamps.c:")
	require.NotEmpty(t, sh.Messages)
	assert.NotZero(t, sh.Messages[0].Line)
	_, sh = hand("work.zip", []byte("PK\x03\x04nonsense"))
	assert.Contains(t, sh.Failed, "damaged zip archive")
	_, err = c.Submit(t.Context(), lockHouse, "boat-lamps",
		client.Work{Student: "marsh", File: "lamps.c", Data: source, Wiring: []byte("red: {anode: PB5}\n")})
	assert.Equal(t, "wiring", client.Code(err), "a wiring that the exercise does not allow costs no attempt")
}

// A backup under way is whole, and restored it is what it was taken of.
func TestBackup(t *testing.T) {
	dir := t.TempDir()
	_, c := servicetest.Start(t, dir)
	marked := servicetest.Course(t.Context(), t, c, func(_, f string) bool { return f == "haq-interrupts.elf" })
	_, err := c.Override(t.Context(), marked["haq-interrupts.elf"].ID,
		wire.SetOverride{Marks: "3", Reason: "for this test"})
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, c.Backup(t.Context(), &b))
	before, err := c.Gradebook(t.Context(), lockHouse)
	require.NoError(t, err)

	restored := filepath.Join(t.TempDir(), "restored")
	report, err := backup.Restore(t.Context(), bytes.NewReader(b.Bytes()), restored)
	require.NoError(t, err)
	assert.Empty(t, report.Damaged)
	_, again := servicetest.Start(t, restored)
	after, err := again.Gradebook(t.Context(), lockHouse)
	require.NoError(t, err)
	assert.Equal(t, before, after)
	file, err := again.File(t.Context(), marked["haq-interrupts.elf"].ID)
	require.NoError(t, err)
	assert.NotEmpty(t, file)

	_, err = backup.Restore(t.Context(), bytes.NewReader(b.Bytes()), restored)
	assert.ErrorContains(t, err, "not empty")
	for name, damaged := range map[string][]byte{"cut": b.Bytes()[:b.Len()/50], "none": []byte("x"), "empty": nil} {
		at := filepath.Join(t.TempDir(), "new")
		_, err := backup.Restore(t.Context(), bytes.NewReader(damaged), at)
		assert.Error(t, err, name)
		_, err = os.Stat(at)
		assert.Error(t, err, "nothing stays of a backup that is none")
	}
}
