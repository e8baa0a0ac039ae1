package display

import (
	"regexp"
	"slices"
	"strings"

	"hemble/core/spec"
)

// Matcher is what one display is to show at one time.
type Matcher interface {
	// Match reports whether a state is what is wanted, and otherwise how far it is off, in thousandths.
	Match(*Track, State) (ok bool, off int)
	// Ideal is how the wanted thing would look, for drawing; nil where that cannot be said.
	Ideal(Geometry) *State
	// Same reports whether no eye could tell two apart.
	Same(Matcher) bool
	String() string
}

// The abilities that only some matchers have.
type (
	// Partial is a matcher that may say nothing about a part of what the display shows.
	Partial interface{ Partial() bool }
	// Local is a matcher that looks at a part of the display; nil for all of it.
	Local interface{ Within() *Region }
	// Rowed is a matcher of rows of which the first can be asked for in one row alone; nil where there is no such row.
	Rowed interface{ Row(int) Matcher }
	// Nested is a matcher that is made of others.
	Nested interface{ Inner() []Matcher }
	// Telling is a matcher that tells its state from those of others in the same expectation.
	Telling interface{ TellFrom([]Matcher) }
)

// IsPartial reports whether a matcher says nothing about a part of what the display shows.
func IsPartial(m Matcher) bool {
	p, ok := m.(Partial)
	return ok && p.Partial()
}

// Within is the part of a display that a state is looked for in; nil for all of it.
func Within(m Matcher) *Region {
	if l, ok := m.(Local); ok {
		return l.Within()
	}
	return nil
}

// TellApart lets the matchers of one expectation know of each other: what one of them asks for is not taken for
// another.
func TellApart(all []Matcher) {
	leaves := leaves(all)
	for _, m := range leaves {
		if t, ok := m.(Telling); ok {
			t.TellFrom(leaves)
		}
	}
}

// leaves lists matchers and those within them.
func leaves(all []Matcher) (out []Matcher) {
	for _, m := range all {
		if n, ok := m.(Nested); ok {
			out = append(out, leaves(n.Inner())...)
		} else if m != nil {
			out = append(out, m)
		}
	}
	return out
}

// anyOf is one of several states.
type anyOf []Matcher

// ReadAny reads a list of frames of which any will do.
func ReadAny(v spec.Value, d Named, strict bool, ps *spec.Problems) Matcher {
	var out anyOf
	for _, f := range v.List {
		m, length := ReadFrame(f, d, strict, ps)
		if m == nil {
			return nil
		}
		if length != 0 {
			ps.Add(f.Pos, "the length of a frame belongs beside `one-of`, not inside it")
			return nil
		}
		out = append(out, m)
	}
	if len(out) < 2 {
		ps.Add(v.Pos, "`one-of` lists two frames or more")
		return nil
	}
	TellApart(out)
	return out
}

func (a anyOf) Match(t *Track, s State) (bool, int) {
	least := 1000
	for _, m := range a {
		ok, off := m.Match(t, s)
		if ok {
			return true, 0
		}
		least = min(least, off)
	}
	return false, least
}

func (a anyOf) Ideal(g Geometry) *State { return a[0].Ideal(g) }
func (a anyOf) Same(Matcher) bool       { return false }
func (a anyOf) Inner() []Matcher        { return a }

func (a anyOf) String() string {
	var words []string
	for _, m := range a {
		words = append(words, m.String())
	}
	return strings.Join(words, " or ")
}

// Pattern is a text that a regular expression matches as a whole.
type Pattern struct {
	Expression *regexp.Regexp
	Text       string
	Row        int // of the display's rows, from 0; -1 for any of them
}

// Anything is the pattern of a text that is captured, or compared, as a whole: spaces around it do not count.
const Anything = `\s*(.*?)\s*`

// ReadPattern reads a regular expression for the text of a display.
func ReadPattern(v spec.Value, row int, d Named, ps *spec.Problems) *Pattern {
	if _, ok := As[Worded](d.Geometry); !ok {
		ps.Add(v.Pos, "%q shows no text that a pattern could match", d.Name)
		return nil
	}
	e, err := regexp.Compile("^(?:" + v.Text + ")$")
	if err != nil {
		ps.Add(v.Pos, "%q is no regular expression: %s", v.Text,
			strings.TrimPrefix(err.Error(), "error parsing regexp: "))
		return nil
	}
	return &Pattern{e, v.Text, row}
}

// Match looks at each row that was asked for.
func (p *Pattern) Match(t *Track, s State) (bool, int) {
	if slices.ContainsFunc(p.Texts(t, s), p.Expression.MatchString) {
		return true, 0
	}
	return false, 500
}

// Texts are those that may match.
func (p *Pattern) Texts(t *Track, s State) (out []string) {
	worded, _ := As[Worded](t.Geometry)
	all := worded.Texts(t, s)
	if p.Row >= 0 && p.Row < len(all) {
		return all[p.Row : p.Row+1]
	}
	return all
}

// Ideal is nothing: many texts will do.
func (p *Pattern) Ideal(Geometry) *State { return nil }

// Same is never so.
func (p *Pattern) Same(Matcher) bool { return false }

// Partial is what it always is.
func (p *Pattern) Partial() bool { return true }

// Within is its row.
func (p *Pattern) Within() *Region {
	if p.Row < 0 {
		return nil
	}
	return WholeRow(p.Row)
}

func (p *Pattern) String() string {
	if p.Text == Anything {
		return "some text"
	}
	return "/" + p.Text + "/"
}
