package exercise

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/spec"
)

// maxOthers bounds how many chips an exercise is for, besides its own.
const maxOthers = 8

// orFields are those of another chip that the work may be done on.
func orFields(chip []spec.Field) spec.Field {
	of := slices.Clone(chip)
	of[0].Choices = chipNames()
	return spec.Field{Name: "or", Kind: spec.List, Doc: "other chips that the work may be done on: a firmware's file says which it is for, source by what it includes",
		Of: &spec.Field{Name: "chip", Kind: spec.Mapping, Fields: append(of, spec.Field{Name: "pins", Kind: spec.Dict,
			Required: true,
			Doc:      "for each pin of the first chip that the bench is wired to, the one that takes its place"})}}
}

// moves are the pins of the exercise's first chip that another chip has elsewhere.
type moves struct {
	from  *machine.Chip // nil where there is one chip
	board *machine.Board
	at    spec.Pos
	to    map[string]string
	used  map[string]bool
}

func newMoves(first, c spec.Values) moves {
	m := moves{at: c.At("pins"), to: map[string]string{}, used: map[string]bool{}}
	m.from, _ = machine.Find(first.Text("is"))
	if m.from != nil {
		for _, b := range machine.Boards(m.from.Name) {
			if b.Name == first.Text("board") {
				m.board = b
			}
		}
	}
	for _, e := range c.Get("pins").Dict {
		m.to[m.board.Pin(e.Name)] = e.Value
	}
	return m
}

// pin gives the one in the place of another; one that is not among them is a problem, told once.
func (m *moves) pin(name string, chip *machine.Chip, ps *spec.Problems) string {
	if m.from == nil {
		return name
	}
	plain := m.board.Pin(name)
	to, ok := m.to[plain]
	_, isPin := m.from.Pin(plain)
	switch {
	case ok:
		m.used[plain] = true
		return to
	case !isPin:
		return name
	case !m.used[plain]:
		m.used[plain] = true
		ps.Add(m.at, "%s of the bench has no pin on the %s: pins names one for each", plain, chip.Title)
	}
	return "GND" // what would follow from it is no mistake of its own
}

// unused tells of pins that nothing is wired to.
func (m *moves) unused(ps *spec.Problems) {
	for name := range m.to {
		if m.from != nil && !m.used[name] {
			ps.Warn(m.at, "nothing on the bench is wired to %s", name)
		}
	}
}

// readOthers reads the exercise once more for each of the other chips that its work may be done on.
func (r Reader) readOthers(x *Exercise, text []byte, list []spec.Problem) []spec.Problem {
	for i := range x.others {
		other, more, failed := r.read(text, i+1)
		for _, p := range more {
			if !slices.ContainsFunc(list, func(q spec.Problem) bool { return p.Pos == q.Pos && p.Text == q.Text }) {
				list = append(list, p)
			}
		}
		if !failed {
			x.Others = append(x.Others, other)
		}
	}
	return list
}

// Every gives the exercise for each chip that its work may be done on, its own first.
func (x *Exercise) Every() []*Exercise { return append([]*Exercise{x}, x.Others...) }

// For gives the exercise for the chip that a firmware's file is for: the first one that takes it.
func (x *Exercise) For(file []byte) *Exercise {
	if len(x.Others) == 0 {
		return x
	}
	for _, one := range x.Every() {
		if one.Chip == nil {
			continue
		}
		im, err := firmware.Read(file, one.Chip.Firmware)
		if err == nil && len(im.Flash) > 0 && (im.Machine == 0 || im.Machine == one.Chip.Machine) {
			return one
		}
	}
	return x
}

var include = regexp.MustCompile(`(?mi)^\s*#?\s*include\s*[<"]([^">\n]+)`)

// ForSource gives the exercise for the chip that source is for, by the headers that it includes: those of a chip's own.
// Where it includes none, that is the exercise's own chip.
func (x *Exercise) ForSource(texts ...[]byte) *Exercise {
	best, most := x, 0
	for _, one := range x.Every() {
		if one.Chip == nil {
			continue
		}
		n := 0
		for _, text := range texts {
			for _, m := range include.FindAllSubmatch(text, -1) {
				if slices.ContainsFunc(one.Chip.Toolchain.Headers, func(h string) bool {
					return strings.HasPrefix(strings.ToLower(string(m[1])), strings.ToLower(h))
				}) {
					n++
				}
			}
		}
		if n > most {
			best, most = one, n
		}
	}
	return best
}

// OnChip says which chip the work was taken to be for; "" where there is no choice.
func (x *Exercise) OnChip() string {
	if x.others == 0 {
		return ""
	}
	return fmt.Sprintf("the work is for the %s", x.Chip.Title)
}
