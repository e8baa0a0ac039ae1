package author

import (
	"bytes"
	"context"
	"fmt"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/marking"
	"hemble/core/part"
	"hemble/core/spec"
)

// maxRecorded bounds the frames of one recorded expectation.
const maxRecorded = 64

// Recording is what a reference showed, as expectations.
type Recording struct {
	Text     []byte   // the exercise file with them put in; the rest of it is as it was
	Added    []string // each of them, with its trial
	Replaced []string // those that took the place of what was there
	Left     []string // displays that nothing was recorded of, and why
}

// recorded is the kind of expectation that a recording writes.
const recorded = "shows"

// Record runs a reference on each trial and writes what each display showed as `shows`, with times rounded to those
// that a person would write. Displays that a trial already has a `shows` for are left alone, or, anew, get what is
// shown now in its place, for the same marks.
func Record(ctx context.Context, x *exercise.Exercise, text, file []byte, anew bool) (*Recording, error) {
	x = x.For(file)
	m, err := marking.NewRepairer(x, file)
	if err != nil {
		return nil, err
	}
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		return nil, err
	}
	rec := &Recording{}
	var inserts []insert
	var again []rewrite
	for i, t := range x.Trials {
		r, err := m.Run(ctx, x, i, 0)
		if err != nil {
			return nil, err
		}
		var lines []string
		for k := range r.Tracks {
			track := &r.Tracks[k]
			if slices.ContainsFunc(x.Groups,
				func(g exercise.Group) bool { return slices.Contains(g.Of, track.Display) }) {
				continue // it is written with its group
			}
			there := slices.IndexFunc(t.Expect, func(e exercise.Expectation) bool {
				return e.Kind == recorded && e.Judge(r).Display == track.Display
			})
			if there >= 0 && (!anew || t.Expect[there].Judge(r).Outcome == judge.Met) {
				continue
			}
			line, marks, why := expectation(x.Part(track.Display), track)
			if line == "" {
				rec.Left = append(rec.Left, fmt.Sprintf("%s in %q: %s", track.Display, t.Name, why))
				continue
			}
			if there >= 0 {
				again = append(again, rewrite{Choice{Trial: i, Verdict: there}, line})
				rec.Replaced = append(rec.Replaced, fmt.Sprintf("%s: %s", t.Name, line))
				continue
			}
			line = fmt.Sprintf("%s, marks: %d}", strings.TrimSuffix(line, "}"), marks)
			lines = append(lines, line)
			rec.Added = append(rec.Added, fmt.Sprintf("%s: %s", t.Name, line))
		}
		if len(lines) > 0 {
			in, err := place(&doc, i, lines)
			if err != nil {
				return nil, err
			}
			inserts = append(inserts, in)
		}
	}
	rec.Text = put(text, inserts)
	for _, a := range slices.Backward(again) { // the last one first: what stands before stays where it is
		if rec.Text, err = a.in(rec.Text); err != nil {
			return nil, err
		}
	}
	return rec, nil
}

// rewrite is an expectation in place of one that is there.
type rewrite struct {
	at   Choice
	line string
}

func (w rewrite) in(text []byte) ([]byte, error) {
	src, err := readSource(text)
	if err != nil {
		return nil, err
	}
	_, item := src.expected(w.at)
	from, to, err := src.extent(item)
	if err != nil {
		return nil, err
	}
	marks, _ := split(item, marked)
	line, err := joined(w.line, marks)
	if err != nil {
		return nil, err
	}
	return src.replace(from, to, line), nil
}

// expectation writes one, and says how many marks would be usual for it; why returns what is in the way where it is
// empty.
func expectation(p *part.Instance, t *display.Track) (line string, marks int, why string) {
	var frames []string
	var lengths []clock.Time
	lines := t.Geometry.Type().Traits().Lines
	for i, f := range t.Frames {
		if len(frames) == maxRecorded {
			break
		}
		shown := frame(p, t, f.State)
		if shown == "" {
			if i == 0 && f.Length() < 200*clock.Millisecond || lines && f.State.Line == "" {
				continue // what was there before the program got going
			}
			return "", 0, fmt.Sprintf("its state at %s cannot be written as a frame", f.From)
		}
		if n := len(frames); n > 0 && frames[n-1] == shown && !lines {
			lengths[n-1] += f.Length()
			continue
		}
		frames, lengths = append(frames, shown), append(lengths, f.Length())
	}
	if len(frames) == 0 {
		return "", 0, "it showed nothing"
	}
	if len(frames) == 1 && !lines {
		return fmt.Sprintf("{always: %s, frame: %s, from: 200ms}", t.Display, frames[0]), 1, ""
	}
	b := &strings.Builder{}
	fmt.Fprintf(b, "{%s: %s, frames: [", recorded, t.Display)
	each := clock.Time(0)
	if !lines && len(lengths) > 2 {
		each = common(lengths[:len(lengths)-1])
	}
	for i, f := range frames {
		if i > 0 {
			b.WriteString(", ")
		}
		if each == 0 && !lines {
			f = timed(f, lengths[i], i == len(frames)-1)
		} else if i == len(frames)-1 && each > 0 && lengths[i] > each+each/20 {
			f = timed(f, 0, true)
		}
		b.WriteString(f)
	}
	b.WriteString("]")
	if each > 0 {
		fmt.Fprintf(b, ", each: %s", written(each))
	}
	if !lines && t.Frames[0].Length() >= 200*clock.Millisecond {
		b.WriteString(", start: power")
	}
	if len(frames) == maxRecorded {
		b.WriteString(", extra: ignore")
	}
	b.WriteString("}")
	return b.String(), max(1, min(6, len(frames)/2)), ""
}

