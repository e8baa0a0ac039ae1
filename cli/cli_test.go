package cli

import (
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const course = "../demo/course/"

// call runs a command line in this process.
func call(t *testing.T, args ...string) (string, error) {
	t.Helper()
	var out bytes.Buffer
	app := App()
	app.Writer = &out
	err := app.Run(t.Context(), append([]string{"hemble"}, args...))
	return out.String(), err
}

func TestGradeOne(t *testing.T) {
	out, err := call(t, "grade", course+"chamber-gauge", course+"chamber-gauge/firmware/stroud-b-f-swapped.elf")
	require.NoError(t, err)
	for _, want := range []string{"Chamber level gauge · stroud-b-f-swapped.elf", "5 / 10", "One mistake: −4.8",
		"0 for what was seen; 0.45 because the mistake counts once",
		"first difference at 0.700 s: expected 2, saw E  gauge.h line", "━━", "✗ 700 ms", "expected"} {
		assert.Contains(t, out, want)
	}
	for _, line := range strings.Split(out, "\n") {
		assert.LessOrEqual(t, len([]rune(line)), 160, "%s", line)
	}
}

func TestGradeFolder(t *testing.T) {
	out, err := call(t, "grade", course+"keeper-board", course+"keeper-board/firmware")
	require.NoError(t, err)
	assert.Contains(t, out, "Keeper's board · 6 submissions")
	assert.Regexp(t, `✓ doyle-waits.elf\s+10 / 10   met 4`, out)
	assert.Regexp(t, `≈ ferris-leftover.elf\s+7.5 / 10`, out)
}

func TestGradeJSON(t *testing.T) {
	out, err := call(t, "grade", "--format", "json", "--reels", course+"boat-lamps",
		course+"boat-lamps/firmware/wain-green-input.hex")
	require.NoError(t, err)
	var list []struct {
		Marks, Of float64
		Trials    []struct {
			Verdicts []struct {
				Expectation, Outcome string
				Marks, Of            float64
				Evidence             []string
			}
		}
		Findings []struct{ Code, Text string }
		Reels    []struct{ Tracks []struct{ Display string } }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &list))
	require.Len(t, list, 1)
	assert.Equal(t, 5.0, list[0].Marks)
	assert.Equal(t, "missed", list[0].Trials[0].Verdicts[1].Outcome)
	assert.Equal(t, "green", list[0].Reels[0].Tracks[1].Display)
}

func TestWrongUse(t *testing.T) {
	for _, args := range [][]string{{"grade"}, {"play"}, {"play", course + "gate-clock"},
		{"trace", "--trial", "x", "y"}, {"trace"}, {"check"}, {"nonsense"}, {"parts", "lmap"},
		{"trace", "--for", "soon", "x"}, {"grade", "--format", "xml", "a", "b"}, {"results"}, {"grade", "--nope"},
		{"trace", "--clock", "99MHz", "x"}, {"trace", "--clock", "soon", "x"}, {"build", "--chip", "atmega9", "x"},
		{"serve", "--workers", "0"}, {"serve", "--workers", "1000"}} {
		assert.Equal(t, exitMisused, run(args...), "%v", args)
	}
	assert.Equal(t, exitCannot, run("check", "no/such/file"))
	assert.Equal(t, exitCannot, run("trace", "../README.md"))
}

// run is Main with its messages thrown away.
func run(args ...string) int {
	stderr, stdout := os.Stderr, os.Stdout
	null, _ := os.OpenFile(os.DevNull, os.O_WRONLY, 0)
	defer null.Close()
	os.Stderr, os.Stdout = null, null
	defer func() { os.Stderr, os.Stdout = stderr, stdout }()
	return Main(append([]string{"hemble"}, args...))
}

func TestCheck(t *testing.T) {
	out, err := call(t, "check", course+"boat-lamps", course+"chamber-gauge/exercise.yaml")
	require.NoError(t, err)
	assert.Contains(t, out, "in order; parts 2, trials 2, cues 3, expectations 4, marks 10")
	bad := filepath.Join(t.TempDir(), "bad.yaml")
	require.NoError(t, os.WriteFile(bad, []byte("hemble: 1\nnmae: x\n"), 0o600))
	out, err = call(t, "check", bad)
	assert.ErrorIs(t, err, errTold)
	assert.Contains(t, out, bad+`:2:1: unknown key "nmae"; did you mean "name"?`)
}

