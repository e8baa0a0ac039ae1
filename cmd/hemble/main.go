// Command hemble marks students' display-programming exercises; see the README.
package main

import (
	"os"
	"runtime/debug"

	"hemble/cli"
	_ "hemble/native" // faster where it runs
)

// garbage is by how much the heap grows between collections, in percent, unless GOGC says otherwise. Marking makes much
// that is soon forgotten, beside little that stays: at the usual 100 a tenth of its time is collecting.
const garbage = 200

func main() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(garbage)
	}
	os.Exit(cli.Main(os.Args))
}
