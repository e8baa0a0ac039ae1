package author_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/author"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/marking"
)

func at(ms int) clock.Time { return clock.Time(ms) * clock.Millisecond }

// pressed is a contact that is held for a while by hand.
func pressed(part string, from, to int) []author.Doing {
	return []author.Doing{{At: at(from), Part: part, Verb: "hold"},
		{At: at(to), Part: part, Verb: "hold", Release: true}}
}

func lockTally(t *testing.T) (text, file []byte) {
	text, err := os.ReadFile("../../demo/course/lock-tally/exercise.yaml")
	require.NoError(t, err)
	file, err = os.ReadFile("../../demo/course/lock-tally/firmware/keane-debounced.elf")
	require.NoError(t, err)
	return text, file
}

// What is done by hand becomes a trial: rounded cues, and expectations that the reference meets in full, in every form.
func TestDemonstrate(t *testing.T) {
	text, file := lockTally(t)
	x, _ := exercise.Read("exercise.yaml", text)
	button := ""
	for _, p := range x.Parts {
		if p.Kind.Name == "button" {
			button = p.Name
			break
		}
	}
	require.NotEmpty(t, button)
	d := author.Demonstration{Trial: "shown by hand", Length: at(4312),
		Done: append(pressed(button, 713, 868), pressed(button, 1904, 2031)...)}
	for _, form := range []string{"", "order", "content", "end", author.Dropped} {
		d.Chosen = nil
		if form != "" {
			draft, err := author.Demonstrate(t.Context(), text, file, d)
			require.NoError(t, err)
			for _, one := range draft.Expectations {
				f := form
				if form != author.Dropped &&
					!slices.ContainsFunc(one.Forms, func(f author.Form) bool { return f.Name == form }) {
					f = one.Form
				}
				d.Chosen = append(d.Chosen, author.Chosen{Display: one.Display, Form: f, Marks: 3})
			}
		}
		draft, err := author.Demonstrate(t.Context(), text, file, d)
		require.NoError(t, err, form)
		assert.Equal(t, []string{"{at: 700ms, press: " + button + ", for: 150ms, as: " + button + "-1}",
			"{at: 1.9s, press: " + button + ", for: 150ms, as: " + button + "-2}"}, draft.Cues)
		assert.Contains(t, string(draft.Text), string(text), "what was there stays")
		require.NotEmpty(t, draft.Expectations)
		if form == author.Dropped {
			continue
		}
		y, problems := exercise.Read("exercise.yaml", draft.Text)
		require.NotNil(t, y, "%s: %v\n%s", form, problems, draft.Text)
		assert.Len(t, y.Trials, len(x.Trials)+1)
		result, err := marking.Mark(t.Context(), y, "reference.elf", file)
		require.NoError(t, err)
		assert.Equal(t, result.Sheet.Of.String(), result.Sheet.Marks.String(), "%s\n%s", form, draft.Text)

		again, err := author.Demonstrate(t.Context(), draft.Text, file, d)
		require.NoError(t, err)
		assert.Equal(t, string(draft.Text), string(again.Text), "a trial of the name is written anew")
	}
}

// The first trial of an exercise can be shown, too.
func TestDemonstrateFirst(t *testing.T) {
	text, file := lockTally(t)
	bare, _, found := strings.Cut(string(text), "trials:")
	require.True(t, found)
	draft, err := author.Demonstrate(t.Context(), []byte(bare), file,
		author.Demonstration{Trial: "at rest", Length: at(2000)})
	require.NoError(t, err)
	y, problems := exercise.Read("exercise.yaml", draft.Text)
	require.NotNil(t, y, "%v\n%s", problems, draft.Text)
	assert.Equal(t, 2*clock.Second, y.Trials[0].Length)

	once, err := author.Demonstrate(t.Context(), draft.Text, file,
		author.Demonstration{Trial: "at rest", Length: at(3000)})
	require.NoError(t, err)
	assert.Contains(t, string(once.Text), "length: 3s")
	assert.Equal(t, 1, strings.Count(string(once.Text), "at rest"))
}

// Turns and values that follow each other at once are one cue, and what is typed keeps its line end.
func TestDemonstratedCues(t *testing.T) {
	text, file := lockTally(t)
	for _, c := range []struct {
		done []author.Doing
		want string
	}{
		{[]author.Doing{{At: at(1), Part: "no", Verb: "dance"}}, `nothing is known that is called "dance"`},
		{[]author.Doing{{At: at(900), Part: "a", Verb: "hold"}, {At: at(100), Part: "a", Verb: "hold"}},
			"order of its times"},
		{[]author.Doing{{At: at(2500), Part: "a", Verb: "hold"}}, "order of its times"},
		{pressed("nobody", 100, 200), "nobody"},
	} {
		_, err := author.Demonstrate(t.Context(), text, file,
			author.Demonstration{Trial: "x", Length: at(2000), Done: c.done})
		assert.ErrorContains(t, err, c.want)
	}
	for _, d := range []author.Demonstration{{Length: at(100)}, {Trial: "x"}, {Trial: "x", Length: at(3_600_000)},
		{Trial: "x", Length: at(100), Done: make([]author.Doing, 2000)}} {
		_, err := author.Demonstrate(t.Context(), text, file, d)
		assert.Error(t, err)
	}
}

