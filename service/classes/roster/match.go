package roster

import (
	"cmp"
	"slices"
	"strings"

	"hemble/wire"
)

// Match is whose a file may be.
type Match struct {
	Login      string // whose it is, or may be; "" where nobody is likelier than others
	How        string // one of the ways below
	Sure       bool
	Candidates []string // the logins of those whose it may be, the likeliest first; of an unsure match
}

// The ways to tell whose a file is.
const (
	ByLogin  = "login"
	ByNumber = "number"
	ByName   = "name"
	NearName = "near name"
	Several  = "several" // as likely one student's as another's
	TwoNames = "two names"
	ByNobody = "nobody"
)

// maxCandidates bounds how many are listed.
const maxCandidates = 6

// Matcher tells whose files are. A file is surely a student's only where that student explains all words of its path
// that are names, logins or numbers of the class, and nobody else explains as many.
type Matcher struct {
	students []student
	known    map[string]bool // words that belong to some student
	filler   map[string]bool // words that are nobody's name: what is submitted, and what most files are called
	common   map[string]bool // words of students that most files have in their path: they tell nothing
}

// NewMatcher makes one for a class.
func NewMatcher(members []wire.Member) *Matcher {
	m := &Matcher{known: map[string]bool{}, filler: map[string]bool{}, common: map[string]bool{}}
	for _, s := range members {
		if s.Role != wire.Student {
			continue
		}
		made := newStudent(s)
		m.students = append(m.students, made)
		for form := range made.forms {
			m.known[form] = true
		}
		for _, id := range []string{s.Login, s.Number} {
			for _, t := range tokens(id) {
				m.known[t.word] = true
			}
		}
	}
	for _, w := range strings.Fields(usualWords) {
		m.filler[canonical(w)] = true
	}
	return m
}

// usualWords are in file names of every class.
const usualWords = "a ab abgabe and assignment assignsubmission aufgabe code copy data document exercise exercice file files final firmware fix fixed for hex homework in is lab labor last main my new no of ok old on part project release sketch solution source src student submission submit task test the to try update upload version work zip"

// Learn takes what the files of one bulk have in common, and words of the exercise, for what is nobody's name.
func (m *Matcher) Learn(paths []string, words ...string) {
	for _, w := range words {
		for _, t := range tokens(w) {
			m.filler[t.word] = true
		}
	}
	count := map[string]int{}
	for _, p := range paths {
		seen := map[string]bool{}
		for _, t := range tokens(stem(p)) {
			if !seen[t.word] {
				seen[t.word] = true
				count[t.word]++
			}
		}
	}
	for w, n := range count {
		switch {
		case !m.known[w] && n >= 3 && n*10 > len(paths):
			m.filler[w] = true
		case m.known[w] && n >= 4 && n*2 > len(paths):
			m.common[w] = true
		}
	}
}

// stem is a path without the ending of its file.
func stem(path string) string {
	if dot := strings.LastIndexByte(path, '.'); dot > strings.LastIndexByte(path, '/') {
		return path[:dot]
	}
	return path
}

// evidence is what speaks for a student.
type evidence struct {
	student   *student
	explained map[int]bool // tokens
	words     int          // how many of them tell something
	how       string
	strong    bool    // by itself; else only where nothing is left that may be somebody's name
	enough    bool    // to be sure at all
	like      float64 // how like the name is to words of the path
}

// Match tells whose a file is, by its path: by the login or the number in it, by the whole name in any order.
func (m *Matcher) Match(path string) Match {
	in := tokens(stem(path))
	var all []evidence
	for i := range m.students {
		e := m.students[i].evidence(in)
		for at := range e.explained {
			if !m.common[in[at].word] {
				e.words++
			}
		}
		if e.words > 0 || e.like >= nearEnough {
			all = append(all, e)
		}
	}
	if len(all) == 0 {
		return Match{How: ByNobody}
	}
	slices.SortStableFunc(all, func(a, b evidence) int {
		return cmp.Or(cmp.Compare(b.words, a.words), rank(b.enough)-rank(a.enough), cmp.Compare(b.like, a.like))
	})
	best := all[0]
	out := Match{How: best.how}
	alone := len(all) == 1 || all[1].words < best.words
	left := m.left(in, best, all[1:])
	if best.enough && alone && best.words > 0 && (left == nothing || left == unknown && best.strong) {
		out.Login, out.Sure = best.student.Login, true
		return out
	}
	for _, e := range all[:min(len(all), maxCandidates)] {
		out.Candidates = append(out.Candidates, e.student.Login)
	}
	switch {
	case left == somebodys:
		out.How = TwoNames
	case best.words == 0 && (len(all) == 1 || best.like-all[1].like >= clearBy):
		out.Login, out.How = best.student.Login, NearName
	case alone && best.words > 0:
		out.Login = best.student.Login
		if !best.enough {
			out.How = NearName
		}
	default:
		out.How = Several
	}
	return out
}

func rank(enough bool) int {
	if enough {
		return 1
	}
	return 0
}

// rest is what of a path one student does not explain.
type rest int

const (
	nothing   rest = iota // names nobody
	unknown               // words that may be a name that the class has not
	somebodys             // a name, login or number of another student
)

// left returns what of a path a student does not explain.
func (m *Matcher) left(in []token, best evidence, others []evidence) (out rest) {
	for i, t := range in {
		switch {
		case best.explained[i] || m.common[t.word]:
		case slices.ContainsFunc(others, func(e evidence) bool { return e.explained[i] }):
			return somebodys
		case !t.digits && len([]rune(t.word)) > 1 && !m.filler[t.word]:
			out = unknown
		}
	}
	return out
}
