// Package cli is the command line.
package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"syscall"

	"github.com/urfave/cli/v3"
	"golang.org/x/term"

	_ "hemble/core/catalogue" // the chips and parts there are
	_ "hemble/interpreter"    // runs scripts
	"hemble/render"
)

// Exit codes.
const (
	exitDone    = 0
	exitCannot  = 1
	exitMisused = 2
)

// misuse is an error in how a command was called.
type misuse struct{ error }

func misused(format string, args ...any) error { return misuse{fmt.Errorf(format, args...)} }

// errTold is a failure that the command has told about itself.
var errTold = errors.New("told already")

// Main runs the command line and gives the exit code: 0 done, 1 could not do it, 2 wrong use.
func Main(args []string) int {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	err := App().Run(ctx, args)
	var wrong misuse
	switch {
	case err == nil:
		return exitDone
	case errors.Is(err, errTold):
		return exitCannot
	}
	fmt.Fprintln(os.Stderr, "hemble:", err)
	if errors.As(err, &wrong) {
		return exitMisused
	}
	return exitCannot
}

// App is the tree of commands.
func App() *cli.Command {
	cli.VersionPrinter = func(c *cli.Command) { fmt.Fprintln(c.Root().Writer, version()) }
	cli.VersionFlag = &cli.BoolFlag{Name: "version", Usage: "print version, commit and engine"}
	return withExamples(strict(&cli.Command{
		Name:    "hemble",
		Version: Version,
		Usage:   "runs students' firmware on a simulated bench and marks what the displays showed",
		Commands: []*cli.Command{
			gradeCommand(), playCommand(), traceCommand(), buildCommand(), checkCommand(), pictureCommand(),
			recordCommand(), acceptCommand(), strengthCommand(), schemaCommand(), partsCommand(), chipsCommand(),
			serveCommand(), demoCommand(), loginCommand(), logoutCommand(), classCommand(), exerciseCommand(),
			taskCommand(), submitCommand(), statusCommand(), resultsCommand(), gradebookCommand(),
			markAgainCommand(), backupCommand(), restoreCommand(), verifyCommand(),
		},
		EnableShellCompletion: true,
		ExitErrHandler:        func(context.Context, *cli.Command, error) {},
		OnUsageError: func(_ context.Context, _ *cli.Command, err error, _ bool) error {
			return misuse{err}
		},
		Action: func(_ context.Context, c *cli.Command) error {
			if c.Args().Present() {
				return misused("no command is called %q; `hemble help` lists them", c.Args().First())
			}
			return cli.ShowRootCommandHelp(c)
		},
	}), "")
}

// strict makes commands that take no arguments refuse them, and whole numbers of flags refuse to be negative: a slip of
// the pen is told, and nothing is done by it.
func strict(c *cli.Command) *cli.Command {
	c.DisableSliceFlagSeparator = true // a comma can be in a file's name
	for _, sub := range c.Commands {
		strict(sub)
		for _, f := range sub.Flags {
			if n, ok := f.(*cli.IntFlag); ok && n.Validator == nil {
				n.Validator = func(v int) error {
					if v < 0 {
						return fmt.Errorf("%d is negative", v)
					}
					return nil
				}
			}
		}
		if act := sub.Action; act != nil && sub.ArgsUsage == "" && len(sub.Commands) == 0 {
			sub.Action = func(ctx context.Context, c *cli.Command) error {
				if c.Args().Present() {
					return misused("%s expects no argument; it was given %q", c.Name, c.Args().First())
				}
				return act(ctx, c)
			}
		}
	}
	return c
}

// usage makes wrong flags of a command wrong use.
func usage(_ context.Context, _ *cli.Command, err error, _ bool) error { return misuse{err} }

var formatFlag = &cli.StringFlag{Name: "format", Value: "text", Usage: "output `FORMAT`: text or json",
	Validator: func(s string) error {
		if s != "text" && s != "json" {
			return fmt.Errorf("%q is neither text nor json", s)
		}
		return nil
	}}

// styleFor looks what an output can show.
func styleFor(w io.Writer) render.Style {
	st := render.Style{Width: 100}
	if f, ok := w.(*os.File); ok && term.IsTerminal(int(f.Fd())) {
		st.Colour = os.Getenv("NO_COLOR") == ""
		if width, _, err := term.GetSize(int(f.Fd())); err == nil && width >= 60 {
			st.Width = min(width, 160)
		}
	}
	return st
}

func writeJSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	e.SetEscapeHTML(false)
	return e.Encode(v)
}
