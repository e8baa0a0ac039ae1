package marks

import (
	"encoding/json"
	"fmt"

	"hemble/core/author"
	"hemble/service/db"
	"hemble/service/grading"
	"hemble/service/web"
	"hemble/wire"
)

func (a *API) accept(r *web.Request) (any, error) {
	in, err := web.Body[wire.Accept](r)
	if err != nil {
		return nil, err
	}
	s := author.Choice{Trial: in.Trial, Verdict: in.Verdict, Pair: author.Sequence}
	if in.Pair != nil {
		if s.Pair = *in.Pair; s.Pair < 0 {
			return nil, web.Unfit("accept", "pairs are counted from 0")
		}
	}
	if r.Submission.State != wire.Marked {
		return nil, &db.Refusal{Code: "accept", Text: "this submission is not marked"}
	}
	newest, err := a.Exercises.Revision(r, r.Assignment.Exercise, 0)
	if err != nil {
		return nil, err
	}
	if r.Assignment.Revision != r.Submission.Revision {
		return nil, &db.Refusal{Code: "revised",
			Text: fmt.Sprintf("this submission was marked by revision %d, and revision %d is current: mark it again first",
				r.Submission.Revision, r.Assignment.Revision)}
	}
	ctx, done, err := a.Turns.Enter(r)
	if err != nil {
		return nil, err
	}
	defer done()
	accepted, err := a.Grader.Accept(ctx, r.Submission, s)
	if err != nil {
		return nil, grading.OutOfTime(ctx, err)
	}
	out := wire.Accepted{Exercise: r.Assignment.Exercise, What: accepted.What, Text: string(accepted.Text),
		Was: accepted.Was, Now: accepted.Now, Moves: []wire.ProposedMark{}}
	if newest.Number > r.Submission.Revision {
		out.NewerRevision = newest.Number
	}
	rows, err := a.countedOf(r)
	if err != nil {
		return nil, err
	}
	for i := range rows {
		sub := &rows[i]
		before, err := a.Grading.Sheet(r, sub.Job)
		if err != nil {
			return nil, err
		}
		if before == nil || before.Failed != "" {
			continue
		}
		after, err := a.Grader.Rejudge(ctx, sub, accepted.Text)
		if err != nil {
			return nil, grading.OutOfTime(ctx, err)
		}
		m := wire.ProposedMark{Submission: sub.ID, Login: sub.Login, Student: sub.Student, Attempt: sub.Attempt,
			Old: sub.Marks, State: "preview"}
		if after != nil {
			m.New, m.Why = json.Number(after.Marks.String()), moves(before, after)
		}
		if after == nil || len(m.Why) == 0 && m.Old == m.New {
			out.Same++
			continue
		}
		out.Moves = append(out.Moves, m)
	}
	return out, nil
}
