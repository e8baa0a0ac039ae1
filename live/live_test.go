package live_test

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	_ "hemble/core/catalogue"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/reel"
	"hemble/live"
)

func read(t *testing.T, folder string) *exercise.Exercise {
	text, err := os.ReadFile(filepath.Join(folder, "exercise.yaml"))
	require.NoError(t, err)
	x, err := live.Read(text, nil, nil)
	require.NoError(t, err)
	return x
}

func image(t *testing.T, x *exercise.Exercise, path string) (s *live.Session) {
	file, err := os.ReadFile(path)
	require.NoError(t, err)
	im, err := live.Image(x, file)
	require.NoError(t, err)
	s, err = live.Begin(x, 0, im, live.ByHand, false)
	require.NoError(t, err)
	return s
}

// A part is worked while time goes by in slices; what it does is seen by a person's eye, a little later.
func TestWorkedByHand(t *testing.T) {
	x := read(t, "../demo/course/boat-counter")
	s := image(t, x, "../demo/course/boat-counter/firmware/hollis-loop.elf")
	require.NotEmpty(t, s.Controls)
	at := -1
	keys := map[string]bool{}
	for i, c := range s.Controls {
		assert.False(t, keys[c.Key], "%s has the key of another one", c.Part)
		keys[c.Key] = true
		if c.Verb == "hold" {
			at = i
		}
	}
	require.GreaterOrEqual(t, at, 0)
	shown := func() string {
		for _, d := range s.Displays() {
			if d.Display == "count" {
				return strings.TrimSpace(d.Frames[0].Text)
			}
		}
		return ""
	}
	run := func(by clock.Time) {
		for end := s.Now() + by; s.Now() < end; {
			require.NoError(t, s.Advance(context.Background(), min(end, s.Now()+8*clock.Millisecond)))
		}
	}
	run(clock.Second)
	before := shown()
	assert.NotEmpty(t, before)
	require.NoError(t, s.Do(at, false, ""))
	run(200 * clock.Millisecond)
	require.NoError(t, s.Do(at, true, ""))
	run(500 * clock.Millisecond)
	assert.NotEqual(t, before, shown(), "a press counts")
	require.Error(t, s.Do(99, false, ""))

	reel := s.Reel()
	assert.Len(t, reel.Cues, 2, "what was done is in the reel")
}

func TestRefused(t *testing.T) {
	_, err := live.Read([]byte("hemble: 1\nname: [x"), nil, nil)
	require.Error(t, err)
	x := read(t, "../demo/course/boat-counter")
	_, err = live.Image(x, []byte("no firmware"))
	require.Error(t, err)
	_, err = live.Begin(x, 7, nil, live.ByHand, false)
	require.Error(t, err)
}

// slice is as long as those of testdata/reels.mjs.
const slice = 37 * clock.Millisecond

// sliced runs a trial in slices.
func sliced(t *testing.T, x *exercise.Exercise, trial int, im *firmware.Image) []byte {
	s, err := live.Begin(x, trial, im, live.AsCued, false)
	require.NoError(t, err)
	for end := x.Trials[trial].Length; s.Now() < end; {
		require.NoError(t, s.Advance(t.Context(), min(end, s.Now()+slice)))
	}
	return encode(t, s.Reel())
}

func encode(t *testing.T, r *reel.Reel) []byte {
	text, err := json.Marshal(r)
	require.NoError(t, err)
	return text
}

// effortless is a reel without how much was interpreted, which depends on where waits are cut: what was shown does not.
func effortless(t *testing.T, text []byte) string {
	var r map[string]any
	require.NoError(t, json.Unmarshal(text, &r))
	counters := r["counters"].(map[string]any)
	delete(counters, "instructions")
	delete(counters, "followed")
	out, err := json.Marshal(r)
	require.NoError(t, err)
	return string(out)
}

// A trial is continued by hand from a moment on: what its cues did until then is as in the trial, and none of them
// comes later.
func TestContinue(t *testing.T) {
	x := read(t, "../demo/course/lock-tally")
	file, err := os.ReadFile("../demo/course/lock-tally/firmware/keane-debounced.elf")
	require.NoError(t, err)
	im, err := live.Image(x, file)
	require.NoError(t, err)
	trial := slices.IndexFunc(x.Trials, func(t exercise.Trial) bool { return len(t.Cues) > 2 })
	require.GreaterOrEqual(t, trial, 0)
	cues := x.Trials[trial].Cues
	whole, err := bench.Run(t.Context(), x, &x.Trials[trial], im)
	require.NoError(t, err)
	at := (cues[1].At + cues[2].At) / 2
	s, err := live.Begin(x, trial, im, live.Handed, false)
	require.NoError(t, err)
	require.NoError(t, s.Advance(t.Context(), at))
	s.ByHand()
	require.NoError(t, s.Advance(t.Context(), x.Trials[trial].Length))
	control := slices.IndexFunc(s.Controls, func(c live.Control) bool { return c.Part == cues[0].Part })
	require.NoError(t, s.Do(control, false, ""))
	require.NoError(t, s.Advance(t.Context(), s.Now()+clock.Second))
	r := s.Reel()
	require.Len(t, r.Cues, 3, "two of the trial, and one by hand")
	assert.Equal(t, whole.Cues[:2], r.Cues[:2])
	for i := range whole.Tracks {
		for k, f := range whole.Tracks[i].Frames {
			if f.To < at {
				assert.Equal(t, f, r.Tracks[i].Frames[k])
			}
		}
	}
	_, err = live.Begin(x, 99, im, live.Handed, false)
	assert.Error(t, err)
}

