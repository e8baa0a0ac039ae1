// Package elsewhere is a second course, for measuring alone: the glasshouses at Farrow Hill, with right programs in
// several styles and programs with mistakes as students make them. What is true of each, and the marks that a careful
// person would give, was written down before any of them was run.
//
// A hash of the name cuts the programs in two. Half A may be worked with: `make findings` lists it. Of half B
// `make findings-blind` prints totals alone and appends them to docs/findings-blind.csv. One author wrote both: B is
// less tuned for, not unseen.
package elsewhere_test

import (
	"cmp"
	"context"
	"fmt"
	"hash/fnv"
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"hemble/build"
	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/marking"
	"hemble/core/sheet"
	"hemble/demo/checks"
	"hemble/render"
)

// fault is a program with one mistake or two: a right one, changed.
type fault struct {
	Exercise string `yaml:"-"`
	Name     string
	Source   string
	Mistakes []string   // what is wrong, by the codes that may name it: "pattern|words"
	Also     []string   // what is true of it besides; every other finding is untrue
	Marks    [2]float64 // the range that a careful person's marks lie in
	Why      string     // the reason for that
	Edits    []edit
	Open     bool // of those that came later: the search does not find it yet
}

// blind reports whether the fault is of half B.
func (f fault) blind() bool {
	h := fnv.New32a()
	fmt.Fprintf(h, "%s/%s", f.Exercise, f.Name)
	return h.Sum32()>>8&1 == 1
}

func faults(t testing.TB) (out []fault) { return listed(t, "faults") }

// listed are the programs of a directory, which has a file for each exercise.
func listed(t testing.TB, directory string) (out []fault) {
	files, err := filepath.Glob(filepath.Join(directory, "*.yaml"))
	require.NoError(t, err)
	for _, path := range files {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		var list []fault
		require.NoError(t, yaml.Unmarshal(text, &list), path)
		for _, f := range list {
			f.Exercise = strings.TrimSuffix(filepath.Base(path), ".yaml")
			out = append(out, f)
		}
	}
	return out
}

// source is the program's text, with its mistakes.
func (f fault) source(t testing.TB) []byte {
	text, _ := f.edited(t)
	return []byte(text)
}

// edited is the program's text, and from where to where it was changed.
func (f fault) edited(t testing.TB) (text string, changed [][2]int) {
	data, err := os.ReadFile(filepath.Join("course", f.Exercise, "source", f.Source))
	require.NoError(t, err)
	text = string(data)
	for _, e := range f.Edits {
		require.Equal(t, 1, strings.Count(text, e.Old), "%s/%s: %q", f.Exercise, f.Name, e.Old)
		at, short := strings.Index(text, e.Old), min(len(e.Old), len(e.New))
		text = strings.Replace(text, e.Old, e.New, 1)
		same, last := 0, 0
		for same < short && e.Old[same] == e.New[same] {
			same++
		}
		for last < short-same && e.Old[len(e.Old)-1-last] == e.New[len(e.New)-1-last] {
			last++
		}
		for i := range changed {
			if changed[i][0] > at {
				changed[i][0] += len(e.New) - len(e.Old)
				changed[i][1] += len(e.New) - len(e.Old)
			}
		}
		changed = append(changed, [2]int{at + same, at + len(e.New) - last})
	}
	return text, changed
}

func read(t testing.TB, name string) *exercise.Exercise {
	text, err := os.ReadFile(filepath.Join("course", name, "exercise.yaml"))
	require.NoError(t, err)
	x, problems := exercise.Read("exercise.yaml", text)
	require.NotNil(t, x, "%v", problems)
	return x
}

// built builds a source.
func built(t testing.TB, b *build.Builder, x *exercise.Exercise, file string, text []byte) *build.Result {
	s := &build.Source{}
	require.NoError(t, s.Add(file, text))
	if pins, err := os.ReadFile(filepath.Join("course", x.Name, "source", "board.pcf")); err == nil {
		require.NoError(t, s.Add("board.pcf", pins))
	}
	r, err := b.Build(context.Background(), s, build.Target{Chip: x.Chip, Clock: int64(x.Clock), ClockPin: x.ClockPin})
	require.NoError(t, err)
	require.False(t, r.Failed(), "%s: %v", file, r.Messages)
	return r
}

func mark(t testing.TB, x *exercise.Exercise, file string, made *build.Result) *sheet.Sheet {
	result, err := (&marking.Marker{}).MarkWork(context.Background(), x,
		marking.Work{Name: file, File: made.ELF, Source: made.Source})
	require.NoError(t, err)
	return result.Sheet
}

