package spec

import (
	"fmt"
	"sort"
	"strings"

	"github.com/agnivade/levenshtein"
)

// Pos is a place in a file, counted from 1.
type Pos struct {
	Line int `json:"line"`
	Col  int `json:"column"`
}

// Problem is one thing wrong in a file: where, what was found, and what was meant.
type Problem struct {
	File string `json:"file"`
	Pos
	Text    string `json:"text"`
	Warning bool   `json:"warning,omitempty"`
	About   string `json:"-"` // a name that the problem is that nothing has
}

func (p Problem) Error() string {
	kind := ""
	if p.Warning {
		kind = "warning: "
	}
	return fmt.Sprintf("%s:%d:%d: %s%s", p.File, p.Line, p.Col, kind, p.Text)
}

// Problems collects what is wrong in one file.
type Problems struct {
	File string
	List []Problem
}

// Add notes a problem at a place.
func (ps *Problems) Add(at Pos, format string, args ...any) {
	ps.List = append(ps.List, Problem{File: ps.File, Pos: at, Text: fmt.Sprintf(format, args...)})
}

// Unknown notes that nothing is called by a name, with the nearest of those there are.
func (ps *Problems) Unknown(at Pos, what, name string, valid []string) {
	ps.List = append(ps.List,
		Problem{File: ps.File, Pos: at, Text: fmt.Sprintf("no %s is called %q%s", what, name, Nearest(name, valid)),
			About: name})
}

// Warn notes something that is allowed and probably not meant.
func (ps *Problems) Warn(at Pos, format string, args ...any) {
	ps.List = append(ps.List, Problem{File: ps.File, Pos: at, Text: fmt.Sprintf(format, args...), Warning: true})
}

// Sorted gives the problems in the order of the file.
func (ps *Problems) Sorted() []Problem {
	sort.SliceStable(ps.List, func(i, j int) bool {
		a, b := ps.List[i].Pos, ps.List[j].Pos
		return a.Line < b.Line || a.Line == b.Line && a.Col < b.Col
	})
	return ps.List
}

// Failed reports whether there are problems beyond warnings.
func (ps *Problems) Failed() bool {
	for _, p := range ps.List {
		if !p.Warning {
			return true
		}
	}
	return false
}

// Nearest gives " Did you mean ...?" for the valid word closest to a wrong one, or the list of
// words when none is close.
func Nearest(word string, valid []string) string {
	best, distance := "", len(word)/3+2
	for _, v := range valid {
		if d := levenshtein.ComputeDistance(strings.ToLower(word), strings.ToLower(v)); d < distance {
			best, distance = v, d
		}
	}
	switch {
	case best != "":
		return fmt.Sprintf("; did you mean %q?", best)
	case len(valid) == 0:
		return ""
	case len(valid) > 14:
		valid = append(append([]string{}, valid[:14]...), "…")
	}
	return "; expected " + strings.Join(valid, ", ")
}
