package judge

import (
	"fmt"
	"math/big"
	"math/bits"
	"slices"
	"strconv"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/glyph"
	"hemble/core/reel"
	"hemble/core/spec"
)

func init() {
	register(&Kind{
		Name:  "steady",
		Parts: true,
		Doc:   "The display is steady: it shows something, nothing flickers, no digit is less than half as bright as another, digits do not light up one after another, no character is washed out, and no ghosts are visible.",
		Fields: slices.Concat(windowFields, []spec.Field{
			{Name: "refresh", Kind: spec.Rate,
				Doc: "the lowest scan rate (default: 40 Hz, which looks steady)"},
			{Name: "ghosts", Kind: spec.Percent, Default: strconv.Itoa(SeenGhost) + "%",
				Doc: "the strongest ghosts allowed, in percent of the brightness of the pattern they come from; below the default they are not visible"},
		}),
		Example: "{steady: count, from: 500ms, marks: 1}",
		Build: func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
			if p := displayOf(s, "steady", v, ps); p != nil {
				return &steady{p.Name, readWindow(s, v, ps), float64(v.Get("refresh").Rate), thousandths(v, "ghosts")}
			}
			return nil
		},
	})
}

type steady struct {
	display string
	window  window
	refresh float64 // Hz
	ghosts  int64   // thousandths
}

// SeenGhost is from where on a person sees a ghost beside its pattern: a tenth of the light, on a segment that is
// otherwise dark.
const SeenGhost = 10 // percent

// ghostly tells of the ghosts of a display.
func ghostly(q *display.Quality) string {
	return fmt.Sprintf("ghosts of %d %% of the brightness of their pattern", q.Ghost)
}

// Judge looks for frames that no person would call steady; shorter ones than can be read do not count by themselves.
func (x *steady) Judge(r *reel.Reel) Verdict {
	t := r.Track(x.display)
	v := Verdict{Display: x.display, Asks: true, Fraction: big.NewRat(1, 1), Text: x.display + " is steady"}
	complain := func(f seen, what string) {
		if v.First == nil {
			v.First = &Difference{At: f.From, Expected: "a steady display", Seen: what, By: place(t, f.From)}
			v.Alignment = []Pair{lane(t, Wrong, nil, f)}
		}
		v.Fraction.SetInt64(0)
		v.Evidence = append(v.Evidence, fmt.Sprintf("%s, from %s on", what, f.From))
	}
	frames := x.window.of(t, r)
	if len(frames) == 0 {
		v.Outcome = outcome(v.Fraction)
		return v
	}
	if what := nothingSeen(t.Geometry.Type().Traits().Unseen, frames); what != "" {
		complain(frames[0], what)
		v.Outcome = outcome(v.Fraction)
		return v
	}
	for _, f := range frames {
		washed := slices.ContainsFunc(f.State.Cells, func(c display.Cell) bool { return c&display.WashedOut != 0 })
		if f.Length() < readable || len(v.Evidence) == 3 {
			continue
		}
		switch {
		case f.State.Flicker:
			complain(f, "it flickers")
		case f.State.Uneven:
			complain(f, "digits differ in brightness by more than a half")
		case washed:
			complain(f, "characters are washed out")
		}
	}
	if what, at := restless(t, frames); what != "" {
		complain(frames[at], what)
	}
	if q := t.Quality; q != nil {
		v.Evidence = append(v.Evidence, fmt.Sprintf("scanned at %.1f Hz", q.Refresh))
		if q.Refresh < x.refresh {
			complain(frames[0], fmt.Sprintf("scanned at %.1f Hz, expected %.0f Hz", q.Refresh, x.refresh))
		}
		if int64(q.Ghost)*10 > x.ghosts {
			complain(frames[0], ghostly(q))
		}
	}
	v.Outcome = outcome(v.Fraction)
	return v
}

// nothingSeen tells why there is nothing that could be steady, in the words of the display type; "" where there is.
func nothingSeen(unseen string, frames []seen) string {
	boxes := true
	for _, f := range frames {
		if f.State.Blank() {
			continue
		}
		for _, c := range f.State.Cells {
			boxes = boxes && (c == ' ' || c == uninitialised)
		}
		if len(f.State.Cells) == 0 || !boxes {
			return ""
		}
	}
	if slices.ContainsFunc(frames, func(f seen) bool { return !f.State.Blank() }) {
		return "it shows dark boxes only: it was never initialised"
	}
	if unseen == "" {
		unseen = "it never lights"
	}
	return unseen
}

// uninitialised is the character of the dark boxes that a character display shows before it is initialised.
const uninitialised display.Cell = 0xff

// restless looks for a display that comes and goes faster than it can be read, for a tenth of the time at least: whose
// digits light up one after another, or that flickers. A display all of whose digits go on is not: a stopwatch may run.
// It gives the first frame of that kind.
func restless(t *display.Track, frames []seen) (what string, at int) {
	if len(frames[0].State.Lights) == 0 || t.Geometry.Digits() == 0 {
		return "", 0
	}
	lit := make([]uint64, len(frames)) // a bit for each digit that shows something
	all := uint64(0)
	for i, f := range frames {
		for k, l := range f.State.Lights {
			if d := k / len(glyph.Segments); l == display.Lit && d < t.Geometry.Digits() {
				lit[i] |= 1 << d
			}
		}
		all |= lit[i]
	}
	at = -1
	changes, lone, total := 0, 0, clock.Time(0)
	for i, f := range frames {
		one := bits.OnesCount64(lit[i]) == 1
		if lit[i] == all || f.clipped || f.Length() >= walking || !one && f.Length() >= flickering {
			continue
		}
		if at < 0 {
			at = i
		}
		changes++
		if total += f.Length(); one {
			lone++
		}
	}
	whole := frames[len(frames)-1].To - frames[0].From
	if changes < 5 || total*10 < whole {
		return "", 0
	}
	hz := float64(changes) * float64(clock.Second) / float64(whole)
	if lone*2 > changes && bits.OnesCount64(all) > 1 {
		return fmt.Sprintf("its digits light up one after another, %.0f per second", hz), at
	}
	return fmt.Sprintf("it goes on and off %.0f times per second", hz), at
}

// Below these a digit that is lit alone is one of a slow scan, and a display that is in part or wholly dark comes and
// goes faster than anybody would make it blink.
const (
	walking    = 300 * clock.Millisecond
	flickering = 150 * clock.Millisecond
)
