package marking

import (
	"math/big"
	"slices"

	"hemble/core/diagnosis"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/sheet"
)

// price has each tested mistake cost once: an expectation that it touched, whose marks its repair raises, gives the
// marks of the repaired run less the mistake's price. What was seen alone stands where it gives more, but a mistake
// costs some of what it touched at least. Prices of two mistakes add up. It is done expectation by expectation, so that
// the lines of a sheet add up to its marks.
func price(x *exercise.Exercise, s *sheet.Sheet, found []diagnosis.Finding) {
	if x.Each {
		return
	}
	type cost struct{ full, least *big.Rat }
	var chain []diagnosis.Finding
	var costs []cost
	for _, f := range found {
		if f.After == nil {
			continue
		}
		if !f.Tested {
			break
		}
		c := cost{}
		c.full, c.least = share(x, f.Code)
		chain, costs = append(chain, f), append(costs, c)
	}
	if len(chain) == 0 {
		atLeast(x, s, found)
		return
	}
	paid := make([][]sheet.Marks, len(chain)) // by trials
	for n := range paid {
		for range s.Trials {
			paid[n] = append(paid[n], sheet.NewMarks(nil))
		}
	}
	for i := range s.Trials {
		for k := range s.Trials[i].Verdicts {
			v := &s.Trials[i].Verdicts[k]
			before, full, least := v.Marks.Rat, new(big.Rat), new(big.Rat)
			var by []int
			for n, f := range chain {
				if after := f.After[i][k]; after.Cmp(before) > 0 {
					by = append(by, n)
					full.Add(full, costs[n].full)
					least.Add(least, costs[n].least)
					before = after
				}
			}
			if by == nil {
				continue
			}
			plain := v.Marks
			marks := priced(plain.Rat, before, v.Of.Rat, full, least)
			v.Plain, v.Marks, v.Opened = &plain, sheet.NewMarks(marks), v.Gate && before.Cmp(v.Of.Rat) >= 0
			lost := new(big.Rat).Sub(before, marks)
			lost.Quo(lost, big.NewRat(int64(len(by)), 1))
			for _, n := range by {
				paid[n][i] = paid[n][i].Add(sheet.NewMarks(lost))
			}
		}
		s.Trials[i].Marks = trialMarks(&x.Trials[i], s.Trials[i].Verdicts)
	}
	n := 0
	for i := range s.Findings {
		if n < len(chain) && s.Findings[i].Code == chain[n].Code {
			m := sheet.NewMarks(nil)
			for _, p := range paid[n] {
				m = m.Add(p)
			}
			s.Findings[i].Price, s.Findings[i].Paid = &m, paid[n]
			n++
		}
	}
}

// atLeast has a mistake cost what it does at least where it is explained and no more: by a repair that was no test. It
// brings no marks, but a wrong state among many that are right is no cheaper than where its cause could be tested.
func atLeast(x *exercise.Exercise, s *sheet.Sheet, found []diagnosis.Finding) {
	at := slices.IndexFunc(found, func(f diagnosis.Finding) bool { return f.After != nil })
	if at < 0 {
		return
	}
	_, part := share(x, found[at].Code)
	for i := range s.Trials {
		for k := range s.Trials[i].Verdicts {
			v := &s.Trials[i].Verdicts[k]
			after := found[at].After[i][k]
			if after.Cmp(v.Marks.Rat) <= 0 {
				continue
			}
			if marks := priced(v.Marks.Rat, after, v.Of.Rat, big.NewRat(1, 1), part); marks.Cmp(v.Marks.Rat) < 0 {
				plain := v.Marks
				v.Plain, v.Marks = &plain, sheet.NewMarks(marks)
			}
		}
		s.Trials[i].Marks = trialMarks(&x.Trials[i], s.Trials[i].Verdicts)
	}
}

// priced are the marks of an expectation by what was seen and by what was seen repaired, where mistakes cost shares of
// its full marks.
func priced(plain, repaired, of, cost, least *big.Rat) *big.Rat {
	less := func(share *big.Rat) *big.Rat {
		left := new(big.Rat).Sub(repaired, new(big.Rat).Mul(share, of))
		if left.Sign() < 0 {
			left.SetInt64(0)
		}
		return left
	}
	marks, most := less(cost), less(least)
	if plain.Cmp(most) < 0 {
		most = plain
	}
	if most.Cmp(marks) > 0 {
		return most
	}
	return marks
}

// Priced are the marks that a program with one mistake would get in a trial, where it is found and all else is right:
// by the marks of each expectation as they would be seen.
func Priced(x *exercise.Exercise, trial int, code finding.Code, seen []*big.Rat) *big.Rat {
	cost, least := share(x, code)
	if finding.Of(code).Explains {
		cost = big.NewRat(1, 1)
	}
	sum := new(big.Rat)
	for k, plain := range seen {
		of := x.Trials[trial].Expect[k].Marks
		if plain.Cmp(of) < 0 && !x.Each {
			plain = priced(plain, of, of, cost, least)
		}
		sum.Add(sum, plain)
	}
	return sum
}

// share is the fraction of what it touched that a mistake costs, and at least: nothing where it has a deduction.
func share(x *exercise.Exercise, code finding.Code) (cost, least *big.Rat) {
	for _, d := range x.Deductions {
		if finding.Family(string(code), string(d.Finding)) {
			return new(big.Rat), new(big.Rat)
		}
	}
	p := finding.Of(code).Price
	cost, least = p.Usual()
	if set := x.Prices[p]; set != nil {
		cost = set
		if least.Cmp(cost) > 0 {
			least = cost
		}
	}
	return cost, least
}
