package scripted

import (
	"bytes"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
	"hemble/core/script"
)

// spoken is a child that says some lines, and keeps what it is told.
type spoken struct {
	io.Reader
	heard   bytes.Buffer
	stopped string
}

func (s *spoken) Write(p []byte) (int, error)  { return s.heard.Write(p) }
func (s *spoken) Stop()                        {}
func (s *spoken) Wait() (stopped, said string) { return s.stopped, "it said so" }

type stage struct{ child *spoken }

func (s stage) Start(*script.Program, Board) (Child, error) { return s.child, nil }

// on starts a machine with what a script says.
func on(t testing.TB, said string) (*Machine, *spoken) {
	t.Helper()
	child := &spoken{Reader: strings.NewReader(said)}
	before := host
	t.Cleanup(func() { host = before })
	host = stage{child}
	m := newMachine(Linux, machine.Config{Seed: 5, Supply: 3_300_000}).(*Machine)
	require.NoError(t, m.Load(&firmware.Image{Script: &script.Program{Main: "a.py", Files: map[string]string{"a.py": ""}}}))
	return m, child
}

func TestWritesAndQuestions(t *testing.T) {
	m, child := on(t, "w 1000 17 1 12\nw 1000 27 0 13\nb 2000\ns 2000 900000 20\nw 900000 17 z 14\nx 900000 \"\"\n")
	var seen machinetest.Recorder
	assert.Equal(t, machine.Reached, m.Run(500*clock.Microsecond, &seen).Reason)
	assert.Equal(t, circuit.Output(true), m.Drives(17))
	assert.Equal(t, circuit.Output(false), m.Drives(27))
	assert.Contains(t, child.heard.String(), "2000 ", "the question is answered at its time")
	assert.Contains(t, child.heard.String(), " 500000\n", "nothing changes before the next event")
	m.Input(5, circuit.High)
	assert.Equal(t, machine.Reached, m.Run(clock.Millisecond, &seen).Reason)
	lines := strings.Split(strings.TrimSpace(child.heard.String()), "\n")
	require.Len(t, lines, 2)
	assert.True(t, strings.HasPrefix(lines[1], "500000 "), "a change of an input ends the sleep: %s", lines[1])
	assert.Equal(t, circuit.Released, m.Drives(17))
	assert.Equal(t, clock.Millisecond, m.Now())
}

func TestWhatIsNotTrusted(t *testing.T) {
	for said, want := range map[string]string{
		"w 5 99 1 1\n":                    "is no line of a script",
		"w -5 1 1 1\n":                    "is no line of a script",
		"w 5 1 7 1\n":                     "is no line of a script",
		"w 5 1 1 99999999999999\n":        "is no line of a script",
		"s 5 99999999999999999999 0\n":    "is no line of a script",
		"o 5 text\n":                      "is no line of a script",
		"n 5 watchdog \"x\"\n":            "is no line of a script",
		"b 7000\nb 5\n":                   "its time goes back",
		"\n":                              "is no line of a script",
		"p 5 0 1 2 8681 8n1\n":            "is no line of a script",
		"p 5 1 1 2 8681 9n1\n":            "is no line of a script",
		"t 5 1 0 4142\n":                  "it has no such port",
		"c 5 4 3 2 100 0 S,w4e,r9999,P\n": "is no line of a script",
		"c 5 4 3 2 9000 0 S,w4e,P\nc 6 4 3 2 9000 0 S,w4e,P\n":                "its bus is busy",
		"c 5 0 3 2 100 0 S,P\n":                                               "its bus is busy",
		"y 5 4 11 10 9 - 500 9 0 41\n":                                        "is no line of a script",
		"y 5 4 11 10 9 - 500 0 0 " + strings.Repeat("41", mostBytes+1) + "\n": "is no line of a script",
		"b " + strings.Repeat("0", mostLine) + "":                             "a line of it has no end",
		"b 5": "the script's process ended: it said so",
	} {
		m, _ := on(t, said)
		var seen machinetest.Recorder
		stop := m.Run(clock.Second, &seen)
		assert.Equal(t, machine.Exception, stop.Reason, said)
		assert.Contains(t, stop.Text, want)
	}
	m, child := on(t, "b 5\n")
	child.stopped = "more than 512 MB of memory"
	stop := m.Run(clock.Second, nil)
	assert.Equal(t, machine.TooMuch, stop.Reason)
	assert.Contains(t, stop.Text, "it needed more than 512 MB of memory")
}

