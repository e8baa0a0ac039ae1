package scripted

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/script"
)

// packed is a script of one file.
func packed(t testing.TB, text string) *firmware.Image {
	file, err := script.Write("main.py", map[string]string{"main.py": text})
	require.NoError(t, err)
	p, err := script.Read(file)
	require.NoError(t, err)
	return &firmware.Image{Format: "script", Script: p}
}

// changed is what a program is with an alteration.
func changed(im *firmware.Image, a machine.Alteration) string {
	return a.Change(im).Script.Files["main.py"]
}

// none is of what is not tried.
const none = machine.Slip(255)

// Each slip: a line of the program, and what it may have been meant to be.
func TestAlterations(t *testing.T) {
	data, err := os.ReadFile("testdata/slips.py")
	require.NoError(t, err)
	im := packed(t, string(data))
	before := strings.Split(string(data), "\n")
	list := alterations(im, machine.Hints{Shifts: []int64{3}, Wanted: []int64{70}, Ratios: [][2]int64{{2000, 200}}})
	for _, c := range []struct {
		from, to string // lines, parted by |
		slip     machine.Slip
	}{
		{"times = [0.1, 0.2]", "times = [1, 2]", machine.Number},
		{"times = [0.1, 0.2]", "times = [0.2, 0.1]", machine.Neighbours},
		{"    if percent < 60:", "    if percent < 70:", machine.Number},
		{"    if percent < 60:", "    if percent < 61:", none}, // as <= says it
		{"    if percent < 60:", "    if percent <= 60:", machine.Inclusive},
		{"    if percent < 60:", "    if percent > 60:", machine.Reversed},
		{"        red.on()", "        red.off()", machine.Level},
		{"        red.on()", "        green.on()", machine.Number},
		{"        red.on()", "        pass", machine.Needless},
		{"    count = count + 4", "    count = count - 4", machine.Sign},
		{"    count = count + 4", "    count = count + 7", machine.Number},
		{"    count = count + 4", "        count = count + 4", machine.Indented},
		{"    sleep(0.05)", "sleep(0.05)", machine.Indented},
		{"    sleep(0.05)", "    sleep(0.5)", machine.Number},
		{"    if key.value == 0 and ready:", "    if key.value == 0 or ready:", machine.Reversed},
		{"    if key.value == 0 and ready:", "    if key.value() == 0 and ready:", machine.Missing},
		{"    if key.value == 0 and ready:", "    if key.value != 0 and ready:", machine.Reversed},
		{"    if key.value == 0 and ready:", "    elif key.value == 0 and ready:", machine.Reversed},
		{"    if not ready:", "    if  ready:", machine.Reversed},
		{"    if percent < 60:", "    global count|    if percent < 60:", machine.Missing},
		{"words = {1: 'one', 2: 'two'}", "words = {1: 'two', 2: 'one'}", machine.Neighbours},
		{"key = Pin(12, Pin.IN, Pin.PULL_UP)", "key = Pin(12, Pin.IN, Pin.PULL_DOWN)", machine.Level},
	} {
		t.Run(c.from+" "+c.to, func(t *testing.T) {
			at := -1
			for i, line := range before {
				if line == c.from {
					at = i
				}
			}
			require.GreaterOrEqual(t, at, 0)
			to := strings.Join(before[:at], "\n") + "\n" + strings.ReplaceAll(c.to, "|", "\n") + "\n" +
				strings.Join(before[at+1:], "\n")
			found := none
			for _, a := range list {
				if changed(im, a) == to {
					found = a.Slip
				}
			}
			assert.Equal(t, c.slip, found)
		})
	}
	for _, a := range list {
		assert.NotContains(t, a.Stands, "import")
		assert.NotContains(t, a.Stands, "not a word of")
	}
}

// What was seen, and what the exercise's text says, speak for some changes more than for others.
func TestLikelyAlterations(t *testing.T) {
	im := packed(t, "left = 5\nif level >= 80:\n    show(\"Shade in\")\nelse:\n    show('Shade out')\nkey = Button(5)\n")
	var got []string
	for _, a := range alterations(im, machine.Hints{Pairs: [][2]int64{{4, 5}}, Told: []int64{70, 5},
		Texts: [][2]string{{"Shade out", "Shade in"}}}) {
		if a.Rare <= machine.Likely {
			got = append(got, a.Stands+" > "+a.Meant)
		}
	}
	assert.ElementsMatch(t, []string{"5 > 4", "80 > 70", "\"Shade in\" > 'Shade out'"}, got)
}

// What was never carried out is not changed, and what is no script has nothing to change.
func TestAlterationsReached(t *testing.T) {
	im := packed(t, "a = 5\nb = 6\n")
	list := alterations(im, machine.Hints{Reached: func(address uint32) (clock.Time, bool) { return 0, address == 2 }})
	require.NotEmpty(t, list)
	for _, a := range list {
		assert.Equal(t, 2, a.Line.Line)
		other := packed(t, "a = 5\nb = 7\n")
		assert.Same(t, other, a.Change(other), "of another text nothing is changed")
	}
	assert.Empty(t, alterations(&firmware.Image{}, machine.Hints{}))
	im.Script.Binary = []byte{0}
	assert.Empty(t, alterations(im, machine.Hints{}))
}

// A script that is made for it comes to an end, too.
func TestAlterationsBounded(t *testing.T) {
	for _, piece := range []string{"(", "[1,", "{1:", "if a:\n ", "def f():\n a = 1\n", "a = f(1)\n", "x.y", "' ", " \n"} {
		text := strings.Repeat(piece, 100_000/len(piece))
		assert.LessOrEqual(t, len(alterations(packed(t, text), machine.Hints{})), machine.MostAltered)
	}
	deep := ""
	for i := range 900 {
		deep += strings.Repeat(" ", i) + "if a:\n"
	}
	assert.LessOrEqual(t, len(alterations(packed(t, deep), machine.Hints{})), machine.MostAltered)
}

// Whatever a script has in it, what is listed changes it where it says, and there is never too much of it.
func FuzzAlterations(f *testing.F) {
	data, err := os.ReadFile("testdata/slips.py")
	require.NoError(f, err)
	f.Add(string(data))
	f.Add("if x:\n\ty = [1,\n2\n]\n  z = {1:(2,3),4:'''\n'''}\n\\\n")
	f.Add("((((]]]})\ndef f(:\n a=\n  b=\nelif .5.value not -1\n@")
	f.Fuzz(func(t *testing.T, text string) {
		im := packed(t, text)
		text = im.Script.Files["main.py"] // as it is after it was packed
		list := alterations(im, machine.Hints{Shifts: []int64{3, -1}, Wanted: []int64{70}, Ratios: [][2]int64{{20, 3}}})
		assert.LessOrEqual(t, len(list), machine.MostAltered)
		lines := strings.Split(text, "\n")
		for i, a := range list {
			require.GreaterOrEqual(t, a.Line.Line, 1)
			require.LessOrEqual(t, a.Line.Line, len(lines))
			if i%7 == 0 {
				to := strings.Split(changed(im, a), "\n")
				require.NotEqual(t, lines, to)
				for k := range a.Line.Line - 1 {
					require.Equal(t, lines[k], to[k], "what stands before it is as it was")
				}
			}
		}
	})
}
