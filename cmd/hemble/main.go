// Command hemble checks students' display firmware; see the README.
package main

import (
	"os"

	"hemble/cli"
)

func main() { os.Exit(cli.Main(os.Args)) }
