package reel

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
)

// lampTrack is a lamp that changes at some times in ms, dark at first.
func lampTrack(name string, changes ...int) display.Track {
	t := display.Track{Display: name, Geometry: display.Geometry{Form: display.FormLamp, Width: 60, Height: 60, Shapes: []display.Shape{{Name: "red", Circle: &display.Circle{X: 30, Y: 30, R: 22}}}}}
	from, state := clock.Time(0), display.Dark
	add := func(to clock.Time) {
		t.Frames = append(t.Frames, display.Frame{From: from, To: to, State: display.State{Lights: display.Lights{state}, Levels: []int{255 * int(state)}}, At: &machine.Place{PC: uint32(from / clock.Millisecond)}})
		from, state = to, 1-state
	}
	for _, ms := range changes {
		add(clock.Time(ms) * clock.Millisecond)
	}
	add(clock.Second)
	return t
}

func texts(t display.Track) (out []string) {
	for _, f := range t.Frames {
		out = append(out, f.From.String()+" "+f.Text)
	}
	return out
}

func TestGather(t *testing.T) {
	for _, c := range []struct {
		name string
		a, b []int
		want []string
	}{
		{"at once", []int{100, 300}, []int{300}, []string{"0.000 s all off", "0.100 s a", "0.300 s b"}},
		{"one soon after the other", []int{100, 300}, []int{310}, []string{"0.000 s all off", "0.100 s a", "0.310 s b"}},
		{"both for a moment", []int{100, 310}, []int{300}, []string{"0.000 s all off", "0.100 s a", "0.310 s b"}},
		{"both for longer", []int{100, 330}, []int{300}, []string{"0.000 s all off", "0.100 s a", "0.300 s a + b", "0.330 s b"}},
		{"a flash of its own", []int{100, 110}, nil, []string{"0.000 s all off", "0.100 s a", "0.110 s all off"}},
		{"at power-on", []int{10}, []int{5}, []string{"0.000 s a + b"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := Reel{Length: clock.Second, Tracks: []display.Track{lampTrack("a", c.a...), lampTrack("b", c.b...)}}
			g, ok := r.Gather(Group{"both", []string{"a", "b"}})
			require.True(t, ok)
			assert.Equal(t, c.want, texts(g))
			assert.Equal(t, clock.Second, g.Frames[len(g.Frames)-1].To)
			for i := 1; i < len(g.Frames); i++ {
				assert.Equal(t, g.Frames[i-1].To, g.Frames[i].From, "without gaps")
			}
		})
	}
	_, ok := (&Reel{}).Gather(Group{"both", []string{"a", "b"}})
	assert.False(t, ok, "without its members there is no group")
}

// Members lie side by side, each light with a number of its own, and digits next to each other are one display.
func TestGroupLook(t *testing.T) {
	digit := display.Geometry{Form: display.FormDigits, Width: 100, Height: 160, Shapes: make([]display.Shape, 8)}
	for i := range digit.Shapes {
		digit.Shapes[i] = display.Shape{Light: i, Points: [][2]float64{{1, 2}}}
	}
	lamp := lampTrack("a").Geometry
	two := display.Join([]display.Member{{Name: "tens", Geometry: digit}, {Name: "ones", Geometry: digit}})
	assert.Equal(t, display.FormDigits, two.Form)
	assert.Equal(t, 2, two.Digits())
	assert.Equal(t, [2]float64{109, 2}, two.Shapes[8].Points[0])
	assert.Equal(t, 1, two.Shapes[8].Digit)
	assert.Equal(t, [2]float64{1, 2}, digit.Shapes[0].Points[0], "the member's own drawing stays")
	mixed := display.Join([]display.Member{{Name: "tens", Geometry: digit}, {Name: "a", Geometry: lamp}})
	assert.Equal(t, display.FormGroup, mixed.Form)
	assert.Equal(t, 8, mixed.Shapes[8].Light)
	assert.Equal(t, display.Circle{X: 138, Y: 80, R: 22}, *mixed.Shapes[8].Circle)
	s := display.State{Lights: lights("011000001"), Levels: make([]int, 9)}
	assert.Len(t, mixed.Split(s)[0].Lights, 8)
	assert.Equal(t, "tens 1 + a", (&display.Track{Geometry: mixed}).Describe(s))
	s.Lights[8] = display.Dim
	assert.Equal(t, "tens 1 + a dim", (&display.Track{Geometry: mixed}).Describe(s))
}

// What is done to a member is done to its group.
func TestRegather(t *testing.T) {
	r := Reel{Length: clock.Second, Tracks: []display.Track{lampTrack("a", 100), lampTrack("b"), lampTrack("c", 50)}}
	g, _ := r.Gather(Group{"both", []string{"a", "b"}})
	r.Tracks = append(r.Tracks, g)
	r.Tracks[0] = lampTrack("a", 400)
	r.Regather("c")
	assert.Equal(t, "0.100 s a", texts(r.Tracks[3])[1])
	r.Regather("a")
	assert.Equal(t, "0.400 s a", texts(r.Tracks[3])[1])
}

// The worst member tells how a group was driven.
func TestGroupQuality(t *testing.T) {
	a, b := lampTrack("a"), lampTrack("b")
	a.Quality, b.Quality = &display.Quality{Refresh: 80, Evenness: 90, Ghost: 3}, &display.Quality{Refresh: 60, Evenness: 95, Ghost: 1}
	assert.Equal(t, &display.Quality{Refresh: 60, Evenness: 90, Ghost: 3}, worst([]*display.Track{&a, &b}))
	assert.Nil(t, worst([]*display.Track{{}, {}}))
}

// Custom characters read as what the exercise or the ROM has for their dots; those without a letter are told apart.
func TestCustomCharacters(t *testing.T) {
	up := [8]uint8{4, 14, 31}
	a := [8]uint8(romDots('A'))
	track := display.Track{Geometry: display.Geometry{Form: display.FormText, Grid: &display.Grid{Columns: 3, Rows: 1, Characters: []display.Character{{Letter: "▲", Dots: up}}}}, Custom: [][8]uint8{up, a, {1}, {2}, {}}}
	sight := func(cells ...display.Cell) display.State { return display.State{Cells: cells} }
	assert.Equal(t, `"▲AB"`, track.Describe(sight(display.CustomCell, display.CustomCell+1, 'B')))
	assert.Equal(t, `"▲"`, track.Describe(sight(display.NamedCell, display.CustomCell+4, ' ')), "blank dots are a space")
	assert.Equal(t, `"▢B▢" (▢ 3 4 of 5)`, track.Describe(sight(display.CustomCell+2, 'B', display.CustomCell+3)))
	assert.True(t, track.Alike(sight(display.CustomCell+1, ' ', ' '), sight('A', ' ', ' ')))
	assert.False(t, track.Alike(sight(display.CustomCell+2, ' ', ' '), sight(display.CustomCell+3, ' ', ' ')), "two different ones are two states")
	assert.Equal(t, up, track.Dots(display.NamedCell))
	for letter, want := range map[rune]display.Cell{'▲': display.NamedCell, '▢': display.AnyCustom, 'A': 'A'} {
		c, ok := track.Geometry.Grid.Cell(letter)
		assert.True(t, ok)
		assert.Equal(t, want, c)
	}
	_, ok := track.Geometry.Grid.Cell('▼')
	assert.False(t, ok)
}

func romDots(code byte) [8]uint8 { return (&display.Track{}).Dots(display.Cell(code)) }
