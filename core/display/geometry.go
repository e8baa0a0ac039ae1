package display

// Form is what kind of thing a display shows, and so how a sight of it reads and is drawn.
type Form string

// The forms.
const (
	FormLamp   Form = "lamp"   // one light
	FormDigits Form = "digits" // seven segments and a point to a digit, after them perhaps a colon
	FormBar    Form = "bar"    // a row of lights, each by itself
	FormColour Form = "colour" // a red, a green and a blue light that mix
	FormMatrix Form = "matrix" // rows of dots, Digit being the row
	FormText   Form = "text"   // a grid of characters
	FormPixels Form = "pixels" // a graphic display
	FormSound  Form = "sound"  // nothing to see: a pitch
	FormLines  Form = "lines"  // a terminal: the line that came last
	FormGroup  Form = "group"  // several displays of lights that are read as one
)

// Geometry says how a display is drawn: shapes with the light that fills each, a grid of character cells,
// or pixels. Terminal, SVG and console all draw from it.
type Geometry struct {
	Form   Form    `json:"form"`
	Width  float64 `json:"width"` // of the drawing, in tenths of a millimetre or so
	Height float64 `json:"height"`
	Shapes []Shape `json:"shapes,omitempty"`
	Grid   *Grid   `json:"grid,omitempty"`
	Pixels *Pixels `json:"pixels,omitempty"`
	Colon  int     `json:"colon,omitempty"` // of digits: behind how many of them the colon stands; 0 for none

	Members []Member `json:"members,omitempty"` // of a group, in the order of their lights
}

// Lights is how many lights the display has; several shapes may belong to one.
func (l Geometry) Lights() (n int) {
	for _, s := range l.Shapes {
		n = max(n, s.Light+1)
	}
	return n
}

// Digits is how many digits a display of that form has.
func (l Geometry) Digits() int { return len(l.Shapes) / 8 }

// Pixels is a graphic display.
type Pixels struct {
	Columns int    `json:"columns"`
	Rows    int    `json:"rows"`
	Ink     string `json:"ink"` // colour of a lit pixel
}

// Shape is one light.
type Shape struct {
	Light  int          `json:"light"`
	Name   string       `json:"name"`            // segment name, or the colour's word for a lamp
	Digit  int          `json:"digit,omitempty"` // which digit it belongs to
	Color  string       `json:"color"`           // of the lit light, #rrggbb
	Points [][2]float64 `json:"points,omitempty"`
	Circle *Circle      `json:"circle,omitempty"`
}

// Circle is a round light.
type Circle struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
	R float64 `json:"r"`
}

// Grid is a character display.
type Grid struct {
	Columns int    `json:"columns"`
	Rows    int    `json:"rows"`
	Back    string `json:"back"` // colours of the backlight, the dots set and unset
	Ink     string `json:"ink"`
	Faint   string `json:"faint"`

	Characters []Character `json:"characters,omitempty"` // custom ones that the exercise has a name for
	Cursor     bool        `json:"-"`                    // the cursor is a part of what is compared and told
}

// Character is a custom character with the letter that stands for it in texts.
type Character struct {
	Letter string   `json:"letter"`
	Dots   [8]uint8 `json:"dots"` // row by row, the leftmost of five dots in bit 4
}
