package diagnosis

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/fault"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/reel"
)

// What an input brings about is told by leaving it out: a trial is run once more without the input before its first
// difference. Where all shows the same then, nothing follows that input; where it does not, and a display stands as it
// did before, the program does something, and not that.

// Bounds of that.
const (
	maxLeftOut = 4 // how often an input is left out
	maxInstead = 3 // how many others are used in its place
	sameEdges  = 2 // percent by which edges differ of a program that does the same a little sooner or later
)

const ignoredKey finding.Code = "ignored-key"

var sameInput = finding.Entry{Code: "same-input", Doc: "two buttons, or keys, do the same where they should differ", Sure: true,
	Input: true, Catch: "use each of them, and read the display behind it"}

var lagDrawn = finding.Entry{Code: "lag-drawn", Doc: "what an input changes is shown only when something else changes",
	Catch: "read the display behind each input"}

var notIgnored = finding.Entry{Code: "not-ignored-there",
	Doc:   "an input does something that it should not: without it everything in its trial is as expected",
	Catch: "use the input at such a time, and read the display behind it", Sure: true}

// withoutInput gives the finding of the first input that tells one; nil where none does.
func (s *search) withoutInput(reels []*reel.Reel, verdicts [][]judge.Verdict) (*Finding, error) {
	list, budget := suspects(reels, verdicts), int64(forAltered)
	for _, u := range list[:min(len(list), maxLeftOut)] {
		r := reels[u.trial]
		at := cueOf(s.x.Trials[u.trial].Cues, r.Cues, u.cue)
		if at < 0 || s.told(r, r.Cues[u.cue]) {
			continue
		}
		without, err := s.otherwise(s.chosen(u.trial, func(c int) bool { return c != at }), u.trial, r, &budget)
		if err != nil {
			return nil, err
		}
		if without == nil {
			continue
		}
		f := byLeavingOut(u.trial, r.Cues[u.cue].Start, u.verdict.Display)
		if s.sameDone(r, without) {
			if !awaited(r, u, verdicts[u.trial]) && (atItsEnd(reels, u) || sometimes(r, u, verdicts[u.trial])) {
				continue
			}
			f.Code, f.Text = ignoredKey, nothingWithout(r.Cues[u.cue])
			return &f, nil
		}
		if f.Code, f.Text = stands(r, without, u); f.Text != "" {
			return &f, nil
		}
		if f.Text, err = s.asAnother(r, without, u, &budget); err != nil || f.Text != "" {
			f.Code = sameInput.Code
			return &f, err
		}
	}
	return s.needless(reels, verdicts, &budget)
}

// byLeavingOut is a finding of what leaving out an input told, as yet without words.
func byLeavingOut(trial int, at clock.Time, name string) Finding {
	return Finding{Trial: trial, At: at, Part: name, Fidelity: BySymptoms, Evidence: []string{"at " + at.String()}}
}

// needless gives the finding of an input that does something that it should not: without it all of its trial is as
// expected. Nil where there is none.
func (s *search) needless(reels []*reel.Reel, verdicts [][]judge.Verdict, budget *int64) (*Finding, error) {
	for i, r := range reels {
		lost, first := earliest(verdicts[i])
		if lost == nil {
			continue
		}
		for _, n := range s.near(i, r, first) {
			met, err := s.metWithout(i, n, r, budget)
			if err != nil {
				return nil, err
			}
			if met {
				if other, err := s.anyOf(i, n, r, budget); other || err != nil {
					return nil, err
				}
				text := "Without %s at %s all of that trial is as expected: it does something there that it should not."
				f := byLeavingOut(i, r.Cues[n].Start, lost.Display)
				f.Code, f.Text = notIgnored.Code, fmt.Sprintf(text, done(r.Cues[n]), r.Cues[n].Start)
				return &f, nil
			}
		}
	}
	return nil, nil
}

