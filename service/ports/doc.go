// Package ports says what the service's marking needs of the world: a line of jobs, a place for files, somebody to tell
// of changes. Nothing here, and nobody who works through it, assumes that there is one process: workers may be of
// several.
package ports
