package service_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/core/bench"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/demo"
	"hemble/demo/checks"
	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/wire"
)

// zipped is an archive of files of a folder.
func zipped(t *testing.T, folder string, names ...string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, name := range names {
		data, err := os.ReadFile(filepath.Join(folder, name))
		require.NoError(t, err)
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write(data)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// A design goes every way that firmware goes: from source with its constraints and as it was built, in practice, among
// look-alikes; its reel is that of the core, also after a restart.
func TestDesigns(t *testing.T) {
	checks.Builder(t)
	const task = "gate-digit"
	const folder = "../demo/course/gate-digit/source"
	dir := t.TempDir()
	s, c := servicetest.Start(t, dir)
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	hand := func(student, name string, data []byte) string {
		r, err := c.Submit(t.Context(), lockHouse, task, client.Work{Student: student, File: name, Data: data})
		require.NoError(t, err)
		require.NoError(t, c.Wait(t.Context(), lockHouse, task, []string{r.ID}, func(wire.Submission) {}))
		return r.ID
	}
	counter := hand("hollis", "gate.zip", zipped(t, folder, "hollis-counter.v", "board.pcf"))
	process := hand("jarvis", "gate.zip", zipped(t, folder, "jarvis-process.vhd", "board.pcf"))
	_, built, err := demo.Pick(task, "kemp-ten")
	require.NoError(t, err)
	kemp := hand("kemp", "gate.design", built)
	copied := hand("lowe", "gate.zip", zipped(t, folder, "hollis-counter.v", "board.pcf"))
	bare := hand("nash", "gate.v", []byte("module top(input clk, output q);\n  assign q = clk;\nendmodule\n"))
	for id, marks := range map[string]string{counter: "10", process: "10", copied: "10", kemp: "", bare: "0"} {
		r, err := c.Result(t.Context(), id)
		require.NoError(t, err)
		require.NotNil(t, r.Sheet, "%s %s", r.State, r.Error)
		if marks != "" {
			assert.Equal(t, marks, r.Sheet.Marks.String(), "%+v", r.Sheet.Messages)
		}
		if id == bare {
			assert.Contains(t, servicetest.JSON(t, r.Sheet), "there is no constraints file (.xdc or .pcf)")
		}
	}
	source, err := c.Source(t.Context(), process)
	require.NoError(t, err)
	assert.Len(t, source, 2)
	still, err := c.Still(t.Context(), kemp, 0, 900_000)
	require.NoError(t, err)
	assert.NotEmpty(t, still)
	window, err := c.Window(t.Context(), counter, 0, 390_000, 410_000)
	require.NoError(t, err)
	require.Greater(t, len(window.Moments), 1)
	assert.Regexp(t, `^hollis-counter.v:\d+$`, window.Moments[1].Source)

	marsh := servicetest.SignIn(t, s.Address, class.Student, class.Password)
	o, err := marsh.Assignment(t.Context(), lockHouse, task)
	require.NoError(t, err)
	assert.Equal(t, []wire.Work{{Kind: "source", Endings: []string{".v", ".sv", ".vhd", ".zip"}},
		{Kind: "firmware", Endings: []string{".design"}}}, o.Works)
	tried, err := marsh.PracticeBuild(t.Context(), lockHouse, task, "gate.zip", zipped(t, folder, "imre-states.v",
		"board.pcf"))
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(string(tried.Data), `{"hemble-design":1`))
	alike, err := c.SimilarCode(t.Context(), lockHouse, task)
	require.NoError(t, err)
	for _, m := range alike {
		assert.Equal(t, "cells", m.Of)
	}

	same(t, c, task, "kemp-ten", kemp)
	same(t, c, task, "hollis-counter", counter) // built by the command line there, and by the service here
	require.NoError(t, s.Close())
	forgetReels(t, dir)
	_, c = servicetest.Start(t, dir)
	same(t, c, task, "kemp-ten", kemp)
	same(t, c, task, "hollis-counter", counter) // built by the command line there, and by the service here
}

// same checks that a submission showed, by the service, what the core has a firmware of the course show.
func same(t *testing.T, c *client.Client, task, firmwareName, id string) {
	t.Helper()
	e, data, err := demo.Pick(task, firmwareName)
	require.NoError(t, err)
	x, problems := exercise.Read("", e.Text)
	require.NotNil(t, x, "%v", problems)
	im, err := firmware.Read(data, x.Chip.Firmware)
	require.NoError(t, err)
	want, err := bench.Run(t.Context(), x, &x.Trials[0], im)
	require.NoError(t, err)
	got, err := c.Reel(t.Context(), id, 0)
	require.NoError(t, err)
	a, err := json.Marshal(want)
	require.NoError(t, err)
	b, err := json.Marshal(got)
	require.NoError(t, err)
	assert.JSONEq(t, string(a), string(b), firmwareName)
}

// forgetReels takes away what a service keeps of runs: they are made again.
func forgetReels(t *testing.T, dir string) {
	kept, err := filepath.Glob(filepath.Join(dir, "reels", "*.reel.gz"))
	require.NoError(t, err)
	require.NotEmpty(t, kept)
	for _, path := range kept {
		require.NoError(t, os.Remove(path))
	}
}
