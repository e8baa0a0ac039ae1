// Package lights is what all display types made of lights share; they embed Type.
package lights

import (
	"fmt"
	"strings"

	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/vision"
)

// Type watches and draws lights that are independent of each other.
type Type struct{ display.Plain }

// Dark has all of them dark.
func (Type) Dark(g display.Geometry) display.State { return display.Emissive(0, g.Lights()) }

// Watch watches each light by itself.
func (Type) Watch(g display.Geometry, b display.Bench) display.Observer {
	of := make([]int, g.Lights())
	for i := range of {
		of[i] = -1
	}
	return vision.WatchEmissive(b, of)
}

// Draw draws each light.
func (Type) Draw(t *display.Track, s display.State) display.Drawing { return display.Lamps(t, s) }

// Sketch draws a row of lights.
func (Type) Sketch(_ *display.Track, s display.State) []string {
	return []string{"   " + Row(s.Lights) + "   "}
}

// Sample has every other light lit where the rest is dim.
func (Type) Sample(g display.Geometry, l display.Light) display.State {
	return Sample(g, l, func(x display.Shape) bool { return x.Light%2 == 0 })
}

// Row tells lights one by one.
func Row(l display.Lights) string {
	var b strings.Builder
	for _, s := range l {
		b.WriteRune([...]rune{'○', '●', '◌'}[s])
	}
	return b.String()
}

// InRows watches lights that are scanned in rows: the shapes say to which of them each belongs.
func InRows(g display.Geometry, b display.Bench) display.Observer {
	of := make([]int, g.Lights())
	for _, s := range g.Shapes {
		of[s.Light] = s.Digit
	}
	return vision.WatchEmissive(b, of)
}

// Sample is a state in which all lights are the same. Where they are dim, some are lit beside them, as a ghost stands
// beside something that is lit.
func Sample(g display.Geometry, l display.Light, beside func(display.Shape) bool) display.State {
	n := g.Lights()
	s := display.Emissive(0, n)
	for _, x := range g.Shapes {
		switch i := x.Light; {
		case l == display.Lit || l == display.Dim && n > 1 && beside(x):
			s.Lights[i], s.Levels[i] = display.Lit, 220
		case l == display.Dim:
			s.Lights[i], s.Levels[i] = display.Dim, 40
		}
	}
	return s
}

// Relit is a change of the lights of a state.
func Relit(change func(display.Lights)) func(*display.Track, display.State) display.State {
	return func(_ *display.Track, s display.State) display.State { return s.Relit(change) }
}

// Inverted is the mistake of lamps that are on when they should be off.
var Inverted = &display.Mistake{
	Entry: finding.Entry{Code: "lamp-inverted", Price: finding.Wiring,
		Doc:      "a lamp is on when it should be off, and the reverse",
		Subsumes: []finding.Code{"dark", "goes-dark"}},
	Sizes: func(c *display.Case) []display.Size {
		changes := false
		for _, t := range c.Tracks {
			changes = changes || len(t.Frames) > 1
		}
		if !changes { // always dark, or always lit: something else is wrong
			return nil
		}
		return []display.Size{{Text: c.Name +
			" is inverted: lit when it should be dark, and dark when it should be lit.", Throughout: true,
			State: Relit(func(l display.Lights) {
				for i := range l {
					l[i] = l[i].Flip()
				}
			})}}
	},
}

// Pattern is the mistake of a step that lights other lamps than it should, wherever it comes.
var Pattern = &display.Mistake{
	Entry: finding.Entry{Code: "pattern", Price: finding.Single, Doc: "the pattern of one symbol is wrong", Vague: true},
	Once:  true,
	Sizes: func(c *display.Case) []display.Size {
		wrong, asked := c.Instead()
		if len(wrong) == 0 || len(wrong) > 2 || 2*len(wrong) > asked {
			one, mended := c.Misstep()
			if one == nil {
				return nil
			}
			return []display.Size{{Text: fmt.Sprintf("One step of %s is wrong: where %s should come, it shows %s.",
				c.Name, one.On.Called(one.Want), one.On.Called(one.Seen)), Frames: mended}}
		}
		var words []string
		for _, p := range wrong {
			words = append(words, fmt.Sprintf("%s for %s", p.On.Called(p.Seen), p.On.Called(p.Want)))
		}
		return []display.Size{{Text: fmt.Sprintf("One pattern of %s is wrong, each time: %s.", c.Name,
			strings.Join(words, ", and ")), State: c.Restored(wrong)}}
	},
}
