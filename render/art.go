// Package render writes mark sheets, reels and benches for people and other programs: text for terminals, HTML, SVG,
// PNG, CSV, JUnit XML, and VCD for waveform viewers.
package render

import "hemble/core/display"

// Art draws a state in box characters, all lines equally wide.
func Art(t *display.Track, s display.State) []string { return t.Geometry.Type().Sketch(t, s) }
