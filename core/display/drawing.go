package display

// Drawing is a display in some state as shapes and words, from back to front, in the units of its geometry. Whoever
// draws knows these few, and no display type.
type Drawing []Item

// Item is one of Lamp, Panel, Disc, Squares and Words.
type Item interface{ item() }

// Lamp is a light that is lit, dim or dark in its outline.
type Lamp struct {
	Shape Shape
	State Light
	Level float64 // of brightness, 0 to 1
}

// Panel is a rectangle with round corners.
type Panel struct {
	X, Y, Width, Height, Round float64
	Fill                       string
	Stroke                     string // none where it is empty
}

// Disc is a circle; a ring where it has no fill.
type Disc struct {
	Circle
	Fill, Stroke string
	Thick        float64 // of the stroke
}

// Squares are equal squares, at multiples of a unit from a corner.
type Squares struct {
	X, Y, Scale float64
	Side        float64
	At          [][2]int
	Fill        string
	Opacity     float64 // 0 to 1
}

// Words is a text, its baseline at Y.
type Words struct {
	X, Y, Size float64
	Centred    bool
	Fill       string
	Text       string
}

func (Lamp) item()    {}
func (Panel) item()   {}
func (Disc) item()    {}
func (Squares) item() {}
func (Words) item()   {}

// Inks of displays that are not lit.
const (
	InkDark    = "#241c19"
	InkOutline = "#5a4a44"
)

// Lamps draws each shape of a display as a light.
func Lamps(t *Track, s State) (out Drawing) {
	for _, x := range t.Geometry.Shapes {
		l := Lamp{Shape: x}
		if x.Light < len(s.Lights) {
			l.State = s.Lights[x.Light]
		}
		if x.Light < len(s.Levels) {
			l.Level = float64(s.Levels[x.Light]) / 255
		}
		out = append(out, l)
	}
	return out
}
