package judge

import (
	"math/big"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/spec"
)

// expected is one frame of a sequence with its length: 0 for untimed, display.AnyLength for as long as it
// likes.
type expected struct {
	want   display.Matcher
	length clock.Time
	place  spec.Pos
	open   bool // it may stay, to the end of the trial
	index  int  // of what is wanted, among all different ones
}

// Costs of the alignment, in thousandths. A wrong frame costs no more than a missing one, so that a
// wrong pattern stays one wrong frame even where extra frames are free; a missing frame between
// right ones costs less than two wrong ones.
const (
	costMissing = 1000
	costExtra   = 800
	costIgnored = 500 // an extra frame between expected ones where extra ones are allowed
	costWrong   = 800
	costOff     = 60  // on top of costWrong, for a state that has nothing in common
	costTime    = 360 // at most, for a right state of the wrong length
	costNear    = 390 // for the wanted value in another form: more than any time, less than half a wrong state
)

// seen is one frame of a track; frames that look alike to the expectation are one.
type seen struct {
	display.Frame
	clipped bool       // the run ended within it
	index   int        // among the seen frames
	startUp clock.Time // how long the program had needed before it could show this, the first thing of all
	dark    bool       // nothing was shown yet while the program started
}

// aligner finds the cheapest way to lay a track beside the expected frames (Needleman and Wunsch,
// J. Mol. Biol. 48, 1970), so that one frame more or less does not spoil the rest.
type aligner struct {
	track     *display.Track
	want      []expected
	seen      []seen
	tolerance func(clock.Time) clock.Time
	anchored  bool // the first expected frame is the first seen one
	ignore    bool // extra frames do no harm
	begun     int  // the seen frame with which the sequence has begun, whatever comes later
	free      bool // those behind the last expected one do none
	compared  int  // how often a state was compared: the effort
	strict    bool // nothing is near
	forms     *display.Forms
	known     [][]int8 // of near, by matcher and seen frame: 1 if it is, -1 if not
}

// pairing is one step of the result: indexes, or -1.
type pairing struct {
	step Operation
	e, s int
}

func (a *aligner) inTime(e expected, s seen) bool {
	if e.length <= 0 {
		return true
	}
	tolerance, off := a.tolerance(e.length), s.Length()-e.length
	if s.clipped {
		return off <= tolerance || e.open
	}
	return off <= tolerance && off >= -tolerance-s.startUp
}

// timely is what the length of a frame earns: all up to the tolerance, then less and less to nothing at three times.
func (a *aligner) timely(e expected, s seen) *big.Rat {
	if a.inTime(e, s) {
		return big.NewRat(1, 1)
	}
	tolerance := a.tolerance(e.length)
	off := s.Length() - e.length
	if off < 0 {
		off = -off - s.startUp
	}
	if tolerance <= 0 || off >= 3*tolerance {
		return new(big.Rat)
	}
	return big.NewRat(int64(3*tolerance-off), int64(2*tolerance))
}

// longestStartUp is how long a program may take before its display shows anything: a character display wants 40 ms
// after power-on and some 20 ms of commands (HD44780U, figure 24), and answers slowly.
const longestStartUp = 150 * clock.Millisecond

// allowStartUp gives the first frame that shows something what the start-up took of it. A program that shows a thing
// for a second from power-on on shows it for so much less.
func allowStartUp(frames []seen) {
	for i, f := range frames {
		switch {
		case f.From > longestStartUp:
			return
		case f.State.Blank() || nothingSeen("", frames[i:i+1]) != "":
			continue
		}
		frames[i].startUp = f.From
		for before := range i {
			frames[before].dark = true
		}
		return
	}
}

func (a *aligner) cost(e expected, s seen) int {
	a.compared++
	ok, off := e.want.Match(a.track, s.State)
	switch {
	case !ok && a.near(e, s):
		return costNear
	case !ok && s.dark: // no frame of the program's: it takes no expected one's place
		return costMissing + 1
	case !ok:
		return costWrong + costOff*off/1000
	case a.inTime(e, s):
		return 0
	}
	wrong := s.Length() - e.length
	if wrong < 0 {
		wrong = -wrong
	}
	return min(costTime, int(float64(costTime)*float64(wrong)/float64(e.length)))
}

// near reports whether a seen frame is an expected one in another form.
func (a *aligner) near(e expected, s seen) bool {
	if a.strict {
		return false
	}
	known := &a.known[e.index][s.index]
	if *known == 0 {
		if *known = -1; a.forms.Near(e.index, s.State, before(a.seen, s.index)) {
			*known = 1
		}
	}
	return *known > 0
}

// number gives all frames their places, by which near knows them, the different things that are expected, and the
// beginning its place.
func (a *aligner) number() {
	at := map[string]int{}
	var matchers []display.Matcher
	for i := range a.seen {
		a.seen[i].index = i
	}
	for i := range a.want {
		text := a.want[i].want.String()
		same, ok := at[text]
		if !ok {
			same = len(matchers)
			at[text] = same
			matchers = append(matchers, a.want[i].want)
		}
		a.want[i].index = same
	}
	a.begun = a.begins()
	a.forms, a.known = display.NewForms(matchers, a.track), make([][]int8, len(matchers))
	for i := range a.known {
		a.known[i] = make([]int8, len(a.seen))
	}
}

