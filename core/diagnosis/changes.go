package diagnosis

import (
	"math/big"
	"slices"

	"hemble/core/machine"
	"hemble/core/reel"
)

// changes tries changes of a program, one after the other.
type changes struct {
	*search
	on             *attempt
	again          *again
	base           *reel.Reel           // of the program as it is
	list           []machine.Alteration // the likely ones first
	told           []int64              // see machine.Hints
	there, missing budget               // for what stands in the program, and for what may be missing in it
	idle           map[uint32]bool      // in a table: another number there changes nothing
	weak           []promise            // by which the first difference stays, and something is gained
}

// budget is the effort that is left.
type budget struct {
	runs, builds int64
	limit, each  int64 // of one run: at most, and beside what it does
}

// of is the budget of a change.
func (c *changes) of(change machine.Alteration) *budget {
	if change.Slip == machine.Missing {
		return &c.missing
	}
	return &c.there
}

// find gives the first one that makes everything as expected; nil where none does.
func (c *changes) find() (*candidate, error) {
	for _, change := range c.list {
		if change.Rare >= machine.Unlikely {
			if found, err := c.promising(); found != nil || err != nil {
				return found, err
			}
		}
		if found, err := c.try(change); found != nil || err != nil {
			return found, err
		}
	}
	c.there.runs = max(c.there.runs, forAltered/4)
	return c.promising()
}

// try runs a change up to a little behind the first difference, and, where that is gone, in full.
func (c *changes) try(change machine.Alteration) (*candidate, error) {
	left := c.of(change)
	if left.runs < 0 {
		c.cutOff = true
		return nil, nil
	}
	if c.idle[change.Address] || change.Rare <= machine.Likely && left.runs < forLikely(change.Rare) ||
		change.Effort > left.builds {
		return nil, nil
	}
	left.builds -= change.Effort
	found := c.changed(change)
	x := c.on.bench.Clone()
	found.size.Bench(x)
	r, effort, err := c.repairer.Attempt(c.ctx, x, c.on.trial, left.limit, c.on.points)
	if err != nil {
		return nil, err
	}
	left.runs -= effort + left.each
	if r == nil {
		return nil, nil
	}
	if c.on.differs(r) <= c.on.first+dawdle {
		if marks := c.repairer.Score(c.on.trial, r); marks.Cmp(c.on.marks) > 0 {
			c.weak = append(c.weak, promise{found, marks, left})
		} else {
			c.idle[change.Address] = change.Table != "" && !c.on.glows() && sameShown(c.base, r, r.Length)
		}
		return nil, nil
	}
	whole, err := c.fully(c.again, &found, &left.runs)
	if err != nil || !whole {
		return nil, err
	}
	if _, meant := change.Numbers(); slices.Contains(c.told, meant) {
		return &found, nil // the author was told that number
	}
	return c.nearest(c.again, found, change, c.list, &left.runs)
}

// promising runs in full those of the weak that have not been yet, the ones first that gain most.
func (c *changes) promising() (*candidate, error) {
	weak := c.weak
	c.weak = nil
	slices.SortStableFunc(weak, func(x, y promise) int { return y.marks.Cmp(x.marks) })
	for i := range weak {
		if weak[i].left.runs < 0 {
			c.cutOff = true
			continue
		}
		if whole, err := c.fully(c.again, &weak[i].candidate, &weak[i].left.runs); whole || err != nil {
			return &weak[i].candidate, err
		}
	}
	return nil, nil
}

// promise is a change with what a short run of it earned, and the budget that it is run on.
type promise struct {
	candidate
	marks *big.Rat
	left  *budget
}
