package graphic

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/display"
	"hemble/core/finding"
)

// misdrawn is a character that cannot be read, or is read as another one, wherever it stands.
var misdrawn = &display.Mistake{
	Entry: finding.Entry{Code: "pattern", Price: finding.Single, Doc: "the pattern of one symbol is wrong", Vague: true},
	Once:  true,
	Sizes: func(c *display.Case) []display.Size {
		wrong, _ := c.Instead()
		if len(wrong) == 0 {
			return otherLetter(c)
		}
		rows := func(on *display.Track, s display.State) string {
			return strings.Join(strings.Fields(strings.Join(bitmap(on.Geometry, s).Text(), " ")), " ")
		}
		right := ""
		for _, p := range c.Pairs {
			if !p.Wrong {
				right += rows(p.On, p.Want)
			}
		}
		for _, one := range rows(wrong[0].On, wrong[0].Want) {
			if one == ' ' || strings.ContainsRune(right, one) {
				continue
			}
			if !slices.ContainsFunc(wrong, func(p display.Pair) bool {
				without := strings.ReplaceAll(rows(p.On, p.Want), string(one), " ")
				return strings.Join(strings.Fields(without), " ") != rows(p.On, p.Seen) || !unread(p)
			}) {
				return []display.Size{{Text: fmt.Sprintf("%s draws %q so that it cannot be read: its pattern is wrong.", c.Name,
					one), State: c.Restored(wrong)}}
			}
		}
		return otherLetter(c)
	},
}

// otherLetter is a character that is read as always the same other one, which no text that is asked for has.
func otherLetter(c *display.Case) []display.Size {
	var want, seen rune
	times, asked := 0, ""
	for _, p := range c.Pairs {
		a, b := (graphic{}).Rows(p.On, p.Want), (graphic{}).Rows(p.On, p.Seen)
		asked += strings.Join(a, "\n")
		if !p.Wrong {
			continue
		}
		for i := range a {
			x, y := []rune(strings.TrimSpace(a[i])), []rune(strings.TrimSpace(b[i]))
			if len(x) != len(y) {
				return nil
			}
			for k := range x {
				switch {
				case x[k] == y[k]:
				case times == 0 || x[k] == want && y[k] == seen:
					want, seen = x[k], y[k]
					times++
				default:
					return nil
				}
			}
		}
	}
	if times < 2 || want == ' ' || seen == ' ' || strings.ContainsRune(asked, seen) {
		return nil
	}
	return []display.Size{{Text: fmt.Sprintf("%s draws %q with the pattern of %q.", c.Name, want, seen),
		State: func(t *display.Track, s display.State) display.State {
			rows := graphic{}.Rows(t, s)
			for i := range rows {
				rows[i] = strings.ReplaceAll(rows[i], string(seen), string(want))
			}
			return graphic{}.WithRows(t, s, rows)
		}}}
}

// unread reports whether more pixels are lit than the text that can be read takes.
func unread(p display.Pair) bool {
	seen := bitmap(p.On.Geometry, p.Seen)
	read := bitmap(p.On.Geometry, *(&text{seen.Text()}).Ideal(p.On.Geometry))
	return seen.Count() > read.Count()+2
}

var inverted = &display.Mistake{
	Entry: finding.Entry{Code: "pixels-inverted", Price: finding.Wiring,
		Doc: "a picture is inverted: dark where it should be lit, and lit where it should be dark"},
	Sizes: func(c *display.Case) []display.Size {
		return []display.Size{{Text: fmt.Sprintf("The picture of %s is inverted: dark on a lit ground.", c.Name),
			State: func(_ *display.Track, s display.State) display.State {
				if s.Pixels == nil { // it is off
					return s
				}
				s.Pixels = slices.Clone(s.Pixels)
				for i := range s.Pixels {
					s.Pixels[i] = ^s.Pixels[i]
				}
				return s
			}}}
	},
}
