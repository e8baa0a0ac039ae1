package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"hemble/core/exercise"
	"hemble/wire"
)

func exerciseCommand() *cli.Command {
	return &cli.Command{
		Name:         "exercise",
		Usage:        "manage exercises: import, export, assign, release",
		OnUsageError: usage,
		Commands: []*cli.Command{
			{Name: "list", Usage: "list all exercises, or with --class those assigned to a class", OnUsageError: usage,
				Flags: []cli.Flag{classFlag, formatFlag}, Action: listExercises},
			{Name: "import", Usage: "import an exercise file, folder or zip archive as a new revision",
				ArgsUsage: "FILE…", OnUsageError: usage, Action: putExercises},
			{Name: "export", Usage: "print an exercise file, or with --to write its folder as a zip archive",
				ArgsUsage: "NAME", OnUsageError: usage,
				Flags: []cli.Flag{&cli.StringFlag{Name: "to", Usage: "`FILE` to write"},
					&cli.IntFlag{Name: "revision", Usage: "`NUMBER` of the revision (default: the newest)"}},
				Action: getExercise},
			{Name: "revisions", Usage: "list the revisions of an exercise", ArgsUsage: "NAME", OnUsageError: usage,
				Flags: []cli.Flag{formatFlag}, Action: listRevisions},
			{Name: "assign", Usage: "assign an exercise to the class, or change its policy", ArgsUsage: "NAME",
				OnUsageError: usage, Flags: append([]cli.Flag{classFlag}, termFlags...), Action: openToClass},
			{Name: "extend", Usage: "give a student or a group more time or attempts", ArgsUsage: "NAME LOGIN",
				OnUsageError: usage, Flags: []cli.Flag{classFlag,
					&cli.BoolFlag{Name: "group", Usage: "treat LOGIN as the name of a group"},
					timeFlag("due", "the new due `TIME`"), timeFlag("closes", "the new closing `TIME`"),
					&cli.IntFlag{Name: "attempts", Usage: "`NUMBER` of extra attempts"},
					&cli.StringFlag{Name: "reason", Required: true, Usage: "`REASON`, recorded in the audit log"}},
				Action: extendExercise},
			{Name: "release", Usage: "release marks to the students", ArgsUsage: "NAME", OnUsageError: usage,
				Flags:  []cli.Flag{classFlag, &cli.BoolFlag{Name: "hide", Usage: "hide them again"}},
				Action: releaseExercise},
		},
	}
}

// times that people write.
var timeForms = []string{time.RFC3339, "2006-01-02 15:04", "2006-01-02T15:04", "2006-01-02"}

func timeFlag(name, doc string) *cli.StringFlag {
	return &cli.StringFlag{Name: name, Usage: doc + ", such as 2027-02-28 18:00 in local time",
		Validator: func(s string) error {
			_, err := parseTime(s)
			return err
		}}
}

func parseTime(s string) (time.Time, error) {
	for _, form := range timeForms {
		if t, err := time.ParseInLocation(form, s, time.Local); err == nil {
			return t, nil
		}
	}
	return time.Time{}, fmt.Errorf("%q is no time; write 2027-02-28 18:00", s)
}

// timeOf gives the time of a flag, nil where it is not set.
func timeOf(c *cli.Command, name string) *time.Time {
	if !c.IsSet(name) {
		return nil
	}
	t, err := parseTime(c.String(name))
	if err != nil {
		return nil // the flag's own check has told
	}
	return &t
}

var termFlags = []cli.Flag{
	&cli.IntFlag{Name: "revision",
		Usage: "`NUMBER` of the revision (default: the current one, at first the newest)"},
	timeFlag("opens", "the assignment `TIME`; now, at first, without it"), timeFlag("due", "the due `TIME`"),
	timeFlag("closes", "the closing `TIME`"),
	&cli.StringFlag{Name: "late", Usage: "`POLICY` for late work: none, full, per-day or grace"},
	&cli.IntFlag{Name: "per-day", Usage: "`PERCENT` deducted per day or part of a day, with --late per-day"},
	&cli.IntFlag{Name: "grace",
		Usage: "`MINUTES` after the due time in which late work gets full marks, with --late grace"},
	&cli.IntFlag{Name: "attempts", Usage: "maximum `NUMBER` of attempts; 0 for no limit"},
	&cli.IntFlag{Name: "wait", Usage: "minimum `MINUTES` between attempts"},
	&cli.StringFlag{Name: "counts", Usage: "which `ATTEMPT` counts: best or last"},
	&cli.StringFlag{Name: "show-sheet",
		Usage: "`WHEN` students see their mark sheets: at-once, after-due or on-release"},
	&cli.StringFlag{Name: "show-marks", Usage: "`WHEN` students see marks: at-once, after-due or on-release"},
	&cli.StringSliceFlag{Name: "accepts",
		Usage: "`KIND` of work to accept: firmware, source or capture; repeatable; replaces what the exercise says"},
}

