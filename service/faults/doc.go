// Package faults breaks services as real machines do: killed at random moments, a full disk, a torn log, a jumping
// clock, a backup under load. Everything acknowledged must be there afterwards, marked once and correctly. `make test`
// does a little of each; `make faults` all of it.
package faults
