// Package sandbox runs tools of this machine on untrusted files: without network, without the machine's files, without
// privileges, and within limits that apply to everything one run starts, taken together.
//
// A run is a shell script of ours over files that we name. It sees the tools and the given files, read-only, and one
// empty folder in memory. Its output comes through a pipe, so no path of the sandbox is ever opened outside of it.
package sandbox

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"strconv"
	"strings"
	"time"
)

// Limits of one run: each for all its processes together.
type Limits struct {
	Wall      time.Duration
	CPU       time.Duration
	Memory    int64 // bytes, those of files in its folder included
	Processes int   // at one time
	Disk      int64 // bytes of files in its folder
	Files     int64 // in its folder
	Output    int   // bytes on standard output; more of it ends the run
	Messages  int   // bytes on standard error that are kept; what is more is dropped
}

// Folder is the one that a run may write to. It is in memory, and gone when the run ends.
const Folder = "/tmp"

// The user that a run is, on the machine where the service is root, and inside. The first is of a range that no
// distribution hands out, so that nothing else is of it.
const (
	userOutside = 1_900_000_001
	userInside  = 65534
)

// File is one that a run can read, at an absolute path.
type File struct {
	Path string
	Data []byte
}

// Outcome is what came of a run.
type Outcome struct {
	OK       bool   // it ended with exit code 0, within its limits
	Output   []byte // its standard output
	Messages string // its standard error
	Stopped  string // which limit it went over, as the end of "it needed …"; "" for none
}

// Box is a sandbox with its tools.
type Box struct {
	bwrap    string
	readable []string // files and folders of the machine that are seen inside where they are
	filter   []byte   // of system calls, as the kernel takes it
	groups   *groups  // nil where there are none to be had
	self     string   // the program that a tool is told it is: there is no /proc; "" for none
	asRoot   bool     // the service is root: runs are of a user of their own
}

// shellTools are what a script uses beside the tools that it is about.
var shellTools = []string{"sh", "cat", "prlimit"}

// New makes a sandbox that has the given tools (names, found by PATH), and can read the given files and folders. Its
// error says what is missing here; it is only given where a try has shown that what holds a run back does so.
func New(tools, readable []string) (*Box, error) {
	b := &Box{asRoot: os.Geteuid() == 0, readable: readable}
	var err error
	if b.bwrap, err = exec.LookPath("bwrap"); err != nil {
		return nil, errors.New("bwrap is not installed (Debian package bubblewrap)")
	}
	for _, name := range append(tools, shellTools...) {
		if err := b.addTool(name); err != nil {
			return nil, err
		}
	}
	if b.filter, err = systemCalls(); err != nil {
		return nil, fmt.Errorf("no filter of system calls: %w", err)
	}
	b.groups = findGroups()
	if b.asRoot {
		if err := passable(os.TempDir()); err != nil {
			return nil, err
		}
	}
	return b, b.check()
}

// Self gives a sandbox in which a tool that asks which program it is gets told so.
func (b *Box) Self(program string) *Box {
	out := *b
	out.self = program
	return &out
}

// passable reports whether a user of its own can come to a folder: all may enter it and those that it is in.
func passable(dir string) error {
	for at := filepath.Clean(dir); ; at = filepath.Dir(at) {
		info, err := os.Stat(at)
		if err != nil {
			return err
		}
		if info.Mode()&1 == 0 {
			return fmt.Errorf("%s is closed to the sandbox's user, who must come to the folder for temporary files: let all enter it, or set TMPDIR to another", at)
		}
		if at == filepath.Dir(at) {
			return nil
		}
	}
}

// addTool makes a program readable, with what it loads.
func (b *Box) addTool(name string) error {
	at, err := exec.LookPath(name)
	if err != nil {
		return fmt.Errorf("%s is not installed", name)
	}
	if err := b.addProgram(at); err != nil {
		return err
	}
	if at != "/usr/bin/"+filepath.Base(at) && !filepath.IsAbs(name) {
		return fmt.Errorf("%s is at %s; in the sandbox it is looked for in /usr/bin", name, at)
	}
	return nil
}

// Run carries out a script. An error means that it could not be; what the script and its tools say is in the outcome.
func (b *Box) Run(ctx context.Context, files []File, script string, l Limits) (*Outcome, error) {
	return b.run(ctx, files, script, l, nil)
}

func (b *Box) run(ctx context.Context, files []File, script string, l Limits, started func(pid int) error) (*Outcome,
	error) {
	out := &bounded{most: l.Output}
	p, err := b.start(ctx, files, script, l, out)
	if err != nil {
		return nil, err
	}
	var weak error
	if started != nil {
		weak = started(p.cmd.Process.Pid)
	}
	closing := p.in.Close()
	o, err := p.Wait()
	switch {
	case err != nil:
		return nil, err
	case o.Stopped == "" && weak != nil:
		return nil, weak
	case closing != nil && !errors.Is(closing, os.ErrClosed):
		return nil, closing
	}
	o.Output = out.kept.Bytes()
	return o, nil
}