func TestLists(t *testing.T) {
	for want, args := range map[string][]string{"seven-segment": {"parts"}, "contact bounces": {"parts", "button"},
		"PD6        12  OC0A": {"chips", "atmega328p"}, "atmega328p (ATmega328P)": {"chips"},
		"A1 to A20, B1 to B20": {"chips", "fpga"}, `"$schema"`: {"schema"}, "## Expectations": {"schema", "--markdown"}} {
		out, err := call(t, args...)
		require.NoError(t, err)
		assert.Contains(t, out, want)
	}
}

func TestTrace(t *testing.T) {
	vcd := filepath.Join(t.TempDir(), "out.vcd")
	out, err := call(t, "trace", "--for", "4s", "--vcd", vcd, course+"boat-lamps/firmware/marsh-waits.hex")
	require.NoError(t, err)
	assert.Regexp(t, `PB0 \s+\d+ changes, now low`, out)
	text, err := os.ReadFile(vcd)
	require.NoError(t, err)
	assert.Contains(t, string(text), "$timescale 1 ps $end")
	assert.Regexp(t, `\$var wire 1 \S PB0 \$end`, string(text))
	stamps := regexp.MustCompile(`(?m)^#(\d+)$`).FindAllStringSubmatch(string(text), -1)
	assert.Equal(t, "#4000000000000", stamps[len(stamps)-1][0])
}

// A wave on eight pins has as many changes as when every instruction is carried out.
func TestTraceOfWaves(t *testing.T) {
	hex := filepath.Join(t.TempDir(), "wave.hex")
	// ldi r16, 255; out DDRB, r16; out PORTB, r16; inc r16; and again from the third one on
	require.NoError(t, os.WriteFile(hex, []byte(":0A0000000FEF04B905B90395FDCF19\n:00000001FF\n"), 0o600))
	out, err := call(t, "trace", "--for", "30ms", hex)
	require.NoError(t, err)
	plain, err := call(t, "trace", "--for", "30ms", "--reference", hex)
	require.NoError(t, err)
	assert.Equal(t, plain, out)
	assert.Regexp(t, `PB0\s+1\d{5} changes`, out)
}

// On a bench: windows as driven, nets by their names, the log of buses.
func TestTraceOnBench(t *testing.T) {
	elf := course + "boat-counter/firmware/orton-ghosts.elf"
	out, err := call(t, "trace", "--on", course+"boat-counter", "--window", "500ms..510ms", elf)
	require.NoError(t, err)
	assert.Contains(t, out, "orton-ghosts.elf on boat-counter, four boats: 0.500 s to 0.510 s")
	assert.Regexp(t, `504979\.6250\s+\+400\.5000  PD0 high.*count "   8".*digits\.h line 41`, out)
	assert.Regexp(t, `506981\.0625.*count "8   "`, out, "a ghost, which the eye does not see")

	vcd := filepath.Join(t.TempDir(), "nets.vcd")
	out, err = call(t, "trace", "--on", course+"notice-board", "--for", "200ms", "--vcd", vcd,
		course+"notice-board/firmware/webb-hardware.elf")
	require.NoError(t, err)
	assert.Contains(t, out, "notice            function set: 4 bits, two lines")
	text, err := os.ReadFile(vcd)
	require.NoError(t, err)
	assert.Regexp(t, `\$scope module notice \$end\n\$var wire 1 \S sda \$end`, string(text))

	out, err = call(t, "trace", "--on", course+"log-terminal", "--format", "json", "--window", "1s..1.1s",
		course+"log-terminal/firmware/tate-polling.elf")
	require.NoError(t, err)
	var data tracedOn
	require.NoError(t, json.Unmarshal([]byte(out), &data))
	assert.Equal(t, "USART0", data.Log[0].Part)
	assert.NotEmpty(t, data.Moments)
	out, err = call(t, "trace", "--on", course+"log-terminal", "--serial",
		course+"log-terminal/firmware/tate-polling.elf")
	require.NoError(t, err)
	assert.Equal(t, "Wherry Lock ready\ngate open\nlevel 102 cm\ngate shut\ngate open\n", out)
	for _, wrong := range [][]string{{"--window", "2s..1s"}, {"--window", "2s"}, {"--window", "9s..10s"},
		{"--trial", "nope"}} {
		assert.Equal(t, exitMisused,
			run(append(append([]string{"trace", "--on", course + "boat-counter"}, wrong...), elf)...), "%v", wrong)
	}
}

