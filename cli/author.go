package cli

import (
	"context"
	"errors"
	"fmt"
	"os"

	"github.com/schollz/progressbar/v3"
	"github.com/urfave/cli/v3"
	"golang.org/x/term"

	"hemble/core/author"
	"hemble/core/exercise"
	"hemble/render"
)

func recordCommand() *cli.Command {
	return &cli.Command{
		Name:         "record",
		Usage:        "write expectations from what a reference firmware shows",
		ArgsUsage:    "EXERCISE FIRMWARE",
		Description:  "Runs the reference in each trial and adds a shows expectation for each display that has none, with times rounded as a person would write them. The rest of the file is unchanged. Prints the result, or with --write changes the file.",
		OnUsageError: usage,
		Flags: []cli.Flag{libraryFlag,
			&cli.BoolFlag{Name: "replace",
				Usage: "replace shows expectations that the reference does not meet, keeping their marks"},
			&cli.BoolFlag{Name: "write", Usage: "write the change to the exercise file"}},
		Action: record,
	}
}

func record(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 2 {
		return misused("record expects an exercise and a reference: hemble record EXERCISE FIRMWARE")
	}
	path := exercisePath(c.Args().First())
	text, err := os.ReadFile(path)
	if err != nil {
		return err
	}
	r := reader(path)
	r.Draft = true
	x, problems := r.Read(text)
	for _, p := range problems {
		fmt.Fprintln(os.Stderr, p.Error())
	}
	if x == nil {
		return errTold
	}
	file, err := newSources(c).bytes(ctx, x, c.Args().Get(1))
	if err != nil {
		return err
	}
	rec, err := author.Record(ctx, x, text, file, c.Bool("replace"))
	if err != nil {
		return fmt.Errorf("%s: %w", path, err)
	}
	if _, problems := x.Again(rec.Text); exercise.Error(problems) != nil {
		return fmt.Errorf("what was recorded does not read back: %w", exercise.Error(problems))
	}
	for _, left := range rec.Left {
		fmt.Fprintln(os.Stderr, "not recorded: "+left)
	}
	if !c.Bool("write") {
		_, err = c.Root().Writer.Write(rec.Text)
		return err
	}
	for _, added := range rec.Added {
		fmt.Fprintln(c.Root().Writer, "added to "+added)
	}
	for _, where := range rec.Replaced {
		fmt.Fprintln(c.Root().Writer, "recorded again in "+where)
	}
	if len(rec.Added)+len(rec.Replaced) == 0 {
		fmt.Fprintln(c.Root().Writer, "nothing to add: every display has its `shows`")
	}
	return os.WriteFile(path, rec.Text, 0o644)
}

func strengthCommand() *cli.Command {
	return &cli.Command{
		Name:         "strength",
		Usage:        "find out which faults the expectations of an exercise catch",
		ArgsUsage:    "EXERCISE REFERENCE",
		Description:  "Makes faulty variants of a reference firmware and marks them. The reference must get full marks. Variants that show the same as the reference are left out.",
		OnUsageError: usage,
		Flags: []cli.Flag{libraryFlag, formatFlag,
			&cli.BoolFlag{Name: "all", Usage: "also list the variants that were caught"}},
		Action: strength,
	}
}

func strength(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 2 {
		return misused("strength expects an exercise and a reference: hemble strength EXERCISE REFERENCE")
	}
	x, err := readExercise(c.Args().First())
	if err != nil {
		return err
	}
	file, err := newSources(c).bytes(ctx, x, c.Args().Get(1))
	if err != nil {
		return err
	}
	bar := progressbar.DefaultSilent(1)
	if term.IsTerminal(int(os.Stderr.Fd())) {
		bar = progressbar.NewOptions(1, progressbar.OptionSetWriter(os.Stderr),
			progressbar.OptionSetDescription("trying"), progressbar.OptionClearOnFinish(),
			progressbar.OptionSetWidth(40))
	}
	variants, err := author.Strength(ctx, x, file, func(done, of int) {
		bar.ChangeMax(of)
		_ = bar.Set(done)
	})
	_ = bar.Finish()
	if errors.Is(err, author.ErrReference) {
		return fmt.Errorf("%w; `hemble grade` shows why", err)
	}
	if err != nil {
		return err
	}
	if c.String("format") == "json" {
		return writeJSON(c.Root().Writer, variants)
	}
	fmt.Fprint(c.Root().Writer, render.Strength(styleFor(c.Root().Writer), x.Title, variants, c.Bool("all")))
	return nil
}