// stage writes the files of a run to a folder that its user can read, and nobody else.
func (b *Box) stage(files []File) (_ string, err error) {
	dir, err := os.MkdirTemp("", Leftover)
	if err != nil {
		return "", err
	}
	defer func() {
		if err != nil {
			os.RemoveAll(dir)
		}
	}()
	made := map[string]bool{}
	for _, f := range files {
		if f.Path != path.Clean(f.Path) || !path.IsAbs(f.Path) || strings.Count(f.Path, "/") < 2 {
			return "", fmt.Errorf("%q is no place for a file of a sandbox", f.Path)
		}
		name := filepath.Join(dir, filepath.FromSlash(f.Path))
		if folder := filepath.Dir(name); !made[folder] {
			made[folder] = true
			if err := os.MkdirAll(folder, 0o755); err != nil {
				return "", err
			}
		}
		// Never through a link, never over another file.
		w, err := os.OpenFile(name, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
		if err != nil {
			return "", err
		}
		if _, err := w.Write(f.Data); err != nil {
			w.Close()
			return "", err
		}
		if err := w.Close(); err != nil {
			return "", err
		}
	}
	if b.asRoot { // the folder alone: what is in it can be read by all who come in, and written by nobody else
		err = os.Chown(dir, userOutside, userOutside)
	}
	return dir, err
}

// Leftover is how the names of folders begin that a run has in the system's folder for temporary files. What is left of
// one is that of a service that was killed.
const Leftover = "hemble-sandbox-"

// Sweep takes away what runs of services that were killed left in the system's folder for temporary files: what is
// older than any run can be.
func Sweep() {
	left, _ := filepath.Glob(filepath.Join(os.TempDir(), Leftover+"*"))
	for _, dir := range left {
		if info, err := os.Lstat(dir); err == nil && info.IsDir() && time.Since(info.ModTime()) > time.Hour {
			_ = os.RemoveAll(dir)
		}
	}
}

// line is the command line of a run.
func (b *Box) line(dir, script string, l Limits) []string {
	line := []string{b.bwrap, "--unshare-all", "--unshare-user", "--disable-userns", "--uid", strconv.Itoa(userInside),
		"--gid", strconv.Itoa(userInside),
		"--cap-drop", "ALL", "--die-with-parent", "--new-session", "--seccomp", "3", "--hostname", "sandbox",
		"--clearenv",
		"--setenv", "PATH", "/usr/bin", "--setenv", "LC_ALL", "C", "--setenv", "TMPDIR", Folder}
	for _, name := range b.readable {
		line = append(line, "--ro-bind", name, name)
	}
	entries, _ := os.ReadDir(dir)
	for _, e := range entries {
		line = append(line, "--ro-bind", filepath.Join(dir, e.Name()), "/"+e.Name())
	}
	if b.self != "" {
		line = append(line, "--symlink", b.self, "/proc/self/exe")
	}
	line = append(line, "--dev", "/dev", "--remount-ro", "/dev", "--perms", "0700", "--size",
		strconv.FormatInt(l.Disk, 10), "--tmpfs", Folder,
		"--remount-ro", "/", "--chdir", Folder, "--", "/usr/bin/prlimit")
	line = append(line, "--cpu="+strconv.Itoa(int(l.CPU/time.Second)+1), "--as="+strconv.FormatInt(l.Memory, 10),
		"--fsize="+strconv.FormatInt(l.Disk, 10),
		"--nproc="+strconv.Itoa(l.Processes), "--nofile=128", "--core=0", "--msgqueue=0", "--memlock=0")
	return append(line, "/usr/bin/sh", "-c", script)
}

// openFilter gives the filter of system calls as a file that is read once.
func (b *Box) openFilter() (*os.File, error) {
	r, w, err := os.Pipe()
	if err != nil {
		return nil, err
	}
	_, err = w.Write(b.filter) // shorter than a pipe's buffer
	return r, errors.Join(err, w.Close())
}

// bounded keeps the beginning of what is written to it. It has no other method of a buffer, so that nothing
// gets past its bound.
type bounded struct {
	kept bytes.Buffer
	most int
	over func()
}

func (b *bounded) Write(p []byte) (int, error) {
	room := max(0, b.most-b.kept.Len())
	b.kept.Write(p[:min(room, len(p))])
	if room < len(p) {
		b.over()
	}
	return len(p), nil
}
