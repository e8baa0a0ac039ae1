package display

// Formed is a type whose states can show the wanted value in another form: a number with leading zeros, a text in
// another column, a neighbouring hue.
type Formed interface {
	// Near reports whether seen is wanted in another form. before is what was there until then, nil for nothing: the
	// end of a longer text may remain of it.
	Near(t *Track, wanted, seen State, before *State) bool
}

// Near reports whether a state is what a matcher wants in another form, and is not rather what one of all the matchers
// of the same expectation wants: nothing is near that tells two of its frames apart.
func Near(m Matcher, all []Matcher, t *Track, seen State, before *State) bool {
	if seen.Blank() || !near(m, t, seen, before) {
		return false
	}
	for _, o := range all {
		if o.String() == m.String() || o.Same(m) {
			continue
		}
		if ok, _ := o.Match(t, seen); ok || near(o, t, seen, before) {
			return false
		}
	}
	return true
}

func near(m Matcher, t *Track, seen State, before *State) bool {
	for _, leaf := range leaves([]Matcher{m}) {
		wanted := leaf.Ideal(t.Geometry)
		if wanted == nil || wanted.Blank() {
			continue
		}
		track, now, then := t, seen, before
		if r := Within(leaf); r != nil {
			divided, ok := As[Divided](t.Geometry)
			if !ok {
				continue
			}
			columns, rows := divided.Size(t.Geometry)
			in := Region{r.X, r.Y, min(r.Wide, columns-r.X), min(r.High, rows-r.Y)}
			part := *t
			part.Geometry = divided.Part(t.Geometry, in)
			cut := divided.Cut(t, *wanted, in)
			wanted, now = &cut, divided.Cut(t, seen, in)
			if before != nil {
				b := divided.Cut(t, *before, in)
				then = &b
			}
			track = &part
		}
		if f, ok := As[Formed](track.Geometry); ok && f.Near(track, *wanted, now, then) {
			return true
		}
	}
	return false
}
