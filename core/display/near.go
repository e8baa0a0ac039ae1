package display

// Formed is a type whose states can show the wanted value in another form: a number with leading zeros, a text in
// another column, a neighbouring hue.
type Formed interface {
	// Near reports whether seen is wanted in another form. before is what was there until then, nil for nothing: the
	// end of a longer text may remain of it.
	Near(t *Track, wanted, seen State, before *State) bool
}

// Forms tells what is near the matchers of one expectation, on one track. What they want is worked out once.
type Forms struct {
	of    []Matcher
	track *Track
	ideal [][]ideal // by matcher, from when it is asked for
}

// ideal is one state that a matcher wants, or the part of it that it is about.
type ideal struct {
	track *Track // of the part
	in    Region // where that is
	part  Divided
	want  State
}

// NewForms begins with nothing worked out.
func NewForms(of []Matcher, t *Track) *Forms { return &Forms{of, t, make([][]ideal, len(of))} }

// Near reports whether a state is what matcher i wants in another form, and is not rather what one of all the matchers
// wants: nothing is near that tells two of its frames apart. before is what was there until then, nil for nothing.
func (f *Forms) Near(i int, seen State, before *State) bool {
	if seen.Blank() || !f.near(i, seen, before) {
		return false
	}
	m := f.of[i]
	for k, o := range f.of {
		if k == i || o.Same(m) || o.String() == m.String() {
			continue
		}
		if ok, _ := o.Match(f.track, seen); ok || f.near(k, seen, before) {
			return false
		}
	}
	return true
}

// Near is the same for one matcher that stands alone.
func Near(m Matcher, t *Track, seen State) bool { return NewForms([]Matcher{m}, t).Near(0, seen, nil) }

func (f *Forms) near(i int, seen State, before *State) bool {
	if f.ideal[i] == nil {
		f.ideal[i] = f.ideals(f.of[i])
	}
	for _, w := range f.ideal[i] {
		now, then := seen, before
		if w.part != nil {
			now = w.part.Cut(f.track, seen, w.in)
			if before != nil {
				b := w.part.Cut(f.track, *before, w.in)
				then = &b
			}
		}
		if form, ok := As[Formed](w.track.Geometry); ok && form.Near(w.track, w.want, now, then) {
			return true
		}
	}
	return false
}

// ideals lists what a matcher wants; it is empty, not nil, for nothing that can be drawn.
func (f *Forms) ideals(m Matcher) []ideal {
	out := []ideal{}
	for _, leaf := range leaves([]Matcher{m}) {
		wanted := leaf.Ideal(f.track.Geometry)
		if wanted == nil || wanted.Blank() {
			continue
		}
		r := Within(leaf)
		if r == nil {
			out = append(out, ideal{track: f.track, want: *wanted})
			continue
		}
		divided, ok := As[Divided](f.track.Geometry)
		if !ok {
			continue
		}
		columns, rows := divided.Size(f.track.Geometry)
		in := Region{r.X, r.Y, min(r.Wide, columns-r.X), min(r.High, rows-r.Y)}
		part := *f.track
		part.Geometry = divided.Part(f.track.Geometry, in)
		out = append(out, ideal{&part, in, divided, divided.Cut(f.track, *wanted, in)})
	}
	return out
}
