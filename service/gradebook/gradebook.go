// Package gradebook writes the marks of a class as CSV, and into the school's own files.
package gradebook

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"hemble/core/report"
	"hemble/core/sheet"
	"hemble/core/spec"
	"hemble/service/roster"
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
	return []string{r.Login, report.Harmless(r.Name), report.Harmless(r.Number), report.Harmless(r.Group)}
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
		rows[0] = append(rows[0], report.Harmless(strings.Join(strings.Fields(h), " ")))
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

// Fill fills a column of a CSV file. Everything else in the file stays: its other columns, its order, its separator, its
// byte-order mark and its line ends. A row whose student has no mark stays as it is.
func Fill(text []byte, b *wire.Gradebook, c Column) (*wire.Filled, error) {
	rows, comma, err := roster.Table(text)
	if err != nil {
		return nil, err
	}
	heads := rows[0]
	fill := heading(heads, c.Name)
	switch {
	case c.Name == "":
		return nil, errors.New("the column that is to be filled is not named")
	case fill < 0:
		return nil, fmt.Errorf("the file has no column %q%s", c.Name, spec.Nearest(c.Name, heads))
	}
	at := -1
	if c.Exercise != "" {
		if at = slices.IndexFunc(b.Exercises, func(x wire.GradebookHead) bool { return x.Exercise == c.Exercise }); at < 0 {
			var known []string
			for _, x := range b.Exercises {
				known = append(known, x.Exercise)
			}
			return nil, fmt.Errorf("the class has no exercise %q%s", c.Exercise, spec.Nearest(c.Exercise, known))
		}
	}
	who, students, err := students(rows, b, c.Students)
	if err != nil {
		return nil, err
	}
	out := &wire.Filled{Unknown: []string{}, Without: []string{}}
	found := map[string]bool{}
	for _, row := range rows[1:] {
		if who >= len(row) || strings.TrimSpace(row[who]) == "" {
			continue
		}
		r, known := students[fold(row[who])]
		if !known {
			out.Unknown = append(out.Unknown, row[who])
			continue
		}
		found[r.Login] = true
		mark := r.Total
		if at >= 0 {
			mark = r.Cells[at].Marks
		}
		if mark == "" || fill >= len(row) {
			continue
		}
		row[fill] = string(mark)
		if comma == ';' { // where semicolons separate, commas are in numbers
			row[fill] = strings.ReplaceAll(row[fill], ".", ",")
		}
		out.Filled++
	}
	for _, r := range b.Rows {
		if !found[r.Login] {
			out.Without = append(out.Without, r.Name)
		}
	}
	var buf bytes.Buffer
	if bytes.HasPrefix(text, []byte("\xef\xbb\xbf")) {
		buf.WriteString("\xef\xbb\xbf")
	}
	w := csv.NewWriter(&buf)
	w.Comma, w.UseCRLF = comma, bytes.Contains(text, []byte("\r\n"))
	if err := w.WriteAll(rows); err != nil {
		return nil, err
	}
	out.CSV = buf.String()
	return out, nil
}

func fold(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }

func heading(heads []string, name string) int {
	return slices.IndexFunc(heads, func(h string) bool { return fold(h) == fold(name) })
}

// students finds the column that tells the students, and what is in it for each: a login, a number or a name.
func students(rows [][]string, b *wire.Gradebook, name string) (column int, by map[string]wire.GradebookRow, err error) {
	keys := []func(wire.GradebookRow) string{
		func(r wire.GradebookRow) string { return r.Login }, func(r wire.GradebookRow) string { return r.Number }, func(r wire.GradebookRow) string { return r.Name },
	}
	best := 0
	column = -1
	for i := range rows[0] {
		if name != "" && fold(rows[0][i]) != fold(name) {
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
			for _, row := range rows[1:] {
				if i < len(row) {
					if _, ok := known[fold(row[i])]; ok {
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
	case column < 0 && name != "" && heading(rows[0], name) < 0:
		return 0, nil, fmt.Errorf("the file has no column %q%s", name, spec.Nearest(name, rows[0]))
	case column < 0:
		return 0, nil, errors.New("no column of the file has logins, numbers or names of the class's students")
	}
	return column, by, nil
}