// The log of buses goes with a mark sheet, where it is asked for.
func TestGradeBus(t *testing.T) {
	out, err := call(t, "grade", "--bus", course+"notice-board",
		course+"notice-board/firmware/ainley-wrong-address.elf")
	require.NoError(t, err)
	assert.Contains(t, out, "write to 0x3F, not acknowledged")
	assert.Contains(t, out, "The program uses bus address 0x3F;")
	assert.NotContains(t, out, "no device on the two-wire bus", "that is told once, by its cause")
}

// A bench without a chip is marked without a firmware.
func TestGradeWithoutAChip(t *testing.T) {
	file := filepath.Join(t.TempDir(), "exercise.yaml")
	require.NoError(t, os.WriteFile(file, []byte(`hemble: 1
name: tally
title: A tally by itself
chip: {is: none}
bench:
  wave: {part: square-wave, frequency: 5Hz, pins: {out: clock}}
  counter: {part: cd4026, pins: {clk: clock, rst: GND, a: a, b: b, c: c, d: d, e: e, f: f, g: g}}
  digit: {part: seven-segment, common: cathode, resistor: 0, pins: {a: a, b: b, c: c, d: d, e: e, f: f, g: g, common: GND}}
trials:
  - {name: a while, length: 3s, expect: [{shows: digit, frames: [0, 1, 2, 3], each: 200ms, extra: ignore}]}
`), 0o600))
	out, err := call(t, "grade", file)
	require.NoError(t, err)
	assert.Contains(t, out, "4 of 4 frames right, 4 of 4 in time")
	out, err = call(t, "grade", file, course+"boat-lamps/firmware/marsh-waits.hex")
	require.NoError(t, err)
	assert.Contains(t, out, "this bench has no chip")
}

// Source is accepted wherever firmware is.
func TestSource(t *testing.T) {
	if _, err := exec.LookPath("bwrap"); err != nil {
		t.Skip("bubblewrap is not installed; `make tools` installs it")
	}
	t.Setenv("XDG_CACHE_HOME", t.TempDir())
	marsh := course + "boat-lamps/source/marsh-waits.c"
	elf := filepath.Join(t.TempDir(), "out.elf")
	out, err := call(t, "build", "--output", elf, marsh)
	require.NoError(t, err)
	assert.Regexp(t, `flash \d+ of 32768 bytes \(\d+ %\), RAM 0 of 2048`, out)
	out, err = call(t, "grade", course+"boat-lamps", marsh)
	require.NoError(t, err)
	assert.Contains(t, out, "10 / 10")
	built, err := call(t, "grade", "--format", "json", course+"boat-lamps", elf)
	require.NoError(t, err)
	assert.Contains(t, built, `"marks": 10`)
	out, err = call(t, "trace", "--for", "4s", marsh)
	require.NoError(t, err)
	assert.Regexp(t, `PB0 \s+\d+ changes`, out)

	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "bad.c"), []byte("int main(void)\n{\n\treturn nothing;\n}\n"),
		0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "notes.txt"), []byte("x"), 0o600))
	out, err = call(t, "build", filepath.Join(dir, "bad.c"))
	assert.ErrorIs(t, err, errTold)
	assert.Contains(t, out, "✗ bad.c:3:9: error: 'nothing' undeclared")
	assert.Contains(t, out, "        return nothing;\n               ^\n")
	out, err = call(t, "build", "--format", "json", filepath.Join(dir, "bad.c"))
	assert.ErrorIs(t, err, errTold)
	assert.Contains(t, out, `"built": false`)
	out, err = call(t, "grade", course+"boat-lamps", dir)
	require.NoError(t, err)
	assert.Contains(t, out, "the source could not be built: bad.c:3:9")
	assert.Equal(t, exitCannot, run("trace", filepath.Join(dir, "bad.c")))
	assert.Equal(t, exitMisused, run("build"))
	assert.Equal(t, exitCannot, run("grade", course+"boat-lamps", t.TempDir()))
}

