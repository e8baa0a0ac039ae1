package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"hemble/core/author"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/marking"
)

func acceptCommand() *cli.Command {
	return &cli.Command{
		Name:         "accept",
		Usage:        "accept what a firmware showed as a right answer",
		ArgsUsage:    "EXERCISE FIRMWARE [OTHERS…]",
		Description:  "Lists what FIRMWARE showed that was not expected. With --state or --sequence, adds it to the exercise as an alternative and lists whose marks would change among FIRMWARE and OTHERS. The file is changed only with --write.",
		OnUsageError: usage,
		Flags: []cli.Flag{libraryFlag,
			&cli.IntFlag{Name: "trial", Value: 1, Usage: "`NUMBER` of the trial, counted from 1"},
			&cli.IntFlag{Name: "expectation", Value: 1,
				Usage: "`NUMBER` of the expectation in the trial, counted from 1"},
			&cli.IntFlag{Name: "state", Usage: "accept the state with this `NUMBER` in the list"},
			&cli.BoolFlag{Name: "sequence", Usage: "accept everything the display showed, in that order"},
			&cli.BoolFlag{Name: "write", Usage: "write the change to the exercise file"},
		},
		Action: accept,
	}
}

func accept(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() < 2 {
		return misused("accept expects an exercise and a firmware: hemble accept EXERCISE FIRMWARE [OTHERS…]")
	}
	if c.Int("state") > 0 && c.Bool("sequence") {
		return misused("either one state is accepted or the whole sequence")
	}
	path := exercisePath(c.Args().First())
	text, err := os.ReadFile(path)
	if err != nil {
		return err
	}
	x, r, err := seen(ctx, c, path, c.Args().Get(1))
	if err != nil {
		return err
	}
	if c.Int("state") == 0 && !c.Bool("sequence") {
		listUnexpected(c, r)
		return nil
	}
	state := author.Choice{Trial: c.Int("trial") - 1, Verdict: c.Int("expectation") - 1, Pair: c.Int("state") - 1}
	if state.Trial < 0 || state.Trial >= len(r.Reels) {
		return fmt.Errorf("the exercise has no trial %d", c.Int("trial"))
	}
	a, err := author.Accept(text, x, r.Reels[state.Trial], state)
	if err != nil {
		return err
	}
	out := c.Root().Writer
	fmt.Fprintf(out, "accepts %s\n", a.What)
	for _, line := range strings.Split(a.Was, "\n") {
		fmt.Fprintf(out, "  - %s\n", line)
	}
	for _, line := range strings.Split(a.Now, "\n") {
		fmt.Fprintf(out, "  + %s\n", line)
	}
	if err := tellMoves(ctx, c, x, a.Text); err != nil {
		return err
	}
	if !c.Bool("write") {
		fmt.Fprintln(out, "nothing is written; --write puts it into the file")
		return nil
	}
	return os.WriteFile(path, a.Text, 0o644)
}

// seen marks one firmware, and keeps what the displays showed. A firmware that cannot be run is an error.
func seen(ctx context.Context, c *cli.Command, path, file string) (*exercise.Exercise, *marking.Result, error) {
	x, err := readExercise(path)
	if err != nil {
		return nil, nil, err
	}
	s := newSources(c)
	s.marker.Reels = true
	r, err := s.mark(ctx, x, file)
	if err == nil && r.Sheet.Failed != "" {
		err = fmt.Errorf("%s: %s", file, r.Sheet.Failed)
	}
	return x, r, err
}

// listUnexpected lists what could be accepted.
func listUnexpected(c *cli.Command, r *marking.Result) {
	out, any := c.Root().Writer, false
	for i, t := range r.Sheet.Trials {
		for k, v := range t.Verdicts {
			if v.Outcome == judge.Met || v.Display == "" {
				continue
			}
			any = true
			fmt.Fprintf(out, "--trial %d --expectation %d   %s: %s\n", i+1, k+1, t.Name, v.Expectation)
			for n, p := range v.Alignment {
				if p.Operation == judge.Wrong && p.Seen != nil && p.Expected != nil {
					fmt.Fprintf(out, "  --state %-3d  at %s: %s, where %s was expected\n", n+1, p.Seen.From,
						p.Seen.Text, p.Expected.Text)
				}
			}
			if author.Sequential(v.Kind) {
				fmt.Fprintf(out, "  --sequence   everything it showed\n")
			}
		}
	}
	if !any {
		fmt.Fprintln(out, "every expectation about a display is met: there is nothing to accept")
	}
}

// tellMoves tells whose marks another text of the exercise would change.
func tellMoves(ctx context.Context, c *cli.Command, x *exercise.Exercise, text []byte) error {
	changed, problems := x.Again(text)
	if changed == nil {
		return exercise.Error(problems)
	}
	files, err := firmwareFiles(c.Args().Tail())
	if err != nil {
		return err
	}
	slices.Sort(files)
	files = slices.Compact(files)
	was, err := gradeAll(ctx, newSources(c), x, files)
	if err != nil {
		return err
	}
	now, err := gradeAll(ctx, newSources(c), changed, files)
	if err != nil {
		return err
	}
	same := 0
	for i, f := range files {
		if was[i].Sheet.Marks.Cmp(now[i].Sheet.Marks.Rat) == 0 {
			same++
			continue
		}
		fmt.Fprintf(c.Root().Writer, "%s: %s instead of %s, of %s\n", filepath.Base(f), now[i].Sheet.Marks,
			was[i].Sheet.Marks, now[i].Sheet.Of)
	}
	fmt.Fprintf(c.Root().Writer, "marks that stay the same: %d\n", same)
	return nil
}
