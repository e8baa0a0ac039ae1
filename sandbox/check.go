package sandbox

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strconv"
	"strings"
	"time"
)

// check runs a script that waits, and looks from outside whether it is held back as it should be.
func (b *Box) check() error {
	l := Limits{Wall: 20 * time.Second, CPU: 5 * time.Second, Memory: 256 << 20, Processes: 8, Disk: 1 << 20,
		Files: 100, Output: 64, Messages: 4096}
	o, err := b.run(context.Background(), []File{{"/src/word", []byte("ready\n")}},
		"cat /src/word; while read -r line; do :; done", l, held)
	switch {
	case err != nil:
		return fmt.Errorf("the sandbox does not hold here: %w", err)
	case !o.OK:
		return fmt.Errorf("bubblewrap makes no sandbox here (it needs user namespaces): %s",
			strings.TrimSpace(strings.ReplaceAll(o.Messages, "\n", "; ")))
	case string(o.Output) != "ready\n":
		return fmt.Errorf("the sandbox said %q", o.Output)
	}
	return nil
}

// held looks at the innermost process of a run until it is what it must be: in a namespace of its own for processes, a
// user without rights, with the system calls filtered, its folder visible to the watcher.
func held(pid int) (err error) {
	for range 100 {
		all := family(pid)
		if err = heldNow(all); err == nil {
			return nil
		}
		if _, gone := os.Stat("/proc/" + strconv.Itoa(pid)); gone != nil {
			return nil // what it said tells why
		}
		time.Sleep(watchTime)
	}
	return err
}

func heldNow(all []int) error {
	if len(all) <= outerProcesses {
		return errors.New("its processes cannot be seen in /proc")
	}
	text, err := os.ReadFile("/proc/" + strconv.Itoa(all[len(all)-1]) + "/status")
	if err != nil {
		return err
	}
	status := map[string][]string{}
	for _, line := range strings.Split(string(text), "\n") {
		key, value, _ := strings.Cut(line, ":")
		status[key] = strings.Fields(value)
	}
	is := func(key, want string) bool { return len(status[key]) > 0 && status[key][0] == want }
	switch {
	case len(status["NSpid"]) < 2:
		return errors.New("it shares the machine's processes")
	case is("Uid", "0"):
		return errors.New("it is root")
	case !is("CapEff", "0000000000000000") || !is("CapBnd", "0000000000000000"):
		return errors.New("it has rights")
	case !is("NoNewPrivs", "1") || !is("Seccomp", "2"):
		return errors.New("its system calls are not filtered")
	}
	if _, _, ok := folderOf(all); !ok {
		return errors.New("its folder cannot be measured")
	}
	return nil
}
