package author

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/reel"
	"hemble/core/spec"
)

// Acceptance is an exercise file in which something that was seen is an alternative to what was expected.
type Acceptance struct {
	Text []byte
	What string // what was done, in words
	Was  string // the lines of the file that changed
	Now  string
}

// Choice picks what is accepted of a verdict.
type Choice struct {
	Trial, Verdict int
	Pair           int // of the verdict's lanes; Sequence for everything that the display showed
}

// Sequence accepts the whole sequence.
const Sequence = -1

// Sequential tells the kinds of expectation that a whole sequence can be an alternative to.
func Sequential(kind string) bool {
	k := judge.Find(kind)
	return kind == exercise.AnyOf || k != nil && k.Alternative
}

// Accept makes what a run showed an alternative in the file. x is what the text reads as, r the reel of the trial. An
// error says why it cannot be done by itself.
func Accept(text []byte, x *exercise.Exercise, r *reel.Reel, s Choice) (*Acceptance, error) {
	if s.Trial < 0 || s.Trial >= len(x.Trials) || s.Verdict < 0 || s.Verdict >= len(x.Trials[s.Trial].Expect) {
		return nil, errors.New("the exercise has no such expectation")
	}
	src, err := readSource(text)
	if err != nil {
		return nil, err
	}
	e := x.Trials[s.Trial].Expect[s.Verdict]
	v := e.Judge(r)
	if v.Outcome == judge.Met {
		return nil, errors.New("this expectation is met as it is")
	}
	track := r.Track(v.Display)
	if v.Display == "" || track == nil {
		return nil, errors.New("this expectation is about no display; write its alternative by hand, as any-of")
	}
	out := &Acceptance{}
	of, shows := x.Part(v.Display), track
	parted, inPart := e.Expectation.(judge.Parted)
	if inPart {
		of, shows = parted.Of(of), parted.Cut(track)
	}
	if s.Pair == Sequence {
		line, _, why := expectation(of, shows)
		if line == "" {
			return nil, errors.New(why)
		}
		if !Sequential(e.Kind) {
			return nil, fmt.Errorf("%s is about states, not about a sequence: accept one of its states", e.Kind)
		}
		_, item := src.expected(s)
		part, _ := split(item, func(key string) bool { return key == "row" || key == "region" })
		if line, err = joined(line, part); err != nil {
			return nil, err
		}
		out.What = "what the display showed, as another sequence that is right"
		out.Text, err = src.alternative(s, line)
	} else {
		if s.Pair < 0 || s.Pair >= len(v.Alignment) || v.Alignment[s.Pair].Seen == nil ||
			v.Alignment[s.Pair].Operation == judge.Right {
			return nil, errors.New("nothing was seen there that is not right already")
		}
		p := v.Alignment[s.Pair]
		state := *p.Seen.State
		if k := slices.IndexFunc(track.Frames,
			func(f display.Frame) bool { return f.From <= p.Seen.From && p.Seen.From < f.To }); inPart && k >= 0 {
			state = shows.Frames[k].State
		}
		shown := frame(of, shows, state)
		switch {
		case shown == "":
			return nil, fmt.Errorf("the state at %s cannot be written as a frame", p.Seen.From)
		case p.Operation == judge.Mistimed:
			return nil, errors.New("the state is right and its length is not: widen the tolerance, or accept the sequence")
		case p.Expected == nil || p.Expected.Place.Line == 0:
			return nil, errors.New("the file expects no single frame there: accept the whole sequence")
		}
		out.What = fmt.Sprintf("%s, where %s was expected", p.Seen.Text, p.Expected.Text)
		out.Text, err = src.states(s, places(v.Alignment, p), shown)
	}
	if err != nil {
		return nil, err
	}
	if _, problems := x.Again(out.Text); exercise.Error(problems) != nil {
		return nil, fmt.Errorf("with it the file does not read: %w", exercise.Error(problems))
	}
	if out.Was, out.Now = changed(string(text), string(out.Text)); strings.Contains(out.Was, "${") {
		out.What += "; what is expected there differs from student to student, and this is accepted of all of them"
	}
	return out, nil
}

// places are those of the file where the state of a pair was expected and the same was seen, the last first.
func places(lanes []judge.Pair, p judge.Pair) (out []spec.Pos) {
	for _, q := range lanes {
		if q.Operation == judge.Wrong && q.Expected != nil && q.Seen != nil && q.Expected.Text == p.Expected.Text &&
			q.Seen.Text == p.Seen.Text && !slices.Contains(out, q.Expected.Place) {
			out = append(out, q.Expected.Place)
		}
	}
	slices.SortFunc(out, func(a, b spec.Pos) int { return cmp.Or(b.Line-a.Line, b.Col-a.Col) })
	return out
}

// states puts a frame beside those that are written at some places, the last of them first: what stands before stays
// where it is.
func (s *source) states(at Choice, places []spec.Pos, shown string) (text []byte, err error) {
	for _, place := range places {
		if text, err = s.state(at, place, shown); err != nil {
			return nil, err
		}
		if s, err = readSource(text); err != nil {
			return nil, err
		}
	}
	return text, nil
}

// expected finds the node of an expectation and the list that it is in.
func (s *source) expected(at Choice) (list, item *yaml.Node) {
	list = value(value(s.doc.Content[0], "trials").Content[at.Trial], "expect")
	return list, list.Content[at.Verdict]
}