// Every display is drawn, on paper and in the terminal.
func TestPartsDrawn(t *testing.T) {
	svg := filepath.Join(t.TempDir(), "parts.svg")
	_, err := call(t, "parts", "--svg", svg)
	require.NoError(t, err)
	text, err := os.ReadFile(svg)
	require.NoError(t, err)
	assert.Contains(t, string(text), ">tm1637</text>")
	out, err := call(t, "parts", "lcd")
	require.NoError(t, err)
	assert.Contains(t, out, "│Wherry Lock 3.5°│")
	assert.Contains(t, out, "Ghosted\n")
}

// trace --serial writes the firmware's bytes and nothing else.
func TestTraceSerial(t *testing.T) {
	if _, err := exec.LookPath("avr-gcc"); err != nil {
		t.Skip("avr-gcc is not installed; `make tools` installs it")
	}
	elf := filepath.Join(t.TempDir(), "x.elf")
	message, err := exec.Command("avr-gcc", "-mmcu=atmega328p", "-Os", "-std=gnu99", "-w", "-o", elf,
		"../core/machine/avr/testdata/library.c").CombinedOutput()
	require.NoError(t, err, "%s", message)
	host := filepath.Join(t.TempDir(), "x")
	message, err = exec.Command("gcc", "-std=gnu99", "-w", "-o", host,
		"../core/machine/avr/testdata/library.c").CombinedOutput()
	require.NoError(t, err, "%s", message)
	want, err := exec.Command(host).Output()
	require.NoError(t, err)
	out, err := call(t, "trace", "--for", "2s", "--serial", elf)
	require.NoError(t, err)
	assert.Equal(t, string(want), out)
}

// record writes expectations that the reference meets; the file keeps its comments.
func TestRecordCommand(t *testing.T) {
	text, err := os.ReadFile(course + "boat-lamps/exercise.yaml")
	require.NoError(t, err)
	head, _, _ := strings.Cut(string(text), "    expect:")
	path := filepath.Join(t.TempDir(), "exercise.yaml")
	require.NoError(t, os.WriteFile(path, []byte("# lamps of the lock\n"+head), 0o644))
	reference := course + "boat-lamps/firmware/marsh-waits.elf"
	out, err := call(t, "record", path, reference)
	require.NoError(t, err)
	assert.Contains(t, out, "- {shows: red, frames: [on, off, on, off, on, off], each: 3s, start: power, marks: 3}")
	out, err = call(t, "record", "--write", path, reference)
	require.NoError(t, err)
	assert.Contains(t, out, "added to two rounds and a bit: {shows: green")
	written, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Contains(t, string(written), "# lamps of the lock\n")
	out, err = call(t, "grade", "--format", "csv", path, reference, course+"boat-lamps/firmware/oke-half-speed.elf")
	require.NoError(t, err)
	assert.Contains(t, out, "marsh-waits.elf,6,6,,3,3\n")
	assert.Contains(t, out, "Everything takes 2 times as long")
	out, err = call(t, "strength", path, reference)
	require.NoError(t, err)
	assert.Contains(t, out, "faults caught")
	_, err = call(t, "strength", path, course+"boat-lamps/firmware/oke-half-speed.elf")
	assert.ErrorContains(t, err, "does not get full marks itself")
	assert.ErrorContains(t, err, "line ")
	_, err = call(t, "record", path)
	assert.ErrorContains(t, err, "hemble record EXERCISE FIRMWARE")
}