// What is expected is marked as a student sees it.
func TestCheck(t *testing.T) {
	x := read(t, "../demo/course/boat-counter")
	file, err := os.ReadFile("../demo/course/boat-counter/firmware/hollis-loop.elf")
	require.NoError(t, err)
	r, err := live.Check(t.Context(), x, "hollis-loop.elf", file, true)
	require.NoError(t, err)
	assert.Equal(t, r.Sheet.Of.String(), r.Sheet.Marks.String())
	assert.Len(t, r.Reels, len(x.Trials))
	r, err = live.Check(t.Context(), x, "hollis-loop.elf", file, false)
	require.NoError(t, err)
	assert.True(t, r.Sheet.Unmarked)
	r, err = live.Check(t.Context(), x, "x.hex", []byte("rubbish"), true)
	require.NoError(t, err)
	assert.NotEmpty(t, r.Sheet.Failed)
	for i := range x.Trials {
		x.Trials[i].Expect = nil
	}
	_, err = live.Check(t.Context(), x, "hollis-loop.elf", file, true)
	assert.ErrorContains(t, err, "nothing is expected")
}

// job is a trial for the bench of a page.
type job struct {
	Exercise string `json:"exercise"`
	Firmware string `json:"firmware"`
	Trial    int    `json:"trial"`
	Length   int64  `json:"length"` // ns
}

// The bench in a page gives the same reels as the service, bit for bit, over the whole course, and slices change
// nothing but how much was interpreted.
func TestSameInPage(t *testing.T) {
	if testing.Short() {
		t.Skip("it builds WebAssembly")
	}
	root, err := exec.Command("go", "env", "GOROOT").Output()
	require.NoError(t, err)
	wasm := filepath.Join(t.TempDir(), "bench.wasm")
	compile := exec.Command("go", "build", "-o", wasm, "../cmd/hemble-bench")
	compile.Env = append(os.Environ(), "GOOS=js", "GOARCH=wasm")
	out, err := compile.CombinedOutput()
	require.NoError(t, err, string(out))

	var jobs []job
	var want, names []string
	folders, err := filepath.Glob("../demo/course/*/exercise.yaml")
	require.NoError(t, err)
	for _, path := range folders {
		folder := filepath.Dir(path)
		x := read(t, folder)
		files, err := filepath.Glob(filepath.Join(folder, "firmware", "*.[ecd][loe][fs]*")) // .elf, .cof, .design
		require.NoError(t, err)
		if x.Chip == nil {
			files = []string{""}
		}
		for _, file := range files {
			var data []byte
			if file != "" {
				data, err = os.ReadFile(file)
				require.NoError(t, err)
			}
			x := x.For(data)
			im, err := live.Image(x, data)
			require.NoError(t, err)
			for i := range x.Trials {
				whole, err := bench.Run(t.Context(), x, &x.Trials[i], im)
				require.NoError(t, err)
				text := sliced(t, x, i, im)
				assert.Equal(t, effortless(t, encode(t, whole)), effortless(t, text), "%s %s", file, x.Trials[i].Name)
				digest := sha256.Sum256(text)
				want, names = append(want, hex.EncodeToString(digest[:])), append(names, file+" "+x.Trials[i].Name)
				jobs = append(jobs, job{path, file, i, int64(x.Trials[i].Length / clock.Nanosecond)})
			}
		}
	}
	require.Greater(t, len(jobs), 80)
	list, err := json.Marshal(jobs)
	require.NoError(t, err)
	run := exec.CommandContext(t.Context(), "node", "testdata/reels.mjs",
		filepath.Join(strings.TrimSpace(string(root)), "lib/wasm/wasm_exec.js"), wasm)
	run.Stdin = bytes.NewReader(list)
	var stderr bytes.Buffer
	run.Stderr = &stderr
	out, err = run.Output()
	require.NoError(t, err, stderr.String())
	got := strings.Fields(string(out))
	require.Len(t, got, len(want))
	for i := range want {
		assert.Equal(t, want[i], got[i], names[i])
	}
}
