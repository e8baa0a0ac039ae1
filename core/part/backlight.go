package part

import "hemble/core/display"

// BacklightSuffix makes the name of a display's backlight as a track of its own.
const BacklightSuffix = "-backlight"

// BacklightLook is how the track of a backlight is drawn.
var BacklightLook = display.Geometry{Form: display.FormLamp, Width: 60, Height: 60,
	Shapes: []display.Shape{{Name: "backlight", Color: FindColour("white").Hex, Circle: &display.Circle{X: 30, Y: 30, R: 22}}}}

// Backlight is the light behind a display as a display of its own.
func (b *Built) Backlight() *Built {
	k := *b.Kind
	k.Geometry = func(Built) display.Geometry { return BacklightLook }
	k.Backlit = nil
	light := *b
	light.Name, light.Kind = b.Name+BacklightSuffix, &k
	return &light
}
