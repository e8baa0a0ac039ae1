package scripted

import (
	"io"

	"hemble/core/script"
)

// Host starts scripts in a process of their own. Whoever can do that gives one to Use; where nobody does, as in a page,
// scripts are not run.
type Host interface {
	Start(p *script.Program, b Board) (Child, error)
}

// Board is what a script's surroundings need to know.
type Board struct {
	Name    string // of the chip
	Seed    uint64 // of everything random
	Console Console
	Cover   bool // the script tells which of its lines are first carried out, and when
}

// Console is the line at which a script's terminal is.
type Console struct {
	Pin       int   // at which what is typed comes in
	Wired     bool  // somebody reads what it shows, which then takes its time
	Typed     bool  // somebody may type there
	Character int64 // ns that one takes
	Room      int   // how many may wait for that
}

// Child is a script that runs. What it writes and reads is the protocol: see Machine.
type Child interface {
	io.ReadWriter
	// Stop ends it.
	Stop()
	// Wait gives why it was stopped, as the end of "it needed …", and what it said on its standard error; both are
	// empty for one that ended by itself.
	Wait() (stopped, messages string)
}

var host Host

// Use gives the host. It is called once, before anything runs.
func Use(h Host) { host = h }
