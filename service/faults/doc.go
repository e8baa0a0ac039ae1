// Package faults breaks services in every way that a machine does: they are killed at random moments, their disk fills
// up, the tail of their log is torn off, their clock jumps, a backup is taken while all goes on. What was acknowledged
// must be there afterwards, marked once and rightly. `make test` does a little of each; `make faults` all of it.
package faults
