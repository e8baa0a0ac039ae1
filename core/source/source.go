// Package source lists how single words of a program in C or C++ may have been meant, and which statements, limits and
// conditions may have been forgotten in it. Where the author's text is at hand, a number is what the author wrote, and
// not what a compiler shared between places, unrolled, or worked out; each change costs building the program once more,
// though, so only the likely ones are listed.
package source

import (
	"cmp"
	"context"
	"crypto/sha256"
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"
	"sync"
	"time"

	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/script"
)

// Program is a program as its author wrote it, with what builds it anew.
type Program struct {
	Files map[string]string // text by path
	// Build gives the image of the program with another text in the place of one; nil where that is no program.
	Build func(ctx context.Context, name, text string) (*firmware.Image, error)
}

// Hash tells programs apart by their texts; that of nil is zero.
func (p *Program) Hash() (sum [32]byte) {
	if p == nil {
		return sum
	}
	h := sha256.New()
	for _, name := range slices.Sorted(maps.Keys(p.Files)) {
		fmt.Fprintf(h, "%d %d %s%s", len(name), len(p.Files[name]), name, p.Files[name])
	}
	return [32]byte(h.Sum(nil))
}

// Bounds of what is listed, and of the time that all building of one list takes: a program may be made to take long.
const (
	mostText   = 100_000 // bytes of all files
	mostLikely = 20      // changes that are tried before those of the compiled program
	mostOther  = 100     // that come after those
	mostUses   = 50      // of a name that are looked at
	mostTime   = 20 * time.Second
)

// How likely changes are for which what was seen speaks.
const (
	likely    = machine.Likely
	likelier  = machine.Likely - 1
	likeliest = machine.Likely - 2
)

// effort is what building once is taken for, as that of runs is counted: about a tenth of a second.
const effort = 5e6

// Reads reports whether a file is one whose words may be changed.
func Reads(name string) bool {
	switch strings.ToLower(path.Ext(name)) {
	case ".c", ".cpp", ".cc", ".cxx", ".h", ".hpp", ".hh", ".ino":
		return true
	}
	return false
}

// Alterations lists changes of the program that an image was built from, the likely ones first. Rows of the image tell
// when the places were reached.
func (p *Program) Alterations(ctx context.Context, im *firmware.Image, hints machine.Hints) []machine.Alteration {
	files := p.listers()
	rows, odd, uses := rowsOf(im), hints.Odd(numbers(files)), usesOf(files)
	var list []alteration
	for _, l := range files {
		l.hints, l.odd, l.rows, l.uses = hints, odd, rows, uses
		l.list()
		list = append(list, l.out...)
	}
	by := &builds{program: p, of: im, ctx: ctx}
	var out []machine.Alteration
	for _, a := range bounded(list) {
		a.Change = by.change(a.file, a.edits)
		out = append(out, a.Alteration)
	}
	for _, l := range files {
		out = append(out, by.plant(l)...)
	}
	return out
}

// listers are the files whose words may be changed, in the order of their names; none where there is too much text.
func (p *Program) listers() (out []*lister) {
	total := 0
	for _, text := range p.Files {
		total += len(text)
	}
	if total > mostText {
		return nil
	}
	for _, name := range slices.Sorted(maps.Keys(p.Files)) {
		if Reads(name) {
			text := p.Files[name]
			out = append(out, &lister{name: name, text: text, tokens: script.Tokens(name, text)})
		}
	}
	return out
}

// usesOf are the lines on which names stand.
func usesOf(files []*lister) map[string][]firmware.Line {
	out := map[string][]firmware.Line{}
	for _, l := range files {
		for _, t := range l.tokens {
			if t.Kind == script.Name && len(out[t.Word]) < mostUses {
				out[t.Word] = append(out[t.Word], firmware.Line{File: path.Base(l.name), Line: t.Line})
			}
		}
	}
	return out
}

// bounded keeps as many as may be tried: of those that are as likely, the ones reached last.
func bounded(list []alteration) []alteration {
	slices.SortStableFunc(list, func(a, b alteration) int {
		return cmp.Or(cmp.Compare(a.Rare, b.Rare), cmp.Compare(b.Reached, a.Reached))
	})
	n := 0
	for n < len(list) && list[n].Rare <= machine.Likely {
		n++
	}
	others := list[n:]
	return slices.Concat(list[:min(n, mostLikely)], others[:min(len(others), mostOther)])
}

// alteration is one with what it makes of its file.
type alteration struct {
	machine.Alteration
	file  string
	edits []script.Edit
}

// builds are made when they are asked for, each of them once.
type builds struct {
	program *Program
	of      *firmware.Image
	ctx     context.Context // of the search that the list is for: a change is asked for by nothing else
	began   time.Time
}

// change gives the image of the program with a file edited. Another image than the one that the list is of
// stays as it is, as one does that cannot be built.
func (b *builds) change(name string, edits []script.Edit) func(*firmware.Image) *firmware.Image {
	build := sync.OnceValue(func() *firmware.Image {
		return b.once(name, script.Edited(b.program.Files[name], edits))
	})
	return func(im *firmware.Image) *firmware.Image {
		if im != b.of {
			return im
		}
		return cmp.Or(build(), im)
	}
}

// once builds the program with another text in the place of a file; nil where it cannot be built in time.
func (b *builds) once(name, text string) *firmware.Image {
	if b.began.IsZero() {
		b.began = time.Now()
	}
	ctx, cancel := context.WithDeadline(b.ctx, b.began.Add(mostTime))
	defer cancel()
	im, err := b.program.Build(ctx, name, text)
	if err != nil {
		return nil
	}
	return im
}

// rows are the addresses of the instructions that lines begin with.
type rows map[firmware.Line][]uint32

func rowsOf(im *firmware.Image) rows {
	out := rows{}
	for address, line := range im.Rows() {
		at := firmware.Line{File: line.File, Line: line.Line}
		out[at] = append(out[at], address)
	}
	return out
}

// place finds a line; ok is false for one without instructions.
func (r rows) place(line firmware.Line, h machine.Hints) (p place, ok bool) {
	all := r[line]
	if len(all) == 0 {
		return p, false
	}
	p.address = all[0]
	if h.Reached == nil {
		return p, true
	}
	p.never = true
	for _, address := range all {
		if at, ok := h.Reached(address); ok && (p.never || at < p.reached) {
			p = place{address: address, reached: at}
		}
	}
	p.recent = !p.never && r.recent(line, h)
	return p, true
}

// recent reports whether a line was carried out lately, or decides about one that was: see machine.Hints.
func (r rows) recent(line firmware.Line, h machine.Hints) bool {
	next := firmware.Line{File: line.File, Line: line.Line + 1}
	return h.Recent != nil && (slices.ContainsFunc(r[line], h.Recent) || slices.ContainsFunc(r[next], h.Recent))
}
