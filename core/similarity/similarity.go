// Package similarity finds routines that several programs share and that are no library's: runs of instructions that
// are equal except for their addresses, cells of programmable logic in the order of the source, or words of scripts. It
// ranks them by how unlikely a chance match is. A match proves nothing: classmates who were shown the same example
// share it, too.
//
// Programs are compared by the fingerprints of all their windows of a few instructions, as S. Schleimer, D. Wilkerson
// and A. Aiken do for texts (Winnowing, SIGMOD 2003); programs are small enough to keep every fingerprint.
package similarity

import (
	"cmp"
	"encoding/binary"
	"hash/maphash"
	"math"
	"slices"
	"strings"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// Window is how many instructions in a row are no chance any more.
const Window = 16

// window is that for a program: a cell of programmable logic says more than an instruction, and designs are small; a
// word of a script says less.
func window(im *firmware.Image) int {
	switch {
	case im.Design != nil:
		return 10
	case im.Script != nil:
		return 40
	}
	return Window
}

// common is the share of programs from which on what they share is taken for something that was given to all.
const common = 0.6

// Match is a run of instructions that several programs have, of cells that designs have, or of words of scripts.
type Match struct {
	Instructions int
	Programs     int
	Rank         float64 // bits: instructions × log2((programs + 1) / programs that have it)
	Sites        []Site  // one for each program, in their order
}

// Site is where a run is in one program.
type Site struct {
	Program  int    // its index
	Address  uint32 // in bytes
	Function string // "" without symbols
	Line     *firmware.Line
}

type instruction struct {
	address uint32
	shape   uint32
	system  bool // of a library, as far as debug information tells
}

var seed = maphash.MakeSeed()

// Find compares programs, one of each author; nil ones have nothing. What is in one of the known ones, or is a
// library's by the debug information of any program, is left out, and so is what most programs have.
func Find(chip *machine.Chip, programs, known []*firmware.Image) []Match {
	code := make([][]instruction, len(programs))
	left := map[uint64]bool{} // fingerprints that are not looked at
	for _, im := range known {
		if im == nil {
			continue
		}
		for f := range fingerprints(disassemble(chip, im), window(im)) {
			left[f] = true
		}
	}
	have := map[uint64][]int{} // programs by fingerprint
	compared := 0
	for p, im := range programs {
		if im == nil {
			continue
		}
		compared++
		code[p] = disassemble(chip, im)
		for f, at := range fingerprints(code[p], window(im)) {
			if own := have[f]; len(own) == 0 || own[len(own)-1] != p {
				have[f] = append(own, p)
			}
			if code[p][at].system {
				left[f] = true
			}
		}
	}
	for f, in := range have {
		if len(in) < 2 || len(in) > 2 && float64(len(in)) > common*float64(compared) {
			left[f] = true
		}
	}
	found := map[string]*Match{}
	var order []string
	for p, im := range programs {
		if im == nil {
			continue
		}
		for _, run := range runs(code[p], window(im), have, left) {
			key := text(code[p][run.from:run.to])
			s := found[key]
			if s == nil {
				s = &Match{Instructions: run.to - run.from}
				found[key] = s
				order = append(order, key)
			}
			if n := len(s.Sites); n == 0 || s.Sites[n-1].Program != p {
				s.Sites = append(s.Sites, site(programs[p], p, code[p][run.from:run.to]))
			}
		}
	}
	var out []Match
	for _, key := range order {
		s := found[key]
		if s.Programs = len(s.Sites); s.Programs < 2 {
			continue
		}
		s.Rank = float64(s.Instructions) * math.Log2(float64(compared+1)/float64(s.Programs))
		out = append(out, *s)
	}
	slices.SortStableFunc(out, func(a, b Match) int { return cmp.Compare(b.Rank, a.Rank) })
	return out
}

// disassemble gives the instructions of a program in the order of their addresses. Erased flash is none.
func disassemble(chip *machine.Chip, im *firmware.Image) (out []instruction) {
	switch {
	case im.Design != nil:
		return cells(im)
	case im.Script != nil:
		return words(im)
	}
	for _, s := range im.Flash {
		for a := s.Address; a+2 <= s.End(); {
			shape, size := chip.Normalise(im, a)
			if im.Word(a) != 0xffff {
				line, ok := im.Line(a)
				out = append(out, instruction{a, shape, ok && line.System})
			}
			a += size
		}
	}
	return out
}

// text writes the shapes of instructions in a row.
func text(code []instruction) string {
	var b strings.Builder
	for _, in := range code {
		var word [4]byte
		binary.LittleEndian.PutUint32(word[:], in.shape)
		b.Write(word[:])
	}
	return b.String()
}

// fingerprints gives the fingerprint of each window and where it starts. Windows of one and the same instruction, as in
// a table of equal bytes, are left out.
func fingerprints(code []instruction, window int) map[uint64]int {
	out := map[uint64]int{}
	for i := range code {
		if f, ok := fingerprint(code, i, window); ok {
			if _, twice := out[f]; !twice {
				out[f] = i
			}
		}
	}
	return out
}

func fingerprint(code []instruction, i, window int) (uint64, bool) {
	if i+window > len(code) {
		return 0, false
	}
	all := code[i : i+window]
	kinds := map[uint32]bool{}
	for _, in := range all {
		kinds[in.shape] = true
	}
	return maphash.String(seed, text(all)), len(kinds) > min(window/3, 8)
}

type run struct{ from, to int }

// runs gives the longest runs whose windows all are in the same programs.
func runs(code []instruction, window int, have map[uint64][]int, left map[uint64]bool) (out []run) {
	var in []int
	begun := -1
	end := func(i int) {
		if begun >= 0 {
			out = append(out, run{begun, i - 1 + window})
		}
		begun = -1
	}
	for i := range code {
		f, ok := fingerprint(code, i, window)
		if !ok || left[f] {
			end(i)
			continue
		}
		if begun >= 0 && !slices.Equal(in, have[f]) {
			end(i)
		}
		if begun < 0 {
			begun, in = i, have[f]
		}
	}
	end(len(code) - window + 1)
	return out
}

// site returns where a run stands: its first address, and the first function and line of the author's own in it.
func site(im *firmware.Image, program int, code []instruction) Site {
	s := Site{Program: program, Address: code[0].address}
	for _, in := range code {
		line, ok := im.Own(in.address, nil)
		if !ok || line.System {
			continue
		}
		s.Line = &line
		for _, sym := range im.Symbols {
			if sym.Space == firmware.Code && !sym.IsData && in.address >= sym.Address &&
				in.address < sym.Address+sym.Size {
				s.Function = sym.Name
			}
		}
		break
	}
	return s
}
