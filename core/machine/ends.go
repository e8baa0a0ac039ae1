package machine

import "slices"

// End is where something that counts may end: at more than a limit, or less, it becomes another number.
type End struct {
	Limit, To int64
	Below     bool // it is less than the limit
	Rare      int  // how seldom that is, see Alteration
}

// mostEnds is how many of them are listed.
const mostEnds = 12

// Ends are those that what was seen speaks for, and those that the author was told: a number stays at its limit, or
// goes on at what was expected.
func (h Hints) Ends() (out []End) {
	add := func(e End) {
		known := slices.ContainsFunc(out, func(o End) bool {
			return o.Limit == e.Limit && o.To == e.To && o.Below == e.Below
		})
		if !known && e.Limit >= 0 && e.To >= 0 && len(out) < mostEnds {
			out = append(out, e)
		}
	}
	for k, p := range h.Pairs {
		rare := Seldom
		if k == 0 {
			rare = 0
		}
		want, seen := p[0], p[1]
		if seen > want {
			add(End{Limit: want, To: want, Rare: rare})
			for _, n := range h.Told {
				if n > 1 && want < n && n < seen-1 {
					add(End{Limit: n, To: want, Rare: rare})
				}
			}
			add(End{Limit: seen - 1, To: want, Rare: rare})
		}
		add(End{To: want, Below: true, Rare: rare})
		if seen < want {
			add(End{Limit: want, To: want, Below: true, Rare: rare})
		}
	}
	for _, n := range h.Told {
		if n > 1 {
			add(End{Limit: n, To: n, Rare: Seldom})
			add(End{Limit: n, Rare: Seldom})
			add(End{Limit: n - 1, Rare: Seldom})
		}
	}
	add(End{Below: true, Rare: Seldom})
	return out
}
