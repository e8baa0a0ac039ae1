// Package ports defines what marking needs from its surroundings: a queue of jobs, storage for files, and someone to
// notify of changes. Nothing here, and no user of it, assumes a single process: there can be workers in several.
package ports
