package cli

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"hemble/client"
	"hemble/core/firmware"
	"hemble/wire"
)

func submitCommand() *cli.Command {
	return &cli.Command{
		Name:         "submit",
		Usage:        "submit work",
		ArgsUsage:    "EXERCISE FILE…",
		Description:  "A student submits one file or a folder of source. An instructor or assistant submits for --student, or submits many files or a learning platform's zip archive, which are matched to the roster; doubtful matches are listed and need --whose.",
		OnUsageError: usage,
		Flags: []cli.Flag{
			classFlag,
			&cli.StringFlag{Name: "student", Usage: "student's `LOGIN`"},
			&cli.StringSliceFlag{Name: "whose",
				Usage: "match a file to a student: `FILE=LOGIN`; without a login the file is skipped; repeatable"},
			&cli.StringFlag{Name: "wiring", Usage: "`FILE` with the student's own wiring"},
			&cli.StringFlag{Name: "comment", Usage: "student's `COMMENT`"},
			&cli.BoolFlag{Name: "wait", Usage: "wait for the marks and print them"},
			formatFlag,
		},
		Action: submit,
	}
}

func submit(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() < 2 {
		return misused("submit expects an exercise's name and at least one file: hemble submit EXERCISE FILE…")
	}
	api, class, err := inClass(c)
	if err != nil {
		return err
	}
	exercise, paths := c.Args().First(), c.Args().Tail()
	in, err := api.Class(ctx, class)
	if err != nil {
		return err
	}
	var ids []string
	var receipts []wire.Submission
	if in.Role == wire.Student || c.String("student") != "" {
		r, err := submitOne(ctx, c, api, class, exercise, paths)
		if err != nil {
			return err
		}
		ids, receipts = []string{r.ID}, []wire.Submission{r.Submission}
		if r.Same {
			fmt.Fprintln(os.Stderr, "the same file was submitted before, as attempt", r.Attempt)
		}
	} else if ids, err = submitMany(ctx, c, api, class, exercise, paths); err != nil && len(ids) == 0 {
		return err
	}
	left := err // errTold, where some of the files were not submitted
	out, asJSON := c.Root().Writer, c.String("format") == "json"
	if !c.Bool("wait") {
		if asJSON {
			return errors.Join(writeJSON(out, ids), left)
		}
		for _, s := range receipts {
			fmt.Fprintf(out, "%s  %s  %s, attempt %d\n", s.ID, s.Student, s.File, s.Attempt)
		}
		return left
	}
	var all []wire.Submission
	if err := api.Wait(ctx, class, exercise, ids, func(s wire.Submission) {
		all = append(all, s)
		if !asJSON {
			writeSubmission(out, s)
		}
	}); err != nil {
		return err
	}
	if asJSON {
		return errors.Join(writeJSON(out, all), left)
	}
	return left
}

func submitOne(ctx context.Context, c *cli.Command, api *client.Client, class, exercise string,
	paths []string) (r wire.Receipt, err error) {
	if len(paths) > 1 {
		return r, misused("one file is submitted at a time; source of several goes in as its folder")
	}
	h := client.Work{Student: c.String("student"), File: filepath.Base(paths[0]), Comment: c.String("comment")}
	if h.File, h.Data, err = workAt(paths[0]); err != nil {
		return r, err
	}
	if path := c.String("wiring"); path != "" {
		if h.Wiring, err = readBounded(path); err != nil {
			return r, err
		}
	}
	return api.Submit(ctx, class, exercise, h)
}

// workAt reads a file, or packs a folder.
func workAt(path string) (name string, data []byte, err error) {
	info, err := os.Stat(path)
	if err != nil {
		return "", nil, err
	}
	if info.IsDir() {
		data, err = zipFolder(path, nil)
		return filepath.Base(filepath.Clean(path)) + ".zip", data, err
	}
	if info.Size() > firmware.MaxFile && !strings.EqualFold(filepath.Ext(path), ".zip") {
		return "", nil, fmt.Errorf("%s is larger than the %d bytes that any firmware needs", path, firmware.MaxFile)
	}
	data, err = os.ReadFile(path)
	return filepath.Base(path), data, err
}

