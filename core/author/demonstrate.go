package author

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/marking"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

// Doing is one thing that was done by hand on a live bench.
type Doing struct {
	At      clock.Time `json:"at"`
	Part    string     `json:"part"`
	Verb    string     `json:"verb"`         // hold, turn, set, type
	Release bool       `json:"release"`      // the end of a hold
	Of      string     `json:"of,omitempty"` // which key of a keypad
	By      int64      `json:"by,omitempty"` // detents of a turn
	To      string     `json:"to,omitempty"` // the value of a set, the text that is typed
}

// Demonstration is a trial that was shown by hand: what was done, and for how long it went on.
type Demonstration struct {
	Trial  string     `json:"trial"` // its name; one of this name is written anew
	Length clock.Time `json:"length"`
	Done   []Doing    `json:"done"`
	// Chosen are the forms and marks of the expectations, as a draft was told to have them; none for the first ones.
	Chosen []Chosen `json:"chosen,omitempty"`
}

// Chosen is what becomes of one drafted expectation.
type Chosen struct {
	Display string `json:"display"`
	Form    string `json:"form"` // one of the draft's forms; Dropped for none
	Marks   int    `json:"marks"`
}

// Dropped is the form of an expectation that is left out.
const Dropped = "none"

// Draft is a trial made of a demonstration.
type Draft struct {
	Text         []byte     // the exercise file with the trial in it
	Trial        int        // which one it is
	Cues         []string   // as the file has them
	Expectations []Drafted  // one for each display
	Left         []string   // displays that nothing can be expected of, and why
	Reel         *reel.Reel // what the reference showed with these cues
}

// Drafted is what a display showed as an expectation, and the ways to write it.
type Drafted struct {
	Display string `json:"display"`
	Form    string `json:"form"` // the one that is written
	Marks   int    `json:"marks"`
	Forms   []Form `json:"forms"`
}

// Form is one way to expect what was shown.
type Form struct {
	Name string `json:"name"` // times, order, content, end, always
	Text string `json:"text"` // the expectation, without its marks
}

// Bounds of a demonstration.
const (
	maxDoings       = 1000
	maxDetents      = 1000 // of a turn
	maxDemonstrated = 10 * clock.Minute
)

// Demonstrate makes a trial of what was done by hand, with a reference: cues at times that a person would write, with
// the bounce left to the seed, and expectations of what the reference shows with them. What the text has of the trial's
// name is written anew, the rest stays. An error says what is in the way.
func Demonstrate(ctx context.Context, text, file []byte, d Demonstration) (*Draft, error) {
	if err := d.check(); err != nil {
		return nil, err
	}
	cues, err := d.cues()
	if err != nil {
		return nil, err
	}
	out := &Draft{}
	for _, c := range cues {
		out.Cues = append(out.Cues, c.line)
	}
	base, err := d.without(text)
	if err != nil {
		return nil, err
	}
	length := written(roundUp(max(d.Length, lastOf(cues)+500*clock.Millisecond)))
	trial := fmt.Sprintf("- name: %s\n  length: %s\n", display.Quoted(d.Trial), length)
	if len(cues) > 0 {
		trial += "  cues:\n"
		for _, c := range cues {
			trial += "    - " + c.line + "\n"
		}
	}
	if out.Text, err = added(base, trial); err != nil {
		return nil, err
	}
	x, problems := exercise.Reader{File: "exercise.yaml", Draft: true}.Read(out.Text)
	if x == nil {
		return nil, exercise.Error(problems)
	}
	out.Trial = slices.IndexFunc(x.Trials, func(t exercise.Trial) bool { return t.Name == d.Trial })
	m, err := marking.NewRepairer(x, file)
	if err != nil {
		return nil, err
	}
	if out.Reel, err = m.Run(ctx, x, out.Trial, 0); err != nil {
		return nil, err
	}
	for k := range out.Reel.Tracks {
		track := &out.Reel.Tracks[k]
		if slices.ContainsFunc(x.Groups,
			func(g exercise.Group) bool { return slices.Contains(g.Of, track.Display) }) {
			continue
		}
		one, why := drafted(x.Part(track.Display), track, out.Reel)
		if one == nil {
			out.Left = append(out.Left, fmt.Sprintf("%s: %s", track.Display, why))
			continue
		}
		out.Expectations = append(out.Expectations, *one)
	}
	shared(out.Expectations)
	lines, err := d.chosen(out.Expectations)
	if err != nil {
		return nil, err
	}
	if len(lines) == 0 {
		return out, nil
	}
	var doc yaml.Node
	if err := yaml.Unmarshal(out.Text, &doc); err != nil {
		return nil, err
	}
	in, err := place(&doc, out.Trial, lines)
	if err != nil {
		return nil, err
	}
	out.Text = put(out.Text, []insert{in})
	return out, nil
}

