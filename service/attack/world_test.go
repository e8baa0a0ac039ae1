package attack

import (
	"archive/zip"
	"bytes"
	"flag"
	"fmt"
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/service/servicetest"
	"hemble/wire"
)

func TestMain(m *testing.M) {
	if flag.Parse(); testing.Short() {
		os.Exit(0) // attacks take their time; the whole of the tests has them
	}
	slog.SetDefault(slog.New(slog.DiscardHandler))
	code := m.Run()
	os.RemoveAll(filepath.Dir(built))
	os.Exit(code)
}

// command is the real command, built once.
func command(t *testing.T) string {
	t.Helper()
	once.Do(func() {
		dir, err := os.MkdirTemp("", "hemble-attack-")
		require.NoError(t, err)
		built = filepath.Join(dir, "hemble")
		require.NoError(t, os.Rename(servicetest.Binary(t), built))
	})
	return built
}

var (
	once  sync.Once
	built string
)

// times gives how often something is tried: so often in `make attack`, less in `make test`.
func times(all, few int) int {
	if os.Getenv("HEMBLE_ATTACK") != "" {
		return all
	}
	return few
}

// exercise is one lamp that blinks; its trials are as long as they may be, so that a program that switches a pin all
// the time keeps a worker for minutes.
func exercise(name string, trials int, length string) []byte {
	text := fmt.Sprintf(`hemble: 1
name: %s
title: The wharf lamp
chip: {is: atmega328p}
bench:
  lamp: {part: lamp, colour: red, resistor: 330, pins: {anode: PB0, cathode: GND}}
  other: {part: lamp, colour: green, resistor: 330, pins: {anode: PB5, cathode: GND}}
trials:
`, name)
	for i := range trials {
		text += fmt.Sprintf("  - name: trial %d\n    length: %s\n    expect:\n      - {shows: lamp, frames: [on, off], each: 500ms, marks: 1}\n", i+1, length)
	}
	return []byte(text)
}

// Work that is submitted: right, and such as never ends.
const (
	blinks = "#include <avr/io.h>\n#include <util/delay.h>\nint main(void)\n{\n\tDDRB = 1;\n\tfor (;;) {\n\t\tPINB = 1;\n\t\t_delay_ms(500);\n\t}\n}\n"
	bangs  = "#include <avr/io.h>\nint main(void)\n{\n\tunsigned n = 0;\n\tDDRB = 0x21;\n\tfor (;;) {\n\t\tPORTB ^= 0x21;\n\t\tif (!(++n & 63))\n\t\t\tPORTB = n >> 6;\n\t}\n}\n"
)

// wharf is a service with a class, an instructor and some students.
type wharf struct {
	process  *exec.Cmd
	binary   string
	dir, url string
	admin    *client.Client
	people   map[string]*client.Client
}

const class = "wharf"

func newWharf(t *testing.T, students ...string) *wharf {
	w := &wharf{binary: command(t), dir: t.TempDir(), people: map[string]*client.Client{}}
	own, err := os.MkdirTemp("", "hemble-attack-") // so that what is left behind there is the service's own
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(own) })
	require.NoError(t, os.Chmod(own, 0o711)) // the sandbox's user comes to it
	t.Setenv("TMPDIR", own)
	w.process, w.url = servicetest.Serve(t, w.binary, w.dir, "127.0.0.1:0")
	w.admin = servicetest.SignIn(t, w.url, "instructor", "wherry-lock")
	_, err = w.admin.AddClass(t.Context(), class, "Wharf")
	require.NoError(t, err)
	for _, s := range students {
		require.NoError(t,
			w.admin.PutMember(t.Context(), class, s, wire.SetMember{Name: "Student " + s, Role: wire.Student}))
		w.people[s] = servicetest.As(t, w.admin, class, s)
	}
	require.NoError(t,
		w.admin.SetAccount(t.Context(), "colleague", wire.SetAccount{Name: "A. Colleague", Role: wire.Instructor}))
	require.NoError(t,
		w.admin.PutMember(t.Context(), class, "colleague", wire.SetMember{Name: "A. Colleague", Role: wire.Instructor}))
	link, err := w.admin.AccountLink(t.Context(), "colleague")
	require.NoError(t, err)
	w.people["colleague"] = client.New(w.url, "")
	_, err = w.people["colleague"].UseLink(t.Context(), link.Token, "")
	require.NoError(t, err)
	return w
}

// opens puts an exercise into the service and opens it to the class.
func (w *wharf) opens(t *testing.T, name string, text []byte, policy wire.Policy) {
	_, err := w.admin.PutExercise(t.Context(), name, text)
	require.NoError(t, err)
	policy.Late, policy.Counts = wire.LateFull, wire.CountsBest
	policy.ShowSheet, policy.ShowMarks = wire.AtOnce, wire.AtOnce
	_, err = w.admin.Assign(t.Context(), class, name, wire.SetAssignment{Policy: policy})
	require.NoError(t, err)
}

// marked submits work and waits for what comes of it.
func (w *wharf) marked(t *testing.T, who, exercise, file string, data []byte) *wire.Result {
	t.Helper()
	r, err := w.people[who].Submit(t.Context(), class, exercise, client.Work{File: file, Data: data})
	require.NoError(t, err)
	require.NoError(t, w.people[who].Wait(t.Context(), class, exercise, []string{r.ID}, func(wire.Submission) {}))
	result, err := w.admin.Result(t.Context(), r.ID)
	require.NoError(t, err)
	return result
}

// memory is the most that the service had in memory, in MB.
func (w *wharf) memory(t *testing.T) int {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", w.process.Process.Pid))
	require.NoError(t, err)
	m := regexp.MustCompile(`VmHWM:\s+(\d+) kB`).FindSubmatch(text)
	require.NotNil(t, m)
	kb, err := strconv.Atoi(string(m[1]))
	require.NoError(t, err)
	return kb >> 10
}

// processor is the processor time that the service has taken, without its builds.
func (w *wharf) processor(t *testing.T) time.Duration {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", w.process.Process.Pid))
	require.NoError(t, err)
	fields := bytes.Fields(text[bytes.LastIndexByte(text, ')')+2:])
	total := time.Duration(0)
	for _, f := range fields[11:13] {
		n, err := strconv.Atoi(string(f))
		require.NoError(t, err)
		total += time.Duration(n) * 10 * time.Millisecond
	}
	return total
}

// pack makes a zip archive of files: name, content …
func pack(t *testing.T, pairs ...string) []byte {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for i := 0; i < len(pairs); i += 2 {
		f, err := z.Create(pairs[i])
		require.NoError(t, err)
		_, err = f.Write([]byte(pairs[i+1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}

func needs(t *testing.T, tools ...string) {
	for _, tool := range tools {
		if _, err := exec.LookPath(tool); err != nil {
			t.Skipf("%s is not installed; `make tools` installs it", tool)
		}
	}
}
