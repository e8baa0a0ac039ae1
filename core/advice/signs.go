package advice

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/fault"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

// strong are signs that leave little doubt.
var strong = map[string]bool{"pull-up": true, "held": true, "scan-slow": true, "dark": true, "never-clears": true, "digits-alike": true, "both-edges": true, "not-shown": true, "never-changes": true, "goes-dark": true, "row-empty": true, "row-address": true, "on-release": true, "not-cleared": true}

// covered are the signs that a fault brings with it.
var covered = map[string][]string{
	"address": {"not-shown", "row-empty", "dark"}, "baud": {"not-shown", "dark"}, "wires-swapped": {"not-shown", "row-empty", "dark"},
	"polarity": {"dark", "digits-alike"}, "selects-inverted": {"dark", "digits-alike"}, "rows": {"row-empty", "row-address"},
	"reference": {"never-clears"}, "pull-up": {"both-edges", "on-release"}, "held": {"both-edges", "on-release"}, "bounce": {"both-edges", "on-release"},
	"lamp-inverted": {"dark", "goes-dark"}, "time": {"goes-dark", "never-clears"}, "length": {"goes-dark"}, "columns": {"row-address"},
}

// covers tells whether a finding of one code makes one of another superfluous.
func covers(code, other string) bool {
	return code == other || other == "never-changes" || slices.Contains(covered[code], other)
}

// sign looks at one display of one trial for a cause that cannot be mended; ok is false where there is none.
type sign struct {
	code string
	look func(*view) (text string, at clock.Time, ok bool)
}

// key tells signs apart that were told.
func (s sign) key(display string) string {
	if s.code == "pull-up" { // of an input, whatever display it shows on
		return s.code
	}
	return s.code + display
}

// Signs lists the codes of what cannot be mended.
func Signs() (out []string) {
	for _, s := range all {
		out = append(out, s.code)
	}
	return out
}

// bothRails tells of a switch between the supply's ends: its pin floats only while the contact moves.
func bothRails(p *part.Built) bool {
	return slices.Contains(p.Wired, "VCC") && slices.Contains(p.Wired, "GND")
}

// view is what a sign may look at.
type view struct {
	x        *exercise.Exercise
	reel     *reel.Reel
	track    *display.Track
	verdicts []judge.Verdict // about the display, those not met
}

// noted tells whether the display itself reported something.
func (v *view) noted(code string) bool {
	for _, n := range v.reel.Notes {
		if n.Code == v.track.Display+" "+code {
			return true
		}
	}
	return false
}

