package cli

import (
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"sort"
	"strings"

	"github.com/schollz/progressbar/v3"
	"github.com/urfave/cli/v3"
	"golang.org/x/sync/errgroup"
	"golang.org/x/term"

	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/marking"
	"hemble/core/reel"
	"hemble/core/sheet"
	"hemble/core/spec"
	"hemble/render"
)

func gradeCommand() *cli.Command {
	return &cli.Command{
		Name:         "grade",
		Usage:        "mark firmware against an exercise, without a service",
		ArgsUsage:    "EXERCISE FIRMWARE…",
		Description:  "EXERCISE is an exercise file or a folder with an exercise.yaml. FIRMWARE is a .hex, .elf, .uf2 or .bin file, source (a file, a zip archive or a folder), a folder of submissions, or a .vcd capture of a logic analyser or a simulation, which is judged against one trial. A bench without a chip takes no firmware. One firmware gives a mark sheet with film strips, several give a table.",
		OnUsageError: usage,
		Flags: append(captureFlags,
			&cli.StringFlag{Name: "format", Value: "text",
				Usage: "output `FORMAT`: text, json, html, csv or junit",
				Validator: func(s string) error {
					if !slices.Contains([]string{"text", "json", "html", "csv", "junit"}, s) {
						return fmt.Errorf("%q is none of text, json, html, csv and junit", s)
					}
					return nil
				}},
			libraryFlag,
			plainFlag,
			&cli.BoolFlag{Name: "bus", Usage: "also print bus and serial traffic"},
			&cli.BoolFlag{Name: "strips", Usage: "also print every mark sheet when there are several"},
			&cli.StringFlag{Name: "wiring",
				Usage: "`FILE` with a student's own wiring for parts that allow it"},
			&cli.StringFlag{Name: "student",
				Usage: "`LOGIN` of the student whose values to use, with --secret"},
			&cli.StringFlag{Name: "secret",
				Usage: "`FILE` with the secret that students' values are derived from, at least 16 bytes"},
			&cli.IntFlag{Name: "seeds",
				Usage: "re-run with `N` seeds to see whether the result depends on chance"},
			&cli.BoolFlag{Name: "reels", Usage: "include the reels, with --format json"},
		),
		Action: grade,
	}
}

// graded is one firmware as --format json writes it.
type graded struct {
	File string `json:"file"`
	*sheet.Sheet
	Reels []*reel.Reel             `json:"reels,omitempty"`
	Seeds *marking.SeedSensitivity `json:"seeds,omitempty"`
}

func grade(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() < 1 {
		return misused("grade expects an exercise and at least one firmware: hemble grade EXERCISE FIRMWARE…")
	}
	key, err := studentKey(c)
	if err != nil {
		return err
	}
	x, err := readExerciseFor(c.Args().First(), key)
	if err != nil {
		return err
	}
	if path := c.String("wiring"); path != "" {
		text, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		var problems []spec.Problem
		x, problems = x.Rewire(path, text)
		for _, p := range problems {
			fmt.Fprintln(os.Stderr, p.Error())
		}
		if x == nil {
			return errTold
		}
	}
	var files []string
	var results []*marking.Result
	switch {
	case x.Chip == nil && c.Args().Len() == 1:
		r, err := marking.Mark(ctx, x, "no firmware", nil)
		if err != nil {
			return err
		}
		files, results = []string{""}, []*marking.Result{r}
	case c.Args().Len() == 1:
		return misused("grade expects at least one firmware: hemble grade EXERCISE FIRMWARE…")
	default:
		if files, err = firmwareFiles(c.Args().Tail()); err != nil {
			return err
		}
		s := newSources(c)
		s.marker.Reference = c.Bool("reference")
		s.captures = captures{c.String("trial"), c.String("zero"), c.StringSlice("signal")}
		s.marker.Reels = len(files) == 1 || c.String("format") == "html" || c.Bool("strips") || c.Bool("bus") ||
			c.Bool("reels")
		if results, err = gradeAll(ctx, s, x, files); err != nil {
			return err
		}
	}
	out := c.Root().Writer
	var sheets []*sheet.Sheet
	var marked []render.Marked
	for _, r := range results {
		sheets, marked = append(sheets, r.Sheet), append(marked, render.Marked{Sheet: r.Sheet, Reels: r.Reels})
	}
	luck, err := trySeeds(ctx, c, x, files)
	if err != nil {
		return err
	}
	switch c.String("format") {
	case "html":
		return render.HTML(out, x.Title, marked)
	case "csv":
		return render.CSV(out, sheets)
	case "junit":
		return render.JUnit(out, sheets)
	}
	if c.String("format") == "json" {
		list := []graded{}
		for i, r := range results {
			g := graded{File: files[i], Sheet: r.Sheet}
			if luck != nil {
				g.Seeds = luck[i]
			}
			if c.Bool("reels") {
				g.Reels = r.Reels
			}
			list = append(list, g)
		}
		return writeJSON(out, list)
	}
	st := styleFor(out)
	if len(files) > 1 {
		gradeTable(out, st, x, results)
	}
	if len(files) == 1 || c.Bool("strips") {
		for _, r := range results {
			fmt.Fprintln(out, render.Sheet(st, r.Sheet, r.Reels))
			if c.Bool("bus") {
				for _, reel := range r.Reels {
					fmt.Fprintln(out, render.Log(st, reel))
				}
			}
		}
	}
	for i, l := range luck {
		if l != nil {
			fmt.Fprintln(out, render.Seeds(st, results[i].Sheet, l))
		}
	}
	return nil
}

