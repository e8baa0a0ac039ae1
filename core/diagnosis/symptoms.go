package diagnosis

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"sync"

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

// symptom looks at one display of one trial for a cause that cannot be repaired; ok is false where there is none.
type symptom struct {
	finding.Entry
	find func(*view) (text string, at clock.Time, ok bool)
}

// key tells signs apart that were told.
func (s symptom) key(display string) string {
	if s.Input {
		return string(s.Code)
	}
	return string(s.Code) + display
}

// all are the signs in the order in which they are looked for: those of this file, and those of display types.
var all = sync.OnceValue(func() []symptom {
	out := slices.Concat(general, pins, sequences, carried, unlikeFigures, ignoring, pressing, typed, conditions,
		answers, overflows, ofParts())
	of := map[finding.Code]map[display.TypeName]*display.Symptom{}
	for _, t := range display.Types() {
		for _, s := range t.Symptoms() {
			if of[s.Code] == nil {
				of[s.Code] = map[display.TypeName]*display.Symptom{}
				out = append(out, symptom{s.Entry, func(v *view) (string, clock.Time, bool) {
					if own := of[s.Code][v.track.Geometry.TypeName]; own != nil {
						return own.Find(v.sighting())
					}
					return "", 0, false
				}})
			}
			of[s.Code][t.Name()] = s
		}
	}
	slices.SortStableFunc(out, func(a, b symptom) int { return cmp.Compare(a.Last(), b.Last()) })
	return out
})

func init() {
	finding.Provide(finding.Symptom, func() (out []finding.Entry) {
		for _, s := range slices.Concat(all(), written, readings, fields) {
			out = append(out, s.Entry)
		}
		return append(out, sameInput, lagDrawn, notIgnored)
	})
}

// bothRails tells of a switch between the supply's ends: its pin floats only while the contact moves.
func bothRails(p *part.Instance) bool {
	return slices.Contains(p.Wired, "VCC") && slices.Contains(p.Wired, "GND")
}

