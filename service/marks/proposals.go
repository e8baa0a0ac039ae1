package marks

import (
	"encoding/json"
	"fmt"
	"slices"

	"hemble/core/sheet"
	"hemble/service/db"
	"hemble/service/record"
	"hemble/service/web"
	"hemble/wire"
)

func (a *API) proposals(r *web.Request) (any, error) {
	all, err := a.Store.Proposals(r, r.Assignment.ID)
	out := []wire.Proposal{}
	for i := range all {
		out = append(out, all[i].Wire())
	}
	return out, err
}

func (a *API) propose(r *web.Request) (any, error) {
	in, err := web.Body[wire.NewProposal](r)
	if err != nil {
		return nil, err
	}
	if in.Revision < 0 {
		return nil, web.Unfit("revision", "revisions are counted from 1")
	}
	rev, err := a.Exercises.Revision(r, r.Assignment.Exercise, in.Revision)
	if err == db.ErrNotFound {
		return nil, web.Unfit("revision", "%s has no revision %d", r.Assignment.Exercise, in.Revision)
	}
	if err != nil {
		return nil, err
	}
	id, err := a.Store.Propose(r, r.Account, r.Assignment, rev.ID)
	if err != nil {
		return nil, err
	}
	a.Queue.Wake()
	return a.proposalNow(r, id)
}

func (a *API) proposal(r *web.Request) (any, error) {
	id, err := web.Numbered(r, "proposal")
	if err != nil {
		return nil, err
	}
	return a.proposalNow(r, id)
}

// proposalNow tells whose marks would change and why. Overrides stay where they fit the new sheet.
func (a *API) proposalNow(r *web.Request, id int64) (any, error) {
	p, err := a.Store.Proposal(r, r.Assignment.ID, id)
	if err != nil {
		return nil, err
	}
	rows, err := a.Store.Proposed(r, id)
	if err != nil {
		return nil, err
	}
	out := p.Wire()
	out.Moves = []wire.ProposedMark{}
	for _, row := range rows {
		if row.JobState != string(wire.Marked) {
			continue
		}
		move, err := a.move(r, row)
		if err != nil {
			return nil, err
		}
		if move == nil {
			out.Same++
			continue
		}
		out.Moves = append(out.Moves, *move)
	}
	return out, nil
}

// move returns what a proposed result would change; nil for nothing.
func (a *API) move(r *web.Request, row Proposed) (*wire.ProposedMark, error) {
	s, err := a.Submissions.Submission(r, row.Submission)
	if err != nil {
		return nil, err
	}
	was, marks := s.Job, s.Marks
	if row.WasJob != 0 {
		was, marks = row.WasJob, json.Number(row.Was)
	}
	before, err := a.Grading.Sheet(r, was)
	if err != nil || before == nil {
		return nil, err
	}
	after, why, err := a.proposedSheet(r, s, row.New)
	if err != nil || after == nil {
		return nil, err
	}
	m := &wire.ProposedMark{Submission: s.ID, Login: s.Login, Student: s.Student, Attempt: s.Attempt, Old: marks,
		New: json.Number(after.Marks.String()), State: row.State,
		Why: append(moves(before, after), why...)}
	if len(m.Why) == 0 && m.Old == m.New {
		return nil, nil
	}
	return m, nil
}

// proposedSheet is the sheet of another job with the overrides of the submission; where they do not fit it, it says so.
func (a *API) proposedSheet(r *web.Request, s *record.Submission, job int64) (sh *sheet.Sheet, why []string,
	err error) {
	if sh, err = a.Grading.Sheet(r, job); err != nil || sh == nil || !s.Overridden {
		return sh, nil, err
	}
	adjusted, err := a.Grader.Adjusted(r, s, job)
	if _, unfit := err.(*db.Refusal); unfit {
		return sh, []string{"its overrides do not fit any more: " + err.Error()}, nil
	}
	return adjusted, nil, err
}

