package sandbox

import (
	"context"
	"fmt"
	"os"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"
)

// watchTime is how often a run is looked at. Between two looks it can go over a limit by what a machine does in this
// time; where there are control groups, the kernel holds memory and processes without a gap.
const watchTime = 20 * time.Millisecond

// watcher holds a run to its limits from outside: it adds up what all its processes use, and ends them all where that
// is too much.
type watcher struct {
	limits Limits
	group  *group
	over   chan struct{}

	lock sync.Mutex
	why  string
	cpu  time.Duration // the most that was seen, so that processes that ended are counted
}

func watch(l Limits, g *group) *watcher {
	return &watcher{limits: l, group: g, over: make(chan struct{}, 1)}
}

// stop ends the run, for the first reason that is given.
func (w *watcher) stop(why string) {
	w.lock.Lock()
	defer w.lock.Unlock()
	if w.why == "" {
		w.why = why
		w.over <- struct{}{}
	}
}

func (w *watcher) reason() string {
	w.lock.Lock()
	defer w.lock.Unlock()
	if w.why == "" && w.group.outOfMemory() {
		w.why = megabytes(w.limits.Memory, "memory")
	}
	return w.why
}

// follow looks at the run until it has ended, ctx ends or a limit is passed; in these cases it ends it.
func (w *watcher) follow(ctx context.Context, pid int, ended <-chan struct{}) {
	tick := time.NewTicker(watchTime)
	defer tick.Stop()
	for {
		select {
		case <-ended:
			return
		case <-ctx.Done():
			w.end(pid, ended)
			return
		case <-w.over:
			w.end(pid, ended)
			return
		case <-tick.C:
			w.look(pid)
		}
	}
}

// look adds up what a run uses.
func (w *watcher) look(pid int) {
	var u usage
	all := family(pid)
	for _, p := range all {
		u.add(p)
	}
	w.cpu = max(w.cpu, u.cpu)
	var files int64
	if blocks, inodes, ok := folderOf(all); ok {
		u.memory += blocks
		files = inodes
	}
	switch l := w.limits; {
	case u.memory > l.Memory:
		w.stop(megabytes(l.Memory, "memory"))
	case w.cpu > l.CPU:
		w.stop(fmt.Sprintf("more than %s of processor time", l.CPU))
	case u.processes > l.Processes+outerProcesses:
		w.stop(fmt.Sprintf("more than %d processes", l.Processes))
	case files > l.Files:
		w.stop(fmt.Sprintf("more than %d files", l.Files))
	}
}

// outerProcesses are those of bubblewrap itself.
const outerProcesses = 2

func megabytes(n int64, of string) string { return fmt.Sprintf("more than %d MB of %s", n>>20, of) }

// end kills the processes of a run until none is left.
func (w *watcher) end(pid int, ended <-chan struct{}) {
	for {
		w.group.kill()
		for _, p := range family(pid) {
			_ = syscall.Kill(p, syscall.SIGKILL)
		}
		select {
		case <-ended:
			return
		case <-time.After(watchTime):
		}
	}
}

// family lists a process with all that came of it, as they are now.
func family(pid int) []int {
	all := []int{pid}
	for i := 0; i < len(all); i++ {
		threads, _ := os.ReadDir("/proc/" + strconv.Itoa(all[i]) + "/task")
		for _, t := range threads {
			list, _ := os.ReadFile("/proc/" + strconv.Itoa(all[i]) + "/task/" + t.Name() + "/children")
			for _, child := range strings.Fields(string(list)) {
				if n, err := strconv.Atoi(child); err == nil {
					all = append(all, n)
				}
			}
		}
	}
	return all
}

// usage is what processes use together.
type usage struct {
	processes int
	memory    int64 // bytes that are resident
	cpu       time.Duration
}

// The fields of /proc/PID/stat behind the name (proc(5)), counted from 0.
const (
	statUserTime = 11
	statRSS      = 21
	tick         = 10 * time.Millisecond // USER_HZ is 100 everywhere
)

func (u *usage) add(pid int) {
	text, err := os.ReadFile("/proc/" + strconv.Itoa(pid) + "/stat")
	if err != nil {
		return
	}
	_, rest, _ := strings.Cut(string(text), ") ")
	fields := strings.Fields(rest)
	if len(fields) <= statRSS {
		return
	}
	u.processes++
	for _, f := range fields[statUserTime : statUserTime+4] { // its own, and that of children that ended
		n, _ := strconv.ParseInt(f, 10, 64)
		u.cpu += time.Duration(n) * tick
	}
	pages, _ := strconv.ParseInt(fields[statRSS], 10, 64)
	u.memory += pages * int64(os.Getpagesize())
}

// folderOf returns what the files of a run take, by one of its processes: bytes and how many.
func folderOf(pids []int) (bytes, files int64, ok bool) {
	for i := len(pids) - 1; i > 0; i-- {
		var s syscall.Statfs_t
		if syscall.Statfs("/proc/"+strconv.Itoa(pids[i])+"/root"+Folder, &s) == nil && s.Type == tmpfsMagic &&
			s.Bsize > 0 {
			return int64(s.Blocks-s.Bfree) * s.Bsize, int64(s.Files - s.Ffree), true
		}
	}
	return 0, 0, false
}

const tmpfsMagic = 0x01021994 // linux/magic.h