// timed gives a frame a length of its own; the last one, which the end cuts, any.
func timed(f string, length clock.Time, last bool) string {
	text := "any"
	if !last {
		text = written(rounded(length))
	}
	if strings.HasPrefix(f, "{") {
		return strings.TrimSuffix(f, "}") + ", for: " + text + "}"
	}
	return fmt.Sprintf("{text: %s, for: %s}", f, text)
}

// common is the one length, rounded, that all come within a twentieth of; 0 where there is none.
func common(lengths []clock.Time) clock.Time {
	sorted := slices.Clone(lengths)
	slices.Sort(sorted)
	each := rounded(sorted[len(sorted)/2])
	for _, l := range lengths {
		if l > each+each/20 || l < each-each/20 {
			return 0
		}
	}
	return each
}

// rounded is the roundest time within a fiftieth: whole seconds before tenths, and so on.
func rounded(t clock.Time) clock.Time {
	for _, step := range []clock.Time{clock.Second, 500 * clock.Millisecond, 100 * clock.Millisecond,
		50 * clock.Millisecond, 10 * clock.Millisecond, 5 * clock.Millisecond, clock.Millisecond} {
		near := (t + step/2) / step * step
		if d := max(near-t, t-near); near > 0 && d*50 <= t {
			return near
		}
	}
	return max(clock.Millisecond, t)
}

func written(t clock.Time) string { return strings.ReplaceAll(t.Short(), " ", "") }

// frame writes a state as a frame that reads back as the same; "" where there is none.
func frame(p *part.Instance, t *display.Track, s display.State) string {
	for _, text := range t.Geometry.Type().Spell(t, s) {
		var doc yaml.Node
		if yaml.Unmarshal([]byte(text), &doc) != nil || len(doc.Content) == 0 {
			continue
		}
		ps := &spec.Problems{}
		n := doc.Content[0]
		v := spec.Value{Text: n.Value, Node: n, Pos: spec.Pos{Line: 1, Col: 1}}
		if m, _ := display.ReadFrame(v, p.Display(), false, ps); m != nil {
			if ok, _ := m.Match(t, s); ok {
				return text
			}
		}
	}
	return ""
}

// insert is text that goes behind a line of the file.
type insert struct {
	line int
	text string
}

// place finds where the expectations of a trial go: behind its last one.
func place(doc *yaml.Node, trial int, lines []string) (insert, error) {
	t := value(doc.Content[0], "trials").Content[trial]
	expect := value(t, "expect")
	indent, in := t.Column-1, insert{line: last(t)}
	if t.Style == yaml.FlowStyle || expect != nil && expect.Style == yaml.FlowStyle {
		return in, fmt.Errorf("line %d: expectations are recorded into a list with a line for each; write the trial and its `expect:` without brackets, or leave `expect` out", t.Line)
	}
	if expect == nil || len(expect.Content) == 0 {
		in.text = strings.Repeat(" ", indent) + "expect:\n"
		indent += 2
	} else {
		indent, in.line = expect.Column-1, last(expect)
	}
	for _, l := range lines {
		in.text += strings.Repeat(" ", indent) + "- " + l + "\n"
	}
	return in, nil
}

// value gives the value of a key, nil where it is absent.
func value(n *yaml.Node, key string) *yaml.Node {
	for i := 0; i+1 < len(n.Content); i += 2 {
		if n.Content[i].Value == key {
			return n.Content[i+1]
		}
	}
	return nil
}

// last is the last line that a node stands on.
func last(n *yaml.Node) int {
	line := n.Line
	if n.Kind == yaml.ScalarNode && (n.Style == yaml.LiteralStyle || n.Style == yaml.FoldedStyle) {
		line += strings.Count(strings.TrimRight(n.Value, "\n"), "\n") + 1
	}
	for _, c := range n.Content {
		line = max(line, last(c))
	}
	return line
}

// put puts the texts in, the last ones first so that lines keep their numbers.
func put(text []byte, inserts []insert) []byte {
	lines := bytes.SplitAfter(text, []byte("\n"))
	for i := len(inserts) - 1; i >= 0; i-- {
		at := min(inserts[i].line, len(lines))
		if at > 0 && !bytes.HasSuffix(lines[at-1], []byte("\n")) {
			lines[at-1] = append(lines[at-1], '\n')
		}
		lines = slices.Insert(lines, at, []byte(inserts[i].text))
	}
	return bytes.Join(lines, nil)
}
