package interpreter

import (
	"slices"
)

// task is a thread of a program in C. One runs at a time, and which one follows from simulated time alone.
type task struct {
	turn     chan struct{}
	argument uint32      // that it was begun with; 0 for the program's own
	pointer  uint64      // of its stack, while another one has the turn
	until    int64       // when it goes on ...
	ready    func() bool // ... or as soon as this is so
}

const (
	mostTasks = 32
	quantum   = 5_000_000 // ns that a thread keeps the processor while others wait for it
)

// first is the task that the program is started in.
func (t *talk) first() {
	t.task = &task{turn: make(chan struct{})}
	t.tasks = []*task{t.task}
}

// begin starts a thread at a function of the program; it tells whether it could.
func (t *talk) begin(blocks, function, argument, stack uint32) int32 {
	t.call(blocks)
	defer t.view()
	body := t.program.ExportedFunction("board_thread")
	if len(t.tasks) >= mostTasks || body == nil || t.pointer == nil {
		return 0
	}
	k := &task{turn: make(chan struct{}), argument: argument, pointer: uint64(stack)}
	t.tasks = append(t.tasks, k)
	t.unwound.Go(func() {
		select {
		case <-k.turn:
		case <-t.gone:
			return
		}
		if _, err := body.Call(t.ctx, uint64(function), uint64(argument)); err != nil && t.failed == nil {
			t.failed = err
		}
		select {
		case <-t.gone:
		default:
			t.leave(k)
		}
	})
	return 1
}

// leave ends a task: another one gets the turn, the first one if the program ends by it.
func (t *talk) leave(k *task) {
	defer func() {
		if r := recover(); r != nil && t.failed == nil {
			t.failed = errGone
		}
		if t.failed != nil {
			t.tasks[0].turn <- struct{}{}
		}
	}()
	t.tasks = slices.DeleteFunc(t.tasks, func(o *task) bool { return o == k })
	if t.failed == nil {
		t.give(t.choose())
	}
}

// give gives the turn to another task.
func (t *talk) give(k *task) {
	t.task, t.since = k, t.now
	t.pointer.Set(k.pointer)
	k.turn <- struct{}{}
}

// next is the task after the running one that can go on; nil for none.
func (t *talk) next() *task {
	at := slices.Index(t.tasks, t.task)
	for i := range t.tasks {
		k := t.tasks[(at+1+i)%len(t.tasks)]
		if k.until <= t.now || k.ready != nil && k.ready() {
			return k
		}
	}
	return nil
}

// choose lets time go by until a task can go on.
func (t *talk) choose() *task {
	for {
		if k := t.next(); k != nil {
			return k
		}
		until := int64(never)
		for _, k := range t.tasks {
			until = min(until, k.until)
		}
		t.advance(until)
	}
}

// wait waits up to a moment, or until something is so; it tells whether that is so.
func (t *talk) wait(until int64, ready func() bool) bool {
	me := t.task
	me.until, me.ready = until, ready
	if k := t.choose(); k != me {
		me.pointer = t.pointer.Get()
		t.give(k)
		select {
		case <-me.turn:
		case <-t.gone:
			panic(errGone)
		}
		if t.failed != nil {
			panic(t.failed)
		}
	}
	me.until, me.ready = 0, nil
	return ready != nil && ready()
}

// sleep lets time go by up to a moment.
func (t *talk) sleep(until int64) { t.wait(until, nil) }

// share gives the turn away when others wait for it.
func (t *talk) share() {
	if len(t.tasks) > 1 && t.now-t.since >= quantum && !t.handling {
		t.since = t.now
		t.sleep(t.now)
	}
}

// until waits until a word of memory is no longer at a value, or for some time; -1 for any.
func (t *talk) until(blocks, at, value uint32, us int64) {
	t.call(blocks)
	end := int64(never)
	if us >= 0 {
		end = t.now + min(us, never/1000)*1000
	}
	t.wait(end, func() bool {
		v, ok := t.program.Memory().ReadUint32Le(at)
		return !ok || v != value
	})
	t.view()
}