var general = []symptom{
	{finding.Entry{Code: "pull-up", Doc: "the pull-up of an input was forgotten", Order: 2, Input: true, Sure: true,
		Fact: true},
		func(v *view) (string, clock.Time, bool) {
			for _, n := range v.reel.Notes {
				pin, floats := strings.CutPrefix(n.Code, "floating-")
				for _, p := range v.x.Parts {
					if floats && len(p.Kind.Cues) > 0 && slices.Contains(p.Wired, pin) && !bothRails(p) {
						return fmt.Sprintf("%s: while the contact of %s is open, nothing defines the level of the pin.",
							fault.Unpulled(p, pin), p.Name), n.At, true
					}
				}
			}
			return "", 0, false
		}},
	{finding.Entry{Code: "serial-lost", Doc: "a byte was given to the serial port, which did not take it", Order: 2,
		Sure: true, Fact: true, Subsumes: []finding.Code{"words", "word", "cut", "never-changes", "not-shown", "step-missing"}},
		lostBytes},
	{finding.Entry{Code: "dark", Doc: "a display stays dark from beginning to end", Order: 3, Sure: true, Seen: true},
		func(v *view) (string, clock.Time, bool) {
			for _, f := range v.track.Frames {
				if !f.State.Unlit() && (f.State.Pixels == nil || !f.State.Blank()) {
					return "", 0, false
				}
			}
			return fmt.Sprintf("%s stayed dark throughout: it was never switched on, or nothing reached it.",
				v.track.Display), 0, !v.follows() && !v.noted("charge-pump")
		}},
	{finding.Entry{Code: "held", Doc: "a held press counts repeatedly", Order: 7, Sure: true},
		func(v *view) (string, clock.Time, bool) {
			type press struct {
				length clock.Time
				steps  int
			}
			var all []press
			for _, c := range v.reel.Cues {
				if c.Verb != part.Press {
					continue
				}
				before, a := v.numberAt(c.Start)
				after, b := v.numberAt(c.End + 250*clock.Millisecond)
				long := c.End-c.Start > 250*clock.Millisecond
				then, known := v.numberAt(c.Start + 100*clock.Millisecond)
				atOnce := known && then == after // by whatever it counts
				if a && b && after > before && (!long || begun(v.track, c.Start, c.End) >= 2 && !atOnce) {
					all = append(all, press{c.End - c.Start, after - before})
				}
			}
			for _, short := range all {
				for _, long := range all {
					if long.length >= 2*short.length && short.steps >= 2 && 2*long.steps >= 3*short.steps {
						return fmt.Sprintf("%s keeps counting while the button is held: %d steps in %s, %d in %s.",
							v.track.Display, short.steps, short.length.Short(), long.steps,
							long.length.Short()), firstPress(v.reel), true
					}
				}
			}
			return "", 0, false
		}},
	{finding.Entry{Code: "both-edges", Doc: "releasing a button counts as well", Order: 8, Sure: true},
		func(v *view) (string, clock.Time, bool) {
			presses, both := 0, 0
			for _, c := range v.reel.Cues {
				if c.Verb == part.Press && c.End-c.Start > 60*clock.Millisecond {
					presses++
					held, a := v.numberAt(c.End)
					then, b := v.numberAt(c.End + 80*clock.Millisecond)
					if begins(v.track, c.Start, 80*clock.Millisecond) && begins(v.track, c.End, 80*clock.Millisecond) &&
						!(a && (!b || held == then)) { // a point that goes out counts nothing
						both++
					}
				}
			}
			if len(v.track.Frames)-1 > 3*presses || v.answersRight() || v.wrongWhilePressed() {
				return "", 0, false // it changes all the time, or as it should, or is wrong before the release
			}
			text := "%s changes when a press begins and again when it ends: releasing the button is counted as well."
			if v.track.Geometry.Type().Traits().Single {
				text = "%s changes when a press begins and back when it ends: it follows the button, or releasing is counted as well."
			}
			return fmt.Sprintf(text, v.track.Display), firstPress(v.reel), presses > 1 && both*3 >= presses*2
		}},
	{finding.Entry{Code: "on-release", Doc: "a display changes when a button is released, not when it is pressed",
		Order: 9, Sure: true}, func(v *view) (string, clock.Time, bool) {
		presses, late := 0, 0
		for _, c := range v.reel.Cues {
			if c.Verb == part.Press && c.End-c.Start > 60*clock.Millisecond {
				presses++
				if !begins(v.track, c.Start, min(c.End-c.Start, 250*clock.Millisecond)) &&
					begins(v.track, c.End, 80*clock.Millisecond) {
					late++
				}
			}
		}
		return fmt.Sprintf("%s changes when the button is released, not when it is pressed.", v.track.Display),
			firstPress(v.reel), presses > 0 && late*3 >= presses*2 && len(v.track.Frames)-1 <= 3*presses &&
				v.amissWhilePressed()
	}},
	{finding.Entry{Code: "uneven", Doc: "digits differ in brightness by more than a half", Order: 10, Fact: true},
		func(v *view) (string, clock.Time, bool) {
			for _, f := range v.track.Frames {
				if f.State.Uneven && f.Length() > 200*clock.Millisecond {
					return fmt.Sprintf("The brightness of %s's digits differs by more than half: one is lit longer than the others in each scan.",
						v.track.Display), f.From, true
				}
			}
			return "", 0, false
		}},
	{finding.Entry{Code: "ghosts", Doc: "digits show a ghost of their neighbour", Order: 11, Sure: true, Fact: true},
		func(v *view) (string, clock.Time, bool) {
			return fmt.Sprintf("Digits of %s show a ghost of their neighbour: switch the digit off before changing the segments.",
				v.track.Display), 0, v.track.Quality != nil && v.track.Quality.Ghost > judge.SeenGhost
		}},
	{finding.Entry{Code: ignoredKey, Doc: "a button, or a key, is never answered", Order: 2, Sure: true, Input: true,
		Subsumes: []finding.Code{"dark", "never-clears", "never-changes", "goes-dark", "goes-on"}},
		ignored},
	{finding.Entry{Code: "count-start", Doc: "a number begins with another one than it should", Order: 2, Sure: true},
		beginsElsewhere},
	{finding.Entry{Code: "too-early", Doc: "a display shows at power-on what should come after an input", Order: 2,
		Sure:     true,
		Subsumes: []finding.Code{"never-clears", "never-changes"}}, tooEarly},
	{finding.Entry{Code: "goes-dark", Doc: "a display goes dark and stays dark", Order: 10, Sure: true, Seen: true,
		Subsumes: []finding.Code{"pattern"}}, goesOut},
	{finding.Entry{Code: "never-changes", Weak: true, Doc: "a display shows the same from beginning to end", Order: 16,
		Sure: true, Seen: true}, func(v *view) (string, clock.Time, bool) {
		text := "%s never changes."
		if frames := v.track.Frames; v.track.Geometry.Type().Traits().Single && len(frames) > 0 &&
			!frames[len(frames)-1].State.Unlit() {
			text = "%s is lit from beginning to end."
		}
		return fmt.Sprintf(text, v.track.Display), 0, v.unchanged()
	}},
}

