package reel

// Look says how a display is drawn: shapes with the light that fills each, or a grid of character
// cells. Terminal, SVG and console all draw from it.
type Look struct {
	Width  float64 `json:"width"` // of the drawing, in tenths of a millimetre or so
	Height float64 `json:"height"`
	Shapes []Shape `json:"shapes,omitempty"`
	Grid   *Grid   `json:"grid,omitempty"`
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
}
