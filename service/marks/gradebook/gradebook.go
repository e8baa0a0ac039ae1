// Package gradebook writes the marks of a class as CSV, and into the school's own files.
package gradebook

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"

	"hemble/core/sheet"
	"hemble/core/spec"
	"hemble/table"
	"hemble/wire"
)

// Write writes a row for each student, with a column for each exercise.
func Write(w io.Writer, b *wire.Gradebook) error {
	rows := [][]string{{"login", "name", "number", "group"}}
	for _, x := range b.Exercises {
		rows[0] = append(rows[0], x.Exercise)
	}
	rows[0] = append(rows[0], "total")
	for _, r := range b.Rows {
		row := person(r)
		for _, c := range r.Cells {
			row = append(row, string(c.Marks))
		}
		rows = append(rows, append(row, string(r.Total)))
	}
	return csv.NewWriter(w).WriteAll(rows)
}

func person(r wire.GradebookRow) []string {
	return []string{r.Login, table.EscapeFormula(r.Name), table.EscapeFormula(r.Number), table.EscapeFormula(r.Group)}
}

// WriteExpectations writes a row for each student, with a column for each expectation of one exercise, before lateness,
// and the mark at the end. sheets are by login.
func WriteExpectations(w io.Writer, b *wire.Gradebook, exercise string, sheets map[string]*sheet.Sheet) error {
	at := slices.IndexFunc(b.Exercises, func(x wire.GradebookHead) bool { return x.Exercise == exercise })
	if at < 0 {
		return fmt.Errorf("the class has no exercise %s", exercise)
	}
	var heads []string // trial and expectation, the same text in a trial numbered
	column := map[string]int{}
	cells := map[string]map[int]string{}
	for _, r := range b.Rows {
		s := sheets[r.Login]
		if s == nil {
			continue
		}
		cells[r.Login] = map[int]string{}
		seen := map[string]int{}
		put := func(head string, m string) {
			if seen[head]++; seen[head] > 1 {
				head = fmt.Sprintf("%s (%d)", head, seen[head])
			}
			i, known := column[head]
			if !known {
				i = len(heads)
				column[head] = i
				heads = append(heads, head)
			}
			cells[r.Login][i] = m
		}
		for _, t := range s.Trials {
			for _, v := range t.Verdicts {
				put(t.Name+": "+v.Expectation, v.Marks.String())
			}
		}
		for _, h := range s.ByHand {
			given := ""
			if h.Given != nil {
				given = h.Given.Marks.String()
			}
			put(h.What, given)
		}
	}
	rows := [][]string{{"login", "name", "number", "group"}}
	for _, h := range heads {
		rows[0] = append(rows[0], table.EscapeFormula(strings.Join(strings.Fields(h), " ")))
	}
	rows[0] = append(rows[0], "percent for lateness", "marks")
	for _, r := range b.Rows {
		row := person(r)
		for i := range heads {
			row = append(row, cells[r.Login][i])
		}
		percent := ""
		if c := r.Cells[at]; c.Submission != "" {
			percent = fmt.Sprint(c.Percent)
		}
		rows = append(rows, append(row, percent, string(r.Cells[at].Marks)))
	}
	return csv.NewWriter(w).WriteAll(rows)
}

// Column says what is filled into a school's file.
type Column struct {
	Name     string // the heading of the column to fill
	Students string // the heading of the column that tells the students; "" for the one that fits best
	Exercise string // "" for totals
}