func TestGradeOthers(t *testing.T) {
	firmware := course + "chamber-gauge/firmware/"
	out, err := call(t, "grade", course+"chamber-gauge", firmware+"penn-inverted.elf")
	require.NoError(t, err)
	assert.Contains(t, out, "The segments of gauge are inverted")
	assert.Contains(t, out, "With this repaired: 10 of 10  judged again")
	out, err = call(t, "grade", "--seeds", "4", course+"chamber-gauge", firmware+"brook-no-pull-up.elf")
	require.NoError(t, err)
	assert.Contains(t, out, "brook-no-pull-up.elf passes 0 of 4 seeds: the result depends on chance; marks ")
	out, err = call(t, "grade", "--format", "html", course+"chamber-gauge", firmware+"penn-inverted.elf")
	require.NoError(t, err)
	assert.Contains(t, out, "<svg")
	out, err = call(t, "grade", "--format", "junit", course+"chamber-gauge", firmware)
	require.NoError(t, err)
	assert.Contains(t, out, `<testsuite name="penn-inverted.elf: a lock filling"`)
	for _, args := range [][]string{{"--seeds", "1"}, {"--seeds", "1000"}, {"--format", "pdf"}} {
		_, err = call(t, append(append([]string{"grade"}, args...), course+"chamber-gauge", firmware)...)
		assert.Error(t, err, args)
	}
}

// A student's own wiring is built where the exercise allows it, and what cannot work is told.
func TestGradeWiring(t *testing.T) {
	text, err := os.ReadFile(course + "chamber-gauge/exercise.yaml")
	require.NoError(t, err)
	dir := t.TempDir()
	path, wiring := filepath.Join(dir, "exercise.yaml"), filepath.Join(dir, "wiring.yaml")
	require.NoError(t,
		os.WriteFile(path,
			[]byte(strings.Replace(string(text), "    common: anode\n", "    common: anode\n    student-wiring: yes\n",
				1)),
			0o644))
	require.NoError(t,
		os.WriteFile(wiring, []byte("gauge: {a: PC0, b: PC5, c: PC2, d: PC3, e: PC4, f: PC1, g: PB2, dp: PB1}\n"),
			0o644))
	firmware := course + "chamber-gauge/firmware/stroud-b-f-swapped.elf"
	out, err := call(t, "grade", "--format", "csv", "--wiring", wiring, path, firmware)
	require.NoError(t, err)
	assert.Contains(t, out, "stroud-b-f-swapped.elf,10,10,", "b and f are exchanged in the wiring, too")
	require.NoError(t, os.WriteFile(wiring, []byte("gauge: {a: PC0, b: PC0}\n"), 0o644))
	_, err = call(t, "grade", "--wiring", wiring, path, firmware)
	assert.Error(t, err)
}

// A capture is in the place of firmware.
func TestGradeCapture(t *testing.T) {
	vcd := filepath.Join(t.TempDir(), "gauge.vcd")
	_, err := call(t, "trace", "--on", course+"chamber-gauge", "--trial", "raising by hand", "--vcd", vcd,
		course+"chamber-gauge/firmware/haq-interrupts.elf")
	require.NoError(t, err)
	out, err := call(t, "grade", "--trial", "raising by hand", course+"chamber-gauge", vcd)
	require.NoError(t, err)
	assert.Contains(t, out, "4 / 4")
	_, err = call(t, "grade", "--signal", "PB0", course+"chamber-gauge", vcd)
	assert.ErrorContains(t, err, "--signal expects PIN=NAME")
	_, err = call(t, "grade", "--signal", "PX0=a", course+"chamber-gauge", vcd)
	assert.ErrorContains(t, err, `no pin "PX0"`)
}