// What follows at once is one cue: detents of a turn by their pace, and values of a slide by the last of them. What is
// typed keeps its line end.
func TestDemonstrateTogether(t *testing.T) {
	for _, c := range []struct {
		exercise, file string
		done           []author.Doing
		want           []string
	}{
		{"sluice-dial", "", []author.Doing{{At: at(1010), Part: "dial", Verb: "turn", By: 1},
			{At: at(1120), Part: "dial", Verb: "turn", By: 1}, {At: at(1190), Part: "dial", Verb: "turn", By: 1},
			{At: at(2500), Part: "dial", Verb: "turn", By: -1}},
			[]string{"{at: 1s, turn: dial, by: 3, for: 100ms, as: dial-1}",
				"{at: 2.5s, turn: dial, by: -1, for: 100ms, as: dial-2}"}},
		{"tide-board", "", []author.Doing{{At: at(1010), Part: "level", Verb: "set", To: "1.5V"},
			{At: at(1120), Part: "level", Verb: "set", To: "2V"},
			{At: at(1480), Part: "level", Verb: "set", To: "2.55V"}},
			[]string{`{at: 1.5s, set: level, to: "2.55V", as: level-1}`}},
		{"log-terminal", "tate-polling.elf", []author.Doing{{At: at(1010), Part: "log", Verb: "type", To: "open\n"},
			{At: at(1020), Part: "log", Verb: "type", To: "\"shut\"\n"}},
			[]string{`{at: 1s, type: log, text: "open\n", as: log-1}`,
				`{at: 1.02s, type: log, text: "\"shut\"\n", as: log-2}`}},
	} {
		folder := "../../demo/course/" + c.exercise + "/"
		text, err := os.ReadFile(folder + "exercise.yaml")
		require.NoError(t, err)
		x, _ := exercise.Read("exercise.yaml", text)
		for _, p := range x.Parts {
			for i := range c.done {
				if c.exercise == "sluice-dial" && p.Kind.Name == "encoder" {
					c.done[i].Part = p.Name
				}
			}
		}
		for i := range c.want {
			c.want[i] = strings.ReplaceAll(c.want[i], "dial", c.done[0].Part)
		}
		firmware, err := filepath.Glob(folder + "firmware/*.elf")
		require.NoError(t, err)
		if c.file != "" {
			firmware = []string{folder + "firmware/" + c.file}
		}
		file, err := os.ReadFile(firmware[0])
		require.NoError(t, err)
		draft, err := author.Demonstrate(t.Context(), text, file,
			author.Demonstration{Trial: "by hand", Length: at(4000), Done: c.done})
		require.NoError(t, err, c.exercise)
		assert.Equal(t, c.want, draft.Cues, c.exercise)
		y, problems := exercise.Read("exercise.yaml", draft.Text)
		require.NotNil(t, y, "%v\n%s", problems, draft.Text)
	}
}

// Whatever a page says was done, the text that comes of it reads, and has the trial.
func FuzzDemonstrate(f *testing.F) {
	text, err := os.ReadFile("../../demo/course/log-terminal/exercise.yaml")
	require.NoError(f, err)
	file, err := os.ReadFile("../../demo/course/log-terminal/firmware/tate-polling.elf")
	require.NoError(f, err)
	f.Add(`{"trial":"a","length":50000000000,"done":[{"at":10000000000,"part":"log","verb":"type","to":"x\"\n"}]}`)
	f.Add(`{"trial":"- b: \"","length":50000000000,"done":[{"at":1,"part":"gate","verb":"set","to":"on"}]}`)
	f.Add(`{"trial":"a","length":1,"chosen":[{"display":"log","form":"none","marks":1}]}`)
	f.Fuzz(func(t *testing.T, said string) {
		var d author.Demonstration
		if json.Unmarshal([]byte(said), &d) != nil || d.Length > clock.Second {
			return
		}
		draft, err := author.Demonstrate(t.Context(), text, file, d)
		if err != nil {
			return
		}
		x, problems := exercise.Reader{File: "exercise.yaml", Draft: true}.Read(draft.Text)
		require.NotNil(t, x, "%v\n%s", problems, draft.Text)
		assert.Equal(t, d.Trial, x.Trials[draft.Trial].Name)
	})
}
