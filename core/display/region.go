package display

import (
	"fmt"
	"math"

	"hemble/core/spec"
)

// Region is a part of a display, in its characters, digits or dots, counted from 0.
type Region struct{ X, Y, Wide, High int }

// RegionField names a part of a display.
var RegionField = spec.Field{Name: "region", Kind: spec.Mapping,
	Doc: "only this part of the display: in characters, digits, or dots of a graphic display, counted from 1",
	Fields: []spec.Field{
		{Name: "row", Kind: spec.Int, Min: 1, Max: 128, Default: "1", Doc: "its first row"},
		{Name: "column", Kind: spec.Int, Min: 1, Max: 256, Default: "1", Doc: "its first column"},
		{Name: "rows", Kind: spec.Int, Min: 1, Max: 128, Default: "1", Doc: "how many rows"},
		{Name: "columns", Kind: spec.Int, Min: 1, Max: 256,
			Doc: "number of columns (default: to the end of the row)"},
	}}

// WholeRow is all of one row.
func WholeRow(row int) *Region { return &Region{Y: row, Wide: math.MaxInt32, High: 1} }

// ReadRegion reads one; ok is false where the display has no such part.
func ReadRegion(v spec.Values, d Named, ps *spec.Problems) (r Region, ok bool) {
	divided, ok := As[Divided](d.Geometry)
	if !ok {
		ps.Add(v.Pos, "%q has no regions; they go with characters, digits and graphic displays", d.Name)
		return r, false
	}
	columns, rows := divided.Size(d.Geometry)
	r = Region{int(v.Int("column")) - 1, int(v.Int("row")) - 1, int(v.Int("columns")), int(v.Int("rows"))}
	if !v.Has("columns") {
		r.Wide = columns - r.X
	}
	if r.Wide < 1 || r.X+r.Wide > columns || r.Y+r.High > rows {
		ps.Add(v.Pos, "%q is %d columns wide and %s high: this region leads out of it", d.Name, columns,
			Plural(rows, "row"))
		return r, false
	}
	return r, true
}

// Apart reports whether two regions have nothing in common.
func (r Region) Apart(o Region) bool {
	return r.X+r.Wide <= o.X || o.X+o.Wide <= r.X || r.Y+r.High <= o.Y || o.Y+o.High <= r.Y
}

func (r Region) String() string {
	where := fmt.Sprintf("columns %d to %d", r.X+1, r.X+r.Wide)
	if r.Wide == 1 {
		where = fmt.Sprintf("column %d", r.X+1)
	}
	if r.High > 1 {
		where = fmt.Sprintf("rows %d to %d, ", r.Y+1, r.Y+r.High) + where
	} else if r.Y > 0 {
		where = fmt.Sprintf("row %d, ", r.Y+1) + where
	}
	return where
}

// Of is the part of a display as a display of its own.
func (r Region) Of(g Geometry) Geometry {
	divided, _ := As[Divided](g)
	return divided.Part(g, r)
}

// Cut is what the part of a track showed.
func (r Region) Cut(t *Track, s State) State {
	divided, _ := As[Divided](t.Geometry)
	return divided.Cut(t, s, r)
}

// Widen gives a state of the part as one of the whole display, whose rest is blank; nil stays nil.
func (r Region) Widen(g Geometry, s *State) *State {
	if s == nil {
		return nil
	}
	divided, _ := As[Divided](g)
	out := divided.Widen(g, *s, r)
	return &out
}

// In makes a matcher of a part one of the display, whatever the rest shows.
func (r Region) In(m Matcher) Matcher { return &InRegion{r, m} }

// InRegion is what a part of a display is to show.
type InRegion struct {
	Region Region
	Inner  Matcher
}

// Match looks at the part.
func (m *InRegion) Match(t *Track, s State) (bool, int) {
	return m.Inner.Match(&Track{Display: t.Display, Geometry: m.Region.Of(t.Geometry), Custom: t.Custom},
		m.Region.Cut(t, s))
}

// Ideal leaves the rest blank.
func (m *InRegion) Ideal(g Geometry) *State {
	return m.Region.Widen(g, m.Inner.Ideal(m.Region.Of(g)))
}

// Same is never so.
func (m *InRegion) Same(Matcher) bool { return false }

// Within is the part.
func (m *InRegion) Within() *Region { return &m.Region }
func (m *InRegion) String() string  { return fmt.Sprintf("%s in %s", m.Inner, m.Region) }