// state puts a frame beside the one that is written at a place.
func (s *source) state(at Choice, place spec.Pos, shown string) ([]byte, error) {
	n := s.find(place)
	if n == nil {
		return nil, errors.New("the expected state was not found in the file")
	}
	_, item := s.expected(at)
	if holder, key := holderOf(item, n); key == "pattern" || key == "rows" && value(holder, "reads") != nil ||
		key == "text" && value(holder, "row") != nil {
		_, others := split(holder, func(k string) bool {
			return marked(k) || k == "pattern" || k == "rows" ||
				k == "text" || k == "row"
		})
		line, err := flow(others)
		if err != nil {
			return nil, err
		}
		return s.alternative(at, strings.TrimSuffix(line, "}")+", text: "+shown+"}")
	}
	from, to, err := s.extent(n)
	if err != nil {
		return nil, err
	}
	raw := string(s.text[from:to])
	if n.Kind == yaml.MappingNode {
		if several := value(n, "one-of"); several != nil {
			return s.append(several, shown)
		}
		timed, rest := split(n, func(k string) bool { return k == "for" })
		if raw, err = flow(rest); err != nil {
			return nil, err
		}
		if length := value(timed, "for"); length != nil {
			return s.replace(from, to, fmt.Sprintf("{one-of: [%s, %s], for: %s}", raw, shown, length.Value)), nil
		}
	}
	return s.replace(from, to, fmt.Sprintf("{one-of: [%s, %s]}", raw, shown)), nil
}

// holderOf finds the mapping within one that has a node as a value, and its key.
func holderOf(m, n *yaml.Node) (holder *yaml.Node, key string) {
	for i, c := range m.Content {
		if c == n && m.Kind == yaml.MappingNode && i%2 == 1 {
			return m, m.Content[i-1].Value
		}
		if holder, key = holderOf(c, n); holder != nil {
			return holder, key
		}
	}
	return nil, ""
}

// append adds an item to the end of a list.
func (s *source) append(list *yaml.Node, item string) ([]byte, error) {
	_, to, err := s.extent(list)
	switch {
	case err != nil:
		return nil, err
	case list.Style&yaml.FlowStyle != 0:
		to--
		return s.replace(to, to, ", "+item), nil
	}
	return s.replace(to, to, "\n"+strings.Repeat(" ", list.Column-1)+"- "+item), nil
}

// marked tells keys that stay with the marks of alternatives.
func marked(key string) bool { return slices.Contains(exercise.MarkNames(), key) }

// alternative puts an expectation beside another one, as any-of.
func (s *source) alternative(at Choice, other string) ([]byte, error) {
	list, item := s.expected(at)
	if several := value(item, exercise.AnyOf); several != nil {
		return s.append(several, other)
	}
	from, to, err := s.extent(item)
	if err != nil {
		return nil, err
	}
	marks, own := split(item, marked)
	if list.Style&yaml.FlowStyle != 0 {
		line, err := flow(own)
		if err != nil {
			return nil, err
		}
		with, err := joined(fmt.Sprintf("{%s: [%s, %s]}", exercise.AnyOf, line, other), marks)
		if err != nil {
			return nil, err
		}
		return s.replace(from, to, with), nil
	}
	indent := "\n" + strings.Repeat(" ", item.Column-1)
	with := exercise.AnyOf + ":"
	if item.Style&yaml.FlowStyle != 0 {
		line, err := flow(own)
		if err != nil {
			return nil, err
		}
		with += indent + "  - " + line
	} else {
		lead := "  - "
		for i := 0; i+1 < len(own.Content); i += 2 {
			with += indent + lead + s.lined(own.Content[i], own.Content[i+1], "    ")
			lead = "    "
		}
	}
	with += indent + "  - " + other
	for i := 0; i+1 < len(marks.Content); i += 2 {
		with += indent + s.lined(marks.Content[i], marks.Content[i+1], "")
	}
	return s.replace(from, to, with), nil
}

// joined is a mapping on one line with the keys of another at its end.
func joined(line string, more *yaml.Node) (string, error) {
	if len(more.Content) == 0 {
		return line, nil
	}
	rest, err := flow(more)
	return strings.TrimSuffix(line, "}") + ", " + strings.TrimPrefix(rest, "{"), err
}

// lined is a key with its value as they are written, each line but the first moved in further.
func (s *source) lined(key, of *yaml.Node, further string) string {
	from, end := s.offset(key.Line, key.Column), len(s.text)
	if line := max(key.Line, last(of)); line < len(s.lines) {
		end = s.lines[line] - 1
	}
	if key.Line == of.Line && of.Kind == yaml.ScalarNode || of.Style&yaml.FlowStyle != 0 {
		if _, to, err := s.extent(of); err == nil {
			end = to
			if strings.HasPrefix(strings.TrimLeft(string(s.text[end:]), " "), "#") { // a remark at the end of the line
				if i := strings.IndexByte(string(s.text[end:]), '\n'); i >= 0 {
					end += i
				}
			}
		}
	}
	return strings.ReplaceAll(strings.TrimRight(string(s.text[from:end]), " \n"), "\n", "\n"+further)
}

// changed gives the lines in which two texts differ, without those that both begin or end with.
func changed(was, now string) (string, string) {
	a, b := strings.Split(was, "\n"), strings.Split(now, "\n")
	for len(a) > 0 && len(b) > 0 && a[0] == b[0] {
		a, b = a[1:], b[1:]
	}
	for len(a) > 0 && len(b) > 0 && a[len(a)-1] == b[len(b)-1] {
		a, b = a[:len(a)-1], b[:len(b)-1]
	}
	return strings.Join(a, "\n"), strings.Join(b, "\n")
}
