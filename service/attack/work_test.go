package attack

import (
	"bytes"
	"compress/zlib"
	"debug/elf"
	"encoding/binary"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/service/servicetest"
	"hemble/wire"
)

// native is a library for this machine that writes a file and leaves a process behind wherever it is loaded.
func native(t *testing.T, mark string) string {
	dir := t.TempDir()
	source, made := filepath.Join(dir, "native.c"), filepath.Join(dir, "native.so")
	require.NoError(t, os.WriteFile(source, fmt.Appendf(nil, `#include <fcntl.h>
#include <stdio.h>
#include <unistd.h>
int plugin_is_GPL_compatible;
__attribute__((constructor)) static void begin(void)
{
	int f = open("%s", O_CREAT | O_WRONLY, 0644);
	fprintf(stderr, "main.c:1:1: error: native code ran, %%d\n", f);
	unlink("/tmp/program.elf");
	if (symlink("/dev/zero", "/tmp/program.elf") == 0 && fork() == 0)
		for (;;)
			pause();
}
int plugin_init(void *a, void *b) { return 0; }
`, mark), 0o600))
	message, err := exec.Command("gcc", "-shared", "-fPIC", "-o", made, source).CombinedOutput()
	require.NoError(t, err, "%s", message)
	data, err := os.ReadFile(made)
	require.NoError(t, err)
	return string(data)
}

// A zip archive whose names are options, and a plug-in beside them: nothing native runs, and no host file is marked.
func TestNativeCode(t *testing.T) {
	needs(t, "gcc", "avr-gcc", "bwrap")
	w := newWharf(t, "oke")
	w.opens(t, "lamp", exercise("lamp", 1, "3s"), wire.Policy{})
	mark := filepath.Join(t.TempDir(), "mark")
	code := native(t, mark)
	for name, archive := range map[string][]byte{
		"a list of options": pack(t, "@a.c", "-fplugin=/src/native.c\n", "a.c", "-fplugin=/src/native.c\n", "main.c",
			blinks, "native.c", code),
		"an option":   pack(t, "-fplugin=native.c", blinks, "main.c", blinks, "native.c", code),
		"in a folder": pack(t, "x/@a.c", "-fplugin=/src/x/native.h\n", "x/main.c", blinks, "x/native.h", code),
		"as a header": pack(t, "main.c", "#pragma GCC optimize (\"plugin=/src/native.h\")\n"+blinks,
			"native.h", code),
		"a link":            linked(t),
		"out of the folder": pack(t, "../../../tmp/x.c", blinks),
		"shell words":       pack(t, "a; touch $(echo mark) `id`.c", blinks),
		"names of compilation": pack(t, "main.c", blinks, "0.c", "int x;", "program.elf.c", "int y;", "unit/0.c",
			"int z;"),
	} {
		t.Run(name, func(t *testing.T) {
			r := w.marked(t, "oke", "lamp", "work.zip", archive)
			assert.NotContains(t, servicetest.JSON(t, r.Sheet), "native code ran")
			assert.NotContains(t, servicetest.JSON(t, r.Sheet), "root:")
		})
	}
	assert.NoFileExists(t, mark)
	right := w.marked(t, "oke", "lamp", "lamp.c", []byte(blinks+"// again\n"))
	assert.Equal(t, "1", right.Marks.String(), "and builds go on")
	assert.Zero(t, leftovers(t))
}

func leftovers(t *testing.T) int {
	left, err := filepath.Glob(filepath.Join(os.TempDir(), "hemble-sandbox-*"))
	require.NoError(t, err)
	return len(left)
}

// linked is an archive whose source file is a symbolic link to a host file.
func linked(t *testing.T) []byte {
	dir := t.TempDir()
	require.NoError(t, os.Symlink("/etc/passwd", filepath.Join(dir, "main.c")))
	archive := pack(t, "main.c", "/etc/passwd")
	// The mode of the entry, in the central directory: S_IFLNK | 0777, made on Unix.
	at := bytes.LastIndex(archive, []byte("PK\x01\x02"))
	archive[at+5] = 3
	binary.LittleEndian.PutUint32(archive[at+38:], 0o120777<<16)
	return archive
}

