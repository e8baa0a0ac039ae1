package cli

import (
	"context"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"hemble/build"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/spec"
	"hemble/render"
	"hemble/service/api"
	"hemble/service/web"
)

func schemaCommand() *cli.Command {
	return &cli.Command{
		Name:         "schema",
		Usage:        "print the JSON Schema of exercise files",
		OnUsageError: usage,
		Flags: []cli.Flag{
			&cli.BoolFlag{Name: "markdown", Usage: "print the reference documentation instead"},
			&cli.BoolFlag{Name: "findings", Usage: "print the documentation of findings instead"},
			&cli.BoolFlag{Name: "errors", Usage: "print the documentation of the API's errors instead"},
			&cli.BoolFlag{Name: "api", Usage: "print the OpenAPI document of the API instead"},
		},
		Action: func(_ context.Context, c *cli.Command) error {
			if c.Bool("markdown") {
				fmt.Fprint(c.Root().Writer, exercise.Reference())
				return nil
			}
			if c.Bool("findings") {
				fmt.Fprint(c.Root().Writer, finding.Reference())
				return nil
			}
			if c.Bool("errors") {
				fmt.Fprint(c.Root().Writer, web.CodesDocument())
				return nil
			}
			if c.Bool("api") {
				return writeJSON(c.Root().Writer, api.OpenAPI())
			}
			return writeJSON(c.Root().Writer, exercise.Schema())
		},
	}
}

func partsCommand() *cli.Command {
	return &cli.Command{
		Name:         "parts",
		Usage:        "list the parts a bench can have, or describe one",
		ArgsUsage:    "[PART]",
		OnUsageError: usage,
		Flags: []cli.Flag{&cli.StringFlag{Name: "svg",
			Usage: "draw every display (lit, ghosted, dark) to `FILE`"}},
		Action: func(_ context.Context, c *cli.Command) error {
			out := c.Root().Writer
			if name := c.String("svg"); name != "" {
				displays, err := exercise.Examples()
				if err != nil {
					return err
				}
				return os.WriteFile(name, []byte(render.Gallery(displays)), 0o644)
			}
			if !c.Args().Present() {
				for _, k := range part.Kinds() {
					fmt.Fprintf(out, "%-14s %s\n", k.Name, k.Title)
				}
				return nil
			}
			k := part.Find(c.Args().First())
			if k == nil {
				var names []string
				for _, k := range part.Kinds() {
					names = append(names, k.Name)
				}
				return misused("no part is called %q%s", c.Args().First(), spec.Nearest(c.Args().First(), names))
			}
			fmt.Fprintf(out, "%s (%s)\n\n%s\nSource: %s\n\nPins\n", k.Name, k.Title, k.Doc, k.Source)
			for _, p := range k.Pins {
				optional := ""
				if p.Optional {
					optional = " (may be left out)"
				}
				fmt.Fprintf(out, "  %-16s %s%s\n", p.Name, p.Doc, optional)
			}
			if len(k.Settings) > 0 {
				fmt.Fprintln(out, "\nSettings")
			}
			for _, f := range k.Settings {
				detail := "default " + f.Default
				switch {
				case f.Required:
					detail = "required"
				case f.Default == "":
					detail = "may be left out"
				}
				if len(f.Choices) > 0 {
					detail = strings.Join(f.Choices, ", ") + "; " + detail
				}
				fmt.Fprintf(out, "  %-16s %s (%s)\n", f.Name, f.Doc, detail)
			}
			if len(k.Cues) > 0 {
				fmt.Fprintf(out, "\nCues\n  %s\n", strings.Join(k.Cues, ", "))
			}
			drawn(out, k)
			fmt.Fprintf(out, "\nExample\n  %s\n", strings.ReplaceAll(exercise.Example(k, machine.Usual()), "\n",
				"\n  "))
			return nil
		},
	}
}

// drawn shows how a display looks in the terminal, lit, ghosted and dark.
func drawn(out io.Writer, k *part.Kind) {
	displays, err := exercise.Examples()
	if err != nil || k.Geometry == nil {
		return
	}
	for _, p := range displays {
		if p.Kind != k {
			continue
		}
		t := &display.Track{Display: p.Name, Geometry: k.Geometry(*p)}
		for _, s := range render.Samples(t) {
			fmt.Fprintf(out, "\n%s\n", strings.ToUpper(s.Name[:1])+s.Name[1:])
			for _, line := range render.Art(t, s.State) {
				fmt.Fprintln(out, strings.TrimRight("  "+line, " "))
			}
		}
		return
	}
}

func chipsCommand() *cli.Command {
	return &cli.Command{
		Name:         "chips",
		Usage:        "list the chips and what is modelled, or describe one with its pins",
		ArgsUsage:    "[CHIP]",
		OnUsageError: usage,
		Action: func(_ context.Context, c *cli.Command) error {
			out := c.Root().Writer
			if c.Args().Present() {
				chip, err := machine.Find(c.Args().First())
				if err != nil {
					var names []string
					for _, chip := range machine.Chips() {
						names = append(names, chip.Name)
					}
					return misused("no chip is called %q%s", c.Args().First(), spec.Nearest(c.Args().First(), names))
				}
				described(out, chip)
				fmt.Fprintln(out)
				pinsOf(out, chip)
				return nil
			}
			for _, chip := range machine.Chips() {
				described(out, chip)
			}
			fmt.Fprintln(out, "\n`hemble chips CHIP` lists the pins of one.")
			return nil
		},
	}
}

// described says what a chip is, and what of it is modelled.
func described(out io.Writer, chip *machine.Chip) {
	memories := ""
	if chip.Flash > 0 {
		memories = fmt.Sprintf("flash %d KB, SRAM %d bytes, EEPROM %d bytes, ", chip.Flash>>10, chip.SRAM, chip.EEPROM)
	}
	source := "takes source: " + strings.Join(build.Endings(chip), ", ")
	if err := build.Ready(chip); err != nil {
		source = "takes no source here: " + err.Error()
	}
	fmt.Fprintf(out, "%s (%s)\n  %sdefault clock %s\n  models: %s\n  not modelled yet: %s\n  %s\n  documents: %s\n", chip.Name,
		chip.Title, memories, chip.Clock, strings.Join(chip.Models, ", "), strings.Join(chip.Unmodelled, ", "), source,
		chip.Source)
}

// pinsOf lists the pins of a chip; in any package there are too many for a line each.
func pinsOf(out io.Writer, chip *machine.Chip) {
	if !slices.ContainsFunc(chip.Pins, func(p machine.PinInfo) bool { return p.Package > 0 || len(p.Also) > 0 }) {
		first, last := map[string]string{}, map[string]string{}
		var rows []string
		for _, p := range chip.Pins {
			row := strings.TrimRight(p.Name, "0123456789")
			if first[row] == "" {
				rows = append(rows, row)
				first[row] = p.Name
			}
			last[row] = p.Name
		}
		for i, row := range rows {
			if rows[i] = first[row]; last[row] != first[row] {
				rows[i] += " to " + last[row]
			}
		}
		fmt.Fprintf(out, "  pins: %s\n", strings.Join(rows, ", "))
		return
	}
	fmt.Fprintln(out, "  pin   package  also")
	for _, p := range chip.Pins {
		if p.Name != "" {
			fmt.Fprintln(out, strings.TrimRight(fmt.Sprintf("  %-5s %7d  %s", p.Name, p.Package, strings.Join(p.Also, " ")), " "))
		}
	}
}