// outcome is how a fault came out.
type outcome struct {
	fault
	sheet *sheet.Sheet
	text  string
	edits [][2]int
}

// newer are codes that say the same as older ones in the lists of what is true, and more exactly.
var newer = map[finding.Code][]string{"output-elsewhere": {"wrong-pin"}, "input-elsewhere": {"channel"},
	"word": {"words"}, "point": {"colon", "segment-stuck"}, "line-stuck": {"segment-stuck"},
	"shifted": {"columns", "rows", "start-line"}, "sets-other": {"words"}, "row-overwritten": {"rows", "row-empty"},
	"no-line-end": {"line-ending"}, "not-ignored": {"input-ignored"}, "halves-swapped": {"bit-order", "order"}}

// is reports whether a finding is one of some codes, with or without what it is about and the part that tells it.
func is(c finding.Code, codes []string) bool {
	return slices.ContainsFunc(codes, func(w string) bool {
		return finding.Family(string(c), w) || slices.Contains(newer[c], w) || strings.HasSuffix(string(c), "-"+w)
	})
}

// named is every code that may name a mistake of the program.
func (o outcome) named() (out []string) {
	for _, m := range o.Mistakes {
		out = append(out, strings.Split(m, "|")...)
	}
	return out
}

// names reports whether a finding is one of a mistake: by its code, or, where it is about a line of the program, by
// that line, which must be one that was changed.
func (o outcome) names(f sheet.Finding) bool {
	if finding.Family(string(f.Code), "program") {
		return o.changed(f)
	}
	return is(f.Code, o.named())
}

// changed reports whether a finding is about a line, or a table, that a mistake changed, or about a line that uses a
// constant whose definition it changed.
func (o outcome) changed(f sheet.Finding) bool {
	from, to := 0, 0
	if table := quoted.FindStringSubmatch(f.Text); table != nil {
		if def := regexp.MustCompile(`\b` + table[1] + `(?:\[[^;]*|\s*=[^;]*|\s*:[^;]*);`).FindStringIndex(o.text); def != nil {
			from, to = def[0], def[1]
		}
	} else if f.Source != nil {
		lines := strings.SplitAfter(o.text, "\n")
		from = len(strings.Join(lines[:min(f.Source.Line-1, len(lines))], ""))
		to = len(strings.Join(lines[:min(f.Source.Line, len(lines))], ""))
		if strings.HasPrefix(f.Text, "In what begins at ") {
			for _, line := range lines[min(f.Source.Line, len(lines)):] {
				if indent(line) <= indent(lines[f.Source.Line-1]) {
					break
				}
				to += len(line)
			}
		}
		if gone := missing.FindStringSubmatch(f.Text); gone != nil {
			if gone[1] == "Behind" {
				to = len(strings.Join(lines[:min(f.Source.Line+1, len(lines))], ""))
			}
			if slices.ContainsFunc(o.Edits, func(e edit) bool {
				return within(gone[2], e.Old) || e.lacks(gone[2])
			}) {
				return true
			}
		}
	}
	return slices.ContainsFunc(o.edits, func(c [2]int) bool {
		if c[0] < to && from <= c[1] {
			return true
		}
		line := o.text[strings.LastIndex(o.text[:c[0]], "\n")+1 : c[1]]
		constant := defined.FindStringSubmatch(line)
		return constant != nil && regexp.MustCompile(`\b`+constant[1]+`\b`).MatchString(o.text[from:to])
	})
}

// indent is how far a line is indented.
func indent(line string) int { return len(line) - len(strings.TrimLeft(line, " \t")) }

// lacks reports whether an edit took away a line that sets the same variable as a statement, or that compares what a
// statement keeps within a limit.
func (e edit) lacks(statement string) bool {
	if of := keeps.FindStringSubmatch(statement); of != nil {
		compared := regexp.MustCompile(`\b` + of[1] + ` ?[<>=!]=?|[<>=!]=? ?` + of[1] + `\b`)
		return len(compared.FindAllString(e.New, -1)) < len(compared.FindAllString(e.Old, -1))
	}
	of := sets.FindStringSubmatch(statement)
	return of != nil && slices.ContainsFunc(strings.Split(e.Old, "\n"), func(line string) bool {
		was := sets.FindStringSubmatch(strings.TrimSpace(line))
		return was != nil && was[1] == of[1] && !strings.Contains(e.New, line)
	})
}