// metWithout reports whether all that is expected of a trial is met without one of its inputs.
func (s *search) metWithout(trial, n int, r *reel.Reel, budget *int64) (bool, error) {
	at := cueOf(s.x.Trials[trial].Cues, r.Cues, n)
	without, err := s.otherwise(s.chosen(trial, func(c int) bool { return c != at }), trial, r, budget)
	return err == nil && without != nil && s.trialMet(trial, without), err
}

// anyOf reports whether another use of the same input is as much too many: then it is no matter of that one, but of
// how often it is used.
func (s *search) anyOf(trial, n int, r *reel.Reel, budget *int64) (bool, error) {
	is, tried := r.Cues[n], 0
	for k, c := range r.Cues {
		same := c.Verb == is.Verb && c.Part == is.Part && c.Key == is.Key && c.To == is.To
		if k == n || !same || cueOf(s.x.Trials[trial].Cues, r.Cues, k) < 0 || tried == maxLeftOut {
			continue
		}
		tried++
		if met, err := s.metWithout(trial, k, r, budget); met || err != nil {
			return met, err
		}
	}
	return false, nil
}

// near are the inputs of a trial before a time, the last one first, and then those behind it: what comes again from the
// beginning may be told as more than was expected before.
func (s *search) near(trial int, r *reel.Reel, at clock.Time) (out []int) {
	take := func(n int) {
		if isInput(r.Cues[n]) && cueOf(s.x.Trials[trial].Cues, r.Cues, n) >= 0 {
			out = append(out, n)
		}
	}
	last := lastBefore(r.Cues, at)
	for n := last; n >= 0 && len(out) < maxLeftOut; n-- {
		take(n)
	}
	before := len(out)
	for n := last + 1; n < len(r.Cues) && len(out) < before+maxLeftOut; n++ {
		take(n)
	}
	return out
}

// trialMet reports whether all that is expected of a trial is met by a reel.
func (s *search) trialMet(trial int, r *reel.Reel) bool {
	return !slices.ContainsFunc(s.x.Trials[trial].Expect, func(e exercise.Expectation) bool {
		return e.Judge(r).Outcome != judge.Met
	})
}

// unfollowed leaves out signs that nothing follows an input where the program does something else without it. Where
// something was wrong before, behind another input, it may be that which keeps the program from answering: then nothing
// must follow either where it is the first that is used.
func (s *search) unfollowed(told []Finding, reels []*reel.Reel, verdicts [][]judge.Verdict) (out []Finding, err error) {
	budget := int64(2 * forAltered)
	for _, f := range told {
		if f.Code == ignoredKey {
			if same, err := s.nothingFollows(f, reels[f.Trial], verdicts[f.Trial], &budget); err != nil {
				return nil, err
			} else if !same {
				continue
			}
		}
		out = append(out, f)
	}
	return out, nil
}

// lost reports whether a display lost what it was sent in the trial of a sign: that may be what should have followed.
func (s *search) lost(f Finding) bool {
	return slices.ContainsFunc(s.seen[f.Trial].Reel.Notes, func(n machine.Note) bool {
		return finding.Family(n.Code, "lcd-busy")
	})
}

// nothingFollows tells it of the input that a sign is about, where it can be told.
func (s *search) nothingFollows(f Finding, r *reel.Reel, verdicts []judge.Verdict, budget *int64) (bool, error) {
	if s.lost(f) {
		return false, nil
	}
	n := slices.IndexFunc(r.Cues, func(c reel.Fired) bool { return c.Start == f.At })
	if n < 0 {
		return true, nil
	}
	cue := cueOf(s.x.Trials[f.Trial].Cues, r.Cues, n)
	if cue < 0 {
		return true, nil
	}
	without, err := s.otherwise(s.chosen(f.Trial, func(c int) bool { return c != cue }), f.Trial, r, budget)
	if err != nil || without != nil && !s.sameDone(r, without) {
		return false, err
	}
	if !wrongBefore(verdicts, f.Part, r.Cues, r.Cues[n].Start) {
		return true, nil
	}
	x := s.chosen(f.Trial, func(c int) bool { return c == cue })
	x.Trials[f.Trial].Cues[cue].At = s.x.Trials[f.Trial].Cues[0].At
	alone, err := s.otherwise(x, f.Trial, r, budget)
	if alone == nil || err != nil {
		return false, err
	}
	never, err := s.otherwise(s.chosen(f.Trial, func(int) bool { return false }), f.Trial, r, budget)
	return never != nil && s.sameDone(alone, never), err
}

