package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"sort"
	"strings"
	"sync"

	"github.com/urfave/cli/v3"

	"hemble/build"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/marking"
	"hemble/core/sheet"
	"hemble/render"
)

// libraryFlag goes with every command that takes firmware.
var libraryFlag = &cli.StringSliceFlag{Name: "library",
	Usage: "`FOLDER` with libraries that source may include; repeatable"}

// plainFlag goes with every command that runs firmware.
var plainFlag = &cli.BoolFlag{Name: "reference",
	Usage: "use the reference interpreter: slower, same results"}

func buildCommand() *cli.Command {
	return &cli.Command{
		Name:         "build",
		Usage:        "build firmware from a source file, folder or zip archive",
		ArgsUsage:    "SOURCE",
		Description:  "Builds C, C++ and assembler with main(), files with setup() and loop(), or assembler for a PIC. The compiler runs in a sandbox that sees only the toolchain and has no network.",
		OnUsageError: usage,
		Flags: append([]cli.Flag{
			&cli.StringFlag{Name: "output", Aliases: []string{"o"}, Usage: "write the ELF to `FILE`"},
			libraryFlag, formatFlag,
		}, chipFlags()...),
		Action: buildSource,
	}
}

// builtSource is what --format json writes.
type builtSource struct {
	Source   string          `json:"source"`
	Output   string          `json:"output,omitempty"`
	Built    bool            `json:"built"`
	Messages []sheet.Message `json:"messages"`
	Usage    *build.Usage    `json:"usage,omitempty"`
}

func buildSource(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 1 {
		return misused("build expects one source: hemble build SOURCE")
	}
	x, err := bareChip(c)
	if err != nil {
		return err
	}
	path := c.Args().First()
	r, err := newSources(c).build(ctx, path, x)
	if err != nil {
		return err
	}
	output := c.String("output")
	if output != "" && !r.Failed() {
		if err := os.WriteFile(output, r.ELF, 0o644); err != nil {
			return err
		}
	}
	out := c.Root().Writer
	if c.String("format") == "json" {
		data := builtSource{Source: path, Built: !r.Failed(), Messages: append([]sheet.Message{}, r.Messages...),
			Usage: r.Usage}
		if data.Built {
			data.Output = output
		}
		if err := writeJSON(out, data); err != nil {
			return err
		}
	} else {
		fmt.Fprint(out, render.Messages(styleFor(out), r.Messages))
		tellUsage(out, path, x.Chip, r.Usage)
	}
	if r.Failed() {
		return errTold
	}
	return nil
}

func tellUsage(out io.Writer, path string, chip *machine.Chip, u *build.Usage) {
	if u == nil {
		return
	}
	fmt.Fprintf(out, "%s: flash %d of %d bytes (%d %%)", path, u.Flash, chip.Flash, 100*u.Flash/chip.Flash)
	if u.RAM >= 0 {
		fmt.Fprintf(out, ", RAM %d of %d bytes (%d %%) and the stack", u.RAM, chip.SRAM, 100*u.RAM/chip.SRAM)
	}
	fmt.Fprintln(out)
	for _, item := range u.Largest {
		where := "flash"
		if item.RAM {
			where = "RAM"
		}
		fmt.Fprintf(out, "  %6d bytes of %-5s  %s\n", item.Bytes, where, item.Name)
	}
}

// sources builds what commands are given as source. The builder is made when it is first needed.
type sources struct {
	builder  func() (*build.Builder, error)
	marker   marking.Marker
	captures captures
}

func newSources(c *cli.Command) *sources {
	libraries := c.StringSlice("library")
	return &sources{builder: sync.OnceValues(func() (*build.Builder,
		error) {
		return build.New(build.Config{Libraries: libraries})
	})}
}

// build builds source for the chip of an exercise that it is for.
func (s *sources) build(ctx context.Context, path string, x *exercise.Exercise) (*build.Result, error) {
	b, err := s.builder()
	if err != nil {
		return nil, err
	}
	source, err := build.FromPath(path)
	if err != nil {
		return &build.Result{Messages: []sheet.Message{{Kind: "error", Text: err.Error()}}}, nil
	}
	x = source.For(x)
	return b.Build(ctx, source, build.Target{Chip: x.Chip, Clock: int64(x.Clock), ClockPin: x.ClockPin})
}