// What a script that was stopped took is more than a search for causes has; lines that it reaches are noted, within
// bounds.
func TestEffortAndCover(t *testing.T) {
	m, child := on(t, "l 1000 5 7\nl 2000 6 9\nl 3000 4294967290 4294967295\n")
	child.stopped = "more than 20 s"
	stop := m.Run(clock.Second, nil)
	assert.Equal(t, machine.TooMuch, stop.Reason)
	assert.Greater(t, m.Counters().Effort(), int64(stoppedMessages*messageEffort))
	for line, at := range map[uint32]clock.Time{5: 1, 7: 1, 8: 2, 9: 2, 4294967295: 3} {
		got, ok := m.Reached(line)
		assert.True(t, ok)
		assert.Equal(t, at*clock.Microsecond, got, line)
	}
	_, ok := m.Reached(10)
	assert.False(t, ok)

	m, _ = on(t, "l 1 0 4294967295\nb 5\n")
	m.Run(clock.Second, nil)
	assert.LessOrEqual(t, len(m.cover.lines), mostLong+1)
}

func TestNumbering(t *testing.T) {
	for _, c := range []struct {
		said  string
		pins  uint64
		c     bool
		wants string
	}{
		{"gpio", 1<<11 | 1<<13 | 1<<15, false, "numbered-header"}, // which are GPIO17, 27 and 22 there
		{"header", 1<<0 | 1<<1 | 1<<22, false, ""},
		{"header", 1<<18 | 1<<25, false, ""},               // places 12 and 22
		{"gpio", 1<<0 | 1<<2 | 1<<3, true, "numbered-own"}, // which are GPIO17, 27 and 22 there
		{"gpio", 1<<0 | 1<<2 | 1<<3, false, ""},            // Python has no such numbering
		{"own", 1<<14 | 1<<17 | 1<<15, true, ""},           // the numbers 15, 0 and 16
		{"gpio", 1<<17 | 1<<27 | 1<<11, false, ""},         // most are right
	} {
		m := newMachine(Linux, machine.Config{Watched: []machine.Pin{17, 27, 22}}).(*Machine)
		m.image = &firmware.Image{Script: &script.Program{}}
		if c.c {
			m.image.Script.Binary = []byte{0}
		}
		m.numbering, m.driven = c.said, c.pins
		var codes []string
		for _, n := range m.Notes() {
			codes = append(codes, string(n.Code))
		}
		assert.Equal(t, c.wants, strings.Join(codes, " "), "%+v", c)
	}
}

// FuzzLines gives a board whatever a script's process may send: never a panic, never a hang.
func FuzzLines(f *testing.F) {
	f.Add("w 1000 17 1 12\ns 1000 5000 ff\nx 5000 \"\"\n")
	f.Add("o 1 \"a\"\nn 2 thread-exception \"b\"\ni 3 4\na 5 6\n")
	f.Add("c 1 4 3 2 5000 1 S,w4e0a,S,w4f,r2,P\nf 900000 4\ny 900000 5 11 10 - 8 500 7 2 4142\nf 990000 5\n")
	f.Add("p 1 1 0 1 8681 8n1\nt 1 1 3 4142\nr 1000000 1\n")
	f.Fuzz(func(t *testing.T, said string) {
		m, _ := on(t, said)
		var seen machinetest.Recorder
		for i := range clock.Time(5) {
			m.Run(i*clock.Millisecond, &seen)
			m.Input(machine.Pin(i), circuit.High)
			require.Equal(t, i*clock.Millisecond, max(m.Now(), i*clock.Millisecond))
		}
		m.Notes()
	})
}
