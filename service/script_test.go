package service_test

import (
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/demo/checks"
	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/wire"
)

// A script goes every way that firmware goes: as a file, as an archive, in practice; its reel is that of the core, also
// after a restart.
func TestScripts(t *testing.T) {
	checks.Builder(t)
	const task = "ferry-bell"
	const folder = "../demo/course/ferry-bell/source"
	dir := t.TempDir()
	s, c := servicetest.Start(t, dir)
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	hand := func(student, name string, data []byte) string {
		r, err := c.Submit(t.Context(), lockHouse, task, client.Work{Student: student, File: name, Data: data})
		require.NoError(t, err)
		require.NoError(t, c.Wait(t.Context(), lockHouse, task, []string{r.ID}, func(wire.Submission) {}))
		return r.ID
	}
	text, err := os.ReadFile(folder + "/abbott-asks.py")
	require.NoError(t, err)
	asks := hand("abbott", "abbott-asks.py", text)
	events := hand("birch", "ferry.zip", zipped(t, folder, "birch-events.py"))
	broken := hand("cole", "ferry.py", []byte("import RPi.GPIO as GPIO\nGPIO.setmode(GPIO.BCM)\nwhile True\n    pass\n"))
	failing := hand("dunn", "ferry.py", []byte("import RPi.GPIO as GPIO\nGPIO.output(17, 1)\n"))
	for id, want := range map[string]string{asks: "10", events: "10", broken: "0", failing: "0"} {
		r, err := c.Result(t.Context(), id)
		require.NoError(t, err)
		require.NotNil(t, r.Sheet, "%s %s", r.State, r.Error)
		assert.Equal(t, want, r.Sheet.Marks.String(), "%+v", r.Sheet.Messages)
		switch id {
		case broken:
			assert.Contains(t, r.Sheet.Failed, "ferry.py:3:11: error: expected ':'")
		case failing:
			require.NotEmpty(t, r.Sheet.Findings)
			assert.Contains(t, r.Sheet.Findings[0].Text, "ferry.py:2: RuntimeError")
		}
	}
	window, err := c.Window(t.Context(), asks, 0, 900_000, 1_100_000)
	require.NoError(t, err)
	require.Greater(t, len(window.Moments), 1)
	assert.Regexp(t, `^abbott-asks.py:\d+$`, window.Moments[1].Source)
	marsh := servicetest.SignIn(t, s.Address, class.Student, class.Password)
	o, err := marsh.Assignment(t.Context(), lockHouse, task)
	require.NoError(t, err)
	assert.Equal(t, []wire.Work{{Kind: "source", Endings: []string{".py", ".c", ".zip"}},
		{Kind: "firmware", Endings: []string{".script"}}}, o.Works)
	tried, err := marsh.PracticeBuild(t.Context(), lockHouse, task, "a.py", text)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(string(tried.Data), `{"hemble-script":1`))

	same(t, c, task, "abbott-asks", asks)
	require.NoError(t, s.Close())
	forgetReels(t, dir)
	_, c = servicetest.Start(t, dir)
	same(t, c, task, "abbott-asks", asks)
	same(t, c, task, "birch-events", events)
}
