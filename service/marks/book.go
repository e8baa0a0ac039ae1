package marks

import (
	"archive/zip"
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/big"
	"slices"
	"time"

	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/sheet"
	"hemble/service/db"
	"hemble/service/exercises/policy"
	"hemble/service/marks/gradebook"
	"hemble/service/record"
	"hemble/service/submissions"
	"hemble/service/web"
	"hemble/wire"
)

func (a *API) gradebook(r *web.Request) (any, error) { return a.book(r) }

func (a *API) book(r *web.Request) (*wire.Gradebook, error) {
	members, err := a.Classes.Members(r, r.Class.ID)
	if err != nil {
		return nil, err
	}
	assignments, err := a.Exercises.Assignments(r, r.Class.ID, 0)
	if err != nil {
		return nil, err
	}
	out := &wire.Gradebook{Class: r.Class.Name, Exercises: []wire.GradebookHead{}, Rows: []wire.GradebookRow{}}
	cells := map[int64][]wire.GradebookCell{}
	totals := map[int64]*big.Rat{}
	for _, m := range members {
		cells[m.AccountID] = make([]wire.GradebookCell, len(assignments))
		totals[m.AccountID] = new(big.Rat)
	}
	for i := range assignments {
		o := &assignments[i]
		out.Exercises = append(out.Exercises, wire.GradebookHead{Exercise: o.Exercise, Title: o.Title, Of: o.Marks,
			Released: o.Released != nil})
		attempts, err := a.Submissions.Attempts(r, o.ID)
		if err != nil {
			return nil, err
		}
		for _, s := range attempts {
			if c := cells[s.AccountID]; c != nil {
				c[i].Attempts++
				c[i].Waiting = c[i].Waiting || s.State == wire.Queued || s.State == wire.Running
			}
		}
		v := &view{a: a, assignment: o}
		for _, s := range v.counted(attempts) {
			c := cells[s.AccountID]
			if c == nil {
				continue
			}
			m := policy.Counted(string(s.Marks), s.Percent)
			c[i].Submission, c[i].Percent, c[i].Overridden = s.ID, s.Percent, s.Overridden
			c[i].Marks = json.Number(sheet.NewMarks(m).String())
			totals[s.AccountID].Add(totals[s.AccountID], m)
		}
	}
	for _, m := range members {
		if m.Role == wire.Student {
			out.Rows = append(out.Rows, wire.GradebookRow{Login: m.Login, Name: m.Name, Number: m.Number,
				Group: m.Group, Cells: cells[m.AccountID],
				Total: json.Number(sheet.NewMarks(totals[m.AccountID]).String())})
		}
	}
	return out, nil
}

func (a *API) gradebookCSV(r *web.Request) (any, error) {
	book, err := a.book(r)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	name := r.Query("exercise")
	if name == "" {
		err = gradebook.Write(&b, book)
		return web.Raw{Data: b.Bytes(), Name: r.Class.Name + "-marks.csv"}, err
	}
	if r.Assignment, err = a.Exercises.Assignment(r, r.Class.ID, name, 0); err != nil {
		return nil, err
	}
	sheets := map[string]*sheet.Sheet{}
	err = a.eachCounted(r, func(s *record.Submission, sh *sheet.Sheet) error {
		for i := range sh.Trials { // of the wide parts nothing is needed
			for k := range sh.Trials[i].Verdicts {
				sh.Trials[i].Verdicts[k].Alignment = nil
			}
		}
		sheets[s.Login] = sh
		return nil
	})
	if err != nil {
		return nil, err
	}
	err = gradebook.WriteExpectations(&b, book, name, sheets)
	return web.Raw{Data: b.Bytes(), Name: r.Class.Name + "-" + name + ".csv"}, err
}

// eachCounted calls f with each submission that counts and its sheet, overrides and all.
func (a *API) eachCounted(r *web.Request, f func(*record.Submission, *sheet.Sheet) error) error {
	rows, err := a.countedOf(r)
	if err != nil {
		return err
	}
	return a.Grading.EachSheet(r, rows, func(s *record.Submission, sh *sheet.Sheet) error {
		if s.Overridden {
			adjusted, err := a.Grader.Adjusted(r, s, s.Job)
			if err != nil {
				return err
			}
			sh = adjusted
		}
		return f(s, sh)
	})
}

func (a *API) fillGradebook(r *web.Request) (any, error) {
	text, err := web.Content(r, web.MaxTable)
	if err != nil {
		return nil, err
	}
	book, err := a.book(r)
	if err != nil {
		return nil, err
	}
	out, err := gradebook.Fill(text, book, gradebook.Column{Name: r.Query("column"), Students: r.Query("students"),
		Exercise: r.Query("exercise")})
	if err != nil {
		return nil, web.Unfit("csv", "%s", err)
	}
	return out, nil
}

func (a *API) gradebookColumns(r *web.Request) (any, error) {
	text, err := web.Content(r, web.MaxTable)
	if err != nil {
		return nil, err
	}
	book, err := a.book(r)
	if err != nil {
		return nil, err
	}
	out, err := gradebook.Columns(text, book)
	if err != nil {
		return nil, web.Unfit("csv", "%s", err)
	}
	return out, nil
}

