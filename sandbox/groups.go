package sandbox

import (
	"bytes"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"golang.org/x/sys/unix"
)

// runs counts those of this process, whatever box they are of.
var runs atomic.Int64

// groups is where control groups (cgroups(7)) can be made for runs: of version 2 below a group that was delegated to
// the service, of version 1 below its own. nil where neither is to be had: then the watcher alone holds a run.
type groups struct {
	parents []string // folders that a run gets a group in: one, or with version 1 one a controller
	two     bool
}

const groupRoot = "/sys/fs/cgroup"

// findGroups looks for a place for groups, and makes one on trial.
func findGroups() *groups {
	lines, err := os.ReadFile("/proc/self/cgroup")
	if err != nil {
		return nil
	}
	own := map[string]string{} // by controller; "" for version 2
	for _, line := range strings.Split(strings.TrimSpace(string(lines)), "\n") {
		if f := strings.SplitN(line, ":", 3); len(f) == 3 {
			for _, controller := range strings.Split(f[1], ",") {
				own[controller] = f[2]
			}
		}
	}
	var g *groups
	if memory, old := own["memory"]; old {
		g = &groups{parents: []string{filepath.Join(groupRoot, "memory", memory),
			filepath.Join(groupRoot, "pids", own["pids"])}}
	} else if parent := filepath.Join(groupRoot, own[""]); delegated(parent) {
		if takeOver(parent) != nil {
			return nil
		}
		g = &groups{parents: []string{parent}, two: true}
	} else {
		return nil
	}
	g.clear()
	if try, err := g.make(Limits{Memory: 1 << 20, Processes: 1}); err != nil {
		try.remove()
		return nil
	} else {
		try.remove()
	}
	return g
}

// delegated reports whether a group was handed to whoever runs in it (systemd marks it so, `Delegate=yes`).
func delegated(group string) bool {
	mark := make([]byte, 8)
	n, err := unix.Getxattr(group, "user.delegate", mark)
	return err == nil && string(mark[:n]) == "1"
}

// takeOver makes room below a delegated group: its processes move to a group of their own, since one with processes
// cannot have others with limits (cgroups(7), "no internal processes").
func takeOver(parent string) error {
	service := filepath.Join(parent, "service")
	if err := os.MkdirAll(service, 0o755); err != nil {
		return err
	}
	pids, err := os.ReadFile(filepath.Join(parent, "cgroup.procs"))
	if err != nil {
		return err
	}
	for _, pid := range bytes.Fields(pids) {
		if err := os.WriteFile(filepath.Join(service, "cgroup.procs"), pid, 0o644); err != nil {
			return err
		}
	}
	return os.WriteFile(filepath.Join(parent, "cgroup.subtree_control"), []byte("+memory +pids"), 0o644)
}

// group is that of one run.
type group struct {
	dirs []string
	two  bool
}

const namePrefix = "hemble-run-"

// free is a name that no group has: one of an earlier process with this number may still be there.
func (g *groups) free() string {
	for {
		name := fmt.Sprintf("%s%d-%d", namePrefix, os.Getpid(), runs.Add(1))
		taken := false
		for _, parent := range g.parents {
			_, err := os.Lstat(filepath.Join(parent, name))
			taken = taken || err == nil
		}
		if !taken {
			return name
		}
	}
}

// orphaned is how old a group is at least that a process left behind which is no more.
const orphaned = 10 * time.Minute

// clear removes groups that processes left behind which are no more. One with processes in it stays.
func (g *groups) clear() {
	for _, parent := range g.parents {
		entries, _ := os.ReadDir(parent)
		for _, e := range entries {
			pid, _, ours := strings.Cut(strings.TrimPrefix(e.Name(), namePrefix), "-")
			info, err := e.Info()
			if !strings.HasPrefix(e.Name(), namePrefix) || !ours || err != nil ||
				time.Since(info.ModTime()) < orphaned {
				continue
			}
			if _, err := os.Stat("/proc/" + pid); errors.Is(err, os.ErrNotExist) {
				_ = os.Remove(filepath.Join(parent, e.Name()))
			}
		}
	}
}

// late are groups that could not be removed when their run was over: the kernel needs its time for processes that were
// killed.
var late struct {
	sync.Mutex
	dirs []string
}

// sweep tries again to remove groups of runs that are over.
func sweep() {
	late.Lock()
	defer late.Unlock()
	late.dirs = slices.DeleteFunc(late.dirs, func(dir string) bool {
		err := os.Remove(dir)
		return err == nil || errors.Is(err, os.ErrNotExist)
	})
}

// make makes a group with limits; nil where there are none to be had.
func (g *groups) make(l Limits) (*group, error) {
	if g == nil {
		return nil, nil
	}
	sweep()
	name := g.free()
	out := &group{two: g.two}
	processes := strconv.Itoa(l.Processes + outerProcesses)
	memory := strconv.FormatInt(l.Memory, 10)
	settings := []map[string]string{{"memory.limit_in_bytes": memory}, {"pids.max": processes}}
	if g.two {
		settings = []map[string]string{{"memory.max": memory, "memory.swap.max": "0", "pids.max": processes}}
	}
	for i, parent := range g.parents {
		dir := filepath.Join(parent, name)
		if err := os.Mkdir(dir, 0o755); err != nil {
			return out, err
		}
		out.dirs = append(out.dirs, dir)
		for file, value := range settings[i] {
			err := os.WriteFile(filepath.Join(dir, file), []byte(value), 0o644)
			if err != nil && !(file == "memory.swap.max" && errors.Is(err, os.ErrNotExist)) { // a machine without swap
				return out, err
			}
		}
	}
	return out, nil
}

// add puts a process, and all that will come of it, into the group.
func (g *group) add(pid int) error {
	if g == nil {
		return nil
	}
	for _, dir := range g.dirs {
		if err := os.WriteFile(filepath.Join(dir, "cgroup.procs"), []byte(strconv.Itoa(pid)), 0o644); err != nil {
			return err
		}
	}
	return nil
}

// kill ends every process of the group, where the kernel does that at once.
func (g *group) kill() {
	if g != nil && g.two {
		_ = os.WriteFile(filepath.Join(g.dirs[0], "cgroup.kill"), []byte("1"), 0o644)
	}
}

// outOfMemory reports whether the kernel ended a process of the group for want of memory.
func (g *group) outOfMemory() bool {
	if g == nil {
		return false
	}
	events := "memory.oom_control"
	if g.two {
		events = "memory.events"
	}
	text, _ := os.ReadFile(filepath.Join(g.dirs[0], events))
	for _, line := range strings.Split(string(text), "\n") {
		if n, ok := strings.CutPrefix(line, "oom_kill "); ok && n != "0" {
			return true
		}
	}
	return false
}

// remove gives the group up.
func (g *group) remove() {
	if g == nil {
		return
	}
	late.Lock()
	late.dirs = append(late.dirs, g.dirs...)
	late.Unlock()
	sweep()
}