// A picture is written as SVG or PNG; what cannot be drawn says why, and nothing is written.
func TestPictureCommand(t *testing.T) {
	dir := t.TempDir()
	wrong := course + "chamber-gauge/firmware/tarn-wrong-six.elf"
	svg, png := filepath.Join(dir, "film.svg"), filepath.Join(dir, "moment.png")
	_, err := call(t, "picture", course+"chamber-gauge", wrong, svg)
	require.NoError(t, err)
	text, err := os.ReadFile(svg)
	require.NoError(t, err)
	assert.Contains(t, string(text), "4.8 / 6</text>")
	_, err = call(t, "picture", "--trial", "raising by hand", "--at", "1.2s", course+"chamber-gauge", wrong, png)
	require.NoError(t, err)
	data, err := os.ReadFile(png)
	require.NoError(t, err)
	assert.Equal(t, "\x89PNG", string(data[:4]))
	for want, args := range map[string][]string{
		"after the end": {"--at", "99s", course + "chamber-gauge", wrong,
			filepath.Join(dir, "no.png")},
		"not as": {course + "chamber-gauge", wrong, filepath.Join(dir, "no.gif")},
		"no trial": {"--trial", "nothing", course + "chamber-gauge", wrong,
			filepath.Join(dir, "no.png")},
		"hemble picture EXERCISE FIRMWARE FILE": {course + "chamber-gauge", wrong},
	} {
		_, err := call(t, append([]string{"picture"}, args...)...)
		assert.ErrorContains(t, err, want)
	}
	left, err := filepath.Glob(filepath.Join(dir, "no*"))
	require.NoError(t, err)
	assert.Empty(t, left)
}

// accept lists what could be accepted, previews it, and writes it where that is asked for.
func TestAcceptCommand(t *testing.T) {
	text, err := os.ReadFile(course + "chamber-gauge/exercise.yaml")
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "exercise.yaml")
	require.NoError(t, os.WriteFile(path, text, 0o644))
	wrong, all := course+"chamber-gauge/firmware/tarn-wrong-six.elf", course+"chamber-gauge/firmware"
	out, err := call(t, "accept", path, wrong)
	require.NoError(t, err)
	assert.Contains(t, out, "--state 4")
	assert.Contains(t, out, "--sequence")
	out, err = call(t, "accept", "--state", "4", path, wrong, all)
	require.NoError(t, err)
	assert.Contains(t, out, "tarn-wrong-six.elf: 9 instead of 8, of 10")
	assert.Contains(t, out, "nothing is written")
	same, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, string(text), string(same))
	_, err = call(t, "accept", "--state", "4", "--write", path, wrong)
	require.NoError(t, err)
	out, err = call(t, "grade", "--format", "csv", path, wrong)
	require.NoError(t, err)
	assert.Contains(t, out, ",9,10,")
	_, err = call(t, "accept", "--state", "1", "--sequence", path, wrong)
	assert.ErrorContains(t, err, "either one state")
	_, err = call(t, "accept", "--trial", "7", "--state", "1", path, wrong)
	assert.ErrorContains(t, err, "no trial 7")
	out, err = call(t, "accept", path, course+"chamber-gauge/firmware/ames-polling.elf")
	require.NoError(t, err)
	assert.Contains(t, out, "there is nothing to accept")
}

// A bench shared by exercises is included from beside the file; what is wrong in it is told there. Its diagram is
// drawn.
func TestSharedBench(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "lamps"), 0o755))
	write := func(name, text string) {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o644))
	}
	text, err := os.ReadFile(course + "boat-lamps/exercise.yaml")
	require.NoError(t, err)
	before, rest, _ := strings.Cut(string(text), "bench:\n")
	bench, trials, _ := strings.Cut(rest, "trials:")
	write("lamps.yaml", strings.ReplaceAll(bench, "\n  ", "\n")[2:])
	write("lamps/exercise.yaml", before+"bench:\n  include: ../lamps.yaml\ntrials:"+trials)
	svg := filepath.Join(dir, "bench.svg")
	out, err := call(t, "check", "--schematic", svg, filepath.Join(dir, "lamps"))
	require.NoError(t, err)
	assert.Contains(t, out, "in order; parts 2")
	drawn, err := os.ReadFile(svg)
	require.NoError(t, err)
	assert.Contains(t, string(drawn), ">ATmega328P</text>")
	out, err = call(t, "grade", "--format", "csv", filepath.Join(dir, "lamps"),
		course+"boat-lamps/firmware/marsh-waits.elf")
	require.NoError(t, err)
	assert.Contains(t, out, ",10,10,")
	write("lamps.yaml", "red: {part: lmap}\n")
	out, err = call(t, "check", filepath.Join(dir, "lamps"))
	assert.ErrorIs(t, err, errTold)
	assert.Contains(t, out, "lamps.yaml:1:13: no kind of part is called \"lmap\"")
}
