package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"github.com/urfave/cli/v3"

	"hemble/core/author"
	"hemble/core/exercise"
	"hemble/core/schematic"
	"hemble/core/spec"
)

func checkCommand() *cli.Command {
	return &cli.Command{
		Name:         "check",
		Usage:        "check exercise files",
		ArgsUsage:    "EXERCISE…",
		OnUsageError: usage,
		Flags: []cli.Flag{formatFlag,
			&cli.StringFlag{Name: "schematic",
				Usage: "draw the circuit diagram of one exercise to an SVG `FILE`"}},
		Action: check,
	}
}

func check(_ context.Context, c *cli.Command) error {
	if !c.Args().Present() {
		return misused("check expects at least one exercise: hemble check EXERCISE…")
	}
	if c.String("schematic") != "" && c.Args().Len() != 1 {
		return misused("--schematic draws one exercise")
	}
	out := c.Root().Writer
	all, failed := []spec.Problem{}, false
	for _, path := range c.Args().Slice() {
		x, problems, err := openExercise(path)
		if err != nil {
			return err
		}
		if x != nil {
			problems = append(problems, author.Check(exercisePath(path), x)...)
			if to := c.String("schematic"); to != "" {
				if err := os.WriteFile(to, []byte(schematic.Draw(x).SVG(x.Title)), 0o644); err != nil {
					return err
				}
			}
		}
		all = append(all, problems...)
		failed = failed || x == nil
		if c.String("format") == "json" {
			continue
		}
		for _, p := range problems {
			fmt.Fprintln(out, p.Error())
		}
		if x != nil {
			cues, expectations := 0, 0
			for _, t := range x.Trials {
				cues += len(t.Cues)
				expectations += len(t.Expect)
			}
			fmt.Fprintf(out, "%s: in order; parts %d, trials %d, cues %d, expectations %d, marks %s\n", path,
				len(x.Parts), len(x.Trials), cues, expectations, x.Marks().RatString())
		}
	}
	if c.String("format") == "json" {
		if err := writeJSON(out, all); err != nil {
			return err
		}
	}
	if failed {
		return errTold
	}
	return nil
}

// exercisePath is the file of an exercise that may be given as its folder.
func exercisePath(path string) string {
	if info, err := os.Stat(path); err == nil && info.IsDir() {
		return filepath.Join(path, "exercise.yaml")
	}
	return path
}

// reader reads an exercise file, and what it includes from beside it.
func reader(path string) exercise.Reader {
	return exercise.Reader{File: path, Open: func(name string) ([]byte, error) {
		return os.ReadFile(filepath.Join(filepath.Dir(path), filepath.FromSlash(name)))
	}}
}

// openExercise reads an exercise file or the exercise.yaml of a folder.
func openExercise(path string) (*exercise.Exercise, []spec.Problem, error) {
	path = exercisePath(path)
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, nil, err
	}
	x, problems := reader(path).Read(text)
	return x, problems, nil
}