// submitMany submits what is matched to the roster, and lists what is not.
func submitMany(ctx context.Context, c *cli.Command, api *client.Client, class, exercise string,
	paths []string) (ids []string, err error) {
	if len(paths) > 1 || !strings.EqualFold(filepath.Ext(paths[0]), ".zip") {
		if paths, err = firmwareFiles(paths); err != nil {
			return nil, err
		}
	}
	var files []client.File
	for _, p := range paths {
		name, data, err := workAt(p)
		if err != nil {
			return nil, err
		}
		files = append(files, client.File{Name: name, Data: data})
	}
	b, err := api.Bulk(ctx, class, exercise, files)
	if err != nil {
		return nil, err
	}
	whose := map[string]string{}
	for _, w := range c.StringSlice("whose") {
		file, login, ok := strings.Cut(w, "=")
		if !ok {
			return nil, misused("--whose expects FILE=LOGIN, not %q", w)
		}
		whose[file] = login
	}
	logins := map[int]string{}
	for _, f := range b.Files {
		if login, ok := whose[f.Name]; ok {
			logins[f.Number] = login
			delete(whose, f.Name)
		}
	}
	for file := range whose {
		return nil, misused("--whose: no file is called %q", file)
	}
	done, err := api.Confirm(ctx, class, exercise, b.ID, wire.Confirm{Logins: logins})
	if err != nil {
		return nil, err
	}
	asText := c.String("format") != "json" && !c.Bool("wait")
	left := 0
	for _, f := range done.Files {
		switch {
		case f.Problem != "":
			left++
			fmt.Fprintf(os.Stderr, "✗ %s: %s\n", f.Name, f.Problem)
		case f.Submission == "":
			left++
			guess := "no match in the class"
			if f.Candidates != nil {
				guess = fmt.Sprintf("perhaps %s (%s)", strings.Join(f.Candidates, " or "), f.How)
			}
			fmt.Fprintf(os.Stderr, "≈ %s: not submitted: %s; say --whose %s=LOGIN\n", f.Name, guess, f.Name)
		default:
			ids = append(ids, f.Submission)
			if asText {
				fmt.Fprintf(c.Root().Writer, "✓ %s  %s  %s, by %s\n", f.Submission, f.Student, f.Name, f.How)
			}
		}
	}
	if left > 0 {
		fmt.Fprintf(os.Stderr, "%d of %d files were not submitted\n", left, len(done.Files))
		return ids, errTold
	}
	return ids, nil
}

func resultsCommand() *cli.Command {
	return &cli.Command{
		Name:         "results",
		Usage:        "list submissions and marks",
		ArgsUsage:    "EXERCISE",
		OnUsageError: usage,
		Flags:        []cli.Flag{classFlag, formatFlag},
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() != 1 {
				return misused("results expects an exercise's name: hemble results EXERCISE")
			}
			api, class, err := inClass(c)
			if err != nil {
				return err
			}
			list, err := api.Submissions(ctx, class, c.Args().First())
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

func statusCommand() *cli.Command {
	return &cli.Command{
		Name:         "status",
		Usage:        "show assignments, due times and the queue",
		OnUsageError: usage,
		Flags:        []cli.Flag{classFlag, formatFlag},
		Action: func(ctx context.Context, c *cli.Command) error {
			api, class, err := inClass(c)
			if err != nil {
				return err
			}
			all, err := api.Assignments(ctx, class)
			if err != nil {
				return err
			}
			if c.String("format") == "json" {
				return writeJSON(c.Root().Writer, all)
			}
			rows := [][]string{{"exercise", "due", "closes", "submissions", "waiting", ""}}
			for _, o := range all {
				note := ""
				if m := o.Standing; m != nil {
					switch {
					case !m.Open:
						note = wire.InZone(m.Why, time.Local)
					case m.Left != nil:
						note = fmt.Sprintf("%d attempts left", *m.Left)
					}
				} else if o.Failed > 0 {
					note = fmt.Sprintf("%d quarantined", o.Failed)
				}
				rows = append(rows, []string{o.Exercise, stamp(o.Due), stamp(o.Closes), fmt.Sprint(o.Submissions),
					fmt.Sprint(o.Waiting), note})
			}
			return table(c, rows)
		},
	}
}
