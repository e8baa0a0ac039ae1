package cli

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"hemble/core/schematic"
	"hemble/wire"
)

func taskCommand() *cli.Command {
	return &cli.Command{
		Name:         "task",
		Usage:        "show the brief, your values and the wiring of an exercise",
		ArgsUsage:    "EXERCISE",
		Description:  "Students see what to build, by when, and how many attempts are left. Instructors and assistants see it as a student does with --student.",
		OnUsageError: usage,
		Flags: []cli.Flag{classFlag,
			&cli.StringFlag{Name: "student", Usage: "`LOGIN` of the student whose version to show"}, formatFlag},
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() != 1 {
				return misused("task expects an exercise's name: hemble task EXERCISE")
			}
			api, class, err := inClass(c)
			if err != nil {
				return err
			}
			name := c.Args().First()
			b, err := api.Brief(ctx, class, name, c.String("student"))
			if err != nil {
				return err
			}
			o, err := api.Assignment(ctx, class, name)
			if err != nil {
				return err
			}
			if c.String("format") == "json" {
				return writeJSON(c.Root().Writer, b)
			}
			return writeTask(c, b, o)
		},
	}
}

func writeTask(c *cli.Command, b wire.Brief, o wire.Assignment) error {
	out := c.Root().Writer
	fmt.Fprintf(out, "%s, %s marks\n", b.Title, short(string(b.Marks)))
	due, closes := o.Due, o.Closes
	if o.Standing != nil {
		due, closes = o.Standing.Due, o.Standing.Closes
	}
	fmt.Fprintf(out, "due %s, closes %s", stamp(due), stamp(closes))
	if m := o.Standing; m != nil && m.Left != nil {
		fmt.Fprintf(out, "; %d attempts left", *m.Left)
	}
	fmt.Fprintln(out)
	if m := o.Standing; m != nil && !m.Open {
		fmt.Fprintln(out, "Nothing is taken now:", wire.InZone(m.Why, time.Local))
	}
	fmt.Fprintf(out, "\n%s\n", strings.TrimSpace(b.Brief))
	if len(b.Values) > 0 {
		fmt.Fprintln(out, "\nYour own values:")
		for _, v := range b.Values {
			fmt.Fprintf(out, "  %s = %s\n", v.Name, v.Value)
		}
	}
	if b.Chip != "" {
		fmt.Fprintf(out, "\nThe chip is an %s at %s.\n", b.Chip, b.Clock)
	}
	fmt.Fprintln(out)
	if err := table(c, wireRows(b.Wires)); err != nil {
		return err
	}
	for _, other := range b.Others {
		fmt.Fprintf(out, "\nOr it is an %s at %s.\n\n", other.Chip, other.Clock)
		if err := table(c, wireRows(other.Wires)); err != nil {
			return err
		}
	}
	return nil
}

// wireRows is the table of a wiring.
func wireRows(wires []schematic.Wire) [][]string {
	rows := [][]string{{"pin", "is wired to", ""}}
	for _, w := range wires {
		net := w.Net
		if w.Package > 0 {
			net += fmt.Sprintf(" (%d)", w.Package)
		}
		for i, e := range w.Ends {
			if i > 0 {
				net = ""
			}
			doc := e.Doc
			if e.Ohms > 0 {
				doc += fmt.Sprintf(", through %d Ω", e.Ohms)
			}
			rows = append(rows, []string{net, e.Part + " " + e.Pin, doc})
		}
	}
	return rows
}