// within reports whether all words and signs of a statement, but brackets, stand in a part of a program.
func within(statement, part string) bool {
	has := map[string]bool{}
	for _, w := range word.FindAllString(part, -1) {
		has[w] = true
	}
	return !slices.ContainsFunc(word.FindAllString(statement, -1), func(w string) bool { return !has[w] })
}

var (
	word    = regexp.MustCompile(`\w+|[^\w\s()]`)
	sets    = regexp.MustCompile(`^([a-z][\w.>-]*) [-+*/%]?= `)
	keeps   = regexp.MustCompile(`^if \(([a-z]\w*) [<>] \d+\) `)
	missing = regexp.MustCompile(`^(Behind|In) .*“(?:else |&& )?(.*)” is missing`)
	quoted  = regexp.MustCompile(`In (?:the table|what) “(\w+)”`)
	defined = regexp.MustCompile(`^\s*(?:#define|(?:static )?const \w+|localparam|constant) (\w+)`)
)

// first reports whether the first finding names a mistake.
func (o outcome) first() bool { return len(o.sheet.Findings) > 0 && o.names(o.sheet.Findings[0]) }

// holds reports whether a finding is true of the program.
func (o outcome) holds(f sheet.Finding) bool { return o.names(f) || is(f.Code, o.Also) }

// untrue are the findings that are not true of the program.
func (o outcome) untrue() (out []string) {
	for _, f := range o.sheet.Findings {
		if !o.holds(f) {
			out = append(out, string(f.Code))
		}
	}
	return out
}

func (o outcome) marks() float64 {
	v, _ := o.sheet.Marks.Float64()
	return v
}

// miss is how far the marks are outside of the person's range.
func (o outcome) miss() float64 { return max(0, o.Marks[0]-o.marks(), o.marks()-o.Marks[1]) }

// hidden reports whether the exercise does not see the mistake: nothing is lost, so that there is nothing to explain.
func (o outcome) hidden() bool { return o.sheet.Marks.Cmp(o.sheet.Of.Rat) == 0 }

// tally adds outcomes up.
type tally struct {
	programs, hidden, found, none, untrue, within int
	miss                                          float64
}

func (s *tally) add(o outcome) {
	s.programs++
	switch {
	case o.hidden():
		s.hidden++
	case o.first():
		s.found++
	case len(o.sheet.Findings) == 0:
		s.none++
	}
	if len(o.untrue()) > 0 {
		s.untrue++
	}
	if o.miss() == 0 {
		s.within++
	}
	s.miss += o.miss()
}

func (s *tally) meanMiss() float64 { return s.miss / float64(max(1, s.programs)) }

func percent(n, of int) int { return (200*n + of) / max(1, 2*of) }

// outcomes marks faults, several at once.
func outcomes(t testing.TB, b *build.Builder, list []fault) []outcome {
	out := make([]outcome, len(list))
	exercises := map[string]*exercise.Exercise{}
	for _, f := range list {
		if exercises[f.Exercise] == nil {
			exercises[f.Exercise] = read(t, f.Exercise)
		}
	}
	var wait sync.WaitGroup
	next := make(chan int)
	for range runtime.GOMAXPROCS(0) {
		wait.Go(func() {
			for i := range next {
				f := list[i]
				x := exercises[f.Exercise]
				text, changed := f.edited(t)
				out[i] = outcome{f, mark(t, x, f.Source, built(t, b, x, f.Source, []byte(text))), text, changed}
			}
		})
	}
	for i := range list {
		next <- i
	}
	close(next)
	wait.Wait()
	return out
}

// Every mistake is a change that can be made, says what is true of it and what a person would give, and names are
// unlike; both halves have a third of all at least, and of two mistakes in one program.
func TestList(t *testing.T) {
	seen, halves := map[string]bool{}, map[bool]int{}
	doubles := 0
	all := faults(t)
	for _, f := range all {
		name := f.Exercise + "/" + f.Name
		assert.False(t, seen[name], name)
		seen[name] = true
		halves[f.blind()]++
		assert.NotEmpty(t, f.source(t), name)
		assert.Contains(t, []int{1, 2}, len(f.Mistakes), name)
		assert.NotEmpty(t, f.Why, name)
		assert.LessOrEqual(t, f.Marks[0], f.Marks[1], name)
		assert.LessOrEqual(t, f.Marks[1], 10.0, name)
		if len(f.Mistakes) == 2 {
			doubles++
		}
	}
	for _, f := range listed(t, "later") {
		name := "later/" + f.Exercise + "/" + f.Name
		assert.False(t, seen[name], name)
		seen[name] = true
	}
	assert.GreaterOrEqual(t, len(all), 120)
	assert.GreaterOrEqual(t, doubles*6, len(all))
	for _, n := range halves {
		assert.GreaterOrEqual(t, n*3, len(all))
	}
}