// wrongBefore reports whether a display showed something wrong behind an input that was used before a time.
func wrongBefore(verdicts []judge.Verdict, name string, cues []reel.Fired, at clock.Time) bool {
	return slices.ContainsFunc(verdicts, func(x judge.Verdict) bool {
		return x.Display == name && slices.ContainsFunc(x.Alignment, func(p judge.Pair) bool {
			if p.Operation != judge.Wrong && p.Operation != judge.Near {
				return false
			}
			when := max(p.Seen.From, p.Expected.From)
			return when < at && lastBefore(cues, when) >= 0
		})
	})
}

// chosen is the exercise with some of the inputs of a trial alone.
func (s *search) chosen(trial int, keep func(cue int) bool) *exercise.Exercise {
	x := s.x.Clone()
	for i := range x.Trials[trial].Cues {
		if !keep(i) {
			x.Trials[trial].Cues[i].Part = "" // it reaches nothing, and others may still refer to it
		}
	}
	return x
}

// otherwise runs a trial with other inputs; nil where that takes too much, or the effort for all of them is used up.
func (s *search) otherwise(x *exercise.Exercise, trial int, r *reel.Reel, budget *int64) (*reel.Reel, error) {
	if *budget < 0 {
		return nil, nil
	}
	out, err := s.repairer.Run(s.ctx, x, trial, slower*r.Counters.Effort()+slack)
	if err != nil {
		return nil, err
	}
	*budget -= out.Counters.Effort()
	if out.Stop != nil && out.Stop.Reason == machine.TooMuch {
		return nil, nil
	}
	return out, nil
}

// awaited reports whether a display was right up to an input, and something else is expected of it behind that, before
// the next one.
func awaited(r *reel.Reel, u suspect, all []judge.Verdict) bool {
	from, to := clock.Time(0), r.Length
	if u.cue > 0 {
		from = r.Cues[u.cue-1].Start
	}
	if u.cue+1 < len(r.Cues) {
		to = r.Cues[u.cue+1].Start
	}
	reads := func(v judge.Verdict, o judge.Operation, from, to clock.Time) bool {
		return v.Display == u.verdict.Display && len(v.Alignment) == 1 && v.Alignment[0].Operation == o &&
			from <= v.Alignment[0].Expected.From && v.Alignment[0].Expected.From <= to
	}
	at := r.Cues[u.cue].Start
	return reads(*u.verdict, judge.Wrong, at, to) && slices.ContainsFunc(all, func(v judge.Verdict) bool {
		return reads(v, judge.Right, from, at)
	})
}

// atItsEnd reports whether a number on some display stands at the highest or the lowest that it ever comes to, where
// the same input leads at other times: that nothing follows there is right.
func atItsEnd(reels []*reel.Reel, u suspect) bool {
	return slices.ContainsFunc(reels[u.trial].Tracks, func(t display.Track) bool {
		return standsAtEnd(reels, u, t.Display)
	})
}

func standsAtEnd(reels []*reel.Reel, u suspect, name string) bool {
	cue := reels[u.trial].Cues[u.cue]
	number := func(r *reel.Reel, at clock.Time) (int, bool) {
		t := r.Track(name)
		if t == nil || t.At(at) == nil {
			return 0, false
		}
		return fault.ReadNumber(t, t.At(at).State, 0)
	}
	here, ok := number(reels[u.trial], cue.Start-1)
	if !ok {
		return false
	}
	least, most, up, down := here, here, false, false
	for _, r := range reels {
		for _, c := range r.Cues {
			before, a := number(r, c.Start-1)
			after, b := number(r, min(c.End+tardy, r.Length-1))
			if !a || !b {
				continue
			}
			least, most = min(least, before, after), max(most, before, after)
			if c.Part == cue.Part && c.Key == cue.Key && (c.Verb != part.Type || c.Text == cue.Text) {
				up, down = up || after > before, down || after < before
			}
		}
	}
	return here == most && up || here == least && down
}

