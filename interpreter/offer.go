package interpreter

import (
	"cmp"
	"container/heap"
	"context"
	"encoding/hex"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/tetratelabs/wazero"
	"github.com/tetratelabs/wazero/api"

	"hemble/core/firmware"
	"hemble/core/machine/scripted"
	"hemble/core/script"
)

// driven are the drives that programs name by a letter.
var driven = map[int32]string{0: "0", 1: "1", 'z': "z", 'u': "u", 'd': "d"}

// words are so many parameters or results of 32 bits.
func words(n int) []api.ValueType { return slices.Repeat([]api.ValueType{api.ValueTypeI32}, n) }

// offer gives a program the calls of core/machine/scripted/support/board.c. Each tells first how many basic blocks have
// passed. Those that programs call all the time do without reflection.
func (t *talk) offer(r wazero.Runtime) error {
	_, err := r.NewHostModuleBuilder("board").
		NewFunctionBuilder().WithGoFunction(api.GoFunc(func(_ context.Context, s []uint64) {
		t.pass(uint32(s[0]))
	}), words(1), nil).Export("spend").
		NewFunctionBuilder().WithFunc(t.doze).Export("sleep").
		NewFunctionBuilder().WithGoFunction(api.GoFunc(func(_ context.Context, s []uint64) {
		t.drive(uint32(s[0]), int32(s[1]), int32(s[2]))
	}), words(3), nil).Export("drive").
		NewFunctionBuilder().WithGoFunction(api.GoFunc(func(_ context.Context, s []uint64) {
		s[0] = uint64(uint32(t.level(uint32(s[0]), int32(s[1]))))
	}), words(2), words(1)).Export("level").
		NewFunctionBuilder().WithGoFunction(api.GoFunc(func(_ context.Context, s []uint64) {
		s[0] = t.time(uint32(s[0]))
	}), words(1), []api.ValueType{api.ValueTypeI64}).Export("now").
		NewFunctionBuilder().WithFunc(t.pulse).Export("pulses").
		NewFunctionBuilder().WithFunc(t.gpio).Export("gpio").
		NewFunctionBuilder().WithFunc(t.watch).Export("watch").
		NewFunctionBuilder().WithFunc(t.await).Export("await").
		NewFunctionBuilder().WithFunc(t.twoWire).Export("two_wire").
		NewFunctionBuilder().WithFunc(t.exchange).Export("exchange").
		NewFunctionBuilder().WithFunc(t.begin).Export("begin").
		NewFunctionBuilder().WithFunc(t.until).Export("until").
		NewFunctionBuilder().WithFunc(func() uint32 { return t.task.argument }).Export("self").
		Instantiate(t.ctx)
	return err
}

// mostPlaces bounds the names of files that are looked up.
const mostPlaces = 1000

// place is where in the program's source the call stands that is under way, as an address; 0 where nobody knows.
func (t *talk) place() uint32 {
	memory := t.program.Memory()
	file, _ := memory.ReadUint32Le(t.viewAt + 16)
	line, ok := memory.ReadUint32Le(t.viewAt + 20)
	if t.viewAt == 0 || file == 0 || !ok {
		return 0
	}
	number, known := t.places[file]
	if !known && len(t.places) == mostPlaces { // a program may name what it likes
		return 0
	}
	if !known {
		number = -1
		if text, ok := memory.Read(file, 200); ok {
			name, _, _ := strings.Cut(string(text), "\x00")
			number = slices.Index(t.names, strings.TrimPrefix(name, firmware.SourceFolder+"/"))
		}
		t.places[file] = number
	}
	if number < 0 {
		return 0
	}
	return script.Address(number, int(line))
}

// ways are the numberings, as board.c counts them.
var ways = []string{"own", "gpio", "header"}

// gpio is what a number means; where a numbering is chosen, another one may be meant.
func (t *talk) gpio(way, number, chosen int32) int32 {
	if way < 0 || int(way) >= len(ways) {
		return -1
	}
	name := ways[way]
	if chosen != 0 {
		if name != t.numbers {
			t.numbers = name
			t.say("m %d %s\n", t.now, name)
		}
		name = cmp.Or(t.numbering, name)
	}
	return int32(scripted.GPIO(name, int(number)))
}

// isPin tells whether a GPIO has this number.
func isPin(n int32) bool { return n >= 0 && n < 28 }

func (t *talk) pass(blocks uint32) {
	t.spend(int64(blocks) * blockCost)
	t.view()
}

// call is what each call for a pin takes.
func (t *talk) call(blocks uint32) { t.spend(int64(blocks)*blockCost + callCost) }

func (t *talk) doze(blocks uint32, us uint64) {
	t.spend(int64(blocks) * blockCost)
	t.sleep(t.now + int64(min(us, never/1000))*1000)
	t.view()
}

