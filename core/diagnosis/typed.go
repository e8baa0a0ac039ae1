package diagnosis

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/part"
)

// typed are the signs of what a terminal says to the lines that are typed on it.
var typed = []symptom{
	{finding.Entry{Code: "not-cleared-typed", Order: 8, Sure: true,
		Subsumes: []finding.Code{"ignored-key", "dark", "never-changes", "words", "goes-on"},
		Doc:      "a line that is typed is taken with the ones before it",
		Catch:    "type several lines that are answered in different ways"}, sameToAll},
	{finding.Entry{Code: "extra-step", Order: 8, Sure: true}, oneLineMore},
	{finding.Entry{Code: "words-typed", Order: 8, Sure: true, Subsumes: []finding.Code{"words"},
		Doc:   "one of the commands that can be typed is answered as none should be, or as another one",
		Catch: "type each command, and write its answer in `says`"}, otherReply},
}

// reply is what is said after a line was typed.
type reply struct {
	typed      string // without its line end
	want       string
	said       []string
	from, upTo clock.Time
}

// command is the first word of what was typed.
func (r reply) command() string {
	word, _, _ := strings.Cut(r.typed, " ")
	return word
}

// right reports whether one line was said, and the one that was wanted.
func (r reply) right() bool { return len(r.said) == 1 && r.said[0] == r.want }

// replies are what a terminal said to each line that was typed on it, where one line is expected after each, and what
// is said before the first is right; nil for others.
func (v *view) replies() (out []reply) {
	if !v.track.Geometry.Type().Traits().Lines {
		return nil
	}
	for _, c := range v.reel.Cues {
		_, quoted, _ := strings.Cut(c.Text, ` "`)
		text, err := strconv.Unquote(`"` + quoted)
		if c.Verb != part.Type || c.Part != v.track.Display || err != nil {
			return nil
		}
		if n := len(out); n > 0 {
			out[n-1].upTo = c.Start
		}
		out = append(out, reply{typed: strings.TrimRight(text, "\r\n"), from: c.Start, upTo: v.reel.Length})
	}
	var want []string
	for _, x := range v.verdicts {
		for _, l := range x.Alignment {
			if asks(l) {
				want = append(want, strings.Trim(l.Expected.Text, `"`))
			}
		}
	}
	first := len(want) - len(out)
	if len(v.verdicts) != 1 || first < 0 || len(out) < 2 {
		return nil
	}
	for i := range out {
		out[i].want = want[first+i]
	}
	var before []string
	for _, f := range v.track.Frames {
		k := slices.IndexFunc(out, func(r reply) bool { return r.from <= f.From && f.From < r.upTo })
		switch {
		case f.State.Line == "":
		case k < 0:
			before = append(before, f.State.Line)
		default:
			out[k].said = append(out[k].said, f.State.Line)
		}
	}
	if !slices.Equal(before, want[:first]) {
		return nil
	}
	return out
}

// sameToAll looks for a terminal that answers whatever is typed as it answered the first line.
func sameToAll(v *view) (string, clock.Time, bool) {
	all := v.replies()
	if len(all) == 0 || !all[0].right() {
		return "", 0, false
	}
	wrong := 0
	for _, r := range all[1:] {
		if len(r.said) != 1 || r.said[0] != all[0].said[0] {
			return "", 0, false
		}
		if !r.right() {
			wrong++
		}
	}
	return fmt.Sprintf("%s answers all that is typed as it answered %q, with %q: what was typed before is not cleared away, or nothing else is looked at.",
		v.track.Display, all[0].typed, all[0].said[0]), all[0].from, wrong > 2
}

// oneLineMore looks for a command that is answered as it should, and with one line more, each time.
func oneLineMore(v *view) (string, clock.Time, bool) {
	all := v.replies()
	first := slices.IndexFunc(all, func(r reply) bool { return !r.right() })
	if first < 0 || len(all[first].said) != 2 || all[first].said[0] != all[first].want {
		return "", 0, false
	}
	odd := all[first]
	for _, r := range all {
		if (r.command() == odd.command()) != (len(r.said) == 2) {
			return "", 0, false
		}
	}
	return fmt.Sprintf("%s answers %q with one line too many: %q, and then %q.", v.track.Display, odd.typed, odd.said[0],
		odd.said[1]), odd.from, true
}

// otherReply looks for a command that is answered in other words than it should be, each time, where all others are
// answered rightly.
func otherReply(v *view) (string, clock.Time, bool) {
	all := v.replies()
	first := slices.IndexFunc(all, func(r reply) bool { return !r.right() })
	if first < 0 || len(all[first].said) != 1 {
		return "", 0, false
	}
	odd := all[first]
	for _, r := range all {
		if (r.command() == odd.command()) == r.right() {
			return "", 0, false
		}
	}
	same := slices.Equal(phraseOf(odd.said[0]).around, phraseOf(odd.want).around)
	return fmt.Sprintf("%s answers %q with %q, where %q is expected; all other commands are answered rightly.",
		v.track.Display, odd.typed, odd.said[0], odd.want), odd.from, !same
}