// sometimes reports whether an input did something when it was used before, since the display was right last, and
// nothing was expected just behind it: what is wrong may have come about then, and that nothing follows now may be
// meant.
func sometimes(r *reel.Reel, u suspect, all []judge.Verdict) bool {
	cue, t := r.Cues[u.cue], r.Track(u.verdict.Display)
	right := clock.Time(-1)
	for _, v := range all {
		for _, p := range v.Alignment {
			if v.Display == u.verdict.Display && p.Operation == judge.Right && p.Seen.From < cue.Start {
				right = max(right, p.Seen.From)
			}
		}
	}
	if t == nil || u.verdict.First != nil && u.verdict.First.At <= cue.End+tardy {
		return false
	}
	return slices.ContainsFunc(r.Cues[:u.cue], func(c reel.Fired) bool {
		before, after := t.At(c.Start-1), t.At(min(c.End+tardy, cue.Start-1))
		return c.Start > right && c.Text == cue.Text && before != nil && after != nil &&
			!t.Alike(before.State, after.State)
	})
}

// asAnother tells of an input in whose place another one does just the same, this time and before.
func (s *search) asAnother(r, without *reel.Reel, u suspect, budget *int64) (string, error) {
	cue := r.Cues[u.cue]
	if cue.Verb != part.Press {
		return "", nil
	}
	until := r.Length
	if u.cue+1 < len(r.Cues) {
		until = r.Cues[u.cue+1].Start
	}
	if sameShown(r, without, until) || s.followed(u) {
		return "", nil // so does any other; or it does its own on another display
	}
	like, unlike := "", 0
	for _, other := range s.others(cue) {
		if like != "" && unlike > 0 {
			break
		}
		x := s.x.Clone()
		for i := range x.Trials[u.trial].Cues {
			if c := &x.Trials[u.trial].Cues[i]; c.Verb == cue.Verb && c.Part == cue.Part && c.Key == cue.Key {
				c.Part, c.Key = other.Part, other.Key
			}
		}
		run, err := s.otherwise(x, u.trial, r, budget)
		if err != nil {
			return "", err
		}
		switch {
		case run == nil:
		case !sameShown(r, run, until):
			unlike++
		case like != "": // so is any other
			return "", nil
		default:
			like = named(other)
		}
	}
	if like == "" {
		return "", nil
	}
	return fmt.Sprintf("%s is used like %s: with that in its place all displays show the same, up to %s at least.",
		named(cue), like, until), nil
}

// followed reports whether another display, which shows all that it should, changes behind an input and before the end
// of the next one.
func (s *search) followed(u suspect) bool {
	r := s.seen[u.trial].Reel
	from, to := r.Cues[u.cue].Start, r.Length
	if u.cue+1 < len(r.Cues) {
		to = r.Cues[u.cue+1].End + tardy
	}
	right := map[string]bool{}
	for _, v := range s.seen[u.trial].Verdicts {
		was, known := right[v.Display]
		right[v.Display] = v.Outcome == judge.Met && (was || !known)
	}
	return slices.ContainsFunc(r.Tracks, func(t display.Track) bool {
		return t.Display != u.verdict.Display && right[t.Display] && begun(&t, from, to) > 0
	})
}

// others are the other buttons and keys that are pressed in any trial.
func (s *search) others(cue reel.Fired) (out []reel.Fired) {
	for _, t := range s.x.Trials {
		for _, c := range t.Cues {
			other := reel.Fired{Verb: c.Verb, Part: c.Part, Key: c.Key}
			if c.Verb == cue.Verb && (c.Part != cue.Part || c.Key != cue.Key) && !slices.Contains(out, other) &&
				len(out) < maxInstead {
				out = append(out, other)
			}
		}
	}
	return out
}

