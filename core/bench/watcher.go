package bench

import (
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
)

// Watcher is told of everything that happens on a bench, as it happens, without the inertia of an eye.
type Watcher interface {
	// Net is a net that came out differently; contended tells that strong drivers work against each other.
	Net(name string, d circuit.Drive, contended bool)
	// Light is a light whose current in nA changed, Cell a cell of a screen; display counts the parts of the
	// exercise from 0.
	Light(display, light int, nA int64)
	Cell(display, cell int, value display.Cell)
	// Settled ends what happened at one moment, by the instruction at the given place.
	Settled(t clock.Time, at machine.Place)
}

// BusWatcher is a watcher that is told of every byte and command that went over a bus, too, when it is over: by the
// name that the log has for the bus, or for the part that took it. What a byte belongs to is told with it.
type BusWatcher interface {
	Sent(t clock.Time, bus, what string, data []byte)
}