// lostBytes looks for what the chip noted of bytes that its serial port did not take, of a part that is at its line.
func lostBytes(v *view) (string, clock.Time, bool) {
	p := v.x.Part(v.track.Display)
	if p == nil || v.x.Chip == nil || !slices.ContainsFunc(v.x.Chip.Serial, func(port machine.SerialPort) bool {
		return slices.Contains(p.Wired, v.x.Chip.Pins[port.Transmit].Name)
	}) {
		return "", 0, false
	}
	for _, n := range v.reel.Notes {
		if n.Code == "serial-lost" {
			return n.Text, n.At, true
		}
	}
	return "", 0, false
}

// unchanged reports whether a display that lost marks shows the same all along, and not because it follows something
// else that is wrong.
func (v *view) unchanged() bool {
	frames := v.track.Frames
	if len(frames) == 2 && v.track.Nothing(frames[0].State) && frames[0].To <= soon { // while it is started
		frames = frames[1:]
	}
	traits := v.track.Geometry.Type().Traits()
	value := v.x.Senses() && (traits.Single || traits.Mixes) && v.led() // it follows a value that is wrong
	return len(frames) <= 1 && len(v.verdicts) > 0 && !v.noted("charge-pump") && !v.follows() && !value &&
		(v.shouldChange() || !moves(v.reels, v.track.Display))
}

// wrongWhilePressed reports whether all that differs was read while an input was used.
func (v *view) wrongWhilePressed() bool {
	lost := false
	for _, x := range v.verdicts {
		if x.Outcome == judge.Met {
			continue
		}
		if len(x.Alignment) != 1 || x.Alignment[0].Expected == nil {
			return false
		}
		if lost = true; !v.used(middle(x.Alignment[0].Expected)) {
			return false
		}
	}
	return lost
}

// amissWhilePressed reports whether something differs in time, or while an input is used: what follows its end is late
// then.
func (v *view) amissWhilePressed() bool {
	return slices.ContainsFunc(v.verdicts, func(x judge.Verdict) bool {
		return slices.ContainsFunc(x.Alignment, func(p judge.Pair) bool {
			switch {
			case p.Operation == judge.Mistimed:
				return true
			case p.Operation == judge.Right || p.Operation == judge.Ignored || p.Expected == nil:
				return false
			}
			return v.used(p.Expected.From)
		})
	})
}

// goesOut looks for a display of several lights that is right until it goes dark, and stays so.
func goesOut(v *view) (string, clock.Time, bool) {
	t := v.track
	if traits := t.Geometry.Type().Traits(); traits.Single || traits.Tone || traits.Lines || len(t.Frames) < 3 {
		return "", 0, false
	}
	last := t.Frames[len(t.Frames)-1]
	if !v.track.Nothing(last.State) || last.Length() < clock.Second {
		return "", 0, false
	}
	right, wrong := 0, 0
	for _, p := range fault.Pairs(v.reel, t.Display, v.all) {
		switch {
		case !p.Wrong:
			right++
		case p.At < last.From-dawdle || v.track.Nothing(p.Want):
			return "", 0, false
		default:
			wrong++
		}
	}
	return fmt.Sprintf("%s goes dark at %s and stays dark.", t.Display, last.From), last.From, right >= 2 && wrong > 0
}