// Right programs have full marks, in any style, and nothing is said of them; on eight seeds where HEMBLE_FINDINGS is
// set.
func TestRight(t *testing.T) {
	b := checks.Builder(t)
	files, err := filepath.Glob("course/*/source/*")
	require.NoError(t, err)
	assert.GreaterOrEqual(t, len(files), 24)
	for _, path := range files {
		if filepath.Ext(path) == ".pcf" { // goes with each design
			continue
		}
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		x := read(t, filepath.Base(filepath.Dir(filepath.Dir(path))))
		made := built(t, b, x, filepath.Base(path), text)
		s := mark(t, x, filepath.Base(path), made)
		assert.Equal(t, s.Of.String(), s.Marks.String(), path)
		assert.Empty(t, s.Findings, path)
		if os.Getenv("HEMBLE_FINDINGS") != "" {
			tried, err := marking.TrySeeds(context.Background(), x, made.ELF, 8)
			require.NoError(t, err)
			assert.False(t, tried.Depends(), path)
		}
	}
}

// Causes that no program of the demo course has, each with one of half A.
func TestNamed(t *testing.T) {
	want := map[string]finding.Code{
		"bed-timer/first-bit-first": "bit-order", "bed-timer/sets-to-thirty": "replaced",
		"bed-timer/waits-a-second": "missed", "bed-timer/zero-in-front": "leading-zeros",
		"harvest-count/commands-as-letters": "register-select", "harvest-count/redrawn-all-the-time": "washed-out",
		"harvest-count/second-row-left": "leftovers", "harvest-count/peppers-go-on": "goes-on",
		"harvest-count/evening-for-ever": "goes-on", "heat-panel/knob-reversed": "direction",
		"heat-panel/page-mode": "addressing", "tank-bar/seven-clocks": "clocks", "tank-bar/sixteen-bits": "overflow",
		"tank-bar/only-the-last-lamp": "dot", "tank-bar/every-three-seconds": "lag",
	}
	var list []fault
	for _, f := range faults(t) {
		if want[f.Exercise+"/"+f.Name] != "" {
			require.False(t, f.blind(), "half B stays shut")
			list = append(list, f)
		}
	}
	require.Len(t, list, len(want))
	b := checks.Builder(t)
	for _, f := range list {
		x := read(t, f.Exercise)
		made := built(t, b, x, f.Source, f.source(t))
		made.Source = nil // in the words of which some of them are told
		s := mark(t, x, f.Source, made)
		if name := f.Exercise + "/" + f.Name; assert.NotEmpty(t, s.Findings, name) {
			assert.Equal(t, want[name], s.Findings[0].Code, name)
		}
	}
}

// Where the search for causes ends at its limit, and leaves what was lost unexplained, the sheet says so; not where
// nothing was lost.
func TestCutOff(t *testing.T) {
	b := checks.Builder(t)
	x := read(t, "stopwatch")
	for _, f := range faults(t) {
		if f.Exercise == "stopwatch" && f.Name == "segments-f-and-g-and-hundredths" {
			s := mark(t, x, f.Source, built(t, b, x, f.Source, f.source(t)))
			assert.True(t, s.CutOff)
			assert.Contains(t, render.Sheet(render.Style{Width: 100}, s, nil), sheet.CutOffText)
			right, err := os.ReadFile(filepath.Join("course", f.Exercise, "source", f.Source))
			require.NoError(t, err)
			assert.False(t, mark(t, x, f.Source, built(t, b, x, f.Source, right)).CutOff)
			return
		}
	}
	assert.Fail(t, "the program is gone")
}