func listExercises(ctx context.Context, c *cli.Command) error {
	if c.String("class") == "" {
		return listAll(ctx, c)
	}
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
	rows := [][]string{{"exercise", "revision", "marks", "due", "submissions", "waiting", "mean", "released"}}
	for _, o := range all {
		released := "no"
		if o.Released != nil {
			released = stamp(o.Released)
		}
		rows = append(rows, []string{o.Exercise, fmt.Sprint(o.Revision), string(o.Marks), stamp(o.Due),
			fmt.Sprint(o.Submissions), fmt.Sprint(o.Waiting), string(o.Mean), released})
	}
	return table(c, rows)
}

func stamp(t *time.Time) string {
	if t == nil {
		return "–"
	}
	return t.Local().Format("2006-01-02 15:04")
}

func listAll(ctx context.Context, c *cli.Command) error {
	api, err := signedIn()
	if err != nil {
		return err
	}
	all, err := api.Exercises(ctx)
	if err != nil {
		return err
	}
	if c.String("format") == "json" {
		return writeJSON(c.Root().Writer, all)
	}
	rows := [][]string{{"exercise", "title", "revision", "marks", "classes"}}
	for _, x := range all {
		rows = append(rows, []string{x.Name, x.Title, fmt.Sprint(x.Revision), string(x.Marks), fmt.Sprint(x.Classes)})
	}
	return table(c, rows)
}

// concerned returns how many lines a revision changes, and which classes continue with the one that they have.
func concerned(x wire.Exercise) (out string) {
	added, gone := 0, 0
	for _, line := range strings.Split(x.Changes, "\n") {
		switch {
		case strings.HasPrefix(line, "+++") || strings.HasPrefix(line, "---"):
		case strings.HasPrefix(line, "+"):
			added++
		case strings.HasPrefix(line, "-"):
			gone++
		}
	}
	if added+gone > 0 {
		out = fmt.Sprintf(": %d lines new, %d gone", added, gone)
	}
	for _, o := range x.Assigned {
		if o.Revision != x.Revision {
			out += fmt.Sprintf("; %s keeps revision %d", o.Class, o.Revision)
		}
	}
	return out
}

func putExercises(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() == 0 {
		return misused("exercise import expects exercise files, folders or zip archives")
	}
	api, err := signedIn()
	if err != nil {
		return err
	}
	for _, path := range c.Args().Slice() {
		info, err := os.Stat(path)
		if err != nil {
			return err
		}
		var x wire.Exercise
		switch {
		case info.IsDir():
			name, text, err := standalone(exercisePath(path))
			if err != nil {
				return err
			}
			archive, err := zipFolder(path, map[string][]byte{"exercise.yaml": text})
			if err != nil {
				return err
			}
			x, err = api.PutExerciseFolder(ctx, name, archive)
			if err != nil {
				return err
			}
		case strings.EqualFold(filepath.Ext(path), ".zip"):
			archive, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			if x, err = api.PutExerciseFolder(ctx, strings.TrimSuffix(filepath.Base(path), filepath.Ext(path)),
				archive); err != nil {
				return err
			}
		default:
			name, text, err := standalone(path)
			if err != nil {
				return err
			}
			if x, err = api.PutExercise(ctx, name, text); err != nil {
				return err
			}
		}
		fmt.Fprintf(c.Root().Writer, "%s, revision %d%s\n", x.Name, x.Revision, concerned(x))
	}
	return nil
}

// standalone checks a file here, where its place is known, and gives the name in it, and its text with what it
// includes.
func standalone(path string) (name string, text []byte, err error) {
	if text, err = os.ReadFile(path); err != nil {
		return "", nil, err
	}
	r := reader(path)
	x, problems := r.Read(text)
	if x == nil {
		for _, p := range problems {
			fmt.Fprintln(os.Stderr, p.Error())
		}
		return "", nil, errTold
	}
	text, err = exercise.Flatten(text, r.Open)
	return x.Name, text, err
}