func (t *talk) drive(blocks uint32, n, drive int32) {
	t.call(blocks)
	if d, ok := driven[drive]; ok && isPin(n) {
		t.say("w %d %d %s %d\n", t.now, n, d, t.place())
		if drive > 1 {
			t.say("i %d %d\n", t.now, n)
		}
		t.horizon = 0
	}
	t.view()
}

func (t *talk) level(blocks uint32, n int32) int32 {
	t.spend(int64(blocks) * blockCost)
	if !isPin(n) {
		return 0
	}
	defer t.view()
	if t.now >= t.horizon {
		t.look()
	}
	return int32(t.levels >> n & 1)
}

func (t *talk) time(blocks uint32) uint64 {
	t.spend(int64(blocks)*blockCost + callCost/5)
	t.view()
	return uint64(t.now / 1000)
}

func (t *talk) pulse(blocks uint32, n int32, period, long uint32) {
	t.call(blocks)
	if !isPin(n) {
		return
	}
	defer t.view()
	p := t.pulses[int(n)]
	switch {
	case period == 0 && p != nil:
		p.over = true
		delete(t.pulses, int(n))
	case period > 0 && p != nil:
		p.period, p.long = max(1000, int64(period)), int64(long)
	case period > 0:
		p = &pulse{pin: int(n), at: t.now, period: max(1000, int64(period)), long: int64(long),
			line: t.place()}
		t.pulses[int(n)] = p
		heap.Push(&t.timers, p)
		t.due()
	}
}

func (t *talk) watch(blocks uint32, n, edge int32) {
	t.call(blocks)
	if isPin(n) {
		t.look()
		t.edges[int(n)] = edge
		t.watched |= 1 << n
	}
	t.view()
}

// await waits for an edge; it tells whether one came.
func (t *talk) await(blocks uint32, n int32, us int64) int32 {
	t.call(blocks)
	defer t.view()
	if !isPin(n) {
		return -1
	}
	if t.watched>>n&1 == 0 {
		t.look()
		t.edges[int(n)] = 3
		t.watched |= 1 << n
	}
	t.come &^= 1 << n
	until := int64(never)
	if us >= 0 {
		until = t.now + us*1000
	}
	if t.wait(until, func() bool { return t.come>>n&1 == 1 }) {
		return 1
	}
	return 0
}

// Channels of the buses.
const (
	wireChannel  = 4
	clockChannel = 6
)

// carryOut has the hardware of a bus do something, while other threads go on; it gives what came of it.
func (t *talk) carryOut(kind rune, channel int, format string, args ...any) (acknowledged int, data []byte) {
	order := fmt.Sprintf(format, args...) // of this moment, but for its time
	for t.underWay[channel] {
		t.wait(never, func() bool { return !t.underWay[channel] })
	}
	t.underWay[channel] = true
	defer func() { t.underWay[channel] = false }()
	f := t.question("%c %d %d %s\n", kind, t.now, channel, order)
	if len(f) != 1 {
		panic(errGone)
	}
	end, _ := strconv.ParseInt(f[0], 10, 64)
	t.horizon = 0
	t.sleep(end)
	if f = t.question("f %d %d\n", t.now, channel); len(f) != 2 {
		panic(errGone)
	}
	acknowledged, _ = strconv.Atoi(f[0])
	data, _ = hex.DecodeString(strings.TrimSuffix(f[1], "."))
	return acknowledged, data
}

// twoWire writes to a device on the bus 1, reads from it, or writes and then reads; it tells whether everything was
// acknowledged.
func (t *talk) twoWire(blocks uint32, address int32, out, outLength, in, inLength uint32) int32 {
	t.call(blocks)
	defer t.view()
	written, ok := t.program.Memory().Read(out, outLength)
	if !ok || outLength > 1024 || inLength > 1024 {
		return 0
	}
	words, want := "", 0
	if outLength > 0 || inLength == 0 {
		words = fmt.Sprintf("S,w%02x%x,", uint8(address<<1), written)
		want = 1 + len(written)
	}
	if inLength > 0 {
		words += fmt.Sprintf("S,w%02x,r%d,", uint8(address<<1|1), inLength)
		want++
	}
	acknowledged, data := t.carryOut('c', wireChannel, "3 2 5000 %d %sP", t.place(), words)
	if acknowledged < want {
		return 0
	}
	t.program.Memory().Write(in, data)
	return 1
}

// exchange exchanges bytes on the bus 0, in place.
func (t *talk) exchange(blocks uint32, device, mode int32, hertz, at, length uint32) {
	t.call(blocks)
	defer t.view()
	data, ok := t.program.Memory().Read(at, length)
	if !ok || length > 4096 || length == 0 || hertz == 0 || mode&^3 != 0 || device&^1 != 0 {
		return
	}
	_, got := t.carryOut('y', clockChannel+int(device), "11 10 9 %d %d %d %d %x", 8-device, max(20, 500_000_000/hertz), mode,
		t.place(), data)
	t.program.Memory().Write(at, got)
}