// TestFindings marks half A, or without HEMBLE_FINDINGS, the file that takes the table, one in four of it.
func TestFindings(t *testing.T) {
	out := os.Getenv("HEMBLE_FINDINGS")
	var list []fault
	for i, f := range faults(t) {
		if !f.blind() && (out != "" || i%4 == 0) {
			list = append(list, f)
		}
	}
	all := outcomes(t, checks.Builder(t), list)
	one, two := sums(all)
	t.Logf("%s", summary(one, two))
	if out == "" {
		return // what a sample must reach is said where all are counted
	}
	later, err := os.ReadFile("later/batches.md")
	require.NoError(t, err)
	text := "# Findings on a second course, half A\n\nPrograms of the glasshouses at Farrow Hill (`demo/elsewhere`), built and marked. The " +
		"search was worked on with this half,\nso its figures are no evidence: those of half B are in " +
		"[findings-blind.csv](findings-blind.csv), as totals, a line for each run of it. One author wrote both halves: half B is less\n" +
		"tuned, not unseen. Written by `make findings`.\n\nOf four exercises that came later (bed-timer, harvest-count, " +
		"heat-panel, tank-bar) half A was marked once before the\nsearch was worked on with it: the first finding was " +
		"right for 24 of 40 programs with one mistake and 6 of 6 with two, 8 of 48\nsheets had an untrue finding, 30 and " +
		"5 marks were in the range. Of sprout-timer (programmable logic), in the same way: 4 of 5 that could be seen and 2 of 2 with two;\none finding was not on the list of what is true (a lamp never changes), and is now.\n\n" +
		string(later) + "\n" +
		summary(one, two) +
		"\n| program | mistakes | marks | a person | findings, with this repaired | untrue |\n|---|---|---|---|---|---|\n"
	for _, o := range all {
		mark := ""
		if o.first() {
			mark = "✓ "
		}
		text += fmt.Sprintf("| %s/%s | %s | %s | %g to %g | %s%s | %s |\n", o.Exercise, o.Name,
			strings.ReplaceAll(strings.Join(o.Mistakes, ", "), "|", " or "), o.sheet.Marks, o.Marks[0], o.Marks[1],
			mark, codes(o.sheet), strings.Join(o.untrue(), ", "))
	}
	require.NoError(t, os.WriteFile(out, []byte(text), 0o644))
}

func sums(all []outcome) (one, two tally) {
	for _, o := range all {
		if len(o.Mistakes) == 1 {
			one.add(o)
		} else {
			two.add(o)
		}
	}
	return one, two
}

func summary(one, two tally) string {
	text := "| mistakes | programs | not seen by the exercise | first finding right, of the others | nothing found | sheets with an untrue finding | marks in the range | mean miss |\n|---|---|---|---|---|---|---|---|\n"
	for i, s := range []tally{one, two} {
		text += fmt.Sprintf("| %s | %d | %d | %d (%d %%) | %d | %d | %d (%d %%) | %.2f |\n", []string{"one", "two"}[i],
			s.programs, s.hidden, s.found, percent(s.found, s.programs-s.hidden), s.none, s.untrue, s.within,
			percent(s.within, s.programs), s.meanMiss())
	}
	return text
}

// TestBlind marks half B where HEMBLE_BLIND names the file of totals, and adds a line to it; nothing else of it is
// told.
func TestBlind(t *testing.T) {
	out := os.Getenv("HEMBLE_BLIND")
	if out == "" {
		t.Skip("make findings-blind")
	}
	var list []fault
	for _, f := range faults(t) {
		if f.blind() {
			list = append(list, f)
		}
	}
	all := outcomes(t, checks.Builder(t), list)
	one, two := sums(all)
	file, err := os.OpenFile(out, os.O_APPEND|os.O_CREATE|os.O_WRONLY, 0o644)
	require.NoError(t, err)
	defer file.Close()
	if s, err := file.Stat(); err == nil && s.Size() == 0 {
		fmt.Fprintln(file,
			"date,engine,programs with one mistake,first finding right,untrue,marks in the range,mean miss,programs with two,first finding right,untrue,marks in the range,mean miss,of one not seen by the exercise,of two not seen by the exercise")
	}
	row := func(s tally) string {
		return fmt.Sprintf("%d,%d,%d,%d,%.2f", s.programs, s.found, s.untrue, s.within, s.meanMiss())
	}
	_, err = fmt.Fprintf(file, "%s,%s,%s,%s,%d,%d\n", time.Now().UTC().Format(time.DateOnly), marking.Engine, row(one),
		row(two), one.hidden, two.hidden)
	require.NoError(t, err)
	t.Log("\n" + summary(one, two) + "\n" + byHow(all))
}

// byHow says of all statements how many were told in which way, first on a sheet or later, and how many of them are
// untrue.
func byHow(all []outcome) string {
	told, untrue := map[string]int{}, map[string]int{}
	for _, o := range all {
		for i, f := range o.sheet.Findings {
			how := cmp.Or(f.Fidelity, "signs") + map[bool]string{true: ", first", false: ", later"}[i == 0]
			told[how]++
			if !o.holds(f) {
				untrue[how]++
			}
		}
	}
	text := "| statements by | told | untrue |\n|---|---|---|\n"
	for _, how := range slices.Sorted(maps.Keys(told)) {
		text += fmt.Sprintf("| %s | %d | %d |\n", how, told[how], untrue[how])
	}
	return text
}