func getExercise(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 1 {
		return misused("exercise export expects an exercise's name")
	}
	api, err := signedIn()
	if err != nil {
		return err
	}
	name := c.Args().First()
	if to := c.String("to"); to != "" {
		archive, err := api.ExerciseFolder(ctx, name)
		if err != nil {
			return err
		}
		return os.WriteFile(to, archive, 0o644)
	}
	text := ""
	if n := c.Int("revision"); n > 0 {
		r, err := api.Revision(ctx, name, n)
		if err != nil {
			return err
		}
		text = r.Text
	} else {
		x, err := api.Exercise(ctx, name)
		if err != nil {
			return err
		}
		text = x.Text
	}
	_, err = fmt.Fprint(c.Root().Writer, text)
	return err
}

func listRevisions(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 1 {
		return misused("exercise revisions expects an exercise's name")
	}
	api, err := signedIn()
	if err != nil {
		return err
	}
	all, err := api.Revisions(ctx, c.Args().First())
	if err != nil {
		return err
	}
	if c.String("format") == "json" {
		return writeJSON(c.Root().Writer, all)
	}
	rows := [][]string{{"revision", "title", "marks", "by", "made"}}
	for _, r := range all {
		rows = append(rows, []string{fmt.Sprint(r.Number), r.Title, string(r.Marks), r.By, stamp(&r.Created)})
	}
	return table(c, rows)
}

func openToClass(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 1 {
		return misused("exercise assign expects an exercise's name")
	}
	api, class, err := inClass(c)
	if err != nil {
		return err
	}
	name := c.Args().First()
	all, err := api.Assignments(ctx, class)
	if err != nil {
		return err
	}
	in := wire.SetAssignment{}
	for _, o := range all { // what is not named stays
		if o.Exercise == name {
			in.Policy = o.Policy
		}
	}
	if c.IsSet("opens") {
		in.Opens = *timeOf(c, "opens")
	}
	if c.IsSet("due") {
		in.Due = timeOf(c, "due")
	}
	if c.IsSet("closes") {
		in.Closes = timeOf(c, "closes")
	}
	for flag, value := range map[string]*int{"revision": &in.Revision, "per-day": &in.PerDay, "grace": &in.Grace,
		"attempts": &in.Attempts, "wait": &in.Wait} {
		if c.IsSet(flag) {
			*value = c.Int(flag)
		}
	}
	if c.IsSet("late") {
		in.Late = wire.Late(c.String("late"))
	}
	if c.IsSet("counts") {
		in.Counts = wire.Counts(c.String("counts"))
	}
	if c.IsSet("show-sheet") {
		in.ShowSheet = wire.Moment(c.String("show-sheet"))
	}
	if c.IsSet("show-marks") {
		in.ShowMarks = wire.Moment(c.String("show-marks"))
	}
	if c.IsSet("accepts") {
		in.Takes = c.StringSlice("accepts")
	}
	o, err := api.Assign(ctx, class, name, in)
	if err != nil {
		return err
	}
	fmt.Fprintf(c.Root().Writer, "%s, revision %d, is open to %s from %s; due %s, closes %s, late: %s\n", o.Title,
		o.Revision, o.Class, stamp(&o.Opens), stamp(o.Due), stamp(o.Closes), o.Late)
	return nil
}

func extendExercise(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 2 {
		return misused("exercise extend expects an exercise's name and a login")
	}
	api, class, err := inClass(c)
	if err != nil {
		return err
	}
	kind := "student"
	if c.Bool("group") {
		kind = "group"
	}
	return api.PutExtension(ctx, class, c.Args().Get(0),
		wire.Extension{Kind: kind, Who: c.Args().Get(1), Due: timeOf(c, "due"), Closes: timeOf(c, "closes"),
			Attempts: c.Int("attempts"), Reason: c.String("reason")})
}

func releaseExercise(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 1 {
		return misused("exercise release expects an exercise's name")
	}
	api, class, err := inClass(c)
	if err != nil {
		return err
	}
	_, err = api.Release(ctx, class, c.Args().First(), !c.Bool("hide"))
	return err
}
