package exercise

import (
	"math/big"

	"hemble/core/finding"
	"hemble/core/spec"
)

// readMarks reads what is at the file's top about marks.
func (x *Exercise) readMarks(v spec.Values) {
	prices := v.Get("prices").Map
	for _, p := range finding.Prices {
		if prices.Has(string(p)) && prices.Get(string(p)).Number != nil {
			if x.Prices == nil {
				x.Prices = map[finding.Price]*big.Rat{}
			}
			x.Prices[p] = prices.Get(string(p)).Number
		}
	}
	for _, d := range v.Get("deductions").List {
		if m := d.Map.Get("marks").Number; m != nil {
			x.Deductions = append(x.Deductions, Deduction{finding.Code(d.Map.Text("finding")), m, d.Map.At("finding")})
		}
	}
	for _, row := range v.Get("by-hand").List {
		if m := row.Map.Get("marks").Number; m != nil {
			x.ByHand = append(x.ByHand, ByHand{row.Map.Text("what"), row.Map.Text("notes"), m})
		}
	}
}
