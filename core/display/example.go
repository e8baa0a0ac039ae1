package display

import (
	"regexp/syntax"
	"slices"
	"strings"

	"github.com/agnivade/levenshtein"

	"hemble/core/spec"
)

// mostExamples bounds the texts that are looked at for one that a pattern matches.
const mostExamples = 100

// Example is how the display would look if it showed a text that the pattern matches, the one nearest to what was seen:
// what should have changed is told best by it. nil where the pattern leaves too much open.
func (p *Pattern) Example(t *Track, seen State) *State {
	out := p.example(t, seen)
	if out == nil {
		return nil
	}
	if ok, _ := p.Match(t, *out); !ok { // the display cannot show it
		return nil
	}
	return out
}

func (p *Pattern) example(t *Track, seen State) *State {
	tree, err := syntax.Parse(p.Text, syntax.Perl)
	if err != nil {
		return nil
	}
	texts, ok := matched(tree.Simplify())
	// a sign for the end of a text may stand in its middle, where nothing matches
	texts = slices.DeleteFunc(texts, func(text string) bool { return !p.Expression.MatchString(text) })
	if !ok || len(texts) == 0 {
		return nil
	}
	if lettered, is := As[Lettered](t.Geometry); is {
		return p.exampleRow(lettered, t, seen, texts)
	}
	shown := p.Texts(t, seen)
	if t.Geometry.Digits() == 0 || len(shown) != 1 {
		return nil
	}
	text, _ := nearest(texts, shown[0])
	text = strings.TrimSpace(text)
	places := len(points.Replace(text))
	text = strings.Repeat(" ", max(0, t.Geometry.Digits()-places)) + text
	var ps spec.Problems
	m := t.Geometry.Type().Read(Written{Named: Named{t.Display, t.Geometry}, Text: text}, &ps)
	if m == nil {
		return nil
	}
	return m.Ideal(t.Geometry)
}

// exampleRow puts the text in its row, or in the one that is nearest to it.
func (p *Pattern) exampleRow(lettered Lettered, t *Track, seen State, texts []string) *State {
	rows := lettered.Rows(t, seen)
	best, at, least := "", -1, 0
	for i, row := range rows {
		if p.Row >= 0 && p.Row != i {
			continue
		}
		if text, off := nearest(texts, strings.TrimRight(row, " ")); at < 0 || off < least {
			best, at, least = text, i, off
		}
	}
	if at < 0 {
		return nil
	}
	if t.Geometry.Grid != nil { // a row keeps its width
		best = Fit(best, max(len([]rune(best)), len([]rune(rows[at]))))
	}
	rows[at] = best
	out := lettered.WithRows(t, seen, rows)
	return &out
}

// nearest is the text that takes the fewest changes, those of points counted last, and the middle one of several: a
// range is written with what is meant in its middle.
func nearest(texts []string, to string) (text string, off int) {
	var best []string
	for _, s := range texts {
		a, b := strings.TrimSpace(s), strings.TrimSpace(to)
		d := levenshtein.ComputeDistance(a, b) + 10*levenshtein.ComputeDistance(points.Replace(a), points.Replace(b))
		switch {
		case best == nil || d < off:
			best, off = []string{s}, d
		case d == off:
			best = append(best, s)
		}
	}
	return best[len(best)/2], off
}

// points takes out what stands between figures.
var points = strings.NewReplacer(".", "", ":", "", ",", "")

// matched are all texts that an expression matches; ok is false where they are too many. What may be repeated for ever
// counts only where it is space.
func matched(e *syntax.Regexp) (texts []string, ok bool) {
	switch e.Op {
	case syntax.OpEmptyMatch, syntax.OpBeginLine, syntax.OpEndLine, syntax.OpBeginText, syntax.OpEndText:
		return []string{""}, true
	case syntax.OpLiteral:
		return []string{string(e.Rune)}, true
	case syntax.OpCharClass:
		for i := 0; i+1 < len(e.Rune); i += 2 {
			if e.Rune[i+1]-e.Rune[i] >= mostExamples {
				return nil, false
			}
			for r := e.Rune[i]; r <= e.Rune[i+1]; r++ {
				texts = append(texts, string(r))
			}
		}
		return texts, len(texts) <= mostExamples
	case syntax.OpCapture:
		return matched(e.Sub[0])
	case syntax.OpStar, syntax.OpPlus, syntax.OpQuest:
		texts, ok = matched(e.Sub[0])
		if e.Op != syntax.OpQuest {
			for _, s := range texts {
				ok = ok && strings.TrimSpace(s) == ""
			}
		}
		if e.Op != syntax.OpPlus {
			texts = append([]string{""}, texts...)
		}
		return texts, ok
	case syntax.OpAlternate:
		for _, sub := range e.Sub {
			more, fine := matched(sub)
			if texts = append(texts, more...); !fine || len(texts) > mostExamples {
				return nil, false
			}
		}
		return texts, true
	case syntax.OpConcat:
		texts = []string{""}
		for _, sub := range e.Sub {
			more, fine := matched(sub)
			if !fine || len(texts)*len(more) > mostExamples {
				return nil, false
			}
			var longer []string
			for _, a := range texts {
				for _, b := range more {
					longer = append(longer, a+b)
				}
			}
			texts = longer
		}
		return texts, true
	}
	return nil, false
}
