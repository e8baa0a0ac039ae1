// Package checks holds the core to the demo course, in a folder for each room of the core: what marks and causes its programs
// get, that fast and plain stepping show the same, what is recorded and accepted. The core's own tests need none of it.
package checks