var all = []sign{
	{"pull-up", func(v *view) (string, clock.Time, bool) {
		for _, n := range v.reel.Notes {
			pin, floats := strings.CutPrefix(n.Code, "floating-")
			for _, p := range v.x.Parts {
				if floats && len(p.Kind.Cues) > 0 && slices.Contains(p.Wired, pin) && !bothRails(p) {
					return fmt.Sprintf("%s: while the contact of %s is open nothing decides what the pin reads.", fault.Unpulled(p, pin), p.Name), n.At, true
				}
			}
		}
		return "", 0, false
	}},
	{"scan-slow", func(v *view) (string, clock.Time, bool) {
		walking, at, last := 0, clock.Time(0), -1
		for _, f := range v.track.Frames {
			if v.track.Geometry.Form != display.FormDigits || v.track.Geometry.Digits() < 2 || f.Length() > 500*clock.Millisecond {
				continue
			}
			d := lone(v.track, f.State)
			if dark(f.State) {
				d = v.track.Geometry.Digits() // as another digit: places before a number are dark
			}
			if d >= 0 && last >= 0 && d != last {
				if walking++; walking == 1 {
					at = f.From
				}
				last = d
			} else if d >= 0 {
				last = d
			}
		}
		if walking < 12 {
			return "", 0, false
		}
		return fmt.Sprintf("%s is scanned too slowly: its digits are seen one after the other.", v.track.Display), at, true
	}},
	{"dark", func(v *view) (string, clock.Time, bool) {
		for _, f := range v.track.Frames {
			if !dark(f.State) {
				return "", 0, false
			}
		}
		return fmt.Sprintf("%s stayed dark from beginning to end: it was never switched on, or nothing reached it.", v.track.Display), 0, true
	}},
	{"goes-dark", func(v *view) (string, clock.Time, bool) {
		n := len(v.track.Frames)
		if v.track.Geometry.Form != display.FormLamp || n < 2 || !dark(v.track.Frames[n-1].State) {
			return "", 0, false
		}
		last := v.track.Frames[n-1].From
		for _, x := range v.verdicts {
			if x.First == nil || x.First.Seen != "off" {
				return "", 0, false
			}
		}
		return fmt.Sprintf("%s goes dark at %s and stays so.", v.track.Display, last), last, true
	}},
	{"digits-alike", func(v *view) (string, clock.Time, bool) {
		n := v.track.Geometry.Digits()
		if v.track.Geometry.Form != display.FormDigits || n < 2 {
			return "", 0, false
		}
		alike := 0
		for _, f := range v.track.Frames {
			if dark(f.State) {
				continue
			}
			first := f.State.Lights[:8]
			for d := 1; d < n; d++ {
				for i := range first {
					if f.State.Lights[d*8+i] != first[i] {
						return "", 0, false
					}
				}
			}
			alike++
		}
		return fmt.Sprintf("All digits of %s show the same: they are all selected at once.", v.track.Display), 0, alike > 0
	}},
	{"never-clears", func(v *view) (string, clock.Time, bool) {
		n := len(v.track.Frames)
		if f := v.track.Geometry.Form; f != display.FormLamp && f != display.FormSound || n < 2 || dark(v.track.Frames[n-1].State) {
			return "", 0, false
		}
		last := v.track.Frames[n-1].From
		for _, x := range v.verdicts {
			if x.First == nil || x.First.At < last {
				return "", 0, false // it went wrong before
			}
		}
		return fmt.Sprintf("%s never goes off again, from %s on.", v.track.Display, last), last, true
	}},
	{"held", func(v *view) (string, clock.Time, bool) {
		type press struct {
			length clock.Time
			steps  int
		}
		var all []press
		for _, c := range v.reel.Cues {
			if c.Verb != part.Press {
				continue
			}
			before, a := numberAt(v.track, c.Start)
			after, b := numberAt(v.track, c.End+250*clock.Millisecond)
			if a && b && after > before {
				all = append(all, press{c.End - c.Start, after - before})
			}
		}
		for _, short := range all {
			for _, long := range all {
				if long.length >= 2*short.length && short.steps >= 2 && 2*long.steps >= 3*short.steps {
					return fmt.Sprintf("%s counts on while the button is held: %d steps in %s, %d in %s.", v.track.Display, short.steps, short.length.Short(), long.steps, long.length.Short()), firstPress(v.reel), true
				}
			}
		}
		return "", 0, false
	}},
	{"both-edges", func(v *view) (string, clock.Time, bool) {
		presses, both := 0, 0
		for _, c := range v.reel.Cues {
			if c.Verb == part.Press && c.End-c.Start > 60*clock.Millisecond {
				presses++
				if begins(v.track, c.Start, 80*clock.Millisecond) && begins(v.track, c.End, 80*clock.Millisecond) {
					both++
				}
			}
		}
		return fmt.Sprintf("%s changes when a press begins and again when it ends: letting go counts, too.", v.track.Display), firstPress(v.reel), presses > 1 && both*3 >= presses*2
	}},
	{"on-release", func(v *view) (string, clock.Time, bool) {
		presses, late := 0, 0
		for _, c := range v.reel.Cues {
			if c.Verb == part.Press && c.End-c.Start > 60*clock.Millisecond {
				presses++
				if !begins(v.track, c.Start, min(c.End-c.Start, 250*clock.Millisecond)) && begins(v.track, c.End, 80*clock.Millisecond) {
					late++
				}
			}
		}
		return fmt.Sprintf("%s changes when the button is let go, not when it is pressed.", v.track.Display), firstPress(v.reel), presses > 0 && late*3 >= presses*2
	}},
	{"uneven", func(v *view) (string, clock.Time, bool) {
		for _, f := range v.track.Frames {
			if f.State.Uneven && f.Length() > 200*clock.Millisecond {
				return fmt.Sprintf("The digits of %s differ in brightness by more than a half: one is lit longer than the others in each round.", v.track.Display), f.From, true
			}
		}
		return "", 0, false
	}},
	{"ghosts", func(v *view) (string, clock.Time, bool) {
		return fmt.Sprintf("Digits of %s show a ghost of their neighbour: switch the digit off before its segments change.", v.track.Display), 0, v.track.Quality != nil && v.track.Quality.Ghost > judge.SeenGhost
	}},
	{"not-shown", func(v *view) (string, clock.Time, bool) {
		if v.track.Geometry.Form != display.FormText || len(v.track.Frames) == 0 {
			return "", 0, false
		}
		for _, f := range v.track.Frames {
			for _, row := range v.track.Rows(f.State) {
				for _, r := range row {
					if r != ' ' && r != '░' && r != '█' {
						return "", 0, false
					}
				}
			}
		}
		return fmt.Sprintf("%s never shows a character: it was not initialised, or what was sent never arrived.", v.track.Display), 0, true
	}},
	{"row-empty", func(v *view) (string, clock.Time, bool) {
		if v.track.Geometry.Form != display.FormText || v.noted("lcd-busy") {
			return "", 0, false
		}
		for row := range v.track.Geometry.Grid.Rows {
			asked, shown := false, false
			for _, x := range v.verdicts {
				for _, l := range x.Lanes {
					asked = asked || l.Expected != nil && l.Expected.State != nil && written(v.track, *l.Expected.State, row)
				}
			}
			for _, f := range v.track.Frames {
				shown = shown || written(v.track, f.State, row)
			}
			if asked && !shown {
				return fmt.Sprintf("Row %d of %s stays empty: its text goes to an address that the display does not show.", row+1, v.track.Display), 0, true
			}
		}
		return "", 0, false
	}},
	{"row-address", func(v *view) (string, clock.Time, bool) {
		if v.track.Geometry.Form != display.FormText || v.noted("lcd-busy") {
			return "", 0, false
		}
		for _, x := range v.verdicts {
			for _, l := range x.Lanes {
				if l.Expected == nil || l.Expected.State == nil || l.Seen == nil || l.Seen.State == nil {
					continue
				}
				want, seen := v.track.Rows(*l.Expected.State), v.track.Rows(*l.Seen.State)
				for i := range want {
					meant, got := strings.TrimSpace(want[i]), strings.TrimRight(seen[i], " ")
					if got != "" && len(got) < len(meant) && strings.HasSuffix(meant, strings.TrimLeft(got, " ")) && want[i][0] != seen[i][0] {
						return fmt.Sprintf("Row %d of %s shows only the end of its text: it is written to an address before the row.", i+1, v.track.Display), l.Seen.From, true
					}
				}
			}
		}
		return "", 0, false
	}},
	{"not-cleared", func(v *view) (string, clock.Time, bool) {
		if v.track.Geometry.Form != display.FormPixels {
			return "", 0, false
		}
		for _, f := range v.track.Frames { // chance lights about half of the pixels, text and drawings a few
			if n := len(f.State.Pixels) * 8; n > 0 && f.Length() > 100*clock.Millisecond {
				lit := v.track.Bitmap(f.State).Count()
				return fmt.Sprintf("What the memory of %s held at power-on is to be seen: write all of it before the display is switched on.", v.track.Display), f.From, lit*3 > n && lit*3 < 2*n
			}
		}
		return "", 0, false
	}},
	{"never-changes", func(v *view) (string, clock.Time, bool) {
		if len(v.track.Frames) > 1 || len(v.verdicts) == 0 || v.noted("charge-pump") {
			return "", 0, false
		}
		return fmt.Sprintf("%s shows the same from beginning to end.", v.track.Display), 0, true
	}},
}