// isSource reports whether a path is to be built: a folder, or a file of a kind that is source.
func isSource(path string) (bool, error) {
	info, err := os.Stat(path)
	if err != nil || info.IsDir() {
		return err == nil, err
	}
	f, err := os.Open(path)
	if err != nil {
		return false, err
	}
	defer f.Close()
	head := make([]byte, 8)
	n, _ := io.ReadFull(f, head)
	return build.IsSource(path, head[:n]), nil
}

// firmware gives what runs on the chip: a file as it is, or what source was built to; made is nil where nothing was
// built.
func (s *sources) firmware(ctx context.Context, x *exercise.Exercise, path string) (file []byte, made *build.Result,
	err error) {
	source, err := isSource(path)
	if err != nil {
		return nil, nil, err
	}
	if !source || x.Chip == nil {
		file, err = readBounded(path)
		return file, nil, err
	}
	if made, err = s.build(ctx, path, x); err != nil {
		return nil, nil, err
	}
	return made.ELF, made, nil
}

// mark marks a firmware file or a source.
func (s *sources) mark(ctx context.Context, x *exercise.Exercise, path string) (*marking.Result, error) {
	if isCapture(path) {
		return s.captures.mark(ctx, x, path)
	}
	file, made, err := s.firmware(ctx, x, path)
	switch {
	case err != nil:
		return nil, err
	case made != nil && made.Failed():
		return marking.Unbuilt(x, filepath.Base(path), made.Why(), made.Messages), nil
	}
	work := marking.Work{Name: filepath.Base(path), File: file}
	if made != nil {
		work.Source = made.Source
	}
	m, err := s.marker.MarkWork(ctx, x, work)
	if err == nil && made != nil {
		m.Sheet.Messages = made.Messages
	}
	return m, err
}

// bytes gives what runs on the chip; source that does not compile is an error.
func (s *sources) bytes(ctx context.Context, x *exercise.Exercise, path string) ([]byte, error) {
	file, made, err := s.firmware(ctx, x, path)
	if err == nil && made != nil && made.Failed() {
		err = errors.New(made.Why())
	}
	return file, err
}

// image reads a firmware file, or builds it, and gives the exercise for the chip that it is for.
func (s *sources) image(ctx context.Context, x *exercise.Exercise, path string) (*exercise.Exercise, *firmware.Image,
	error) {
	if x.Chip == nil {
		return nil, nil, misused("the bench of %s has no chip that a firmware could run on", x.Name)
	}
	file, err := s.bytes(ctx, x, path)
	if err != nil {
		return nil, nil, err
	}
	x = x.For(file)
	im, err := firmware.Read(file, x.Chip.Firmware)
	if err != nil {
		return nil, nil, fmt.Errorf("%s: %w", path, err)
	}
	return x, im, nil
}

// sourcesIn lists the submissions in a folder without firmware: the folder itself where it is one program, else
// its archives, its files with a program each, and its folders with source in them.
func sourcesIn(dir string) ([]string, error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return nil, err
	}
	var out []string
	for _, e := range entries {
		path := filepath.Join(dir, e.Name())
		ext := strings.ToLower(filepath.Ext(e.Name()))
		switch {
		case strings.HasPrefix(e.Name(), "."):
		case ext == ".ino" && !e.IsDir():
			return []string{dir}, nil
		case e.IsDir():
			if s, err := build.FromPath(path); err == nil && len(s.Files) > 0 {
				out = append(out, path)
			}
		case ext == ".xdc" || ext == ".pcf" || ext == ".v" || ext == ".sv" || ext == ".vhd":
			return []string{dir}, nil
		case ext == ".zip" || ext == ".asm" || ext == ".c" || ext == ".cpp" || ext == ".cc":
			out = append(out, path)
		}
	}
	sort.Strings(out)
	return out, nil
}
