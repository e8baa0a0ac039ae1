// Package roster reads and writes the list of a class's students, and tells whose a file is.
package roster

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"hemble/core/report"
	"hemble/service/auth"
	"hemble/wire"
)

// Headings of a roster; files from elsewhere may have others beside them, and these in any order.
var headings = []string{"login", "name", "number", "group"}

// Write writes the students among the members, as CSV (RFC 4180).
func Write(w io.Writer, members []wire.Member) error {
	out := csv.NewWriter(w)
	rows := [][]string{headings}
	for _, m := range members {
		if m.Role == wire.Student {
			rows = append(rows, []string{m.Login, report.Harmless(m.Name), report.Harmless(m.Number), report.Harmless(m.Group)})
		}
	}
	return out.WriteAll(rows)
}

// Table reads a CSV file as schools have them: with commas, semicolons or tabs, with or without a byte-order mark.
func Table(text []byte) (rows [][]string, comma rune, err error) {
	text = bytes.TrimPrefix(text, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(text) {
		return nil, 0, errors.New("the file is not UTF-8; save it as CSV UTF-8")
	}
	head, _, _ := bytes.Cut(text, []byte("\n"))
	comma = ','
	for _, c := range ";\t" {
		if bytes.Count(head, []byte(string(c))) > bytes.Count(head, []byte(string(comma))) {
			comma = c
		}
	}
	in := csv.NewReader(bytes.NewReader(text))
	in.Comma, in.FieldsPerRecord = comma, -1
	rows, err = in.ReadAll()
	if err != nil {
		return nil, 0, fmt.Errorf("this is no CSV: %w", err)
	}
	if len(rows) == 0 {
		return nil, 0, errors.New("the file is empty")
	}
	return rows, comma, nil
}

// Read reads students. A row that is wrong is told of and left out; a file without the headings is an error.
func Read(text []byte) (students []wire.Member, wrong []wire.Mistake, err error) {
	rows, _, err := Table(text)
	if err != nil {
		return nil, nil, err
	}
	column := map[string]int{}
	for i, h := range rows[0] {
		column[strings.ToLower(strings.TrimSpace(h))] = i
	}
	if _, ok := column["login"]; !ok {
		return nil, nil, fmt.Errorf("the first row has no heading \"login\"; headings are %s, the last two as they are wanted", strings.Join(headings, ", "))
	}
	if _, ok := column["name"]; !ok {
		return nil, nil, errors.New("the first row has no heading \"name\"")
	}
	wrong = []wire.Mistake{}
	seen := map[string]int{}
	for i, row := range rows[1:] {
		cell := func(name string) string {
			if k, ok := column[name]; ok && k < len(row) {
				return strings.TrimSpace(strings.TrimPrefix(row[k], "'"))
			}
			return ""
		}
		if len(row) == 1 && row[0] == "" {
			continue
		}
		bad := func(format string, args ...any) {
			wrong = append(wrong, wire.Mistake{File: "roster", Line: i + 2, Column: 1, Text: fmt.Sprintf(format, args...)})
		}
		login, err := auth.Login(cell("login"))
		if err != nil {
			bad("%s", err)
			continue
		}
		name, err := auth.Name(cell("name"))
		switch {
		case err != nil:
			bad("%s: %s", login, err)
		case seen[login] > 0:
			bad("%s is in row %d, too", login, seen[login])
		case len(cell("group")) > 64 || len(cell("number")) > 64:
			bad("%s: a group and a number have at most 64 characters", login)
		default:
			seen[login] = i + 2
			students = append(students, wire.Member{Login: login, Name: name, Role: wire.Student, Number: cell("number"), Group: cell("group")})
		}
	}
	return students, wrong, nil
}

// Match is whose a file may be.
type Match struct {
	Login string // "" for nobody's
	How   string // login, number, name, near name, nobody
	Sure  bool
}

// Nobody is the match of a file that is nobody's.
var Nobody = Match{How: "nobody"}

// Matcher tells whose files are.
type Matcher struct {
	students []wire.Member
	names    [][]string // the words of each name
}

// NewMatcher makes one for a class.
func NewMatcher(members []wire.Member) *Matcher {
	m := &Matcher{}
	for _, s := range members {
		if s.Role == wire.Student {
			m.students = append(m.students, s)
			m.names = append(m.names, words(s.Name))
		}
	}
	return m
}

// Match tells whose a file is, by its path: by a login or a number in it, by a whole name, or by one that is nearly there.
// What fits two students equally is nobody's.
func (m *Matcher) Match(path string) Match {
	if dot := strings.LastIndexByte(path, '.'); dot > strings.LastIndexByte(path, '/') {
		path = path[:dot]
	}
	in := words(path)
	raw := strings.FieldsFunc(strings.ToLower(path), func(r rune) bool { return strings.ContainsRune("/\\ _()[],;", r) })
	one := func(how string, fits func(i int) bool) (Match, bool) {
		found := -1
		for i := range m.students {
			if !fits(i) {
				continue
			}
			if found >= 0 {
				return Match{}, false
			}
			found = i
		}
		if found < 0 {
			return Match{}, false
		}
		return Match{m.students[found].Login, how, true}, true
	}
	if found, ok := one("login", func(i int) bool {
		login := m.students[i].Login
		return slices.Contains(raw, login) || slices.Contains(in, login)
	}); ok {
		return found
	}
	if found, ok := one("number", func(i int) bool {
		n := strings.ToLower(m.students[i].Number)
		return n != "" && (slices.Contains(raw, n) || slices.Contains(in, n))
	}); ok {
		return found
	}
	if found, ok := one("name", func(i int) bool {
		long := 0
		for _, w := range m.names[i] {
			if !slices.Contains(in, w) {
				return false
			}
			long = max(long, len(w))
		}
		return len(m.names[i]) > 1 && long > 2
	}); ok {
		return found
	}
	return m.near(in)
}