// ignored looks for a button or a key whose presses nothing follows, where others are answered, or where it should be.
func ignored(v *view) (string, clock.Time, bool) {
	if !v.readable() || len(v.track.Frames) < 2 { // what never changes answers nothing, whatever is used
		return "", 0, false
	}
	type input struct{ part, key, verb string }
	answered := map[input]bool{}
	for _, r := range v.reels {
		for i, c := range r.Cues {
			if c.Verb != part.Press && c.Verb != part.Turn && c.Verb != part.Set {
				continue
			}
			end := c.End + 400*clock.Millisecond
			if i+1 < len(r.Cues) {
				end = min(end, r.Cues[i+1].Start)
			}
			k := input{c.Part, c.Key, c.Verb}
			for _, t := range r.Tracks {
				for _, f := range t.Frames {
					answered[k] = answered[k] || f.From > c.Start && f.From <= end
				}
				answered[k] = answered[k] || stirred(&t, r.Cues[i:])
			}
		}
	}
	for _, c := range v.reel.Cues {
		k := input{c.Part, c.Key, c.Verb}
		if done, used := answered[k]; done || !used || !v.expected(c.Start, v.until(c)) {
			continue
		}
		name := k.part
		if k.key != "" {
			name = fmt.Sprintf("key %s of %s", k.key, k.part)
		}
		return fmt.Sprintf("Nothing follows when %s is used: the program does not look at it, or not at that time.",
			name), c.Start, true
	}
	return "", 0, false
}

// stirred reports whether a display that was still before an input begins to change some time after it, before the
// next one comes: what it shows then may be wrong, but it is no key that is ignored.
func stirred(t *display.Track, cues []reel.Fired) bool {
	end := cues[0].Start + 2*clock.Second
	if len(cues) > 1 {
		end = min(end, cues[1].Start)
	}
	i := slices.IndexFunc(t.Frames, func(f display.Frame) bool { return f.From > cues[0].Start })
	if i <= 0 || t.Frames[i].From > end {
		return false
	}
	wait := t.Frames[i].From - cues[0].Start
	return i == 1 || t.Frames[i-1].From < cues[0].Start-wait || t.Frames[i-2].State.Unlit()
}

// beginsElsewhere looks for a number that is another one from power-on on.
func beginsElsewhere(v *view) (string, clock.Time, bool) {
	seen, want, other := v.startsAt()
	if !other {
		seen, want, other = v.startsBefore()
	}
	return fmt.Sprintf("The number on %s begins with %d where %d is expected.", v.track.Display, seen, want), 0,
		other && len(v.track.Frames) > 1
}

// startsBefore is the number that a display begins with, and the one that it should begin with, where all of a sequence
// is right but that it begins one step too soon.
func (v *view) startsBefore() (seen, want int, is bool) {
	for _, x := range v.verdicts {
		if x.Display != v.track.Display || len(x.Alignment) < 4 || x.Alignment[0].Operation != judge.Extra ||
			x.Alignment[0].Seen.State == nil || slices.ContainsFunc(x.Alignment[1:], amiss) {
			continue
		}
		first, second := x.Alignment[1].Expected, x.Alignment[2].Expected
		if first.State == nil || second.State == nil {
			continue
		}
		n, a := v.number(*x.Alignment[0].Seen.State)
		m, b := v.number(*first.State)
		k, c := v.number(*second.State)
		if a && b && c && n != m && n-m == m-k {
			return n, m, true
		}
	}
	return 0, 0, false
}

// startsAt is the number that a display begins with, and the one that is asked for before the first input; other is
// false where they are the same, or where one of them is not known.
func (v *view) startsAt() (seen, want int, other bool) {
	if len(v.reel.Cues) == 0 || len(v.track.Frames) == 0 || v.set() {
		return 0, 0, false
	}
	first, ok := v.number(v.track.Frames[0].State)
	for k, x := range v.all {
		if x.Display == v.track.Display && judge.IsSequence(v.trial().Expect[k].Kind) && len(x.Alignment) > 2 {
			if n, is := v.waitsAt(x.Alignment); is && ok && n != first {
				return first, n, n < 1000 && first < 1000
			}
		}
		if x.Display != v.track.Display || len(x.Alignment) != 1 || v.trial().Expect[k].Kind != "reads" {
			continue
		}
		l := x.Alignment[0]
		if l.Operation == judge.Wrong && l.Expected.State != nil && l.Expected.From < v.reel.Cues[0].Start &&
			v.track.Frames[0].To > l.Expected.From {
			n, is := v.number(*l.Expected.State)
			return first, n, ok && is && n != first && n < 1000 && first < 1000
		}
	}
	return 0, 0, false
}

