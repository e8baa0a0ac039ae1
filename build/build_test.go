package build

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/avr"
	"hemble/core/marking"
	"hemble/core/sheet"
)

var numbered20 = Target{Chip: chip("atmega328p"), Clock: 16_000_000}

func chip(name string) *machine.Chip {
	c, err := machine.Find(name)
	if err != nil {
		panic(err)
	}
	return c
}

var cache = func() string { dir, _ := os.MkdirTemp("", "hemble-cache-"); return dir }()

func TestMain(m *testing.M) {
	code := m.Run()
	os.RemoveAll(cache)
	os.Exit(code)
}

func builder(t testing.TB) *Builder {
	t.Helper()
	for _, tool := range []string{"avr-gcc", "bwrap"} {
		if _, err := exec.LookPath(tool); err != nil {
			t.Skipf("%s is not installed; `make tools` installs it", tool)
		}
	}
	b, err := New(Config{Cache: cache, Libraries: []string{"../demo/library"}})
	require.NoError(t, err)
	return b
}

// text makes a source of files: name, content, name, content …
func text(t testing.TB, pairs ...string) *Source {
	s := &Source{}
	for i := 0; i < len(pairs); i += 2 {
		require.NoError(t, s.Add(pairs[i], []byte(pairs[i+1])))
	}
	return s
}

func built(t testing.TB, b *Builder, s *Source) *Result {
	r, err := b.Build(t.Context(), s, numbered20)
	require.NoError(t, err)
	return r
}

const lampC = "#include <avr/io.h>\n#include \"lamp.h\"\nint main(void)\n{\n\tDDRB = LAMP;\n\tfor (;;)\n\t\tPINB = LAMP;\n}\n"

func TestPlainProgram(t *testing.T) {
	b := builder(t)
	r := built(t, b, text(t, "main.c", lampC, "lamp.h", "#define LAMP 1\n", "wait.S", ".global wait\nwait: ret\n"))
	require.False(t, r.Failed(), "%v", r.Messages)
	assert.Empty(t, r.Messages)
	assert.Greater(t, r.Usage.Flash, 100)
	assert.Zero(t, r.Usage.RAM)
	again := built(t, b, text(t, "main.c", lampC, "lamp.h", "#define LAMP 1\n", "wait.S", ".global wait\nwait: ret\n"))
	assert.Equal(t, r.ELF, again.ELF, "the same source, the same bytes")
}

// The course's libraries, by programs with setup() and loop(), on the benches of the course.
func TestCourseLibraries(t *testing.T) {
	b := builder(t)
	if framework() == "" {
		t.Skip("arduino-core-avr is not installed; `make tools` installs it")
	}
	for folder, name := range map[string]string{"clock": "gate-clock", "notice": "notice-board",
		"keeper": "keeper-board", "dial": "sluice-dial"} {
		t.Run(folder, func(t *testing.T) {
			s, err := FromPath(filepath.Join("testdata", folder))
			require.NoError(t, err)
			r := built(t, b, s)
			require.False(t, r.Failed(), "%v", r.Messages)
			file, err := os.ReadFile(filepath.Join("../demo/course", name, "exercise.yaml"))
			require.NoError(t, err)
			x, problems := exercise.Read(name, file)
			require.NotNil(t, x, "%v", problems)
			im, err := firmware.Read(r.ELF, avr.Memories)
			require.NoError(t, err)
			own, others := 0, map[string]bool{}
			for _, f := range im.Symbols {
				if line, ok := im.Line(f.Address); ok && f.Space == firmware.Code && f.Size > 0 {
					if others[line.File] = true; !line.System {
						own++
						assert.True(t, slices.ContainsFunc(s.Files, func(f File) bool { return f.Path == line.File }),
							"%s is a library's, not the student's own", line.File)
					}
				}
			}
			assert.NotZero(t, own)
			assert.Greater(t, len(others), 3)
			m, err := marking.Mark(t.Context(), x, folder, r.ELF)
			require.NoError(t, err)
			assert.Equal(t, "10", m.Sheet.Marks.String(), "%v", m.Sheet.Trials[0].Verdicts)
		})
	}
}

