package source

import (
	"bytes"
	"cmp"
	"fmt"
	"slices"
	"strings"
	"sync"

	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/script"
)

// Many statements that may be missing are built at once, each behind a condition of its own: a byte of the image tells
// which of them is carried out. That costs all of them a few clock cycles.

// bed is a file with statements planted in it.
type bed struct {
	*builds
	file   *lister
	plants []planted
	halves [2]*bed // where it cannot be built as a whole
	built  func() (im *firmware.Image, choice uint32)
	depth  int
}

// Bounds of what is built of a file.
const (
	most       = 200 // that are built at once: a byte tells them apart
	mostHalved = 3   // times that what cannot be built is built by halves
	fewest     = 4   // that is done for
	chosen     = 7   // the place of the byte that tells which one is carried out
	guard      = "left_out_here"
)

// mark is what that byte is found by, right before it.
var mark = []byte{0xc4, 0x1b, 0x9d, 0x72, 0xe6, 0x38, 0xa5}

// plant plants all that may be missing in a file.
func (b *builds) plant(l *lister) (out []machine.Alteration) {
	if slices.ContainsFunc(l.tokens, func(t script.Token) bool { return t.Word == guard }) {
		return nil
	}
	for plants := range slices.Chunk(l.forgotten(), most) {
		whole := b.bed(l, plants, 0)
		for i, p := range plants {
			p.Effort = 2 * effort / int64(len(plants))
			p.Change = func(im *firmware.Image) *firmware.Image {
				if im != b.of {
					return im
				}
				return cmp.Or(whole.image(i), im)
			}
			out = append(out, p.Alteration)
		}
	}
	return out
}

func (b *builds) bed(l *lister, plants []planted, depth int) *bed {
	x := &bed{builds: b, file: l, plants: plants, depth: depth}
	x.built = sync.OnceValues(x.build)
	return x
}

// image is that with one of the statements carried out; nil where it cannot be built.
func (b *bed) image(i int) *firmware.Image {
	if im, choice := b.built(); im != nil {
		return im.Patched(map[uint32]byte{choice: byte(i + 1)})
	}
	half := len(b.plants) / 2
	if half < fewest || b.depth == mostHalved {
		return nil
	}
	if b.halves[0] == nil {
		b.halves = [2]*bed{b.bed(b.file, b.plants[:half], b.depth+1), b.bed(b.file, b.plants[half:], b.depth+1)}
	}
	if i < half {
		return b.halves[0].image(i)
	}
	return b.halves[1].image(i - half)
}

// build builds the file, and finds the byte that tells which statement is carried out.
func (b *bed) build() (im *firmware.Image, choice uint32) {
	im = b.once(b.file.name, b.text())
	if im == nil {
		return nil, 0
	}
	found := 0
	for _, s := range im.Flash {
		if i := bytes.Index(s.Data, mark); i >= 0 && i+chosen < len(s.Data) {
			found += bytes.Count(s.Data, mark)
			choice = s.Address + uint32(i+chosen)
		}
	}
	if found != 1 {
		return nil, 0
	}
	return im, choice
}

// text is that of the file with all statements in it.
func (b *bed) text() string {
	var all []insert
	for i, p := range b.plants {
		all = append(all, p.inserts(fmt.Sprintf("%s[%d] == %d", guard, chosen, i+1))...)
	}
	slices.SortStableFunc(all, func(x, y insert) int {
		return cmp.Or(cmp.Compare(x.at, y.at), cmp.Compare(x.turn, y.turn))
	})
	var edits []script.Edit
	for _, in := range all {
		edits = append(edits, script.Edit{At: in.at, End: in.at, To: in.text})
	}
	var marks strings.Builder
	for _, v := range mark {
		fmt.Fprintf(&marks, "%d, ", v)
	}
	return fmt.Sprintf("static const volatile unsigned char %s[%d] = {%s0};\n%s", guard, chosen+1, marks.String(),
		script.Edited(b.file.text, edits))
}
