package judge

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/display"
	"hemble/core/spec"
)

func init() {
	register(&Kind{
		Name:  "scrolls",
		Parts: true,

		Sequence: true,

		Doc: "A text longer than the display passes over it, one place at a time, judged as by `shows`.",
		Fields: slices.Concat([]spec.Field{
			{Name: "text", Kind: spec.Text, Required: true, Doc: "the text"},
			{Name: "enters", Kind: spec.Choice, Choices: []string{"filled", "empty"}, Default: "empty",
				Doc: "whether the text enters an empty display and leaves it empty, or starts and ends with a full display"},
			{Name: "towards", Kind: spec.Choice, Choices: []string{"left", "right"}, Default: "left",
				Doc: "which way it moves"},
		}, timingFields),
		Example: `{scrolls: word, text: "HELLO boAtS", each: 300ms, marks: 4}`,
		Build: func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
			p := displayOf(s, "scrolls", v, ps)
			if p == nil || v.Text("text") == "" {
				return nil
			}
			look := p.Kind.Geometry(*p)
			spaced, ok := display.As[display.Spaced](look)
			if !ok {
				ps.Add(v.At("scrolls"), "nothing can scroll over %q, which is a %s", p.Name, p.Kind.Name)
				return nil
			}
			width := spaced.Places(look)
			text := v.Text("text")
			if v.Text("enters") == "empty" {
				text = strings.Repeat(" ", width) + text + strings.Repeat(" ", width)
			}
			places := []rune(text)
			if len(places) <= width {
				ps.Add(v.At("text"), "%q fits on the display; `reads` judges it", text)
				return nil
			}
			var frames []expected
			for i := 0; i+width <= len(places); i++ {
				w, _ := display.ReadFrame(spec.Value{Pos: v.At("text"), Text: string(places[i : i+width]),
					Node: v.Get("scrolls").Node}, p.Display(), v.Bool("strict"), ps)
				if w == nil {
					return nil
				}
				if n := len(frames); n > 0 && frames[n-1].want.Same(w) { // two that look alike are one, for longer
					frames[n-1].length += v.Time("each")
					continue
				}
				frames = append(frames, expected{want: w, length: v.Time("each")})
			}
			if v.Text("towards") == "right" {
				slices.Reverse(frames)
			}
			for _, end := range []int{0, len(frames) - 1} {
				frames[end].length = display.AnyLength
			}
			x := newShows(p, v, frames, s, ps)
			x.verb = fmt.Sprintf("scrolls %q", v.Text("text"))
			return x
		},
	})
}
