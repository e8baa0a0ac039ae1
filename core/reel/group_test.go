package reel

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/display/lamp"
	"hemble/core/machine"
)

// lampTrack is a lamp that changes at some times in ms, dark at first.
func lampTrack(name string, changes ...int) display.Track {
	t := display.Track{Display: name, Geometry: display.Geometry{TypeName: lamp.Form, Width: 60, Height: 60,
		Shapes: []display.Shape{{Name: "red", Circle: &display.Circle{X: 30, Y: 30, R: 22}}}}}
	from, state := clock.Time(0), display.Dark
	add := func(to clock.Time) {
		t.Frames = append(t.Frames,
			display.Frame{From: from, To: to,
				State: display.State{Lights: display.Lights{state}, Levels: []int{255 * int(state)}},
				At:    &machine.Place{PC: uint32(from / clock.Millisecond)}})
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
		{"one soon after the other", []int{100, 300}, []int{310},
			[]string{"0.000 s all off", "0.100 s a", "0.310 s b"}},
		{"both for a moment", []int{100, 310}, []int{300}, []string{"0.000 s all off", "0.100 s a", "0.310 s b"}},
		{"both for longer", []int{100, 330}, []int{300},
			[]string{"0.000 s all off", "0.100 s a", "0.300 s a + b", "0.330 s b"}},
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

// The worst member returns how a group was driven.
func TestGroupQuality(t *testing.T) {
	a, b := lampTrack("a"), lampTrack("b")
	a.Quality, b.Quality = &display.Quality{Refresh: 80, Evenness: 90, Ghost: 3}, &display.Quality{Refresh: 60,
		Evenness: 95, Ghost: 1}
	assert.Equal(t, &display.Quality{Refresh: 60, Evenness: 90, Ghost: 3}, worst([]*display.Track{&a, &b}))
	assert.Nil(t, worst([]*display.Track{{}, {}}))
}