// moves returns which expectations came out otherwise. Where a trial still has as many, worth the same, they are the
// same ones even if they are worded otherwise now; elsewhere their words tell.
func moves(before, after *sheet.Sheet) (out []string) {
	if before.Failed != after.Failed {
		out = append(out, fmt.Sprintf("%q before, now %q", before.Failed, after.Failed))
	}
	was := map[string]sheet.Trial{}
	for _, t := range before.Trials {
		was[t.Name] = t
	}
	for _, t := range after.Trials {
		out = append(out, trialMoves(was[t.Name], t)...)
		delete(was, t.Name)
	}
	for _, t := range before.Trials {
		if left, gone := was[t.Name]; gone {
			left.Verdicts = nil
			out = append(out, trialMoves(t, left)...)
		}
	}
	return out
}

func trialMoves(before, after sheet.Trial) (out []string) {
	tell := func(v sheet.Verdict, format string, args ...any) {
		out = append(out, fmt.Sprintf("%s: %s: ", after.Name, v.Expectation)+fmt.Sprintf(format, args...))
	}
	same := slices.EqualFunc(before.Verdicts, after.Verdicts,
		func(a, b sheet.Verdict) bool { return a.Of.Cmp(b.Of.Rat) == 0 })
	left := slices.Clone(before.Verdicts)
	for _, v := range after.Verdicts {
		k := 0
		if !same {
			k = slices.IndexFunc(left, func(old sheet.Verdict) bool { return old.Expectation == v.Expectation })
		}
		if k < 0 {
			tell(v, "new, %s, %s of %s", v.Outcome, v.Marks, v.Of)
			continue
		}
		old := left[k]
		left = slices.Delete(left, k, k+1)
		if old.Outcome != v.Outcome || old.Marks.Cmp(v.Marks.Rat) != 0 || old.Of.Cmp(v.Of.Rat) != 0 {
			tell(v, "%s, %s of %s; was %s, %s of %s", v.Outcome, v.Marks, v.Of, old.Outcome, old.Marks, old.Of)
		}
	}
	for _, v := range left {
		tell(v, "gone, was %s, %s of %s", v.Outcome, v.Marks, v.Of)
	}
	return out
}

func (a *API) decide(r *web.Request) (any, error) {
	in, err := web.Body[wire.Decide](r)
	if err != nil {
		return nil, err
	}
	id, err := web.Numbered(r, "proposal")
	if err != nil {
		return nil, err
	}
	p, err := a.Store.Proposal(r, r.Assignment.ID, id)
	if err != nil {
		return nil, err
	}
	if in.Apply && p.Waiting > 0 && len(in.Submissions) == 0 {
		return nil, &db.Refusal{Code: "waiting", Text: fmt.Sprintf("%d submissions are still to be marked again",
			p.Waiting)}
	}
	var moves []Moving
	err = web.Consistently(r, a.Store.DB, func() error {
		if moves, err = a.moving(r, id, in); err != nil {
			return err
		}
		return a.Store.Decide(r, r.Account, p, moves)
	})
	if err != nil {
		return nil, err
	}
	for _, m := range moves {
		a.Events.Changed(m.Submission.ID)
	}
	return a.proposalNow(r, id)
}

// moving computes what a decision changes: which submissions, and what their marks come to.
func (a *API) moving(r *web.Request, proposal int64, in *wire.Decide) (moves []Moving, err error) {
	wanted := map[string]bool{}
	for _, s := range in.Submissions {
		wanted[s] = true
	}
	rows, err := a.Store.Proposed(r, proposal)
	if err != nil {
		return nil, err
	}
	for _, row := range rows {
		if len(in.Submissions) > 0 && !wanted[row.Submission] || row.State != "proposed" {
			continue
		}
		delete(wanted, row.Submission)
		s, err := a.Submissions.Submission(r, row.Submission)
		if err != nil {
			return nil, err
		}
		m := Moving{Submission: s}
		if in.Apply && row.JobState == string(wire.Marked) {
			sh, _, err := a.proposedSheet(r, s, row.New)
			if err != nil {
				return nil, err
			}
			m.Job, m.Marks = row.New, sh.Marks.String()
		}
		moves = append(moves, m)
	}
	for s := range wanted {
		return nil, web.Unfit("submissions", "nothing is open to be decided for %.40q", s)
	}
	return moves, nil
}
