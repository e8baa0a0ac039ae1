package machine

import (
	"slices"
	"strings"
)

// Board is how a kind of board calls the pins of its chip, printed beside its sockets.
type Board struct {
	Name    string            // the word in exercise files
	Title   string            // how it numbers its pins
	Chips   []string          // by name, those that stand on it
	Aliases map[string]string // pins of the chip by what the board calls them
}

var boards []*Board

// RegisterBoard adds a board.
func RegisterBoard(b *Board) { boards = append(boards, b) }

// Boards lists the boards there are for a chip, all of them for "".
func Boards(chip string) (out []*Board) {
	for _, b := range boards {
		if chip == "" || slices.Contains(b.Chips, chip) {
			out = append(out, b)
		}
	}
	slices.SortFunc(out, func(a, b *Board) int { return strings.Compare(a.Name, b.Name) })
	return out
}

// Pin gives the chip's pin that a board calls so; as it is where it calls none so.
func (b *Board) Pin(name string) string {
	if b == nil {
		return name
	}
	if pin, ok := b.Aliases[name]; ok {
		return pin
	}
	return name
}
