package part

import "hemble/core/reel"

// BacklightSuffix makes the name of a display's backlight as a track of its own.
const BacklightSuffix = "-backlight"

// BacklightLook is how the track of a backlight is drawn.
var BacklightLook = reel.Look{Form: reel.FormLamp, Width: 60, Height: 60,
	Shapes: []reel.Shape{{Name: "backlight", Color: FindColour("white").Hex, Circle: &reel.Circle{X: 30, Y: 30, R: 22}}}}

// Backlight is the light behind a display as a display of its own.
func (b *Built) Backlight() *Built {
	k := *b.Kind
	k.Look = func(Built) reel.Look { return BacklightLook }
	k.Backlit = nil
	light := *b
	light.Name, light.Kind = b.Name+BacklightSuffix, &k
	return &light
}
