package reel

import (
	"hemble/core/clock"
	"hemble/core/display"
)

// Moment is a moment of a run as driven: what changed on the bench as it was driven.
type Moment struct {
	At       clock.Time        `json:"at"`
	Nets     map[string]string `json:"nets,omitempty"`     // those that changed
	Displays map[string]string `json:"displays,omitempty"` // those that changed, in words
	Source   string            `json:"source,omitempty"`
	// States are the displays that changed, as driven; only where they were asked for.
	States map[string]display.State `json:"states,omitempty"`
}