// trySeeds marks each file under several seeds, where that is asked for; nil for one that cannot be run.
func trySeeds(ctx context.Context, c *cli.Command, x *exercise.Exercise, files []string) ([]*marking.SeedSensitivity,
	error) {
	n := c.Int("seeds")
	switch {
	case !c.IsSet("seeds"):
		return nil, nil
	case n < 2 || n > maxSeeds:
		return nil, misused("--seeds expects 2 to %d; it was given %d", maxSeeds, n)
	}
	s := newSources(c)
	out := make([]*marking.SeedSensitivity, len(files))
	for i, path := range files {
		var file []byte
		var err error
		if isCapture(path) {
			continue // what was recorded has no seed
		}
		if path != "" {
			if file, err = s.bytes(ctx, x, path); err != nil {
				continue // its sheet tells why
			}
		}
		if out[i], err = marking.TrySeeds(ctx, x, file, n); ctx.Err() != nil {
			return nil, ctx.Err()
		} else if err != nil {
			out[i] = nil
		}
	}
	return out, nil
}

// maxSeeds bounds the seeds that one command tries.
const maxSeeds = 64

func gradeTable(out io.Writer, st render.Style, x *exercise.Exercise, results []*marking.Result) {
	wide := 8
	for _, r := range results {
		wide = max(wide, len([]rune(r.Sheet.Firmware)))
	}
	fmt.Fprintf(out, "%s · %d submissions\n", x.Title, len(results))
	for _, r := range results {
		fmt.Fprintln(out, render.Row(st, r.Sheet, wide))
	}
}

// gradeAll marks files on all processors, in their order, with a progress bar on a terminal.
func gradeAll(ctx context.Context, s *sources, x *exercise.Exercise, files []string) ([]*marking.Result, error) {
	bar := progressbar.DefaultSilent(int64(len(files)))
	if len(files) > 1 && term.IsTerminal(int(os.Stderr.Fd())) {
		bar = progressbar.NewOptions(len(files), progressbar.OptionSetWriter(os.Stderr),
			progressbar.OptionSetDescription("marking"),
			progressbar.OptionShowCount(), progressbar.OptionClearOnFinish(), progressbar.OptionSetWidth(40),
			progressbar.OptionSetPredictTime(true))
	}
	results := make([]*marking.Result, len(files))
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(runtime.GOMAXPROCS(0))
	for i, file := range files {
		work.Go(func() (err error) {
			results[i], err = s.mark(ctx, x, file)
			_ = bar.Add(1)
			return err
		})
	}
	err := work.Wait()
	_ = bar.Finish()
	return results, err
}

// readBounded reads a firmware file, and no more of a larger one than tells that it is too large.
func readBounded(path string) ([]byte, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, firmware.MaxFile+1))
}

// readExercise reads an exercise file or the exercise.yaml of a folder. Warnings go to stderr.
func readExercise(path string) (*exercise.Exercise, error) { return readExerciseFor(path, nil) }

// readExerciseFor is readExercise with the values of a student.
func readExerciseFor(path string, student func(exercise string) []byte) (*exercise.Exercise, error) {
	x, problems, err := openExercise(path)
	if err == nil && x != nil && student != nil {
		text, err := os.ReadFile(exercisePath(path))
		if err != nil {
			return nil, err
		}
		r := reader(exercisePath(path))
		r.Student = student(x.Name)
		if x, problems = r.Read(text); x != nil && len(x.Varied) == 0 {
			fmt.Fprintf(os.Stderr, "hemble: nothing varies in %s: --student makes no difference\n", path)
		}
	}
	if err != nil {
		return nil, err
	}
	for _, p := range problems {
		fmt.Fprintln(os.Stderr, p.Error())
	}
	if x == nil {
		return nil, errTold
	}
	return x, nil
}

// studentKey is what the values of the student follow from that a command was given, nil where it was not.
func studentKey(c *cli.Command) (func(exercise string) []byte, error) {
	student, file := c.String("student"), c.String("secret")
	if (student == "") != (file == "") {
		return nil, misused("--student goes with --secret: a student's values follow from both")
	}
	if student == "" {
		return nil, nil
	}
	secret, err := os.ReadFile(file)
	if err != nil {
		return nil, err
	}
	if len(secret) < minSecret {
		return nil, fmt.Errorf("%s has %d bytes; a secret has at least %d", file, len(secret), minSecret)
	}
	return func(name string) []byte { return exercise.StudentKey(secret, name, student) }, nil
}

// minSecret is how many bytes a secret has at least.
const minSecret = 16

// firmwareFiles lists files, and the firmware in folders: one file for each name, the ELF where
// there are both, since it has the source lines.
func firmwareFiles(args []string) ([]string, error) {
	var out []string
	for _, a := range args {
		info, err := os.Stat(a)
		if err != nil {
			return nil, err
		}
		if !info.IsDir() {
			out = append(out, a)
			continue
		}
		byName := map[string]string{}
		err = filepath.WalkDir(a, func(path string, d os.DirEntry, err error) error {
			if err != nil || d.IsDir() {
				return err
			}
			ext := strings.ToLower(filepath.Ext(path))
			if name := strings.TrimSuffix(path, filepath.Ext(path)); ext == ".elf" ||
				slices.Contains(firmware.Endings, ext) && byName[name] == "" {
				byName[name] = path
			}
			return nil
		})
		if err != nil {
			return nil, err
		}
		if len(byName) == 0 {
			found, err := sourcesIn(a)
			if err != nil {
				return nil, err
			}
			if len(found) == 0 {
				return nil, fmt.Errorf("%s: neither firmware (.elf, .hex, .uf2, .bin) nor source are in this folder", a)
			}
			out = append(out, found...)
			continue
		}
		var found []string
		for _, path := range byName {
			found = append(found, path)
		}
		sort.Strings(found)
		out = append(out, found...)
	}
	return out, nil
}
