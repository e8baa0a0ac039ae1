package finding

import "math/big"

// Price is what sort of mistake a cause is: it sets what the mistake costs.
type Price string

// The sorts of mistakes.
const (
	Form       Price = "form"       // the right value, written otherwise
	Constant   Price = "constant"   // a start, a limit, a word
	Pace       Price = "pace"       // all times by the same factor
	Single     Price = "single"     // one symbol, one step, one edge of a window
	Wiring     Price = "wiring"     // lines, polarity, order, direction
	Behaviour  Price = "behaviour"  // bounce, both edges, something that never ends
	Program    Price = "program"    // one place of the program, whose part in it has no name
	Unreadable Price = "unreadable" // nothing can be read until it is repaired
)

// Prices lists them.
var Prices = []Price{Form, Constant, Pace, Single, Wiring, Behaviour, Program, Unreadable}

// shares are in percent of the full marks of every expectation that a mistake touched: what it costs, and what it costs
// at least where the marks without any repair are higher. They are set so that the ranges of docs/marking.md come out.
var shares = map[Price][2]int64{
	Form: {35, 30}, Constant: {50, 30}, Pace: {50, 45}, Single: {35, 20}, Wiring: {55, 45}, Behaviour: {70, 50},
	Program: {65, 40}, Unreadable: {70, 50},
}

// Usual is the fraction that a mistake costs, and the least that it costs.
func (p Price) Usual() (cost, least *big.Rat) {
	s, ok := shares[p]
	if !ok {
		s = shares[Wiring]
	}
	return big.NewRat(s[0], 100), big.NewRat(s[1], 100)
}
