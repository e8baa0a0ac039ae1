package interpreter

import (
	"bufio"
	"bytes"
	"container/heap"
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/bits"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/tetratelabs/wazero"
	"github.com/tetratelabs/wazero/api"
	"github.com/tetratelabs/wazero/imports/wasi_snapshot_preview1"
	"github.com/tetratelabs/wazero/sys"

	"hemble/core/machine"
	"hemble/core/machine/scripted"
	"hemble/core/script"
)

// What a program in C costs on its board, in ns: a basic block, and a call for a pin.
const (
	blockCost = 100
	callCost  = 500
)

const (
	never     = 9_000_000_000_000_000 // ns, as board.py has it
	syncAfter = 50_000_000
	mostPages = 1024 // of 64 KB
	began     = 1_772_438_400
)

// compiled keeps programs that were made ready, for the runs of one sheet.
var compiled = wazero.NewCompilationCache()

// native is a program in C that runs in this process: it says to its board what a script would.
type native struct {
	read   *io.PipeReader // what it says
	write  *io.PipeWriter // what it is told
	cancel context.CancelFunc
	ended  chan struct{}
	once   sync.Once
	why    string // it was stopped, of which once takes care
}

func (n *native) Read(p []byte) (int, error)  { return n.read.Read(p) }
func (n *native) Write(p []byte) (int, error) { return n.write.Write(p) }

// Stop ends it.
func (n *native) Stop() { n.stop("") }

func (n *native) stop(why string) {
	n.once.Do(func() {
		n.why = why
		n.cancel()
		n.read.Close()
		n.write.Close()
	})
}

// Wait waits for its end.
func (n *native) Wait() (stopped, messages string) {
	<-n.ended
	n.stop("") // or one that is under way has come to its end
	return n.why, ""
}

// startNative starts a program that was built.
func startNative(p *script.Program, b scripted.Board) scripted.Child {
	most := limits
	ctx, cancel := context.WithTimeout(context.Background(), most.Wall)
	said, say := io.Pipe()
	hear, told := io.Pipe()
	n := &native{read: said, write: told, cancel: cancel, ended: make(chan struct{})}
	context.AfterFunc(ctx, func() { n.stop("longer than " + most.Wall.String()) })
	t := &talk{ctx: ctx, busy: time.Now(), left: most.CPU,
		late: time.AfterFunc(most.CPU, func() { n.stop("more than " + most.CPU.String()) }),
		out:  bufio.NewWriterSize(say, 1<<15), in: bufio.NewReader(hear), sync: syncAfter,
		edges: map[int]int32{}, pulses: map[int]*pulse{}, seed: b.Seed, numbering: p.Numbering, names: p.Names(),
		places: map[uint32]int{}, console: b.Console,
		gone: make(chan struct{})}
	go func() {
		defer close(n.ended)
		defer say.Close()
		defer t.late.Stop()
		text := t.run(p.Binary)
		if ctx.Err() == nil {
			t.due()
			quoted, _ := json.Marshal(text)
			t.say("x %d %s\n", t.now, quoted)
			_ = t.out.Flush()
		}
	}()
	return n
}

// talk is what a program says to its board and is told; times are in ns.
type talk struct {
	ctx     context.Context
	out     *bufio.Writer
	in      *bufio.Reader
	program api.Module
	seed    uint64

	busy time.Time // when the program last went on ...
	left time.Duration
	late *time.Timer // ... and what ends it when it has computed for long: what its board takes is not its own

	now, sync, horizon int64
	levels, watched    uint64
	edges              map[int]int32 // that are looked for, by pin
	waiting            []int         // pins whose handler is called next
	handling           bool
	come               uint64 // pins whose edge has come since it was waited for
	pulses             map[int]*pulse
	timers             timers
	viewAt             uint32 // where the program has what it may know of inputs without asking

	numbering string         // of pins that is meant, whatever the program says
	numbers   string         // that it says
	names     []string       // of the program's files
	places    map[uint32]int // by the address of a file's name in the program: its number

	console  scripted.Console
	shown    int64 // when the console will have shown everything
	keys     bool  // something is being typed
	typed    []byte
	tasks    []*task
	task     *task // that has the turn ...
	since    int64 // ... from then on
	pointer  api.MutableGlobal
	failed   error // of a thread: the program ends by it
	gone     chan struct{}
	unwound  sync.WaitGroup
	underWay [16]bool // channels of buses
}

// view tells the program what inputs are at, and for how many blocks they stay so.
func (t *talk) view() {
	if t.viewAt == 0 {
		return
	}
	left := max(0, min(t.horizon, t.sync)-t.now) / blockCost
	if len(t.timers) > 0 {
		left = 0
	}
	memory := t.program.Memory()
	memory.WriteUint64Le(t.viewAt, t.levels)
	memory.WriteUint64Le(t.viewAt+8, uint64(left))
}

// gone ends a program whose board has gone.
var errGone = errors.New("the board has gone")