func dark(s display.State) bool {
	for _, l := range s.Lights {
		if l != display.Dark {
			return false
		}
	}
	return s.Lights != nil || s.Pitch == 0 && s.Cells == nil && s.Line == "" && s.Pixels == nil
}

// lone is the one digit that is lit, -1 where it is not one.
func lone(t *display.Track, s display.State) int {
	lit := -1
	for d := range t.Geometry.Digits() {
		for _, l := range s.Lights[d*8 : d*8+8] {
			if l == display.Lit {
				if lit >= 0 {
					return -1
				}
				lit = d
				break
			}
		}
	}
	return lit
}

// begins tells whether a frame begins within a time after a moment.
func begins(t *display.Track, at, within clock.Time) bool {
	for _, f := range t.Frames {
		if f.From >= at && f.From <= at+within {
			return true
		}
	}
	return false
}

// numberAt is the number that a display shows at a moment.
func numberAt(t *display.Track, at clock.Time) (int, bool) {
	for _, f := range t.Frames {
		if f.From <= at && at < f.To {
			return fault.ReadNumber(t, f.State)
		}
	}
	return 0, false
}

// written tells whether a row of a character display has text.
func written(t *display.Track, s display.State, row int) bool {
	return strings.TrimSpace(t.Rows(s)[row]) != ""
}

func firstPress(r *reel.Reel) clock.Time {
	for _, c := range r.Cues {
		if c.Verb == part.Press {
			return c.Start
		}
	}
	return 0
}

// signs gives what the displays that lost marks show of causes, each once.
func signs(x *exercise.Exercise, seen []Seen) (out []Finding) {
	told := map[string]bool{}
	for _, s := range all {
		for i, t := range seen {
			for k := range t.Reel.Tracks {
				v := &view{x: x, reel: t.Reel, track: &t.Reel.Tracks[k]}
				for _, verdict := range t.Verdicts {
					if verdict.Display == v.track.Display && verdict.Outcome != judge.Met {
						v.verdicts = append(v.verdicts, verdict)
					}
				}
				if len(v.verdicts) == 0 || told[s.key(v.track.Display)] {
					continue
				}
				if text, at, ok := s.look(v); ok && !slices.ContainsFunc(out, func(f Finding) bool {
					return covers(f.Code, s.code) && (f.Part == v.track.Display || f.Code == "pull-up")
				}) {
					told[s.key(v.track.Display)] = true
					out = append(out, Finding{Code: s.code, Text: text, Part: v.track.Display, Trial: i, At: at, Evidence: []string{"at " + at.String()}})
				}
			}
		}
	}
	return out
}