// Every library of the framework that is promised can be used.
func TestFrameworkLibraries(t *testing.T) {
	b := builder(t)
	if framework() == "" {
		t.Skip("arduino-core-avr is not installed; `make tools` installs it")
	}
	s := text(t, "all.ino", `#include <Wire.h>
#include <SPI.h>
#include <EEPROM.h>
#include <SoftwareSerial.h>
SoftwareSerial line(4, 5);
void setup() { Serial.begin(9600); Wire.begin(); SPI.begin(); line.begin(9600); twice(EEPROM.read(0)); }
void loop() { Serial.println(total(2, 3.5f)); delay(10); }
int twice(int n) { return 2 * n; }
float total(int a, float b)
{
	return a + b;
}
`)
	r := built(t, b, s)
	require.False(t, r.Failed(), "%v", r.Messages)
	assert.NotEmpty(t, r.Usage.Largest)
	began := time.Now()
	r = built(t, b,
		text(t, "again.ino",
			"void setup() { pinMode(13, OUTPUT); }\nvoid loop() { digitalWrite(13, millis() & 512); }\n"))
	t.Logf("a one-file build took %s warm", time.Since(began))
	require.False(t, r.Failed())
}

func TestMessages(t *testing.T) {
	b := builder(t)
	r := built(t, b,
		text(t, "main.c",
			"#include <avr/io.h>\nint main(void)\n{\n\tint unused;\n\tPORTQ = 1;\n\treturn missing(3)\n}\n"))
	require.True(t, r.Failed())
	var list []string
	for _, m := range r.Messages {
		list = append(list, m.String())
		if strings.Contains(m.Text, "PORTQ") && m.Kind == "error" {
			assert.Equal(t, sheet.Message{File: "main.c", Line: 5, Column: 2, Kind: "error", Text: m.Text,
				Code: "\tPORTQ = 1;"}, m)
		}
	}
	assert.Contains(t, strings.Join(list, "\n"), "main.c:5:2: error: 'PORTQ' undeclared")
	assert.Contains(t, r.Why(), "the source could not be built: main.c:5:2: error: 'PORTQ' undeclared")

	r = built(t, b, text(t, "main.c", "void elsewhere(void);\nint main(void)\n{\n\telsewhere();\n}\n"))
	require.True(t, r.Failed())
	assert.Equal(t, sheet.Message{File: "main.c", Line: 4, Kind: "error", Text: "undefined reference to `elsewhere'",
		Code: "\telsewhere();"}, r.Messages[0])

	r = built(t, b,
		text(t, "main.c",
			"#include <avr/pgmspace.h>\nconst char big[30000] PROGMEM = {1}, more[9000] PROGMEM = {2};\nint main(void)\n{\n\treturn pgm_read_byte(big) + pgm_read_byte(more);\n}\n"))
	require.True(t, r.Failed())
	assert.Contains(t, r.Why(), "will not fit in region")

	r = built(t, b, text(t, "x.ino", "#include <NoSuchDisplay.h>\nvoid setup() {}\nvoid loop() {}\n"))
	require.True(t, r.Failed())
	assert.Equal(t, "x.ino", r.Messages[0].File)
	assert.Equal(t, 1, r.Messages[0].Line)
	assert.Regexp(t, `there is no header NoSuchDisplay.h; the libraries here are .*GateDigits.*Wire`,
		r.Messages[0].Text)

	r = built(t, b,
		text(t, "x.ino",
			"int n;\n\nvoid setup()\n{\n\thelp(1);\n}\n\n// a comment { \nvoid loop() { n = nothing; }\n\nvoid help(int a) { n = a; }\n"))
	require.True(t, r.Failed())
	assert.Contains(t, r.Why(), "x.ino:9:19: error: 'nothing' was not declared",
		"lines are those of the file as submitted")
	for _, c := range []struct{ file, text, want string }{
		{"x.h", "#define X\n", "there are headers only"},
		{"x.c", "int x;\n", "no file has main()"},
		{"x.ino", "void setup() {}\n", "no loop()"},
	} {
		r := built(t, b, text(t, c.file, c.text))
		require.True(t, r.Failed())
		assert.Contains(t, r.Why(), c.want)
	}
}

