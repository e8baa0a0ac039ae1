package loops

// placeIndex tells where in a list a place stands. It is forgotten in no time.
type placeIndex struct {
	round uint32
	slots [1 << 10]struct {
		round uint32
		place Place
		at    int32
	}
}

func (x *placeIndex) clear() {
	if x.round++; x.round == 0 { // once in four thousand million rounds
		*x = placeIndex{round: 1}
	}
}

// find gives where a place stands; where it is new, it stands at next from now on.
func (x *placeIndex) find(p Place, next int32) (at int32, known bool) {
	for i := uint32(p) * 0x9e3779b1 >> 22; ; i = (i + 1) % uint32(len(x.slots)) {
		s := &x.slots[i]
		if s.round != x.round {
			s.round, s.place, s.at = x.round, p, next
			return next, false
		}
		if s.place == p {
			return s.at, true
		}
	}
}

// atomOf is the atom of what a place that was touched held at the head.
func (w *Walk) atomOf(p Place) int32 {
	i, _ := w.index.find(p, 0)
	return w.places[i].atom
}
