package part

import (
	"hemble/core/display"
	"hemble/core/display/lamp"
)

// BacklightSuffix makes the name of a display's backlight as a track of its own.
const BacklightSuffix = "-backlight"

// BacklightGeometry is how the track of a backlight is drawn.
var BacklightGeometry = lamp.Geometry("backlight", FindColour("white").Hex)

// Backlight is the light behind a display as a display of its own.
func (b *Instance) Backlight() *Instance {
	k := *b.Kind
	k.Geometry = func(Instance) display.Geometry { return BacklightGeometry }
	k.Backlit = nil
	light := *b
	light.Name, light.Kind = b.Name+BacklightSuffix, &k
	return &light
}
