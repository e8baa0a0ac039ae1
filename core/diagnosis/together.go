package diagnosis

import (
	"fmt"
	"strings"

	"hemble/core/exercise"
	"hemble/core/fault"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/reel"
)

// sets are the mistakes that were tried on parts one by one, by fault and kind of part: what a program does wrong with
// one button or one lamp, it mostly does wrong with all of them.
type sets []set

type set struct {
	fault *fault.Fault
	kind  *part.Kind
	order int
	parts []string
	sizes [][]fault.Size // of each part
}

func (s *sets) add(f *fault.Fault, order int, p *part.Instance, sizes []fault.Size) {
	if len(sizes) == 0 || f.Once {
		return
	}
	for i := range *s {
		if x := &(*s)[i]; x.fault == f && x.kind == p.Kind && len(x.sizes[0]) == len(sizes) {
			x.parts, x.sizes = append(x.parts, p.Name), append(x.sizes, sizes)
			return
		}
	}
	*s = append(*s, set{f, p.Kind, order, []string{p.Name}, [][]fault.Size{sizes}})
}

// together gives each mistake on all parts of a kind at once, where there are several.
func (s sets) together() (out []candidate) {
	for _, x := range s {
		if len(x.parts) < 2 {
			continue
		}
		for k := range x.sizes[0] {
			size := fault.Size{Text: fmt.Sprintf("%s The same holds for %s.", x.sizes[0][k].Text,
				strings.Join(x.parts[1:], " and "))}
			likely := 0
			var reels []func(*reel.Reel) *reel.Reel
			var benches []func(*exercise.Exercise)
			var afters []func(*reel.Reel) *reel.Reel // of inputs: of displays they cut what others need
			for _, of := range x.sizes {
				size.Against, size.Throughout = size.Against || of[k].Against, size.Throughout || of[k].Throughout
				if of[k].Likely {
					likely++
				}
				if of[k].Reel != nil {
					reels = append(reels, of[k].Reel)
				}
				if of[k].Bench != nil && (of[k].After == nil || x.kind.Geometry == nil) {
					benches = append(benches, of[k].Bench)
				}
				if of[k].After != nil {
					afters = append(afters, of[k].After)
				}
			}
			// what a program does with one part it does with all, but for how each is wired
			size.Likely = 2*likely > len(x.parts) || likely > 0 && x.fault.Price == finding.Behaviour
			switch len(x.parts) {
			case len(reels):
				size.Reel = inTurn(reels)
			case len(benches):
				size.Bench = func(y *exercise.Exercise) {
					for _, change := range benches {
						change(y)
					}
				}
				if len(afters) > 0 {
					size.After = inTurn(afters)
				}
			default:
				continue
			}
			out = append(out, candidate{fault: x.fault, size: size, part: x.parts[0], more: x.parts[1:], order: x.order,
				one: one{x.fault, x.kind, k}})
		}
	}
	return out
}

// inTurn makes one change of several.
func inTurn(changes []func(*reel.Reel) *reel.Reel) func(*reel.Reel) *reel.Reel {
	return func(r *reel.Reel) *reel.Reel {
		for _, change := range changes {
			r = change(r)
		}
		return r
	}
}
