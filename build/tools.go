package build

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"time"

	"hemble/core/firmware"
)

// tools are the compiler and the sandbox of this machine.
type tools struct {
	bwrap, prlimit string
	version        string   // of the compiler
	readable       []string // files and folders that the compiler needs to read
	framework      string   // folder of the core with setup() and loop(); empty where it is not installed
}

// programs are what a build runs.
var programs = []string{"avr-gcc", "avr-g++", "avr-as", "avr-ld", "avr-ar"}

// Where Debian's arduino-core-avr puts its core and libraries.
const frameworkFolder = "/usr/share/arduino/hardware/arduino/avr"

var findTools = sync.OnceValues(func() (t tools, err error) {
	for _, p := range []struct {
		into           *string
		name, package_ string
	}{{&t.bwrap, "bwrap", "bubblewrap"}, {&t.prlimit, "prlimit", "util-linux"}} {
		if *p.into, err = exec.LookPath(p.name); err != nil {
			return t, fmt.Errorf("%s is not installed (Debian package %s)", p.name, p.package_)
		}
	}
	gcc, err := exec.LookPath("avr-gcc")
	if err != nil {
		return t, errors.New("avr-gcc is not installed (Debian packages gcc-avr, binutils-avr, avr-libc)")
	}
	text := func(args ...string) string {
		out, _ := exec.Command(gcc, args...).Output()
		return strings.TrimSpace(string(out))
	}
	t.version = text("-dumpversion")
	t.readable = append(t.readable, filepath.Dir(text("-print-libgcc-file-name"))) // cc1 and the compiler's own headers
	for _, name := range []string{"as", "ld"} {
		t.readable = append(t.readable, filepath.Dir(text("-print-prog-name="+name)))
	}
	for _, dir := range []string{"/usr/lib/avr", "/usr/avr", "/usr/lib/gcc/avr"} {
		if _, err := os.Stat(dir); err == nil {
			t.readable = append(t.readable, dir)
		}
	}
	loaded := []string{text("-print-prog-name=cc1"), text("-print-prog-name=cc1plus")}
	for _, name := range programs {
		path, err := exec.LookPath(name)
		if err != nil {
			return t, fmt.Errorf("%s is not installed (Debian packages gcc-avr, binutils-avr, avr-libc)", name)
		}
		t.readable = append(t.readable, path)
		loaded = append(loaded, path)
		if real, err := filepath.EvalSymlinks(path); err == nil && real != path {
			t.readable = append(t.readable, real)
		}
	}
	if t.readable, err = withLibraries(t.readable, loaded); err != nil {
		return t, err
	}
	if _, err := os.Stat(filepath.Join(frameworkFolder, "cores/arduino/Arduino.h")); err == nil {
		t.framework = frameworkFolder
	}
	r, err := t.run(context.Background(), sandbox{}, "avr-gcc", "--version")
	if err != nil || !r.ok {
		return t, fmt.Errorf("bubblewrap cannot run the compiler here: %s", strings.TrimSpace(r.output))
	}
	return t, nil
})

var mapped = regexp.MustCompile(`(?m)(/\S+) \(0x`)

// withLibraries adds the shared libraries of programs.
func withLibraries(readable, programs []string) ([]string, error) {
	seen := map[string]bool{}
	for _, p := range programs {
		out, err := exec.Command("ldd", p).Output()
		if err != nil {
			return nil, fmt.Errorf("looking for the libraries of %s: %w", p, err)
		}
		for _, m := range mapped.FindAllStringSubmatch(string(out), -1) {
			if !seen[m[1]] {
				seen[m[1]] = true
				readable = append(readable, m[1])
			}
		}
	}
	return readable, nil
}

// sandbox is what one run of a tool may touch beside the toolchain.
type sandbox struct {
	source   string   // seen as /src, where the tool runs; read-only
	out      string   // seen as /out; writable
	readable []string // seen where they are; read-only
}

// Limits of one run.
const (
	maxWall   = 60 * time.Second
	maxCPU    = "--cpu=20"         // seconds
	maxMemory = "--as=1073741824"  // bytes of address space
	maxFile   = "--fsize=33554432" // bytes of one file written
	maxTasks  = "--nproc=256"      // processes of this user
	maxOpen   = "--nofile=256"
	maxOutput = 64 << 10
)

// ran is what came of one run.
type ran struct {
	ok     bool
	output string
}

// run carries a tool out in its sandbox: no network, nothing of the host but the toolchain, limits on time,
// memory, processes, file size and output.
func (t *tools) run(ctx context.Context, s sandbox, tool string, args ...string) (ran, error) {
	line := []string{maxCPU, maxMemory, maxFile, maxTasks, maxOpen, t.bwrap, "--unshare-all", "--die-with-parent", "--new-session", "--clearenv",
		"--setenv", "PATH", "/usr/bin", "--setenv", "LC_ALL", "C", "--setenv", "TMPDIR", "/tmp", "--dev", "/dev", "--tmpfs", "/tmp"}
	for _, path := range t.readable {
		line = append(line, "--ro-bind", path, path)
	}
	if t.framework != "" {
		line = append(line, "--ro-bind", t.framework, t.framework)
	}
	for _, path := range s.readable {
		line = append(line, "--ro-bind-try", path, path)
	}
	if s.source != "" {
		line = append(line, "--ro-bind", s.source, firmware.SourceFolder, "--bind", s.out, "/out", "--chdir", firmware.SourceFolder)
	}
	line = append(append(line, "--", "/usr/bin/"+tool), args...)
	ctx, cancel := context.WithTimeout(ctx, maxWall)
	defer cancel()
	cmd := exec.CommandContext(ctx, t.prlimit, line...)
	cmd.Env = []string{}
	cmd.WaitDelay = 2 * time.Second
	var out bounded
	cmd.Stdout, cmd.Stderr = &out, &out
	err := cmd.Run()
	r := ran{ok: err == nil, output: out.kept.String()}
	var exit *exec.ExitError
	switch {
	case err == nil:
		return r, nil
	case errors.Is(ctx.Err(), context.DeadlineExceeded):
		r.output += fmt.Sprintf("\nerror: the compiler took longer than %s and was stopped\n", maxWall)
	case ctx.Err() != nil:
		return r, ctx.Err()
	case !errors.As(err, &exit):
		return r, err
	}
	return r, nil
}

// bounded keeps the beginning of what is written to it. It has no other method of a buffer, so that nothing
// gets past its bound.
type bounded struct{ kept bytes.Buffer }

func (b *bounded) Write(p []byte) (int, error) {
	if room := maxOutput - b.kept.Len(); room > 0 {
		b.kept.Write(p[:min(room, len(p))])
	}
	return len(p), nil
}