// usualMarks are those of a trial.
const usualMarks = 10

// shared shares the usual marks out, by what was usual for each.
func shared(all []Drafted) {
	sum := 0
	for _, one := range all {
		sum += one.Marks
	}
	left := usualMarks
	for i := range all {
		n := max(1, (left*all[i].Marks+sum/2)/max(1, sum))
		sum -= all[i].Marks
		all[i].Marks = n
		left = max(0, left-n)
	}
}

// chosen writes the expectations in the forms and for the marks that were chosen.
func (d Demonstration) chosen(all []Drafted) (lines []string, err error) {
	for i := range all {
		one := &all[i]
		for _, c := range d.Chosen {
			if c.Display != one.Display {
				continue
			}
			if c.Form != Dropped && !slices.ContainsFunc(one.Forms, func(f Form) bool { return f.Name == c.Form }) {
				return nil, fmt.Errorf("%s cannot be expected as %q", c.Display, c.Form)
			}
			if c.Marks < 0 || c.Marks > 1000 {
				return nil, fmt.Errorf("%s: %d marks; there can be 0 to 1000", c.Display, c.Marks)
			}
			one.Form, one.Marks = c.Form, c.Marks
		}
		for _, f := range one.Forms {
			if f.Name == one.Form {
				lines = append(lines, fmt.Sprintf("%s, marks: %d}", strings.TrimSuffix(f.Text, "}"), one.Marks))
			}
		}
	}
	return lines, nil
}

func (d Demonstration) check() error {
	switch {
	case strings.TrimSpace(d.Trial) == "" || len(d.Trial) > 100:
		return errors.New("the trial needs a name, of up to 100 characters")
	case len(d.Done) > maxDoings:
		return fmt.Errorf("%d things were done; a trial takes up to %d", len(d.Done), maxDoings)
	case d.Length <= 0 || d.Length > maxDemonstrated:
		return fmt.Errorf("it went on for %s; a trial takes up to %s", d.Length.Short(), maxDemonstrated.Short())
	}
	for i, x := range d.Done {
		if !spec.IsName(x.Part) || x.By < -maxDetents || x.By > maxDetents {
			return fmt.Errorf("at %s something was done that no bench has: %.40q", x.At, x.Part)
		}
		if x.At < 0 || x.At > d.Length || i > 0 && x.At < d.Done[i-1].At {
			return fmt.Errorf("what was done is not in the order of its times, at %s", x.At)
		}
	}
	return nil
}

// given is a cue as it is written, with when it ends.
type given struct {
	line string
	end  clock.Time
}

func lastOf(cues []given) (end clock.Time) {
	for _, c := range cues {
		end = max(end, c.end)
	}
	return end
}