func (t *talk) say(format string, args ...any) {
	if _, err := fmt.Fprintf(t.out, format, args...); err != nil {
		panic(errGone)
	}
}

// question asks something, and gives the words of the answer.
func (t *talk) question(format string, args ...any) []string {
	t.say(format, args...)
	t.late.Stop()
	t.left -= time.Since(t.busy)
	if t.out.Flush() != nil {
		panic(errGone)
	}
	line, err := t.in.ReadString('\n')
	t.busy = time.Now()
	t.late.Reset(max(0, t.left))
	if err != nil {
		panic(errGone)
	}
	return strings.Fields(line)
}

// ask asks what inputs are at.
func (t *talk) ask(format string, args ...any) {
	f := t.question(format, args...)
	if len(f) != 3 {
		panic(errGone)
	}
	now, _ := strconv.ParseInt(f[0], 10, 64)
	levels, _ := strconv.ParseUint(f[1], 16, 64)
	t.horizon, _ = strconv.ParseInt(f[2], 10, 64)
	t.now = max(t.now, now)
	t.sync = t.now + syncAfter
	changed := (levels ^ t.levels) & t.watched
	t.levels = levels
	for ; changed != 0; changed &= changed - 1 {
		pin := bits.TrailingZeros64(changed)
		t.keys = t.keys || pin == t.console.Pin
		high := levels>>pin&1 == 1
		if e := t.edges[pin]; e == 3 || e == 2 && high || e == 1 && !high {
			t.come |= 1 << pin
			t.waiting = append(t.waiting, pin)
		}
	}
}

func (t *talk) look() { t.ask("b %d\n", t.now) }

// spend lets time pass. What is printed faster than the console's line takes it waits for that.
func (t *talk) spend(time int64) {
	t.now += time
	t.due()
	if late := t.shown - t.now - int64(t.console.Room)*t.console.Character; late > 0 {
		t.sleep(t.now + late)
	}
	if t.now >= t.sync || t.watched != 0 && t.now >= t.horizon {
		t.look()
	}
	t.interrupts()
	t.share()
}

// advance lets time go by up to a moment, or to a change of an input that is waited for.
func (t *talk) advance(until int64) {
	next := until
	if len(t.timers) > 0 {
		next = min(next, t.timers[0].at)
	}
	if t.watched != 0 || next >= never {
		t.ask("s %d %d %x\n", t.now, next, t.watched)
	} else if t.now = max(t.now, next); t.now >= t.sync {
		t.look()
	}
	t.due()
	t.interrupts()
}

// interrupts calls what the program wants to have called.
func (t *talk) interrupts() {
	for len(t.waiting) > 0 && !t.handling {
		pin := t.waiting[0]
		t.waiting = t.waiting[1:]
		t.handling = true
		t.view()
		if call := t.program.ExportedFunction("board_interrupt"); call != nil {
			if _, err := call.Call(t.ctx, uint64(pin)); err != nil {
				panic(err)
			}
		}
		t.handling = false
	}
}

// pulse is a pin that goes on and off by itself.
type pulse struct {
	pin          int
	at           int64
	begin        int64
	high         bool
	period, long int64
	line         uint32 // of the program
	over         bool
}

type timers []*pulse

func (t timers) Len() int { return len(t) }
func (t timers) Less(i, k int) bool {
	return t[i].at < t[k].at || t[i].at == t[k].at && t[i].pin < t[k].pin
}
func (t timers) Swap(i, k int) { t[i], t[k] = t[k], t[i] }
func (t *timers) Push(x any)   { *t = append(*t, x.(*pulse)) }
func (t *timers) Pop() any {
	last := (*t)[len(*t)-1]
	*t = (*t)[:len(*t)-1]
	return last
}

// due has pulses do what they have to by now.
func (t *talk) due() {
	for len(t.timers) > 0 && t.timers[0].at <= t.now {
		p := t.timers[0]
		if p.over {
			heap.Pop(&t.timers)
			continue
		}
		at := p.at
		if p.high {
			t.say("w %d %d 0 %d\n", at, p.pin, p.line)
			p.high, p.at = false, max(at+1, p.begin+p.period)
		} else {
			p.begin = at
			switch long := min(p.long, p.period); {
			case long == 0:
				t.say("w %d %d 0 %d\n", at, p.pin, p.line)
				p.at = at + p.period
			case long == p.period:
				t.say("w %d %d 1 %d\n", at, p.pin, p.line)
				p.at = at + p.period
			default:
				t.say("w %d %d 1 %d\n", at, p.pin, p.line)
				p.high, p.at = true, at+long
			}
		}
		heap.Fix(&t.timers, 0)
	}
}

// sourceLine is where in a program's own source a trap came from.
var sourceLine = regexp.MustCompile(`/source/(\S+?\.[ch]):(\d+):`)

