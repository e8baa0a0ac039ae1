package circuit

// Net is one electrical node: the terminals joined by wire. Nets that a closed contact joins
// act as one.
type Net struct {
	Name   string
	Supply int64 // µV: what a pull-up pulls to
	Drive  Drive // what the net is at now, resolved

	terminals []Drive
	joined    []*Net // through closed contacts
	Contended bool   // two equally strong drivers disagree now
}

// NewNet makes a net that nothing drives, at a supply of µV.
func NewNet(name string, supply int64) *Net { return &Net{Name: name, Supply: supply, Drive: Released} }

// Attach adds a terminal and gives its index on this net.
func (n *Net) Attach() int {
	n.terminals = append(n.terminals, Released)
	return len(n.terminals) - 1
}

// Set changes what one terminal does and reports whether the net, or one joined to it, came out
// differently.
func (n *Net) Set(terminal int, d Drive) bool {
	if n.terminals[terminal] == d {
		return false
	}
	n.terminals[terminal] = d
	return n.resolve()
}

// Terminals is how many there are.
func (n *Net) Terminals() int { return len(n.terminals) }

// Of is what a terminal does.
func (n *Net) Of(terminal int) Drive { return n.terminals[terminal] }

// Alone reports whether nothing but one terminal drives the net, and no contact joins it to another.
func (n *Net) Alone(terminal int) bool {
	if len(n.joined) > 0 {
		return false
	}
	for i := range n.terminals {
		if i != terminal && n.terminals[i].Strength != None {
			return false
		}
	}
	return true
}

// SetAlone is Set for a terminal that is alone on its net.
func (n *Net) SetAlone(terminal int, d Drive) bool {
	n.terminals[terminal] = d
	if d == n.Drive {
		return false
	}
	n.Drive = d
	return true
}

// Join closes a contact between two nets, Part opens it again. Each reports whether a net changed.
func Join(a, b *Net) bool {
	a.joined = append(a.joined, b)
	b.joined = append(b.joined, a)
	return a.resolve()
}

// Open opens one contact between two nets.
func Open(a, b *Net) bool {
	a.joined = without(a.joined, b)
	b.joined = without(b.joined, a)
	changed := a.resolve()
	return b.resolve() || changed
}

func without(nets []*Net, gone *Net) []*Net {
	for i, n := range nets {
		if n == gone {
			return append(nets[:i:i], nets[i+1:]...)
		}
	}
	return nets
}

// Group is the net and all that closed contacts join to it.
func (n *Net) Group() []*Net {
	group := []*Net{n}
	for i := 0; i < len(group); i++ {
	next:
		for _, other := range group[i].joined {
			for _, seen := range group {
				if seen == other {
					continue next
				}
			}
			group = append(group, other)
		}
	}
	return group
}

func (n *Net) resolve() bool {
	if len(n.joined) == 0 {
		d, contended := strongest(Released, false, n.terminals)
		if d.Strength == Resistive {
			d = n.divided([]*Net{n})
		}
		changed := d != n.Drive
		n.Drive, n.Contended = d, contended
		return changed
	}
	group := n.Group()
	d, contended := Released, false
	for _, g := range group {
		d, contended = strongest(d, contended, g.terminals)
	}
	if d.Strength == Resistive {
		d = n.divided(group)
	}
	changed := false
	for _, g := range group {
		changed = changed || g.Drive != d
		g.Drive, g.Contended = d, contended
	}
	return changed
}

// divided is what a group of nets is at that resistors and pull-ups alone decide: the voltage between them.
func (n *Net) divided(group []*Net) Drive {
	volts, ohms := int64(0), int64(0)
	for _, g := range group {
		for _, t := range g.terminals {
			switch more := max(1, t.Ohms()); {
			case t.Strength != Pull && t.Strength != Resistive:
			case ohms == 0:
				volts, ohms = t.Voltage(n.Supply), more
			default: // two of them side by side are one
				volts = (volts*more + t.Voltage(n.Supply)*ohms + (ohms+more)/2) / (ohms + more)
				ohms = max(1, ohms*more/(ohms+more))
			}
		}
	}
	return through(volts, ohms, n.Supply)
}

// strongest folds the terminals into the drive found so far. Of equally strong opposites the low
// one wins (an NMOS sinks more than a PMOS sources) and the contention is noted.
func strongest(d Drive, contended bool, terminals []Drive) (Drive, bool) {
	for _, t := range terminals {
		switch {
		case t.Strength > d.Strength:
			d, contended = t, false
		case t.Strength == d.Strength && t.Strength > None && t.Level != d.Level:
			d.Level, contended = Low, t.Strength > Resistive
		}
	}
	return d, contended
}

// Joined reports whether a closed contact joins the net to another.
func (n *Net) Joined() bool { return len(n.joined) > 0 }