func (a *API) sheets(r *web.Request) (any, error) {
	rows, err := a.countedOf(r)
	if err != nil {
		return nil, err
	}
	v, err := a.viewOf(r, r.Class, r.Assignment, r.Account)
	if err != nil {
		return nil, err
	}
	return web.Streamed{Name: r.Assignment.Exercise + "-sheets.zip", Write: func(w io.Writer) error {
		z := zip.NewWriter(web.Unbounded{Writer: w, R: r})
		for i := range rows {
			f, err := z.CreateHeader(&zip.FileHeader{Name: web.PlainName(rows[i].Login) + ".html", Method: zip.Deflate,
				Modified: rows[i].Submitted})
			if err != nil {
				return err
			}
			if err := v.page(r, f, &rows[i]); err != nil && !errors.Is(err, db.ErrNotFound) {
				return fmt.Errorf("the sheet of %s: %w", rows[i].Login, err)
			}
		}
		return z.Close()
	}}, nil
}

func (a *API) statistics(r *web.Request) (any, error) {
	members, err := a.Classes.Members(r, r.Class.ID)
	if err != nil {
		return nil, err
	}
	out := &wire.Statistics{Of: r.Assignment.Marks, Spread: make([]int, 11), Expectations: []wire.ExpectationSum{},
		Findings: []wire.FindingSum{}, FirstRight: []int{}}
	for _, m := range members {
		if m.Role == wire.Student {
			out.Students++
		}
	}
	sums := map[string]int{}
	findings := map[finding.Code]int{}
	var marks []*big.Rat
	of := marksOf(r.Assignment.Marks)
	err = a.eachCounted(r, func(s *record.Submission, sh *sheet.Sheet) error {
		out.Submitted++
		m := policy.Counted(string(s.Marks), s.Percent)
		marks = append(marks, m)
		out.Spread[tenth(m, of)]++
		n := sh.Count()
		if n[judge.Met] > 0 && n[judge.Partly]+n[judge.Missed] == 0 {
			out.Right++
		}
		for ti, t := range sh.Trials {
			for vi, v := range t.Verdicts {
				key := fmt.Sprint(ti, " ", vi, " ", v.Expectation)
				if _, known := sums[key]; !known {
					sums[key] = len(out.Expectations)
					out.Expectations = append(out.Expectations,
						wire.ExpectationSum{Trial: t.Name, Expectation: v.Expectation})
				}
				e := &out.Expectations[sums[key]]
				switch v.Outcome {
				case judge.Met:
					e.Met++
				case judge.Partly:
					e.Partly++
				case judge.Missed:
					e.Missed++
				}
			}
		}
		told := map[finding.Code]bool{}
		for _, f := range sh.Findings {
			of := finding.Of(f.Code) // floating-PB0 and floating-PB1 are floating: one thing to teach
			if told[of.Code] {
				continue
			}
			told[of.Code] = true
			if _, known := findings[of.Code]; !known {
				findings[of.Code] = len(out.Findings)
				out.Findings = append(out.Findings,
					wire.FindingSum{Code: string(of.Code), Text: cmp.Or(of.Doc, f.Text)})
			}
			sum := &out.Findings[findings[of.Code]]
			sum.Count++
			sum.Sheets = append(sum.Sheets, wire.FoundIn{Submission: s.ID, Student: s.Student, Text: f.Text})
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	slices.SortStableFunc(out.Findings, func(x, y wire.FindingSum) int { return y.Count - x.Count })
	if len(marks) > 0 {
		slices.SortFunc(marks, (*big.Rat).Cmp)
		sum := new(big.Rat)
		for _, m := range marks {
			sum.Add(sum, m)
		}
		half := new(big.Rat).Add(marks[(len(marks)-1)/2], marks[len(marks)/2])
		out.Mean = json.Number(sum.Quo(sum, big.NewRat(int64(len(marks)), 1)).FloatString(2))
		out.Median = json.Number(half.Quo(half, big.NewRat(2, 1)).FloatString(2))
	}
	out.FirstRight, err = a.firstRight(r)
	return out, err
}

// tenth tells in which tenth of the full marks a mark lies, 10 for full marks.
func tenth(m, of *big.Rat) int {
	if of.Sign() == 0 || m.Cmp(of) >= 0 {
		return 10
	}
	q := new(big.Rat).Quo(m, of)
	q.Mul(q, big.NewRat(10, 1))
	n := new(big.Int).Div(q.Num(), q.Denom())
	return max(0, min(9, int(n.Int64())))
}

// firstRight gives for each student who got there the minutes from the assignment to the first attempt without fault.
func (a *API) firstRight(r *web.Request) ([]int, error) {
	all, _, err := a.Submissions.Submissions(r, r.Assignment.ID, submissions.Filter{State: string(wire.Marked)})
	if err != nil {
		return nil, err
	}
	out := []int{}
	done := map[int64]bool{}
	for _, s := range all {
		if !done[s.AccountID] && s.Met > 0 && s.Partly+s.Missed == 0 {
			done[s.AccountID] = true
			out = append(out, max(0, int(s.Submitted.Sub(r.Assignment.Opens)/time.Minute)))
		}
	}
	slices.Sort(out)
	return out, nil
}
