package judge

import (
	"fmt"
	"math/big"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

// contentShare is the part of the marks that goes to what is shown, where an exercise does not say;
// the rest goes to when.
const contentShare = "70%"

// nearShare is the part of its content that a frame in another form earns: a person sees that the value is right.
var nearShare = big.NewRat(3, 5)

// maxFrames bounds how many seen frames are aligned; a display that changes more often than that is
// judged by its first ones.
const maxFrames = 4000

// timingFields go with every expectation of a sequence.
var timingFields = []spec.Field{
	{Name: "each", Kind: spec.Duration, Doc: "how long each frame lasts; without it only the order counts"},
	{Name: "tolerance", Kind: spec.Percent, Default: "5%", Doc: "how far a frame's length may be off"},
	{Name: "start", Kind: spec.Choice, Choices: []string{"anywhere", "power"}, Default: "anywhere",
		Doc: "`power`: the first frame is there within `within` of power-on; `anywhere`: frames before the first expected one do not count; where that may last as long as it likes, it begins when it is first seen"},
	{Name: "within", Kind: spec.Duration, Default: "100ms",
		Doc: "how soon after power-on the first frame must be there"},
	{Name: "extra", Kind: spec.Choice, Choices: []string{"wrong", "ignore"}, Default: "wrong",
		Doc: "what happens to extra frames. If all frames have times, the trial is longer and this is not given, frames after the last one cost nothing, and `check` asks what is meant"},
	{Name: "strict", Kind: spec.Bool, Default: "no", Doc: "accept only the usual pattern of each symbol"},
	{Name: "clean", Kind: spec.Percent, Default: "0%",
		Doc: "the fraction of the marks for a display without visible ghosts, of more than a tenth of their pattern's brightness"},
	{Name: "content", Kind: spec.Percent, Default: contentShare,
		Doc: "the fraction of the marks for what is shown; the rest is for when"},
}

func init() {
	register(&Kind{
		Name:  "shows",
		Parts: true,

		Sequence:    true,
		Alternative: true,
		Ends:        "`repeats: yes` where the frames come again, `for: any` at the last one where it stays, `extra: wrong` where nothing else may come, `extra: ignore` where it does not matter",

		Doc: "The display shows a sequence of frames, each for a time. Expected and seen frames are aligned, so that one missing or extra frame does not make the rest wrong.",
		Fields: slices.Concat([]spec.Field{
			{Name: "frames", Kind: spec.List, Of: &spec.Field{Name: "frame", Kind: spec.Frame}, Required: true,
				Doc: "what is shown, in order: `on` and `off` for a lamp, a symbol for a digit, the text of the first row for a character display, or a mapping"},
			{Name: "repeat", Kind: spec.Int, Min: 1, Max: 1000, Default: "1",
				Doc: "how many times the sequence is shown"},
			{Name: "repeats", Was: "goes-on", Kind: spec.Bool, Default: "no",
				Doc: "the sequence repeats to the end of the trial: with times, as often as it fits; without times, whatever is shown must be right"},
		}, timingFields),
		Example: `{shows: gauge, frames: ["-", 2, 4, 6, 8], each: 700ms, tolerance: 5%, start: power, marks: 6}`,
		Build:   buildShows,
	})
}

type shows struct {
	display   string
	frames    []expected
	tolerance *big.Rat
	power     bool
	within    clock.Time
	ignore    bool
	content   *big.Rat
	clean     *big.Rat
	strict    bool   // nothing is near
	verb      string // what it does, in words
	// how long the trial continues behind the last frame, where nothing says what comes then; 0 for not at all
	outlasted clock.Time
	partial   bool // some frame says nothing about a part of the display
	cycle     int  // how many of the frames come again and again to the end of the trial; 0 for none
}

func buildShows(s Setting, v spec.Values, ps *spec.Problems) Expectation {
	p := displayOf(s, "shows", v, ps)
	if p == nil {
		return nil
	}
	if v.Has("each") && v.Time("each") == 0 {
		ps.Add(v.At("each"), "a frame lasts longer than nothing")
	}
	frames := readFrames(v, p, ps)
	if len(frames) == 0 {
		if len(v.Get("frames").List) == 0 && v.Has("frames") {
			ps.Add(v.At("frames"), "no frames are given")
		}
		return nil
	}
	x := newShows(p, v, frames, s, ps)
	if v.Bool("repeats") {
		if x.cycle = len(v.Get("frames").List); x.cycle > 1 && frames[0].want.Same(frames[x.cycle-1].want) {
			ps.Add(v.At("repeats"),
				"the last frame of the sequence looks like the first, so repeats cannot be distinguished")
		}
	}
	return x
}

// newShows makes the expectation of a sequence from timingFields.
func newShows(p *part.Instance, v spec.Values, frames []expected, s Setting, ps *spec.Problems) *shows {
	x := &shows{display: p.Name, frames: frames, tolerance: v.Get("tolerance").Number,
		power:  v.Text("start") == "power",
		within: v.Time("within"), ignore: v.Text("extra") == "ignore", content: v.Get("content").Number,
		clean: v.Get("clean").Number, strict: v.Bool("strict"), verb: "shows " + summary(frames)}
	total := clock.Time(0)
	for i, f := range x.frames {
		x.partial = x.partial || display.IsPartial(f.want)
		if f.length > 0 && i+1 < len(x.frames) {
			total += f.length
		}
	}
	if !v.Bool("repeats") && v.Get("extra").Pos.Line == 0 && v.Get("limit").Pos.Line == 0 {
		if x.outlasted = x.behind(s.Length); x.outlasted > 0 {
			x.frames[len(x.frames)-1].open = true
		}
	}
	if total > s.Length && s.Length > 0 {
		ps.Add(v.Pos, "the frames take %s up to the last one, and the trial lasts %s: no run can show them all",
			total.Short(), s.Length.Short())
	}
	return x
}

// readFrames reads frames with their lengths, repeated as asked.
func readFrames(v spec.Values, p *part.Instance, ps *spec.Problems) (out []expected) {
	strict := v.Bool("strict")
	var wants []display.Matcher
	failed := false
	for i, f := range v.Get("frames").List {
		w, length := display.ReadFrame(f, p.Display(), strict, ps)
		if w == nil {
			failed = true
			continue
		}
		if length == 0 {
			length = v.Time("each")
		}
		if n := len(wants); n > 0 && wants[n-1].Same(w) {
			ps.Add(f.Pos,
				"frame %d looks the same as the one before it: no eye could tell them apart; write one frame with the length of both", i+1)
		}
		wants = append(wants, w)
		out = append(out, expected{want: w, length: length, place: f.Pos})
	}
	if failed {
		return nil
	}
	display.TellApart(wants)
	once := out
	for i := int64(1); i < v.Int("repeat"); i++ {
		out = append(out, once...)
	}
	if len(once) > 1 && v.Int("repeat") > 1 && wants[0].Same(wants[len(wants)-1]) {
		ps.Add(v.At("repeat"),
			"the last frame of the sequence looks like the first, so repeats cannot be distinguished")
	}
	return out
}

// Judge aligns and gives credit: right frames for what, right lengths for when.
func (x *shows) Judge(r *reel.Reel) Verdict {
	t := r.Track(x.display)
	v := Verdict{Display: x.display}
	a := &aligner{track: t, want: x.frames, strict: x.strict, seen: x.alike(t, distinct(t, r)), anchored: x.power,
		ignore: x.ignore,
		free:   x.outlasted > 0, tolerance: x.slack}
	if x.power && len(a.seen) > 1 && a.seen[0].To <= x.within {
		if ok, _ := x.frames[0].want.Match(t, a.seen[0].State); !ok { // what was there before the program got going
			a.seen = a.seen[1:]
		}
	}
	allowStartUp(a.seen)
	required := len(x.frames)
	if x.cycle > 0 {
		a.want, required = x.goingOn(t, r, a.seen)
	}
	frames := a.want
	// What may come beyond what must is expected where it came.
	steps := slices.DeleteFunc(a.align(), func(p pairing) bool { return p.step == Missing && p.e >= required })
	n, right, near, timed, inTime, extra := 0, 0, 0, 0, 0, 0
	for _, p := range steps {
		if p.e >= 0 {
			if n++; frames[p.e].length > 0 {
				timed++
			}
		}
	}
	timing := new(big.Rat) // of the frames that are timed
	for _, p := range steps {
		if p.step == Right || p.step == Mistimed || p.step == Near {
			right++
		}
	}
	// Where little is right, a rhythm is none: a wrong frame earns nothing by its length.
	rhythm := right*3 >= n
	right = 0
	at := clock.Time(0)
	for _, p := range steps {
		pair := Pair{Operation: p.step}
		if p.s >= 0 {
			s := a.seen[p.s]
			at = s.From
			pair.Seen = shown(t, s)
		}
		if p.e >= 0 {
			e := frames[p.e]
			pair.Expected = meant(at, at+max(e.length, 0), e.want, t, e.place)
			if e.length <= 0 && pair.Seen != nil {
				pair.Expected.To = pair.Seen.To
			}
			at = pair.Expected.To
		}
		if p.e >= 0 && p.s >= 0 && frames[p.e].length > 0 && (rhythm || p.step != Wrong) {
			if a.inTime(frames[p.e], a.seen[p.s]) {
				inTime++
			}
			timing.Add(timing, a.timely(frames[p.e], a.seen[p.s]))
		}
		switch p.step {
		case Right, Mistimed:
			right++
		case Near:
			near++
		case Extra:
			extra++
		}
		v.Alignment = append(v.Alignment, pair)
	}
	v.First = x.first(r, t, v.Alignment)
	content := new(big.Rat).Mul(nearShare, big.NewRat(int64(near), 1))
	content = fractionOf(content.Add(content, big.NewRat(int64(right-extra), 1)), n)
	v.Fraction = content
	if timed > 0 {
		timing = fractionOf(timing.Sub(timing, big.NewRat(int64(extra), 1)), timed)
		rest := new(big.Rat).Sub(big.NewRat(1, 1), x.content)
		v.Fraction = new(big.Rat).Add(new(big.Rat).Mul(content, x.content), timing.Mul(timing, rest))
	}
	ghosts := ""
	if q := t.Quality; q != nil && q.Ghost > SeenGhost && x.clean.Sign() > 0 {
		ghosts = ghostly(q)
		v.Fraction = new(big.Rat).Mul(v.Fraction, new(big.Rat).Sub(big.NewRat(1, 1), x.clean))
		if v.First == nil {
			v.First = &Difference{At: a.seen[0].From, Expected: "a clean display", Seen: ghosts,
				By: place(t, a.seen[0].From)}
		}
	}
	v.Timed = timed > 0
	v.Outcome = outcome(v.Fraction)
	v.Text = x.display + " " + x.verb
	v.Evidence = append(v.Evidence, fmt.Sprintf("%d of %d frames right", right, n))
	if near > 0 {
		v.Evidence[0] += fmt.Sprintf(", %d in another form", near)
	}
	if timed > 0 {
		v.Evidence[0] += fmt.Sprintf(", %d of %d in time", inTime, timed)
	}
	if extra > 0 {
		v.Evidence[0] += fmt.Sprintf(", %d extra", extra)
	}
	if ghosts != "" {
		v.Evidence = append(v.Evidence, ghosts)
	}
	return v
}

// fractionOf is a sum as a fraction of n, never below nothing.
func fractionOf(sum *big.Rat, n int) *big.Rat {
	if sum.Sign() < 0 {
		return new(big.Rat)
	}
	return new(big.Rat).Quo(sum, big.NewRat(int64(max(1, n)), 1))
}

// behind is how long a trial continues after the last frame, 0 where some frame has no time of its own, or where only
// slack is left.
func (x *shows) behind(length clock.Time) clock.Time {
	all := clock.Time(0)
	for _, f := range x.frames {
		if f.length <= 0 {
			return 0
		}
		all += f.length
	}
	if left := length - all - x.slack(all) - x.within; left > lastMoment {
		return left
	}
	return 0
}

// Outlasts tells of which display the trial continues for how long behind the last frame, where nothing says what comes
// then.
func (x *shows) Outlasts() (display string, by clock.Time) {
	return x.display, x.outlasted
}

// alike joins neighbouring frames that differ only in what no frame of the sequence says anything about.
func (x *shows) alike(t *display.Track, frames []seen) (out []seen) {
	if !x.partial {
		return frames
	}
	is := func(s display.State) (which []int) {
		for i, f := range x.frames {
			if ok, _ := f.want.Match(t, s); ok {
				which = append(which, i)
			}
		}
		return which
	}
	var before []int
	for _, f := range frames {
		now := is(f.State)
		if n := len(out); n > 0 && now != nil && slices.Equal(before, now) {
			out[n-1].To, out[n-1].clipped = f.To, f.clipped
			continue
		}
		out, before = append(out, f), now
	}
	return out
}

// slack is how far a frame's length may be off.
func (x *shows) slack(l clock.Time) clock.Time {
	n := new(big.Int).Mul(big.NewInt(int64(l)), x.tolerance.Num())
	return clock.Time(n.Quo(n, x.tolerance.Denom()).Int64())
}

// goingOn gives the frames of a sequence that continues to the end of the trial, and how many of them must be there: by
// their times those that have begun by then however slowly they came, where there are none those that are written. The
// others may.
func (x *shows) goingOn(t *display.Track, r *reel.Reel, frames []seen) (out []expected, required int) {
	begin := clock.Time(0)
	if !x.power {
		for _, f := range frames {
			if ok, _ := x.frames[0].want.Match(t, f.State); ok {
				begin = f.From
				break
			}
		}
	}
	timed := true
	for _, f := range x.frames {
		timed = timed && f.length > 0
	}
	at := clock.Time(0) // since the beginning
	for i := 0; len(out) < maxFrames; i++ {
		f := x.frames[i%len(x.frames)]
		if i >= len(x.frames) {
			f = x.frames[len(x.frames)-x.cycle+(i-len(x.frames))%x.cycle]
		}
		switch slack := x.slack(at); {
		case i < len(x.frames) && !timed, timed && begin+at+slack < r.Length-lastMoment:
			required = i + 1
		case timed && begin+at-slack >= r.Length, !timed && i > len(frames):
			return out, required
		}
		out = append(out, f)
		at += max(0, f.length)
	}
	return out, required
}

// lastMoment is the end of a trial, too short for a state to settle.
const lastMoment = 50 * clock.Millisecond

// first is the first step that is not right, told in words.
func (x *shows) first(r *reel.Reel, t *display.Track, lanes []Pair) *Difference {
	for _, p := range lanes {
		switch p.Operation {
		case Right, Ignored:
			continue
		case Missing:
			return &Difference{At: p.Expected.From, Expected: p.Expected.Text, Seen: "nothing of the kind"}
		case Extra:
			return &Difference{At: p.Seen.From, Expected: "nothing more here", Seen: p.Seen.Text,
				By: place(t, p.Seen.From)}
		case Mistimed:
			return &Difference{At: p.Seen.From, By: place(t, p.Seen.To),
				Expected: fmt.Sprintf("%s for %s", p.Expected.Text, (p.Expected.To - p.Expected.From).Brief()),
				Seen:     fmt.Sprintf("%s for %s", p.Seen.Text, (p.Seen.To - p.Seen.From).Brief())}
		default:
			return &Difference{At: p.Seen.From, Expected: p.Expected.Text, Seen: p.Seen.Text, By: place(t, p.Seen.From)}
		}
	}
	return nil
}

// place is the program point of the edge that began the frame at a moment.
func place(t *display.Track, at clock.Time) *machine.Place {
	for _, f := range t.Frames {
		if f.From == at && f.At != nil && at > 0 {
			return f.At
		}
	}
	return nil
}

// distinct joins neighbouring frames that look alike and marks the one that the end of the run cut.
func distinct(t *display.Track, r *reel.Reel) (out []seen) {
	out = make([]seen, 0, min(len(t.Frames), maxFrames))
	for _, f := range t.Frames {
		if n := len(out); n > 0 && !t.Geometry.Type().Traits().Lines && t.Alike(out[n-1].State, f.State) {
			out[n-1].To = f.To
			continue
		}
		if out = append(out, seen{Frame: f}); len(out) == maxFrames {
			break
		}
	}
	if n := len(out); n > 0 && out[n-1].To >= r.Length {
		out[n-1].clipped = true
	}
	return out
}

// staged is distinct, with each stage of a terminal's line for itself: what it read at a time, not what it came to
// read.
func staged(t *display.Track, r *reel.Reel) (out []seen) {
	for _, s := range distinct(t, r) {
		from := s.From
		for _, stage := range s.Stages {
			part := s
			part.From, part.To, part.State = from, stage.To, display.State{Line: stage.Line}
			part.Stages, part.clipped = nil, false
			out = append(out, part)
			from = stage.To
		}
		s.From = from
		out = append(out, s)
	}
	return out
}

// maxSummary is how long the name of a sequence may be before it is given by its ends.
const maxSummary = 40

// summary names a sequence briefly.
func summary(frames []expected) string {
	var words []string
	for _, f := range frames {
		words = append(words, f.want.String())
	}
	between := " "
	if slices.ContainsFunc(words, func(w string) bool { return strings.Contains(w, " + ") }) { // of a group
		between = ", "
	}
	text := strings.Join(words, between)
	if len([]rune(text)) <= maxSummary {
		return text
	}
	return fmt.Sprintf("%s … %s (%d frames)", words[0], words[len(words)-1], len(words))
}
