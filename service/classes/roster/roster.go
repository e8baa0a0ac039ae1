// Package roster reads and writes the list of a class's students, and finds the student a file belongs to.
package roster

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"

	"hemble/service/people"
	"hemble/table"
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
			rows = append(rows, []string{m.Login, table.EscapeFormula(m.Name), table.EscapeFormula(m.Number),
				table.EscapeFormula(m.Group)})
		}
	}
	return out.WriteAll(rows)
}

// Students are those of a file.
type Students struct {
	Members  []wire.Member
	Wrong    []wire.Mistake // rows that were left out, and why
	Encoding table.Encoding
}

// Read reads students. A row that is wrong is told of and left out; a file without the headings is an error.
func Read(data []byte) (*Students, error) {
	t, err := table.Read(data)
	if err != nil {
		return nil, err
	}
	column := map[string]int{}
	for i, h := range t.Rows[0] {
		column[strings.ToLower(strings.TrimSpace(h.Text))] = i
	}
	if _, ok := column["login"]; !ok {
		return nil, fmt.Errorf("the first row has no heading \"login\"; headings are %s, the last two as they are wanted",
			strings.Join(headings, ", "))
	}
	if _, ok := column["name"]; !ok {
		return nil, errors.New("the first row has no heading \"name\"")
	}
	out := &Students{Wrong: []wire.Mistake{}, Encoding: t.Encoding}
	seen := map[string]int{}
	for i, row := range t.Rows[1:] {
		cell := func(name string) string {
			if k, ok := column[name]; ok && k < len(row) {
				return strings.TrimSpace(strings.TrimPrefix(row[k].Text, "'"))
			}
			return ""
		}
		bad := func(format string, args ...any) {
			out.Wrong = append(out.Wrong,
				wire.Mistake{File: "roster", Line: t.Lines[i+1], Column: 1, Text: fmt.Sprintf(format, args...)})
		}
		login, err := people.Login(cell("login"))
		if err != nil {
			bad("%s", err)
			continue
		}
		name, err := people.Name(cell("name"))
		switch {
		case err != nil:
			bad("%s: %s", login, err)
		case seen[login] > 0:
			bad("%s is in line %d, too", login, seen[login])
		case len(cell("group")) > 64 || len(cell("number")) > 64:
			bad("%s: a group and a number have at most 64 characters", login)
		default:
			seen[login] = t.Lines[i+1]
			out.Members = append(out.Members,
				wire.Member{Login: login, Name: name, Role: wire.Student, Number: cell("number"), Group: cell("group")})
		}
	}
	return out, nil
}