func TestPrototypes(t *testing.T) {
	code := []byte(`#include <x.h>
// void comment() {
/* void other() { */
const char *text = "void string() {";
struct Point { int x; int y() { return x; } };
#define MACRO(a) void a() {
void setup() { if (x) { } }
static inline unsigned long int total(const char *name, int list[4])
{
	while (1) { }
}
Point *make (int n) {
	return 0;
}
int withDefault(int a = 3) { return a; }
template <class T> T twice(T a) { return a; }
int value = 3;
`)
	declared, first := prototypes(code)
	assert.Equal(t, []string{"void setup();", "static inline unsigned long int total(const char *name, int list[4]);",
		"Point *make(int n);"}, declared)
	assert.Equal(t, "void setup()", string(code[first:][:12]))
	declared, first = prototypes([]byte("int x;"))
	assert.Empty(t, declared)
	assert.Equal(t, 6, first)
}

// pack makes a zip archive of files: name, content …
func pack(t *testing.T, pairs ...string) []byte {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for i := 0; i < len(pairs); i += 2 {
		w, err := z.Create(pairs[i])
		require.NoError(t, err)
		_, err = w.Write([]byte(pairs[i+1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}

func TestArchives(t *testing.T) {
	s, err := FromFile("work.zip", pack(t, "work/main.c", lampC, "work/lamp.h", "#define LAMP 1\n",
		"__MACOSX/work/._main.c", "x", "work/notes.txt", "x", "work/.git/x.c", "x"))
	require.NoError(t, err)
	require.Len(t, s.Files, 2)
	assert.Equal(t, "main.c", s.Files[0].Path, "a folder around everything is taken away")
	assert.False(t, built(t, builder(t), s).Failed())

	for name, data := range map[string][]byte{
		"leads out":         pack(t, "../../etc/cron.d/x.c", "x"),
		"is a damaged zip":  append([]byte("PK\x03\x04"), "nonsense"...),
		"has no source":     pack(t, "picture.png", "x"),
		"leads out of the":  pack(t, "C:\\windows\\x.c", "x"),
		"has 1048577 bytes": pack(t, "big.c", strings.Repeat("x", 3<<20)),
	} {
		_, err := FromFile("work.zip", data)
		assert.ErrorContains(t, err, name)
	}
	var many []string
	for i := 0; i < 100_000; i++ {
		many = append(many, fmt.Sprintf("f%d.c", i), "")
	}
	began := time.Now()
	_, err = FromFile("many.zip", pack(t, many...))
	assert.ErrorContains(t, err, "more than 300 source files")
	t.Logf("100,000 files refused in %s", time.Since(began))
}

// Source that tries to read the host, to hang or to swamp the machine gets messages, and nothing else.
func TestHostileSource(t *testing.T) {
	b := builder(t)
	secret := filepath.Join(t.TempDir(), "secret.h")
	require.NoError(t, os.WriteFile(secret, []byte("#error \"the secret 4711\"\n"), 0o644))
	deep := "template <int n> struct Deep { Deep<n + 1> next; Deep<n - 1> other; };\nDeep<0> x;\nint main() {}\n"
	bomb := "#define A x x x x x x x x x x\n#define B A A A A A A A A A A\n#define C B B B B B B B B B B\n#define D C C C C C C C C C C\n#define E D D D D D D D D D D\n#define F E E E E E E E E E E\n#define G F F F F F F F F F F\nint x;\nint main(void) { G }\n"
	for name, files := range map[string][]string{
		"system include":    {"main.c", "#include </etc/passwd>\nint main(void) {}\n"},
		"absolute include":  {"main.c", "#include \"" + secret + "\"\nint main(void) {}\n"},
		"relative include":  {"main.c", "#include \"../../../../../../etc/passwd\"\nint main(void) {}\n"},
		"process list":      {"main.c", "#include \"/proc/self/environ\"\nint main(void) {}\n"},
		"incbin":            {"x.S", ".incbin \"/etc/shadow\"\n", "main.c", "int main(void) {}\n"},
		"incbin of host":    {"main.c", "asm(\".incbin \\\"" + secret + "\\\"\");\nint main(void) {}\n"},
		"own makefile":      {"main.c", "#include \"/usr/share/doc/bubblewrap/copyright\"\nint main(void) {}\n"},
		"endless include":   {"main.c", "#include \"main.c\"\nint main(void) {}\n"},
		"endless templates": {"main.cpp", deep},
		"macro bomb":        {"main.c", bomb},
		"a gigabyte":        {"x.S", ".space 1000000000\n", "main.c", "int main(void) {}\n"},
		"a long table": {"main.c",
			"const char x[] = { [0 ... 999999999] = 1 };\nint main(void) { return x[3]; }\n"},
		"device": {"main.c", "#include \"/dev/zero\"\nint main(void) {}\n"},
	} {
		t.Run(name, func(t *testing.T) {
			began := time.Now()
			r, err := b.Build(t.Context(), text(t, files...), numbered20)
			require.NoError(t, err)
			assert.True(t, r.Failed())
			require.NotEmpty(t, r.Messages)
			for _, m := range r.Messages {
				for _, leak := range []string{"4711", "root:", "hemble-build", "PATH=", os.TempDir() + "/hemble",
					"Copyright"} {
					assert.NotContains(t, m.String()+m.Code, leak)
				}
			}
			assert.Less(t, time.Since(began), 100*time.Second, "it is stopped")
		})
	}
}

func TestWithoutTools(t *testing.T) {
	t.Setenv("PATH", t.TempDir())
	_, err := exec.LookPath("bwrap")
	require.Error(t, err)
	if _, known := findTools(usual); known == nil {
		t.Skip("the tools were found before")
	}
	_, err = New(Config{Cache: t.TempDir()})
	assert.ErrorIs(t, err, ErrOff)
}

// A program that is native code for this machine: loaded by the compiler as a plug-in, it would run.
func plugIn(t *testing.T) []byte {
	dir := t.TempDir()
	source, made := filepath.Join(dir, "plug.c"), filepath.Join(dir, "plug.so")
	require.NoError(t, os.WriteFile(source, []byte(`#include <stdio.h>
#include <unistd.h>
int plugin_is_GPL_compatible;
__attribute__((constructor)) static void begin(void) { fprintf(stderr, "native code ran\n"); unlink("/tmp/program.elf"); if (symlink("/dev/zero", "/tmp/program.elf")) _exit(9); }
int plugin_init(void *a, void *b) { return 0; }
`), 0o600))
	message, err := exec.Command("gcc", "-shared", "-fPIC", "-o", made, source).CombinedOutput()
	require.NoError(t, err, "%s", message)
	data, err := os.ReadFile(made)
	require.NoError(t, err)
	return data
}

// A name is never taken for an option or a list of options, neither by what is refused nor, were it not, by what is
// run.
func TestHostileNames(t *testing.T) {
	b := builder(t)
	for _, name := range []string{"@a.c", "-fplugin=x.c", "x/@a.c", "x/-a.c", "-", "a\"b.c", "a\nb.c", "a\x1b[31m.c",
		"a\u202eb.c", "\xff.c", "../a.c", "/a.c", "a:b.c", strings.Repeat("d/", 70) + "a.c"} {
		assert.Error(t, (&Source{}).Add(name, nil), "%q", name)
		_, err := FromFile("x.zip", pack(t, name, "int main(void) {}"))
		assert.Error(t, err, "%q", name)
	}
	main := "int main(void) { return 0; }\n"
	options := "-fplugin=/src/plug.c\n-fplugin=plug.c\n"
	plug := string(plugIn(t))
	for name, files := range map[string][]File{
		"list of options": {{"@a.c", []byte(options)}, {"a.c", []byte(options)}, {"main.c", []byte(main)},
			{"plug.c", []byte(plug)}, {"plug.h", []byte(plug)}},
		"option": {{"-fplugin=plug.c", []byte(main)}, {"main.c", []byte(main)},
			{"plug.c", []byte(plug)}},
		"option by a pragma": {{"main.c",
			[]byte("#pragma GCC optimize (\"plugin=/src/plug.h\", \"-fplugin=/src/plug.h\")\n__attribute__((optimize(\"plugin=/src/plug.h\"))) " +
				main)}, {"plug.h", []byte(plug)}},
		"precompiled header": {{"main.c", []byte("#pragma GCC pch_preprocess \"/src/plug.h\"\n" + main)},
			{"plug.h", []byte(plug)}},
		"quotes and a command": {{"a'; cat $(id) `id` > \"x\" '.c", []byte(main)}},
		"link time code": {{"main.c", []byte(main)},
			{"x.S", []byte(".section .gnu.lto_.opts,\"e\"\n.string \"-fplugin=/src/plug.h\"\n.section .gnu.lto_main.1,\"e\"\n.byte 1,2,3,4\n.comm __gnu_lto_v1,1,1\n")},
			{"plug.h", []byte(plug)}},
		"output that is a link": {{"main.c",
			[]byte("#pragma GCC optimize (\"dump-tree-all=/tmp/program.elf\")\n" + main)}},
	} {
		t.Run(name, func(t *testing.T) {
			r, err := b.Build(t.Context(), &Source{Files: files}, numbered20)
			require.NoError(t, err)
			for _, m := range r.Messages {
				assert.NotContains(t, m.Text, "native code")
			}
			if !r.Failed() {
				assert.Equal(t, "\x7fELF", string(r.ELF[:4]))
			}
		})
	}
}

// All that one build does is held by one limit of each kind, however many files it has.
func TestOneLimit(t *testing.T) {
	b := builder(t)
	b.limits.CPU = 3 * time.Second
	slow := "#define A(x) x x x x x x x x\n#define B(x) A(A(A(x)))\n#define C(x) B(x) B(x)\nvoid f%d(volatile char *p) { C((*p)++;) }\n"
	s := &Source{}
	require.NoError(t, s.Add("main.c", []byte("int main(void) {}\n")))
	for i := range 200 {
		require.NoError(t, s.Add(fmt.Sprintf("f%d.c", i), fmt.Appendf(nil, slow, i)))
	}
	began := time.Now()
	r := built(t, b, s)
	require.True(t, r.Failed())
	assert.Contains(t, r.Why(), "the compiler was stopped: it needed")
	assert.Less(t, time.Since(began), b.limits.Wall)

	b.limits.CPU = time.Minute
	ctx, cancel := context.WithCancel(t.Context())
	time.AfterFunc(time.Second, cancel)
	began = time.Now()
	_, err := b.Build(ctx, s, numbered20)
	assert.ErrorIs(t, err, context.Canceled)
	assert.Less(t, time.Since(began), 3*time.Second, "it ends when nobody wants it any more")
}

// Sources that are made to be read slowly are read in time that grows with their size.
func TestSlowSource(t *testing.T) {
	for name, text := range map[string]string{
		"comments":   strings.Repeat("/**/", 200_000),
		"open":       strings.Repeat("/* ", 300_000),
		"lines":      strings.Repeat("//\n", 300_000),
		"quotes":     strings.Repeat("\"\\", 400_000),
		"directives": strings.Repeat("#\\\n", 300_000),
		"words":      strings.Repeat("a ", 400_000) + "(",
		"heads":      strings.Repeat("a b() {", 100_000),
		"parens":     strings.Repeat("a b(", 200_000),
		"includes":   strings.Repeat("#include \"a\"\n", 70_000),
	} {
		t.Run(name, func(t *testing.T) {
			s := &Source{}
			for i := range 7 {
				require.NoError(t, s.Add(fmt.Sprintf("%d.ino", i), []byte(text+"\nvoid setup() {}\nvoid loop() {}\n")))
			}
			ctx, cancel := context.WithTimeout(t.Context(), 30*time.Second)
			defer cancel()
			began := time.Now()
			_, _ = plan(ctx, s)
			t.Logf("%d bytes in %s", s.total, time.Since(began))
			assert.NoError(t, ctx.Err(), "8 MB at most in half a minute, on any machine")
		})
	}
}

func TestAssemblerAlone(t *testing.T) {
	r := built(t, builder(t),
		text(t, "main.S",
			"#include <avr/io.h>\n; the keeper's lamp\n.global main\nmain:\n\tsbi _SFR_IO_ADDR(DDRB), 0\nagain:\n\trjmp again\n"))
	assert.False(t, r.Failed(), "%v", r.Messages)
}

// What a person reads is short, whatever the source is.
func TestShortMessages(t *testing.T) {
	r := built(t, builder(t), text(t, "main.c", "int main(void) { "+strings.Repeat("x = é; ", 100_000)+" }\n"))
	require.True(t, r.Failed())
	size := 0
	for _, m := range r.Messages {
		size += len(m.Text) + len(m.Code)
		assert.True(t, utf8.ValidString(m.Code))
	}
	assert.Less(t, size, 40*(maxText+maxCode+20))
}

// The commands of a build are the same whatever the files are called.
func FuzzNames(f *testing.F) {
	f.Add("main.c", "lamp.c")
	f.Add("@a.c", "-fplugin=x.c")
	f.Add("a'b.c", "x/y z.c")
	f.Fuzz(func(t *testing.T, first, second string) {
		commands := func(a, b string) (string, bool) {
			s := &Source{}
			if s.Add(a, []byte("int main() {}")) != nil || s.Add(b, []byte("int x;")) != nil {
				return "", false
			}
			p, problem := plan(t.Context(), s)
			if problem != nil {
				t.Fatal(problem)
			}
			j := &job{plan: p, target: numbered20, script: newScript("avr-")}
			out := j.commands(nil, nil)
			for _, file := range j.script.files {
				if file.Path != path.Clean(file.Path) || !strings.HasPrefix(file.Path, "/src/") &&
					!strings.HasPrefix(file.Path, "/unit/") {
					t.Fatalf("%q is outside", file.Path)
				}
			}
			return out, true
		}
		if path.Ext(first) != ".c" || path.Ext(second) != ".c" {
			return
		}
		if got, ok := commands(first, second); ok {
			if want, _ := commands("main.c", "lamp.c"); got != want {
				t.Fatalf("names change the commands:\n%s\n%s", got, want)
			}
		}
	})
}

func FuzzPlan(f *testing.F) {
	f.Add("x.ino", "void setup() {}\nvoid loop() {}\n")
	f.Add("main.c", lampC)
	f.Add("x.ino", "/* \"' # \\\n void setup(){{{ /*")
	f.Fuzz(func(t *testing.T, name, code string) {
		s := &Source{}
		if s.Add(name, []byte(code)) != nil {
			return
		}
		if p, problem := plan(t.Context(), s); (p == nil) == (problem == nil) {
			t.Fatal("a plan or a problem")
		}
	})
}

// framework is the folder of the core with setup() and loop(), "" where it is not installed.
func framework() string {
	t, _ := findTools(usual)
	return t.framework
}