// told reports whether the chip told something of a pin of an input, as that the program never looks at it.
func (s *search) told(r *reel.Reel, c reel.Fired) bool {
	p := s.x.Part(c.Part)
	return p != nil && slices.ContainsFunc(r.Notes, func(n machine.Note) bool {
		_, pin, ok := strings.Cut(n.Code, "-")
		return ok && slices.Contains(p.Wired, pin)
	})
}

// sameShown reports whether two runs show the same on all displays up to a time, but for moments.
func sameShown(a, b *reel.Reel, until clock.Time) bool {
	for k := range a.Tracks {
		t, other := &a.Tracks[k], b.Track(a.Tracks[k].Display)
		if other == nil {
			return false
		}
		for at := sameTime; at < min(until, a.Length, b.Length); at += sameTime {
			f := t.At(at)
			if f == nil {
				continue
			}
			if !slices.ContainsFunc([]clock.Time{at, at - sameTime, at + sameTime}, func(at clock.Time) bool {
				g := other.At(at)
				return g != nil && t.Alike(f.State, g.State)
			}) {
				return false
			}
		}
	}
	return true
}

// sameDone reports whether two runs show the same throughout. Where pins light everything themselves, the program must
// change them as often in both: what it does for a moment may be seen by nobody. A chip between, or a display on a bus,
// may be sent again what it shows.
func (s *search) sameDone(a, b *reel.Reel) bool {
	most, least := max(a.Counters.Edges, b.Counters.Edges), min(a.Counters.Edges, b.Counters.Edges)
	return (most-least <= max(1, least*sameEdges/100) || !s.direct()) && sameShown(a, b, a.Length)
}

// direct reports whether all that is on the bench is an input, or lights at the chip's pins.
func (s *search) direct() bool {
	return !slices.ContainsFunc(s.x.Parts, func(p *part.Instance) bool {
		return p.Kind.Ends == nil && (p.Kind.Geometry != nil || len(p.Kind.Cues) == 0)
	})
}

// comesTo reports whether a display shows a state at some time between two.
func comesTo(t *display.Track, state display.State, from, to clock.Time) bool {
	return slices.ContainsFunc(t.Frames, func(f display.Frame) bool {
		return f.From < to && f.To > from && t.Alike(f.State, state)
	})
}

func nothingWithout(c reel.Fired) string {
	return fmt.Sprintf("Nothing follows %s at %s: all displays show the same without it, where something else is expected.",
		done(c), c.Start)
}

// done is an input as a noun.
func done(c reel.Fired) string {
	switch c.Verb {
	case part.Type:
		return "what is typed on " + c.Part
	case part.Set:
		return fmt.Sprintf("the change of %s to %s", c.Part, c.To)
	}
	return "the press of " + named(c)
}

// named is the button, or the key, of an input.
func named(c reel.Fired) string {
	if c.Key == "" {
		return c.Part
	}
	return fmt.Sprintf("key %s of %s", c.Key, c.Part)
}

// saysOther reports whether two states of a display say something else in their words, and not in numbers alone.
func saysOther(t *display.Track, a, b display.State) bool {
	lettered, ok := display.As[display.Lettered](t.Geometry)
	return ok && display.Unnumbered(lettered.Rows(t, a)) != display.Unnumbered(lettered.Rows(t, b))
}

// countsOn reports whether the next number is right and follows from one that is not seen: it was counted, and drawn as
// another one.
func countsOn(pairs []judge.Pair) bool {
	if len(pairs) < 2 || pairs[1].Operation != judge.Right || pairs[0].Expected == nil || pairs[1].Expected == nil {
		return false
	}
	a, errA := strconv.Atoi(strings.TrimSpace(pairs[0].Expected.Text))
	b, errB := strconv.Atoi(strings.TrimSpace(pairs[1].Expected.Text))
	return errA == nil && errB == nil && (b == a+1 || b == a-1)
}