// cues writes what was done: contacts that close and open again become presses, turns and values that follow each other
// at once become one. Times are rounded to tenths of a second, or as finely as keeps their order.
func (d Demonstration) cues() (out []given, err error) {
	type contact struct{ part, of string }
	held := map[contact]int{} // where its press is in out
	begun, names := map[contact]clock.Time{}, map[contact]string{}
	before := clock.Time(0)
	at := func(t clock.Time) clock.Time {
		for _, step := range []clock.Time{100, 50, 10, 1} {
			if r := round(t, step*clock.Millisecond); r > before || r == 0 && before == 0 && len(out) == 0 {
				before = r
				return r
			}
		}
		before += clock.Millisecond
		return before
	}
	of := func(key string) string {
		if key == "" {
			return ""
		}
		return ", key: " + display.Quoted(key)
	}
	times := map[string]int{}
	as := func(name string) string {
		times[name]++
		return fmt.Sprintf(", as: %s-%d", name, times[name])
	}
	for i := 0; i < len(d.Done); i++ {
		x := d.Done[i]
		k := contact{x.Part, x.Of}
		switch {
		case x.Verb == part.Hold && !x.Release:
			t := at(x.At)
			held[k], begun[k] = len(out), t
			names[k] = as(x.Part)
			out = append(out, given{fmt.Sprintf("{at: %s, hold: %s%s%s}", written(t), x.Part, of(x.Of), names[k]), t})
		case x.Verb == part.Hold:
			n, ok := held[k]
			if !ok {
				continue // it was held before
			}
			long := max(50*clock.Millisecond, round(x.At-begun[k], 50*clock.Millisecond))
			out[n] = given{fmt.Sprintf("{at: %s, press: %s%s, for: %s%s}", written(begun[k]), x.Part, of(x.Of),
				written(long), names[k]), begun[k] + long}
			delete(held, k)
		case x.Verb == part.Turn:
			by, lasts := x.By, x.At
			for i+1 < len(d.Done) && d.Done[i+1].Verb == part.Turn && d.Done[i+1].Part == x.Part &&
				d.Done[i+1].By*x.By > 0 && d.Done[i+1].At-lasts < together {
				i++
				by, lasts = by+d.Done[i].By, d.Done[i].At
			}
			t := at(x.At)
			each := 100 * clock.Millisecond
			if n := max(by, -by); n > 1 {
				each = max(50*clock.Millisecond, round((lasts-x.At)/clock.Time(n-1), 50*clock.Millisecond))
			}
			out = append(out, given{fmt.Sprintf("{at: %s, turn: %s, by: %d, for: %s%s}", written(t), x.Part, by,
				written(each), as(x.Part)), t + each*clock.Time(max(by, -by))})
		case x.Verb == part.Set:
			for i+1 < len(d.Done) && d.Done[i+1].Verb == part.Set && d.Done[i+1].Part == x.Part &&
				d.Done[i+1].At-d.Done[i].At < together {
				i++
			}
			t := at(d.Done[i].At)
			out = append(out, given{fmt.Sprintf("{at: %s, set: %s, to: %s%s}", written(t), x.Part,
				display.Quoted(d.Done[i].To), as(x.Part)), t})
		case x.Verb == part.Type:
			t := at(x.At)
			out = append(out,
				given{fmt.Sprintf("{at: %s, type: %s, text: %s%s}", written(t), x.Part, typed(x.To), as(x.Part)), t})
		default:
			return nil, fmt.Errorf("nothing is known that is called %q", x.Verb)
		}
	}
	return out, nil
}

// together is how soon turns and values follow each other that are one.
const together = 500 * clock.Millisecond

// typed writes a text with its line ends.
func typed(s string) string {
	return strings.NewReplacer("\n", `\n`, "\r", `\r`, "\t", `\t`).Replace(display.Quoted(s))
}

func round(t, step clock.Time) clock.Time { return (t + step/2) / step * step }

// roundUp is the next half second, so that the last state has its time.
func roundUp(t clock.Time) clock.Time {
	return (t + 500*clock.Millisecond - 1) / (500 * clock.Millisecond) * (500 * clock.Millisecond)
}

// without is the text without a trial of the name.
func (d Demonstration) without(text []byte) ([]byte, error) {
	src, err := readSource(text)
	if err != nil {
		return nil, err
	}
	trials := value(src.doc.Content[0], "trials")
	if trials == nil {
		return text, nil
	}
	for _, t := range trials.Content {
		name := value(t, "name")
		if name == nil || name.Value != d.Trial {
			continue
		}
		if trials.Style&yaml.FlowStyle != 0 {
			return nil, fmt.Errorf("line %d: write the trials in lines of their own, without brackets", trials.Line)
		}
		from, to := src.lines[t.Line-1], len(text)
		if end := last(t); end < len(src.lines) {
			to = src.lines[end]
		}
		out := src.replace(from, to, "")
		if len(trials.Content) == 1 { // none is left: the key goes, too
			at := src.lines[trials.Line-2]
			if trials.Line < 2 || !strings.HasPrefix(strings.TrimSpace(string(text[at:])), "trials:") {
				return nil, fmt.Errorf("line %d: write the trials in lines of their own", trials.Line)
			}
			out = append(append([]byte{}, text[:at]...), text[to:]...)
		}
		return out, nil
	}
	return text, nil
}