// run runs a program to its end, and gives what a person should know of that end.
func (t *talk) run(binary []byte) (text string) {
	defer func() {
		if r := recover(); r != nil {
			text = fmt.Sprint(r)
		}
	}()
	runtime := wazero.NewRuntimeWithConfig(t.ctx, wazero.NewRuntimeConfig().WithCloseOnContextDone(true).
		WithMemoryLimitPages(mostPages).WithCompilationCache(compiled))
	defer runtime.Close(context.Background())
	defer t.unwound.Wait()
	defer close(t.gone)
	wasi_snapshot_preview1.MustInstantiate(t.ctx, runtime)
	if err := t.offer(runtime); err != nil {
		return err.Error()
	}
	module, err := runtime.CompileModule(t.ctx, binary)
	if err != nil {
		return "the program is damaged: " + firstLine(err)
	}
	var failing strings.Builder
	random := t.seed
	config := wazero.NewModuleConfig().WithName("").WithArgs("program").WithStartFunctions().
		WithStdout(terminal{t, nil}).WithStderr(terminal{t, &failing}).
		WithStdin(keyboard{t}).WithNanosleep(func(ns int64) { t.sleep(t.now + max(0, ns)) }).
		WithNanotime(func() int64 { return t.now }, 1).
		WithWalltime(func() (int64, int32) { return began + t.now/1e9, int32(t.now % 1e9) }, 1).
		WithRandSource(readerFunc(func(p []byte) (int, error) {
			for i := range p {
				random = machine.Mix(random)
				p[i] = byte(random)
			}
			return len(p), nil
		}))
	if t.program, err = runtime.InstantiateModule(t.ctx, module, config); err != nil {
		return "the program could not be started: " + firstLine(err)
	}
	t.pointer, _ = t.program.ExportedGlobal("__stack_pointer").(api.MutableGlobal)
	if at := t.program.ExportedFunction("board_view"); at != nil {
		if where, err := at.Call(t.ctx); err == nil && len(where) == 1 {
			t.viewAt = uint32(where[0])
		}
	}
	t.first()
	start := t.program.ExportedFunction("_start")
	if start == nil {
		return "the program has no beginning"
	}
	_, err = start.Call(t.ctx)
	var exit *sys.ExitError
	switch {
	case err == nil || errors.As(err, &exit) && exit.ExitCode() == 0:
		return ""
	case errors.As(err, &exit):
		return strings.TrimSpace(fmt.Sprintf("the program ended with code %d. %.200s", exit.ExitCode(), failing.String()))
	}
	where := ""
	if m := sourceLine.FindStringSubmatch(err.Error()); m != nil {
		where = m[1] + ":" + m[2] + ": "
	}
	return where + "the program failed: " + strings.TrimPrefix(firstLine(err), "wasm error: ")
}

func firstLine(err error) string {
	line, _, _ := strings.Cut(err.Error(), "\n")
	return line
}

type readerFunc func([]byte) (int, error)

func (f readerFunc) Read(p []byte) (int, error) { return f(p) }

// terminal shows what is printed.
type terminal struct {
	t    *talk
	kept *strings.Builder
}

func (w terminal) Write(p []byte) (int, error) {
	for rest := p; len(rest) > 0; {
		n := min(len(rest), 1<<13)
		quoted, err := json.Marshal(strings.ToValidUTF8(string(rest[:n]), "?"))
		if err != nil {
			return 0, err
		}
		w.t.say("o %d %s\n", w.t.now, quoted)
		rest = rest[n:]
	}
	if w.t.console.Wired {
		w.t.horizon = 0
		w.t.shown = max(w.t.shown, w.t.now) + int64(len(p)+bytes.Count(p, []byte("\n")))*w.t.console.Character
	}
	if w.kept != nil && w.kept.Len() < 1000 {
		w.kept.Write(p)
	}
	return len(p), nil
}

// keyboard is the standard input: lines that are typed at the console. Before it waits, what was printed is shown.
type keyboard struct{ t *talk }

func (k keyboard) Read(p []byte) (int, error) {
	t := k.t
	if !t.console.Typed {
		return 0, io.EOF
	}
	if flush := t.program.ExportedFunction("board_flush"); flush != nil && len(t.typed) == 0 {
		if _, err := flush.Call(t.ctx); err != nil {
			return 0, err
		}
	}
	if t.watched>>t.console.Pin&1 == 0 {
		t.look()
		t.watched |= 1 << t.console.Pin
	}
	for len(t.typed) == 0 {
		t.keys = false
		f := t.question("r %d 0\n", t.now)
		if len(f) != 1 {
			panic(errGone)
		}
		if t.typed, _ = hex.DecodeString(strings.TrimSuffix(f[0], ".")); len(t.typed) == 0 {
			t.wait(never, func() bool { return t.keys })
			t.sleep(t.now + t.console.Character)
		}
	}
	n := copy(p, t.typed)
	t.typed = t.typed[n:]
	return n, nil
}
