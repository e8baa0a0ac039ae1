package loops

import "slices"

// atom is what formulas are made of: a whole number that is not looked into. bits is how many it has at most.
type atom struct {
	kind  atomKind
	bits  uint8
	place Place // of an entry
	count uint8 // of a count: which reading
	form  form  // of a residue
	node  Value // of a made one
	v     uint64
}

type atomKind uint8

const (
	entry   atomKind = iota // what a place held at the head
	counted                 // a reading of a count
	residue                 // a form modulo 2^bits, as a whole number
	made                    // a value that is not followed
)

// form is the number c + Σ k·atom modulo 2^n. No term is 0, and they are in the order of their atoms.
type form struct {
	n     uint8
	c     uint64
	terms []term
}

// term is k times an atom.
type term struct {
	atom int32
	k    uint64
}

// ones is 2^n - 1.
func ones(n uint8) uint64 { return ^uint64(0) >> (64 - n) }

// mod takes a form modulo 2^n, which is no more than it has.
func (w *Walk) mod(f form, n uint8) form {
	if n == f.n {
		return f
	}
	return w.scaled(f, 1, n)
}

// scaled is k·f as a form of n bits.
func (w *Walk) scaled(f form, k uint64, n uint8) form {
	m, begin := ones(n), len(w.terms)
	for _, t := range f.terms {
		if t.k = t.k * k & m; t.k != 0 {
			w.terms = append(w.terms, t)
		}
	}
	return form{n, f.c * k & m, w.terms[begin:len(w.terms):len(w.terms)]}
}

// plus is f + g as a form of f's bits.
func (w *Walk) plus(f, g form) form {
	m, begin := ones(f.n), len(w.terms)
	a, b := f.terms, g.terms
	for len(a) > 0 || len(b) > 0 {
		var t term
		switch {
		case len(b) == 0 || len(a) > 0 && a[0].atom < b[0].atom:
			t, a = a[0], a[1:]
		case len(a) == 0 || b[0].atom < a[0].atom:
			t, b = b[0], b[1:]
		default:
			t, a, b = term{a[0].atom, a[0].k + b[0].k}, a[1:], b[1:]
		}
		if t.k &= m; t.k != 0 {
			w.terms = append(w.terms, t)
		}
	}
	return form{f.n, (f.c + g.c) & m, w.terms[begin:len(w.terms):len(w.terms)]}
}

func (w *Walk) minus(f, g form) form { return w.plus(f, w.scaled(g, ^uint64(0), f.n)) }

// extends reports whether f is g modulo 2^g.n.
func (f form) extends(g form) bool {
	m := ones(g.n)
	rest := g.terms
	for _, t := range f.terms {
		if t.k &= m; t.k == 0 {
			continue
		}
		if len(rest) == 0 || rest[0] != t {
			return false
		}
		rest = rest[1:]
	}
	return len(rest) == 0 && f.c&m == g.c
}

func (f form) equal(g form) bool { return f.n == g.n && f.c == g.c && slices.Equal(f.terms, g.terms) }

// value is what a form comes to in the round that is walked.
func (w *Walk) value(f form) uint64 {
	v := f.c
	for _, t := range f.terms {
		v += t.k * w.atoms[t.atom].v
	}
	return v & ones(f.n)
}

// single is the form of one atom alone, modulo 2^n.
func (w *Walk) single(a int32, n uint8) form {
	w.terms = append(w.terms, term{a, 1})
	return form{n: n, terms: w.terms[len(w.terms)-1 : len(w.terms) : len(w.terms)]}
}

func (w *Walk) newAtom(a atom) int32 {
	w.atoms = append(w.atoms, a)
	return int32(len(w.atoms) - 1)
}

// whole gives the number that f is, without its modulus, as a form of n bits, which are more than it has.
func (w *Walk) whole(f form, n uint8) form {
	if w.packed(f) {
		f.n = n
		return f
	}
	for i := range w.atoms {
		if a := &w.atoms[i]; a.kind == residue && a.form.equal(f) {
			return w.single(int32(i), n)
		}
	}
	return w.single(w.newAtom(atom{kind: residue, bits: f.n, form: f, v: w.value(f)}), n)
}

// packed reports whether the terms of a form lie side by side, so that it never comes to its modulus.
func (w *Walk) packed(f form) bool {
	used := f.c
	for _, t := range f.terms {
		bits := w.atoms[t.atom].bits
		taken := t.k * ones(bits)
		if t.k&(t.k-1) != 0 || taken/t.k != ones(bits) || taken > ones(f.n) || used&taken != 0 {
			return false
		}
		used |= taken
	}
	return true
}

// above is the form of v put above the number f, which has so many bits fewer: v may be the next part of a number of
// which f is the lower part.
func (w *Walk) above(f form, v Value, bits uint8) (form, bool) {
	n := f.n + bits
	if n > 64 {
		return form{}, false
	}
	if w.continues(f, v) {
		return w.forms[w.nodes[v].more], true
	}
	return w.plus(w.whole(f, n), w.scaled(w.formOf(v, bits), 1<<f.n, n)), true
}

// continues reports whether v is the next part of the number whose lower part is f.
func (w *Walk) continues(f form, v Value) bool {
	x := &w.nodes[v]
	return x.kind == part && x.lo == f.n && w.forms[x.more].extends(f)
}
