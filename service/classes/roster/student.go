package roster

import (
	"strings"

	"github.com/agnivade/levenshtein"

	"hemble/wire"
)

// student is one of a class, with the words by which files may be told.
type student struct {
	wire.Member
	words []string
	forms map[string][]int // words of paths that stand for words of the name, by their indexes
	login []token
	id    []token // the number
}

func newStudent(m wire.Member) student {
	s := student{Member: m, forms: map[string][]int{}, login: tokens(m.Login), id: tokens(m.Number)}
	for _, t := range tokens(m.Name) {
		s.words = append(s.words, t.word)
	}
	n := len(s.words)
	for from := range n { // words, and words that are written as one
		joined, which := "", []int(nil)
		for to := from; to < n; to++ {
			joined += s.words[to]
			which = append(which, to)
			if len([]rune(joined)) > 1 {
				s.forms[joined] = append([]int(nil), which...)
			}
		}
	}
	if n > 1 {
		first, rest, all := s.words[0], strings.Join(s.words[1:], ""), make([]int, n)
		for i := range all {
			all[i] = i
		}
		initial := string([]rune(first)[0])
		for _, form := range []string{rest + first, s.words[n-1] + strings.Join(s.words[:n-1], ""), initial + rest,
			rest + initial} {
			if _, known := s.forms[form]; !known {
				s.forms[form] = all
			}
		}
	}
	return s
}

// evidence returns what of a path speaks for the student.
func (s *student) evidence(in []token) evidence {
	e := evidence{student: s, explained: map[int]bool{}, how: NearName}
	if s.named(in, &e) {
		e.how, e.enough, e.strong = ByName, true, len(s.words) > 1
	}
	if at := occurs(in, s.id); at != nil {
		e.cover(at)
		e.how, e.enough = ByNumber, true
		e.strong = e.strong || len(s.Number) >= 4
	}
	if at := occurs(in, s.login); at != nil && len(s.Login) > 2 {
		e.cover(at)
		e.how, e.enough = ByLogin, true
		e.strong = e.strong || len(s.login) > 1 // it has digits or several words
	}
	e.like = s.like(in)
	return e
}

func (e *evidence) cover(tokens []int) {
	for _, i := range tokens {
		e.explained[i] = true
	}
}

// occurs finds a login or a number that stands apart in a path; nil where it does not.
func occurs(in, id []token) (at []int) {
	if len(id) == 0 {
		return nil
	}
	for i := 0; i+len(id) <= len(in); i++ {
		fits := in[i].apart && in[i+len(id)-1].apartAfter
		for k := range id {
			fits = fits && in[i+k].word == id[k].word && in[i+k].component == in[i].component
			if k > 0 {
				fits = fits && in[i+k].from-in[i+k-1].to <= 1 // login a.b is no pair of words far apart
			}
		}
		if fits {
			for k := range id {
				at = append(at, i+k)
			}
		}
	}
	return at
}

// named explains the words of a path by the student's name, and reports whether all of the name stands together
// somewhere, in any order; an initial may stand for a name, and one of another name between.
func (s *student) named(in []token, e *evidence) bool {
	whole := false
	for i := 0; i < len(in); {
		found, initials, long, end := map[int]bool{}, []int(nil), 0, i
		for ; end < len(in) && in[end].component == in[i].component && !in[end].digits; end++ {
			word := in[end].word
			which, own := s.forms[word]
			if !own && len([]rune(word)) > 1 && !s.abbreviated(word, found) {
				break
			}
			if !own {
				initials = append(initials, end)
				continue
			}
			for _, w := range which {
				found[w] = true
			}
			e.explained[end] = true
			long = max(long, len([]rune(word)))
		}
		for _, at := range initials {
			for w, word := range s.words {
				if long > 0 && !found[w] && abbreviates(in[at].word, word) {
					found[w], e.explained[at] = true, true
					break
				}
			}
		}
		whole = whole || long > 2 && len(found) == len(s.words)
		i = max(end, i+1)
	}
	return whole
}

// abbreviated reports whether a word is one that the student's name has as an initial only.
func (s *student) abbreviated(word string, found map[int]bool) bool {
	for w, own := range s.words {
		if !found[w] && len([]rune(own)) == 1 && strings.HasPrefix(word, own) {
			return true
		}
	}
	return false
}

// abbreviates reports whether one of two words is the initial of the other.
func abbreviates(a, b string) bool {
	x, y := []rune(a), []rune(b)
	return len(x) > 0 && len(y) > 0 && x[0] == y[0] && (len(x) == 1 || len(y) == 1)
}

// What a near name is: how like its words are on the whole, and by how much more than the next student's.
const (
	nearEnough = 0.7
	clearBy    = 0.1
)

// like returns how like the words of the name are to words of a path, 0 to 1. The longer words of a name say more; an
// initial says next to nothing.
func (s *student) like(in []token) float64 {
	var like, weight float64
	for _, w := range s.words {
		if len(w) < 2 {
			continue
		}
		closest := 0.0
		for _, t := range in {
			if len(t.word) > 1 && !t.digits {
				closest = max(closest, likeness(w, t.word))
			}
		}
		like, weight = like+closest*float64(len(w)), weight+float64(len(w))
	}
	if weight == 0 {
		return 0
	}
	return like / weight
}

// likeness of two words, 0 to 1.
func likeness(a, b string) float64 {
	n := max(len([]rune(a)), len([]rune(b)))
	return 1 - float64(levenshtein.ComputeDistance(a, b))/float64(n)
}
