// Package build makes firmware from source. It compiles what a student submitted (C, C++, assembler, or files with
// setup() and loop()) with the chip's compiler, or assembles it, inside bubblewrap and returns a program's file, or the
// compiler's messages as feedback.
package build

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"

	"hemble/core/machine"
	"hemble/core/sheet"
	"hemble/core/source"
	"hemble/sandbox"
)

// Builder builds sources, one or many at a time.
type Builder struct {
	cache     string   // where core archives are kept
	libraries []string // folders of library folders, those of an instructor
	limits    sandbox.Limits
}

// Config is what a builder needs.
type Config struct {
	Cache     string   // folder for archives of libraries; made where it is missing
	Libraries []string // folders whose subfolders are libraries
}

// ErrOff is why building is off on this machine.
var ErrOff = errors.New("building from source is off")

// New looks for compiler and sandbox. Its error wraps ErrOff and says what is missing, or says which folder of
// libraries is none.
func New(c Config) (*Builder, error) {
	var libraries []string
	for _, dir := range c.Libraries {
		if info, err := os.Stat(dir); err != nil || !info.IsDir() {
			return nil, fmt.Errorf("%s is no folder of libraries", dir)
		}
		abs, err := filepath.Abs(dir)
		if err != nil {
			return nil, err
		}
		libraries = append(libraries, abs)
	}
	if _, err := findTools(usual); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrOff, err)
	}
	if c.Cache == "" {
		dir, err := os.UserCacheDir()
		if err != nil {
			return nil, fmt.Errorf("%w: %w", ErrOff, err)
		}
		c.Cache = filepath.Join(dir, "hemble", "build")
	}
	if err := os.MkdirAll(c.Cache, 0o700); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrOff, err)
	}
	return &Builder{cache: c.Cache, libraries: libraries, limits: limits}, nil
}

// With gives a builder with further folders of library folders, which go before those of b.
func (b *Builder) With(dirs ...string) *Builder {
	out := *b
	out.libraries = slices.Concat(dirs, b.libraries)
	return &out
}

// Target is what to build for.
type Target struct {
	Chip     *machine.Chip
	Clock    int64  // Hz
	ClockPin string // where the oscillator is, of a chip that looks at it
}

// Result is what came of a build: a program's file, or nil and the messages that tell why.
type Result struct {
	ELF      []byte // or COFF, or Intel HEX, of an assembler, or a design of programmable logic
	Messages []sheet.Message
	Usage    *Usage          // nil where nothing was linked
	Source   *source.Program // by which it is built anew with other words in it; nil where no file is C or C++
}

// Failed tells that there is no firmware.
func (r *Result) Failed() bool { return r.ELF == nil }

// Why sums a failed build up in one line.
func (r *Result) Why() string {
	why, n := "the source could not be built", 0
	for _, m := range r.Messages {
		if m.Kind == "warning" || m.Kind == "note" {
			continue
		}
		if n++; n == 1 {
			why += ": " + m.String()
		}
	}
	if n > 1 {
		why += fmt.Sprintf(" (and %d more)", n-1)
	}
	return why
}

// Build compiles and links. What is wrong with the source is in the result; an error means that the build
// could not be carried out.
func (b *Builder) Build(ctx context.Context, s *Source, t Target) (*Result, error) {
	r, err := b.once(ctx, s, t)
	if err == nil && !r.Failed() {
		r.Source = b.again(s, t)
	}
	return r, err
}

func (b *Builder) once(ctx context.Context, s *Source, t Target) (*Result, error) {
	ctx, cancel := context.WithTimeout(ctx, maxBuild)
	defer cancel()
	if t.Chip.Toolchain.Compiler == "" {
		return &Result{Messages: []sheet.Message{{Kind: "error",
			Text: fmt.Sprintf("nothing here builds source for the %s: submit a built firmware", t.Chip.Title)}}}, nil
	}
	with, err := findTools(t.Chip.Toolchain.Compiler)
	if err != nil {
		return &Result{Messages: []sheet.Message{{Kind: "error",
			Text: fmt.Sprintf("no source for the %s is built here: %s", t.Chip.Title, err)}}}, nil
	}
	if other := families[t.Chip.Toolchain.Compiler].build; other != nil {
		return other(b, ctx, with, s, t)
	}
	p, problem := plan(ctx, s)
	if problem != nil {
		return &Result{Messages: []sheet.Message{*problem}}, nil
	}
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	j := &job{builder: b, tools: with, plan: p, target: t, script: newScript(with.prefix)}
	r, err := j.run(ctx)
	if errors.Is(err, context.DeadlineExceeded) && errors.Is(ctx.Err(), context.DeadlineExceeded) {
		return &Result{Messages: []sheet.Message{{Kind: "error",
			Text: fmt.Sprintf("the build took longer than %s", maxBuild)}}}, nil
	}
	return r, err
}

// job is one build under way.
type job struct {
	builder   *Builder
	tools     tools
	plan      *planned
	target    Target
	script    *script
	libraries []library

	narrow []narrowed // registers of a design that may be too narrow
}

// run compiles every file and links, all in one run of the sandbox.
func (j *job) run(ctx context.Context) (*Result, error) {
	if problem := j.findLibraries(); problem != nil {
		return &Result{Messages: []sheet.Message{*problem}}, nil
	}
	includes := []string{"-I" + sourceFolder, "-I" + inSource("src")}
	for _, l := range j.libraries {
		includes = append(includes, "-I"+l.inside)
	}
	if j.target.Chip.Toolchain.Support != nil {
		includes = append(includes, "-I"+supportFolder)
	}
	var archives []string
	for _, l := range j.libraries {
		archive, messages, err := j.archive(ctx, l)
		if err != nil || messages != nil {
			return &Result{Messages: messages}, err
		}
		if archive != nil {
			name := fmt.Sprintf("/archive/%d.a", len(archives))
			j.script.put(name, archive)
			archives = append(archives, name)
		}
		for _, f := range l.brought() {
			j.script.put(f.inside, f.data)
		}
	}
	text := j.commands(includes, archives)
	o, err := j.tools.box.Run(ctx, j.script.files, text, j.builder.limits)
	if err != nil {
		return nil, err
	}
	r := &Result{Messages: j.messages(o)}
	if !o.OK {
		if len(r.Messages) == 0 {
			r.Messages = append(r.Messages,
				sheet.Message{Kind: "error", Text: "the compiler gave up without a message"})
		}
		return r, nil
	}
	r.ELF = o.Output
	r.Usage = usage(r.ELF, j.target.Chip.Firmware)
	return r, nil
}

// commands puts the source into the sandbox and gives the script that makes a program of it. No name that a student
// chose is in it.
func (j *job) commands(includes, archives []string) string {
	for _, f := range j.plan.files {
		j.script.put(inSource(f.Path), f.Data)
	}
	var objects []string
	for _, u := range j.plan.units {
		objects = append(objects,
			j.script.compile(u, append(compileArgs(u.name, j.target, j.plan.framework), includes...)))
	}
	linker := j.tools.prefix + "gcc"
	if j.plan.cPlusPlus {
		linker = j.tools.prefix + "g++"
	}
	for _, f := range j.support() {
		objects = append(objects, j.script.compile(f, append(compileArgs(f.name, j.target, false), includes...)))
	}
	program := sandbox.Folder + "/program.elf"
	args := append(linkArgs(j.target), objects...)
	// A library may use another that stands before it.
	args = append(append(append(args, "-Wl,--start-group"), archives...), "-Wl,--end-group", "-lm", "-o", program)
	return j.script.finish(program, linker, args)
}