// begins gives the first seen frame that is the first expected one, where that may last as long as it likes: none that
// comes later is a better beginning, and what is between them would count for nothing. Where it has a length, or there
// is no such frame, the sequence may begin anywhere.
func (a *aligner) begins() int {
	if len(a.want) == 0 || a.want[0].length > 0 {
		return len(a.seen)
	}
	is := func(s seen) bool {
		ok, _ := a.want[0].want.Match(a.track, s.State)
		return ok
	}
	for i, s := range a.seen {
		// what is dark while the program starts is no beginning where what comes then is one, too
		if is(s) && !(s.dark && i+1 < len(a.seen) && is(a.seen[i+1])) {
			return i
		}
	}
	return len(a.seen)
}

// extraCost is that of seen frame s after e expected ones. Of equal ways the one that begins at the front, and has them
// at the end, is the cheapest.
func (a *aligner) extraCost(e, s int) int {
	switch before, behind := e == 0, e == len(a.want); {
	case before && !a.anchored && s < a.begun, behind && (a.ignore || a.free):
		return 0
	case a.ignore && !(before && a.anchored):
		return costIgnored
	case behind:
		return costExtra
	case before:
		return costExtra + 2
	}
	return costExtra + 1
}

// align gives the steps in order. Only ways that cost no more than a limit are looked at, first a low one: usual tracks
// are nearly right, and the work then goes with their length. A way that is found within its limit is the cheapest of
// all.
func (a *aligner) align() []pairing {
	a.number()
	for limit := 4 * costMissing; ; limit *= 4 {
		if steps, found := a.within(limit); found {
			return steps
		}
	}
}

// unreached is the cost of a cell that no way within the limit goes through.
const unreached = int32(1 << 30)

// row is the cells of one expected frame that a way within the limit may go through.
type row struct {
	from int // the first seen frame
	best []int32
}

func (r row) at(s int) int32 {
	if s < r.from || s >= r.from+len(r.best) {
		return unreached
	}
	return r.best[s-r.from]
}

// reach gives the seen frames s for which a way through (e, s) can keep within a limit: frames that are left over on
// either side must be missing or extra.
func (a *aligner) reach(e, limit int) (from, to int) {
	n, m := len(a.want), len(a.seen)
	missing, extra := limit/costMissing, limit/costExtra
	from, to = max(0, e-missing), min(m, m-n+e+missing)
	if a.anchored && !a.ignore {
		to = min(to, e+extra)
	}
	if e > 0 && !a.ignore && !a.free {
		from = max(from, m-n+e-extra)
	}
	return from, to
}

// within aligns by ways that cost no more than a limit; found is false where there is none.
func (a *aligner) within(limit int) (steps []pairing, found bool) {
	n, m := len(a.want), len(a.seen)
	rows := make([]row, n+1)
	for e := range rows {
		from, to := a.reach(e, limit)
		r := row{from, make([]int32, max(0, to-from+1))}
		for i := range r.best {
			s := from + i
			v := unreached
			if e == 0 && s == 0 {
				v = 0
			}
			if e > 0 {
				v = min(v, rows[e-1].at(s)+costMissing)
			}
			if i > 0 {
				v = min(v, r.best[i-1]+int32(a.extraCost(e, s-1)))
			}
			if e > 0 && s > 0 {
				if before := rows[e-1].at(s - 1); before < unreached {
					v = min(v, before+int32(a.cost(a.want[e-1], a.seen[s-1])))
				}
			}
			r.best[i] = min(v, unreached)
		}
		rows[e] = r
	}
	if int(rows[n].at(m)) > limit {
		return nil, false
	}
	for e, s := n, m; e > 0 || s > 0; {
		here := rows[e].at(s)
		switch {
		case e > 0 && here == rows[e-1].at(s)+costMissing: // of equal ways the one that matches early
			e--
			steps = append(steps, pairing{Missing, e, -1})
		case e > 0 && s > 0 && rows[e-1].at(s-1) < unreached &&
			here == rows[e-1].at(s-1)+int32(a.cost(a.want[e-1], a.seen[s-1])):
			e--
			s--
			step := Wrong
			if ok, _ := a.want[e].want.Match(a.track, a.seen[s].State); ok {
				if step = Mistimed; a.inTime(a.want[e], a.seen[s]) {
					step = Right
				}
			} else if a.near(a.want[e], a.seen[s]) {
				step = Near
			}
			steps = append(steps, pairing{step, e, s})
		default:
			s--
			step := Extra
			if a.extraCost(e, s) <= costIgnored {
				step = Ignored
			}
			steps = append(steps, pairing{step, -1, s})
		}
	}
	slices.Reverse(steps)
	return steps, true
}
