package sandbox

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"sync"
	"syscall"
	"time"
)

// Process is a run that is talked with while it lasts.
type Process struct {
	ctx      context.Context
	cancel   context.CancelFunc
	limits   Limits
	dir      string
	group    *group
	cmd      *exec.Cmd
	in       io.WriteCloser
	out      io.ReadCloser // its standard output; nil where that is kept
	messages *bounded
	watcher  *watcher
	ended    chan struct{}
	watched  chan struct{}

	once    sync.Once
	outcome *Outcome
	err     error
}

// Start begins a script, as Run does; its standard input and output are pipes. Who starts one waits for it.
func (b *Box) Start(ctx context.Context, files []File, script string, l Limits) (*Process, error) {
	return b.start(ctx, files, script, l, nil)
}

// start begins a script. Its output is kept where there is something to keep it in.
func (b *Box) start(ctx context.Context, files []File, script string, l Limits, keep *bounded) (_ *Process,
	err error) {
	p := &Process{limits: l, ended: make(chan struct{}), watched: make(chan struct{})}
	defer func() {
		if err != nil {
			p.clear()
		}
	}()
	if p.dir, err = b.stage(files); err != nil {
		return nil, err
	}
	if p.group, err = b.groups.make(l); err != nil {
		return nil, err
	}
	p.ctx, p.cancel = context.WithTimeout(ctx, l.Wall)
	filter, err := b.openFilter()
	if err != nil {
		return nil, err
	}
	defer filter.Close()
	cmd := exec.Command("/bin/sh",
		append([]string{"-c", `read -r go && exec "$@"`, "sh"}, b.line(p.dir, script, l)...)...)
	p.cmd = cmd
	cmd.Env = []string{}
	cmd.ExtraFiles = []*os.File{filter} // as descriptor 3
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	if b.asRoot {
		cmd.SysProcAttr.Credential = &syscall.Credential{Uid: userOutside, Gid: userOutside}
	}
	cmd.WaitDelay = 2 * time.Second
	p.watcher = watch(l, p.group)
	p.messages = &bounded{most: l.Messages, over: func() {}}
	cmd.Stderr = p.messages
	if keep != nil {
		keep.over = func() { p.watcher.stop("more output than a program has") }
		cmd.Stdout = keep
	} else if p.out, err = cmd.StdoutPipe(); err != nil {
		return nil, err
	}
	// It waits for a word, so that it is held back by its group before it does anything.
	if p.in, err = cmd.StdinPipe(); err != nil {
		return nil, err
	}
	if err := cmd.Start(); err != nil {
		return nil, fmt.Errorf("starting the sandbox: %w", err)
	}
	if err := p.group.add(cmd.Process.Pid); err != nil {
		_ = cmd.Process.Kill()
		_ = cmd.Wait()
		return nil, fmt.Errorf("holding the sandbox back: %w", err)
	}
	_, _ = io.WriteString(p.in, "go\n") // one that has ended already tells so by its outcome
	go func() {
		defer close(p.watched)
		p.watcher.follow(p.ctx, cmd.Process.Pid, p.ended)
	}()
	return p, nil
}

// Write gives it something on its standard input.
func (p *Process) Write(data []byte) (int, error) { return p.in.Write(data) }

// Read takes what it has written to its standard output.
func (p *Process) Read(data []byte) (int, error) { return p.out.Read(data) }

// Stop ends it; Wait then tells of no limit.
func (p *Process) Stop() { p.cancel() }

// Wait gives what came of it, when it has ended. All of its standard output must have been read, or it must have been
// stopped.
func (p *Process) Wait() (*Outcome, error) {
	p.once.Do(func() { p.outcome, p.err = p.wait() })
	return p.outcome, p.err
}

func (p *Process) wait() (*Outcome, error) {
	defer p.clear()
	waited := p.cmd.Wait()
	close(p.ended)
	<-p.watched
	o := &Outcome{OK: waited == nil, Messages: p.messages.kept.String(), Stopped: p.watcher.reason()}
	var exit *exec.ExitError
	switch {
	case errors.Is(p.ctx.Err(), context.DeadlineExceeded) && o.Stopped == "":
		o.Stopped = fmt.Sprintf("longer than %s", p.limits.Wall)
	case p.ctx.Err() != nil && o.Stopped == "":
		return nil, p.ctx.Err()
	case waited != nil && !errors.As(waited, &exit) && !errors.Is(waited, exec.ErrWaitDelay):
		return nil, waited
	}
	o.OK = o.OK && o.Stopped == ""
	return o, nil
}

// clear takes away what it had of the machine.
func (p *Process) clear() {
	if p.cancel != nil {
		p.cancel()
	}
	if p.group != nil {
		p.group.remove()
	}
	if p.dir != "" {
		os.RemoveAll(p.dir)
	}
}
