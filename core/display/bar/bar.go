// Package bar is the display type of a row of independent lights.
package bar

import (
	"fmt"
	"math/bits"
	"slices"
	"strconv"

	"hemble/core/display"
	"hemble/core/display/lights"
	"hemble/core/finding"
	"hemble/core/spec"
)

// Form is the word for it in reels.
const Form display.TypeName = "bar"

func init() { display.Register(bar{}) }

type bar struct{ lights.Type }

func (bar) Name() display.TypeName { return Form }
func (bar) Traits() display.Traits { return display.Traits{Member: true} }

func (bar) Describe(_ *display.Track, s display.State) string { return lights.Row(s.Lights) }

// Short counts the lights that are lit from the first one on.
func (bar) Short(_ *display.Track, s display.State) string {
	if n := bits.OnesCount64(s.Lights.Bits()); s.Lights.Bits() == 1<<n-1 {
		return fmt.Sprintf("%d of %d", n, len(s.Lights))
	}
	return ""
}

// Read reads how many lights of a bar are lit from its first on, or which, as # and dots.
func (bar) Read(w display.Written, ps *spec.Problems) display.Matcher {
	n := len(w.Geometry.Shapes)
	if count, err := strconv.Atoi(w.Text); err == nil && count >= 0 && count <= n {
		return &lights.Matcher{Pattern: 1<<count - 1, N: n, Text: w.Text}
	}
	m := &lights.Matcher{N: n, Text: w.Text}
	for i, r := range w.Text {
		switch {
		case r == '#':
			m.Pattern |= 1 << i
		case r != '.':
			i = n
		}
		if i >= n {
			ps.Add(w.Pos, "%q is not what a bar of %d can show; write how many are lit, or a # or . for each", w.Text,
				n)
			return nil
		}
	}
	return m
}

// Spell counts the lit lights, or tells each.
func (bar) Spell(_ *display.Track, s display.State) []string {
	dots := ""
	for _, l := range s.Lights {
		dots += map[bool]string{true: "#", false: "."}[l == display.Lit]
	}
	return []string{fmt.Sprint(bits.OnesCount64(s.Lights.Bits())), display.Quoted(dots)}
}

func (bar) Mistakes() []*display.Mistake {
	return []*display.Mistake{lights.Inverted, lights.Pattern, turned, lights.Dot, exchanged}
}

var turned = &display.Mistake{
	Entry: finding.Entry{Code: "turned", Price: finding.Wiring, Doc: "a picture is upside down, mirrored or turned"},
	Sizes: func(c *display.Case) []display.Size {
		sizes := []display.Size{{Text: "The lights of " + c.Name +
			" are in reverse order: the first is where the last should be.",
			State: lights.Relit(func(l display.Lights) { slices.Reverse(l) })}}
		if c.Geometry.Lights() <= eight {
			return sizes
		}
		end := min(c.Geometry.Lights(), 2*eight)
		return append(sizes,
			display.Size{Text: fmt.Sprintf("The first eight lights of %s are in reverse order.", c.Name),
				State: lights.Relit(func(l display.Lights) { slices.Reverse(l[:eight]) })},
			display.Size{Text: fmt.Sprintf("The lights of %s from the ninth to number %d are in reverse order.", c.Name, end),
				State: lights.Relit(func(l display.Lights) { slices.Reverse(l[eight:end]) })})
	},
}

// eight is how many lights a port or a register drives.
const eight = 8

var exchanged = &display.Mistake{
	Entry: finding.Entry{Code: "wires-swapped", Price: finding.Wiring, Doc: "two signal lines are exchanged"},
	Sizes: func(c *display.Case) (sizes []display.Size) {
		n := len(c.Geometry.Shapes)
		for a := range n {
			for b := a + 1; b < n; b++ {
				if c.Judged && !explains(c, a, b) {
					continue
				}
				sizes = append(sizes, display.Size{Rare: b > a+1,
					Text:  fmt.Sprintf("Lights %d and %d of %s are exchanged.", a+1, b+1, c.Name),
					State: lights.Relit(func(l display.Lights) { l[a], l[b] = l[b], l[a] })})
			}
		}
		return sizes
	},
}

// explains reports whether two lights exchanged make all that is wrong right, of at least two states.
func explains(c *display.Case, a, b int) bool {
	wrong := 0
	for _, p := range c.Pairs {
		l := slices.Clone(p.Seen.Lights)
		if l[a], l[b] = l[b], l[a]; !slices.Equal(l, p.Want.Lights) {
			return false
		}
		if p.Wrong {
			wrong++
		}
	}
	return wrong >= 2
}
