// Command hemble marks students' display-programming exercises; see the README.
package main

import (
	"os"

	"hemble/cli"
	_ "hemble/native" // faster where it runs
)

func main() { os.Exit(cli.Main(os.Args)) }