// A small ELF file that unpacks to gigabytes of debug information is marked without it, in little memory.
func TestELFBomb(t *testing.T) {
	w := newWharf(t, "oke")
	w.opens(t, "lamp", exercise("lamp", 1, "3s"), wire.Policy{})
	firmware, err := os.ReadFile("../../demo/course/boat-lamps/firmware/marsh-waits.hex")
	require.NoError(t, err)
	before := w.memory(t)
	r := w.marked(t, "oke", "lamp", "lamp.elf", bomb(t, 2<<30))
	require.NotEmpty(t, r.Sheet.Messages)
	assert.Contains(t, r.Sheet.Messages[0].Text, "debug information was left out")
	assert.Less(t, w.memory(t)-before, 100, "MB")
	w.marked(t, "oke", "lamp", "lamp.hex", firmware)
}

// bomb is an ELF file of a small program, and zeros as its debug information.
func bomb(t *testing.T, size int) []byte {
	var packed bytes.Buffer
	require.NoError(t,
		binary.Write(&packed, binary.LittleEndian, elf.Chdr32{Type: uint32(elf.COMPRESS_ZLIB), Size: uint32(size),
			Addralign: 1}))
	z, err := zlib.NewWriterLevel(&packed, zlib.BestSpeed)
	require.NoError(t, err)
	block := make([]byte, 1<<20)
	for range min(size, 64<<20) / len(block) { // the rest is only announced
		_, err := z.Write(block)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	program := []byte{0x25, 0x9a, 0x2d, 0x9a, 0xff, 0xcf} // sbi, sbi, rjmp .
	names := "\x00.debug_info\x00.shstrtab\x00"
	at := uint32(52 + 32)
	var out bytes.Buffer
	put := func(v any) { require.NoError(t, binary.Write(&out, binary.LittleEndian, v)) }
	h := elf.Header32{Type: uint16(elf.ET_EXEC), Machine: uint16(elf.EM_AVR), Version: 1, Phoff: 52,
		Shoff: at + uint32(len(program)+packed.Len()+len(names)), Ehsize: 52, Phentsize: 32, Phnum: 1, Shentsize: 40,
		Shnum: 3, Shstrndx: 2}
	copy(h.Ident[:], "\x7fELF\x01\x01\x01")
	put(h)
	put(elf.Prog32{Type: uint32(elf.PT_LOAD), Off: at, Filesz: uint32(len(program)), Memsz: uint32(len(program))})
	out.Write(program)
	out.Write(packed.Bytes())
	out.WriteString(names)
	put(elf.Section32{})
	put(elf.Section32{Name: 1, Type: uint32(elf.SHT_PROGBITS), Flags: uint32(elf.SHF_COMPRESSED),
		Off: at + uint32(len(program)), Size: uint32(packed.Len())})
	put(elf.Section32{Name: 13, Type: uint32(elf.SHT_STRTAB), Off: at + uint32(len(program)+packed.Len()),
		Size: uint32(len(names))})
	return out.Bytes()
}

// Sources that are slow to read, slow to compile or full of messages are marked, count as attempts, and leave small
// sheets.
func TestSlowSources(t *testing.T) {
	needs(t, "avr-gcc", "bwrap")
	w := newWharf(t, "oke", "lee")
	w.opens(t, "lamp", exercise("lamp", 1, "3s"), wire.Policy{Attempts: 5})
	var many []string
	for i := range 290 {
		many = append(many, fmt.Sprintf("f%d.c", i), strings.Repeat("/**/", 6000))
	}
	line := "int main(void) { " + strings.Repeat("x = y; ", 100_000) + "}\n"
	work := map[string][]byte{
		"comments":  pack(t, append(many, "main.c", blinks)...),
		"messages":  []byte(line),
		"templates": []byte("template <int n> struct D { D<n + 1> next; D<n - 1> other; };\nD<0> x;\nint main() {}\n"),
	}
	began := time.Now()
	for name, data := range work {
		file := map[string]string{"comments": "work.zip", "messages": "main.c", "templates": "main.cpp"}[name]
		r := w.marked(t, "oke", "lamp", file, data)
		assert.Equal(t, wire.Marked, r.State, name)
		assert.Less(t, len(servicetest.JSON(t, r.Sheet)), 60_000, "%s: bytes of the sheet", name)
	}
	assert.Less(t, time.Since(began), 3*time.Minute)
	o, err := w.people["oke"].Assignment(t.Context(), class, "lamp")
	require.NoError(t, err)
	assert.Equal(t, 2, *o.Standing.Left, "each of them was an attempt")
}

// Work that keeps a worker for minutes ends within a second of its cancelling, and of the service's stop.
func TestEndless(t *testing.T) {
	needs(t, "avr-gcc", "bwrap")
	w := newWharf(t, "oke", "lee")
	w.opens(t, "long", exercise("long", 4, "10min"), wire.Policy{})
	running := func(who string, data string) string {
		r, err := w.people[who].Submit(t.Context(), class, "long", client.Work{File: "long.c", Data: []byte(data)})
		require.NoError(t, err)
		require.Eventually(t, func() bool {
			s, err := w.admin.Result(t.Context(), r.ID)
			return err == nil && s.State == wire.Running && s.Progress != nil && s.Progress.Of > 0
		}, 20*time.Second, 50*time.Millisecond)
		return r.ID
	}
	id := running("oke", bangs)
	began := time.Now()
	require.NoError(t, w.people["oke"].Cancel(t.Context(), id))
	require.Eventually(t, func() bool { return w.idle(t) }, 3*time.Second, 20*time.Millisecond)
	assert.Less(t, time.Since(began), 2*time.Second)

	running("oke", bangs+"// again\n")
	began = time.Now()
	require.NoError(t, w.process.Process.Signal(os.Interrupt))
	require.NoError(t, w.process.Wait())
	assert.Less(t, time.Since(began), 4*time.Second, "and with the service")
}

// idle reports whether the service does nothing at the moment.
func (w *wharf) idle(t *testing.T) bool {
	before := w.processor(t)
	time.Sleep(100 * time.Millisecond)
	return w.processor(t)-before < 50*time.Millisecond
}

// One student's crowd, and a colleague's, hold up another's single submission by one turn.
func TestFairTurns(t *testing.T) {
	needs(t, "avr-gcc", "bwrap")
	w := newWharf(t, "oke", "lee")
	w.opens(t, "lamp", exercise("lamp", 2, "20s"), wire.Policy{})
	crowd := times(40, 15)
	for i := range crowd {
		_, err := w.people["colleague"].Submit(t.Context(), class, "lamp",
			client.Work{Student: "oke", File: "lamp.c", Data: fmt.Appendf([]byte(bangs), "// %d\n", i)})
		require.NoError(t, err)
	}
	r := w.marked(t, "lee", "lamp", "lamp.c", []byte(blinks))
	assert.Equal(t, "2", r.Marks.String())
	o, err := w.admin.Assignment(t.Context(), class, "lamp")
	require.NoError(t, err)
	assert.Greater(t, o.Waiting, crowd/2, "most of the crowd still waits")
}

// A capture written by hand is no firmware: it is taken only where the instructor says so.
func TestForgedCapture(t *testing.T) {
	w := newWharf(t, "oke")
	w.opens(t, "lamp", exercise("lamp", 1, "3s"), wire.Policy{})
	vcd := "$timescale 1ms $end\n$var wire 1 ! PB0 $end\n$enddefinitions $end\n#0\n0!\n"
	for i := 1; i < 8; i++ {
		vcd += fmt.Sprintf("#%d\n%d!\n", i*500, i%2)
	}
	_, err := w.people["oke"].Submit(t.Context(), class, "lamp", client.Work{File: "lamp.vcd", Data: []byte(vcd)})
	assert.ErrorContains(t, err, "this is a capture; what is taken here is firmware or source")
	b, err := w.admin.Bulk(t.Context(), class, "lamp",
		[]client.File{{Field: "file", Name: "oke.vcd", Data: []byte(vcd)}})
	require.NoError(t, err)
	assert.Contains(t, b.Files[0].Problem, "this is a capture")
	_, err = w.admin.Assign(t.Context(), class, "lamp",
		wire.SetAssignment{Policy: wire.Policy{Takes: []string{"capture"}}})
	require.NoError(t, err)
	r := w.marked(t, "oke", "lamp", "lamp.vcd", []byte(vcd))
	assert.NotEqual(t, "0", r.Marks.String())
	_, err = w.admin.Assign(t.Context(), class, "lamp",
		wire.SetAssignment{Policy: wire.Policy{Takes: []string{"photograph"}}})
	assert.ErrorContains(t, err, "expected firmware, source or capture")
}