// stands tells of a display that shows behind an input what it showed before, where a number should be set that it
// shows at other times: the code is not-reset where it began with that, lag where the same input brings it about when
// it is used again, and lag-drawn where what it did is seen behind the next input.
func stands(r, without *reel.Reel, u suspect) (code finding.Code, text string) {
	cue, t := r.Cues[u.cue], r.Track(u.verdict.Display)
	i := slices.IndexFunc(u.verdict.Alignment, func(p judge.Pair) bool { return p.Operation != judge.Right })
	at, next := cue.End+tardy, r.Length
	if u.cue+1 < len(r.Cues) {
		next = r.Cues[u.cue+1].Start
		at = min(at, next-1)
	}
	before, then := t.At(cue.Start-1), t.At(at)
	if i < 0 || before == nil || then == nil || !t.Alike(then.State, before.State) {
		return "", ""
	}
	want := u.verdict.Alignment[i].Expected
	if n := i + 1; u.verdict.Alignment[i].Operation == judge.Missing && n < len(u.verdict.Alignment) &&
		want.State != nil && t.Alike(then.State, *want.State) { // it stands too long: what should follow is missing
		want = u.verdict.Alignment[n].Expected
	}
	if len(u.verdict.Alignment) == 1 && want != nil && lastBefore(r.Cues, middle(want)) > u.cue {
		return "", "" // it is asked for behind another input
	}
	if want == nil || want.State == nil || t.Alike(then.State, *want.State) || comesTo(t, *want.State, at, next) ||
		countsOn(u.verdict.Alignment[i:]) {
		return "", ""
	}
	if display.Decimal.FindString(want.Text) == "" || saysOther(t, then.State, *want.State) {
		return "goes-on", fmt.Sprintf("After %s at %s, %s still shows %s where %s is expected.", done(cue), cue.Start,
			u.verdict.Display, t.Short(then.State), want.Text)
	}
	if n := u.cue + 1; n < len(r.Cues) && r.Cues[n].Text == cue.Text {
		if f := t.At(min(r.Cues[n].End+tardy, r.Length-1)); f != nil && t.Alike(f.State, *want.State) {
			return "lag", fmt.Sprintf("After %s at %s, %s still shows %s, and %s only after the next one: it is one use behind, as where a number is shown before it is changed.",
				done(cue), cue.Start, u.verdict.Display, t.Short(then.State), want.Text)
		}
	}
	if shownLater(r, without, u, i) {
		return lagDrawn.Code, fmt.Sprintf("After %s at %s, %s still shows %s where %s is expected; what was done is seen behind %s: the display is not written anew before that.",
			done(cue), cue.Start, u.verdict.Display, t.Short(then.State), want.Text, done(r.Cues[u.cue+1]))
	}
	shown := slices.IndexFunc(t.Frames, func(f display.Frame) bool {
		return f.To-f.From > tardy && t.Alike(f.State, *want.State)
	})
	text = fmt.Sprintf("After %s at %s, %s still shows %s where %s is expected: ", done(cue), cue.Start,
		u.verdict.Display, t.Short(then.State), want.Text)
	if shown >= 0 && t.Frames[shown].From < soon {
		return "not-reset", text + "the program does something then, and does not set this back."
	}
	return "sets-other", text + "the program does something then, and does not set this."
}

// shownLater reports whether a display is right behind the next input, another one, and would not be so without the
// one whose state, the i-th pair, is wrong.
func shownLater(r, without *reel.Reel, u suspect, i int) bool {
	n, pairs := u.cue+1, u.verdict.Alignment
	if n >= len(r.Cues) || r.Cues[n].Text == r.Cues[u.cue].Text || i+1 >= len(pairs) ||
		pairs[i+1].Operation != judge.Right || pairs[i+1].Seen.From < r.Cues[n].Start {
		return false
	}
	at := min(r.Cues[n].End+tardy, r.Length-1)
	if n+1 < len(r.Cues) {
		at = min(at, r.Cues[n+1].Start-1)
	}
	t, other := r.Track(u.verdict.Display), without.Track(u.verdict.Display)
	f, g := t.At(at), other.At(at)
	return f != nil && g != nil && pairs[i+1].Seen.State != nil && t.Alike(f.State, *pairs[i+1].Seen.State) &&
		!t.Alike(f.State, g.State)
}
