package judge

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hemble/core/display"
	"hemble/core/part"
	"hemble/core/spec"
)

// maxCount bounds how many numbers a count runs through.
const maxCount = 10_000

func init() {
	register(&Kind{
		Name:  "counts",
		Parts: true,

		Sequence:    true,
		Alternative: true,
		Ends:        "`limit: wraps` where the count begins again, `limit: stays` where the last number stays, `extra: ignore` where it does not matter",

		Doc: "The display counts: a sequence of numbers in equal steps, judged as by `shows`. `limit` says what may follow the last number.",
		Fields: slices.Concat([]spec.Field{
			{Name: "from", Kind: spec.Int, Min: -9_999_999, Max: 99_999_999, Required: true, Doc: "the first number"},
			{Name: "to", Kind: spec.Int, Min: -9_999_999, Max: 99_999_999, Required: true, Doc: "the last number"},
			{Name: "by", Kind: spec.Int, Min: 1, Max: 1_000_000, Default: "1",
				Doc: "the step, up or down according to from and to"},
			{Name: "as", Kind: spec.Choice, Choices: []string{"plain", "padded", "hex", "m:ss", "mm:ss"},
				Default: "plain",
				Doc:     "how numbers are written: `padded` has leading zeros in all digits, `m:ss` and `mm:ss` count seconds, without the colon on digits that have none"},
			{Name: "limit", Kind: spec.Choice, Choices: []string{"open", "stays", "wraps"}, Default: "open",
				Doc: "what follows the last number: `stays` (nothing else), `wraps` (the first one again, to the end of the trial), or `open` (not judged)"},
			{Name: "before", Kind: spec.Text, Doc: "text before the number, on a character display"},
			{Name: "behind", Kind: spec.Text, Doc: "text after the number"},
		}, timingFields),
		Example: "{counts: count, from: 8, to: 12, each: 1s, limit: stays, marks: 4}",
		Build: func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
			p := displayOf(s, "counts", v, ps)
			if p == nil || !v.Has("from") || !v.Has("to") {
				return nil
			}
			if grid := p.Kind.Geometry(*p).Grid; grid != nil && grid.Rows > 1 {
				ps.Warn(v.At("counts"),
					"the other rows of %s must be blank while it counts: `row: 1` looks at one row only, beside a title in another", p.Name)
			}
			texts := countTexts(v, p, ps)
			if texts == nil {
				return nil
			}
			var frames []expected
			var all []display.Matcher
			for i, text := range texts {
				w, _ := display.ReadFrame(spec.Value{Pos: v.At("from"), Text: text, Node: v.Get("counts").Node},
					p.Display(), v.Bool("strict"), ps)
				if w == nil {
					return nil
				}
				length := v.Time("each")
				if i == len(texts)-1 && v.Text("limit") == "stays" {
					length = display.AnyLength
				}
				all = append(all, w)
				frames = append(frames, expected{want: w, length: length})
			}
			display.TellApart(all)
			x := newShows(p, v, frames, s, ps)
			x.verb = fmt.Sprintf("counts from %s to %s", texts[0], texts[len(texts)-1])
			if v.Text("limit") == "wraps" {
				x.cycle = len(frames)
				x.verb += ", again and again"
			}
			return x
		},
	})
}

// countTexts writes the numbers.
func countTexts(v spec.Values, p *part.Instance, ps *spec.Problems) (out []string) {
	from, to, by := v.Int("from"), v.Int("to"), v.Int("by")
	step := by
	if to < from {
		step = -by
	}
	n := (to-from)/step + 1
	switch {
	case (to-from)%step != 0:
		ps.Add(v.At("to"), "steps of %d from %d do not come to %d", by, from, to)
		return nil
	case n > maxCount:
		ps.Add(v.At("to"), "that are %d numbers; a count has at most %d", n, maxCount)
		return nil
	case n < 2:
		ps.Add(v.At("to"), "a count has at least two numbers; `reads` judges one")
		return nil
	}
	look := p.Kind.Geometry(*p)
	counting, ok := display.As[display.Counting](look)
	if !ok {
		ps.Add(v.At("counts"), "%q is a %s and shows no numbers", p.Name, p.Kind.Name)
		return nil
	}
	width := counting.Figures(look)
	if width == 0 {
		width = max(len(strconv.FormatInt(from, 10)), len(strconv.FormatInt(to, 10)))
	}
	for i := range n {
		text := counting.Fit(look, writeCount(from+i*step, v.Text("as"), width))
		out = append(out, v.Text("before")+text+v.Text("behind"))
	}
	return out
}

func writeCount(n int64, as string, width int) string {
	switch as {
	case "padded":
		return fmt.Sprintf("%0*d", width, n)
	case "hex":
		return strings.NewReplacer("B", "b", "D", "d").Replace(strings.ToUpper(strconv.FormatInt(n, 16)))
	case "m:ss":
		return fmt.Sprintf("%d:%02d", n/60, n%60)
	case "mm:ss":
		return fmt.Sprintf("%02d:%02d", n/60, n%60)
	}
	return strconv.FormatInt(n, 10)
}
