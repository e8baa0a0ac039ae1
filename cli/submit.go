package cli

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"

	"github.com/urfave/cli/v3"

	"hemble/core/firmware"
	"hemble/wire"
)

func submitCommand() *cli.Command {
	return &cli.Command{
		Name:         "submit",
		Usage:        "hand firmware in to the service",
		ArgsUsage:    "EXERCISE FIRMWARE…",
		OnUsageError: usage,
		Flags: []cli.Flag{
			&cli.StringFlag{Name: "student", Usage: "the student's `NAME`; without it the file's name up to the first hyphen or point"},
			&cli.BoolFlag{Name: "wait", Usage: "wait for the marks and print them"},
			formatFlag,
		},
		Action: submit,
	}
}

func submit(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() < 2 {
		return misused("submit takes an exercise's name and at least one firmware: hemble submit EXERCISE FIRMWARE…")
	}
	api, err := signedIn()
	if err != nil {
		return err
	}
	exercise := c.Args().First()
	files, err := firmwareFiles(c.Args().Tail())
	if err != nil {
		return err
	}
	if c.String("student") != "" && len(files) > 1 {
		return misused("--student goes with one firmware; %d are given", len(files))
	}
	out, asJSON := c.Root().Writer, c.String("format") == "json"
	var all []wire.Submission
	var ids []string
	for _, path := range files {
		data, err := readBounded(path)
		if err != nil {
			return err
		}
		if len(data) > firmware.MaxFile {
			return fmt.Errorf("%s is larger than the %d bytes that any firmware needs", path, firmware.MaxFile)
		}
		student := c.String("student")
		if student == "" {
			student = strings.FieldsFunc(filepath.Base(path), func(r rune) bool { return r == '-' || r == '.' })[0]
		}
		s, err := api.Submit(ctx, exercise, student, filepath.Base(path), data)
		if err != nil {
			return err
		}
		all, ids = append(all, *s), append(ids, s.ID)
		if !c.Bool("wait") && !asJSON {
			fmt.Fprintf(out, "%s  %s  %s, attempt %d\n", s.ID, s.Student, s.File, s.Attempt)
		}
	}
	if c.Bool("wait") {
		all = all[:0]
		err = api.Wait(ctx, exercise, ids, func(s wire.Submission) {
			all = append(all, s)
			if !asJSON {
				writeSubmission(out, s)
			}
		})
		if err != nil {
			return err
		}
	}
	if asJSON {
		return writeJSON(out, all)
	}
	return nil
}

func resultsCommand() *cli.Command {
	return &cli.Command{
		Name:         "results",
		Usage:        "list the submissions of an exercise with their marks",
		ArgsUsage:    "EXERCISE",
		OnUsageError: usage,
		Flags:        []cli.Flag{formatFlag},
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() != 1 {
				return misused("results takes an exercise's name: hemble results EXERCISE")
			}
			api, err := signedIn()
			if err != nil {
				return err
			}
			list, err := api.Submissions(ctx, c.Args().First())
			if err != nil {
				return err
			}
			if c.String("format") == "json" {
				return writeJSON(c.Root().Writer, list)
			}
			for _, s := range list {
				writeSubmission(c.Root().Writer, s)
			}
			return nil
		},
	}
}