// Fill fills a column of a table. Every byte beside its cells stays. A row whose student has no mark stays as it is.
func Fill(data []byte, b *wire.Gradebook, c Column) (*wire.Filled, error) {
	t, err := table.Read(data)
	if err != nil {
		return nil, err
	}
	heads := t.Texts(0)
	fill := heading(heads, c.Name)
	switch {
	case c.Name == "":
		return nil, errors.New("the column that is to be filled is not named")
	case fill < 0:
		return nil, fmt.Errorf("the file has no column %q%s", c.Name, spec.Nearest(c.Name, heads))
	}
	at := -1
	if c.Exercise != "" {
		if at = slices.IndexFunc(b.Exercises,
			func(x wire.GradebookHead) bool { return x.Exercise == c.Exercise }); at < 0 {
			var known []string
			for _, x := range b.Exercises {
				known = append(known, x.Exercise)
			}
			return nil, fmt.Errorf("the class has no exercise %q%s", c.Exercise, spec.Nearest(c.Exercise, known))
		}
	}
	who, students, err := students(t, b, c.Students)
	if err != nil {
		return nil, err
	}
	if who == fill {
		return nil, fmt.Errorf("column %q identifies the students: marks would overwrite it", heads[fill])
	}
	out := &wire.Filled{Unknown: []string{}, Without: []string{}, Encoding: string(t.Encoding), Students: heads[who]}
	found := map[string]bool{}
	comma := commas(t)
	for i, row := range t.Rows {
		if i == 0 || who >= len(row) || strings.TrimSpace(row[who].Text) == "" {
			continue
		}
		r, known := students[fold(row[who].Text)]
		if !known {
			out.Unknown = append(out.Unknown, row[who].Text)
			continue
		}
		found[r.Login] = true
		mark := string(r.Total)
		if at >= 0 {
			mark = string(r.Cells[at].Marks)
		}
		if mark == "" {
			continue
		}
		if comma {
			mark = strings.ReplaceAll(mark, ".", ",")
		}
		t.Put(i, fill, mark)
		out.Filled++
	}
	for _, r := range b.Rows {
		if !found[r.Login] {
			out.Without = append(out.Without, r.Name)
		}
	}
	out.Data = t.Bytes()
	return out, nil
}

// Columns returns what a table has: its headings, and which of them tells the class's students.
func Columns(data []byte, b *wire.Gradebook) (*wire.Columns, error) {
	t, err := table.Read(data)
	if err != nil {
		return nil, err
	}
	out := &wire.Columns{Encoding: string(t.Encoding), Columns: t.Texts(0), Rows: len(t.Rows) - 1}
	who, by, err := students(t, b, "")
	if err != nil {
		return nil, err
	}
	out.Students = out.Columns[who]
	for _, row := range t.Rows[1:] {
		if who < len(row) {
			if _, known := by[fold(row[who].Text)]; known {
				out.Known++
			}
		}
	}
	return out, nil
}

// commas reports whether numbers of a table are written with a comma: as most of those are that it has; where it has
// none, as semicolons between cells suggest.
func commas(t *table.Table) bool {
	with, without := 0, 0
	for _, row := range t.Rows {
		for _, c := range row {
			switch {
			case decimalComma.MatchString(c.Text):
				with++
			case decimalPoint.MatchString(c.Text):
				without++
			}
		}
	}
	return with > without || with == without && t.Separator == ';'
}

var (
	decimalComma = regexp.MustCompile(`^[0-9]+,[0-9]+$`)
	decimalPoint = regexp.MustCompile(`^[0-9]+\.[0-9]+$`)
)

func fold(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }

func heading(heads []string, name string) int {
	return slices.IndexFunc(heads, func(h string) bool { return fold(h) == fold(name) })
}

// students finds the column that tells the students, and what is in it for each: a login, a number or a name.
func students(t *table.Table, b *wire.Gradebook, name string) (column int, by map[string]wire.GradebookRow, err error) {
	keys := []func(wire.GradebookRow) string{
		func(r wire.GradebookRow) string { return r.Login }, func(r wire.GradebookRow) string { return r.Number },
		func(r wire.GradebookRow) string { return r.Name },
	}
	best := 0
	column = -1
	heads := t.Texts(0)
	for i := range heads {
		if name != "" && fold(heads[i]) != fold(name) {
			continue
		}
		for _, key := range keys {
			known := map[string]wire.GradebookRow{}
			for _, r := range b.Rows {
				k := fold(key(r))
				if _, twice := known[k]; twice || k == "" { // two of the same name: neither
					known[k] = wire.GradebookRow{}
					continue
				}
				known[k] = r
			}
			for k, r := range known {
				if r.Login == "" {
					delete(known, k)
				}
			}
			fits := 0
			for _, row := range t.Rows[1:] {
				if i < len(row) {
					if _, ok := known[fold(row[i].Text)]; ok {
						fits++
					}
				}
			}
			if fits > best {
				best, column, by = fits, i, known
			}
		}
	}
	switch {
	case column < 0 && name != "" && heading(heads, name) < 0:
		return 0, nil, fmt.Errorf("the file has no column %q%s", name, spec.Nearest(name, heads))
	case column < 0:
		return 0, nil, errors.New("no column of the file has logins, numbers or names of the class's students")
	}
	return column, by, nil
}