// waitsAt is the number that a sequence should begin with, where the display stands still up to the first input, shows
// something else, and goes on from there by as much as it should.
func (v *view) waitsAt(all []judge.Pair) (int, bool) {
	begin, then := all[0], all[1]
	if begin.Operation == judge.Right || begin.Operation == judge.Mistimed || begin.Expected == nil ||
		begin.Expected.State == nil || then.Expected == nil || then.Expected.State == nil ||
		len(v.track.Frames) < 2 || v.track.Frames[0].To <= v.reel.Cues[0].Start {
		return 0, false
	}
	first, a := v.number(*begin.Expected.State)
	second, b := v.number(*then.Expected.State)
	is, c := v.number(v.track.Frames[0].State)
	next, d := v.number(v.track.Frames[1].State)
	return first, a && b && c && d && second-first == next-is
}

// tooEarly looks for a sequence whose second state stands at power-on, before any input.
func tooEarly(v *view) (string, clock.Time, bool) {
	if len(v.reel.Cues) == 0 || len(v.track.Frames) == 0 {
		return "", 0, false
	}
	first, cue := v.track.Frames[0], v.reel.Cues[0]
	if p := v.x.Part(cue.Part); p != nil && p.Kind.Measured { // a sensor has a value from the start
		return "", 0, false
	}
	if begins(v.track, cue.Start, 300*clock.Millisecond) { // it does follow, from another state
		return "", 0, false
	}
	if _, counts := v.number(first.State); counts || v.track.Nothing(first.State) {
		return "", 0, false // it begins with another number; what is dark does not come too early
	}
	for _, x := range v.verdicts {
		if len(x.Alignment) < 3 || x.Alignment[0].Expected == nil || x.Alignment[1].Expected == nil ||
			x.Alignment[1].Expected.State == nil || x.Alignment[0].Operation == judge.Right {
			continue
		}
		if second := *x.Alignment[1].Expected.State; v.track.Alike(first.State, second) &&
			cue.Start > 100*clock.Millisecond {
			return fmt.Sprintf("%s shows %s from the start: the program does not wait for %s.", v.track.Display,
				v.track.Short(first.State), cue.Part), first.From, true
		}
	}
	return "", 0, false
}

// symptoms gives what the displays that lost marks show of causes, each once, by some signs.
func symptoms(signs []symptom, x *exercise.Exercise, seen []Seen) (out []Finding) {
	told := map[string]bool{}
	for _, s := range signs {
		for i, t := range seen {
			for k := range t.Reel.Tracks {
				v := &view{x: x, reel: t.Reel, track: &t.Reel.Tracks[k], all: t.Verdicts}
				for other := range seen {
					v.reels = append(v.reels, seen[other].Reel)
					if other != i {
						v.others = append(v.others, seen[other].Verdicts...)
					}
				}
				for _, verdict := range t.Verdicts {
					if verdict.Display == v.track.Display && verdict.Outcome != judge.Met {
						v.verdicts = append(v.verdicts, verdict)
					}
				}
				if len(v.verdicts) == 0 || told[s.key(v.track.Display)] {
					continue
				}
				v.nth = fault.Which(v.track, fault.Pairs(v.reel, v.track.Display, v.verdicts))
				if text, at, ok := s.find(v); ok && !slices.ContainsFunc(out, func(f Finding) bool {
					return finding.Of(f.Code).Covers(s.Entry) && (f.Part == v.track.Display || finding.Of(f.Code).Input)
				}) {
					told[s.key(v.track.Display)] = true
					out = append(out, Finding{Code: s.Code, Text: text, Part: v.track.Display, Trial: i, At: at,
						Evidence: []string{"at " + at.String()}})
				}
			}
		}
	}
	return out
}