// added is the text with a trial behind those that it has.
func added(text []byte, trial string) ([]byte, error) {
	src, err := readSource(text)
	if err != nil {
		return nil, err
	}
	indented := func(by int) string {
		out := ""
		for line := range strings.Lines(trial) {
			out += strings.Repeat(" ", by) + line
		}
		return out
	}
	trials := value(src.doc.Content[0], "trials")
	if trials == nil || len(trials.Content) == 0 {
		if trials != nil {
			return nil, fmt.Errorf("line %d: leave `trials` out where there is none", trials.Line)
		}
		if len(text) > 0 && text[len(text)-1] != '\n' {
			trial = "\ntrials:\n" + indented(2)
		} else {
			trial = "trials:\n" + indented(2)
		}
		return append(slices.Clone(text), trial...), nil
	}
	if trials.Style&yaml.FlowStyle != 0 {
		return nil, fmt.Errorf("line %d: write the trials in lines of their own, without brackets", trials.Line)
	}
	return put(text, []insert{{line: last(trials), text: indented(trials.Column - 1)}}), nil
}

// drafted is what a display showed, with the ways to expect it, the strictest that is usual first; nil where there is
// none.
func drafted(p *part.Instance, t *display.Track, r *reel.Reel) (out *Drafted, why string) {
	line, marks, why := expectation(p, t)
	if line == "" {
		return nil, why
	}
	out = &Drafted{Display: t.Display, Marks: marks}
	add := func(name, text string) {
		if text != "" && !slices.ContainsFunc(out.Forms, func(f Form) bool { return f.Text == text }) {
			out.Forms = append(out.Forms, Form{name, text})
		}
	}
	if strings.HasPrefix(line, "{always:") {
		add("always", line)
	} else {
		if len(r.Cues) == 0 { // with hands on the keys, times are theirs
			add("times", line)
		}
		add("order", ordered(p, t))
		add("content", contents(p, t, r))
		if len(r.Cues) > 0 {
			add("times", line)
		}
	}
	add("end", ending(p, t))
	if len(out.Forms) == 0 {
		return nil, "what it showed cannot be written"
	}
	out.Form = out.Forms[0].Name
	return out, ""
}

// ordered expects the states in their order, for any time.
func ordered(p *part.Instance, t *display.Track) string {
	var frames []string
	for i, f := range t.Frames {
		shown := frame(p, t, f.State)
		if shown == "" || i == 0 && f.Length() < 200*clock.Millisecond {
			continue
		}
		if n := len(frames); n == 0 || frames[n-1] != shown || t.Geometry.Type().Traits().Lines {
			frames = append(frames, shown)
		}
	}
	if len(frames) < 2 || len(frames) > maxRecorded {
		return ""
	}
	return fmt.Sprintf("{%s: %s, frames: [%s]}", recorded, t.Display, strings.Join(frames, ", "))
}

// contents expects what stands a while behind each input, before the next one.
func contents(p *part.Instance, t *display.Track, r *reel.Reel) string {
	if t.Geometry.Type().Traits().Lines {
		return ""
	}
	for _, within := range []clock.Time{250 * clock.Millisecond, 500 * clock.Millisecond, clock.Second} {
		var rows []string
		early := false // it changes just before it is looked at
		for i, c := range r.Cues {
			at := c.End + within
			if c.Name == "" || at > r.Length || i+1 < len(r.Cues) && at >= r.Cues[i+1].Start {
				continue
			}
			for _, f := range t.Frames {
				if f.From <= at && at < f.To {
					shown := frame(p, t, f.State)
					if shown == "" {
						return ""
					}
					early = early || f.From > at-within/5
					rows = append(rows, fmt.Sprintf("{after: %s, shows: %s}", c.Name, shown))
				}
			}
		}
		if len(rows) > 0 && !early {
			return fmt.Sprintf("{answers: %s, table: [%s], within: %s}", t.Display, strings.Join(rows, ", "),
				written(within))
		}
	}
	return ""
}

// ending expects the last state.
func ending(p *part.Instance, t *display.Track) string {
	if len(t.Frames) == 0 || t.Geometry.Type().Traits().Lines {
		return ""
	}
	shown := frame(p, t, t.Frames[len(t.Frames)-1].State)
	if shown == "" {
		return ""
	}
	if inner, ok := strings.CutPrefix(shown, "{"); ok {
		return fmt.Sprintf("{reads: %s, %s, at: end}", t.Display, strings.TrimSuffix(inner, "}"))
	}
	return fmt.Sprintf("{reads: %s, text: %s, at: end}", t.Display, shown)
}
