package interpreter

import (
	"os/exec"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/build"
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/scripted"
)

// runC builds a program and runs it.
func runC(t testing.TB, text string, length clock.Time, presses ...press) (*told, machine.Stop) {
	t.Helper()
	for _, tool := range []string{"clang", "wasm-ld"} {
		if _, err := exec.LookPath(tool); err != nil {
			t.Skipf("%s is not installed; `make tools` installs it", tool)
		}
	}
	b, err := build.New(build.Config{Cache: t.TempDir()})
	require.NoError(t, err)
	s := &build.Source{}
	require.NoError(t, s.Add("main.c", []byte(text)))
	r, err := b.Build(t.Context(), s, build.Target{Chip: scripted.Linux})
	require.NoError(t, err)
	require.False(t, r.Failed(), "%v", r.Messages)
	im, err := firmware.Read(r.ELF, scripted.Linux.Firmware)
	require.NoError(t, err)
	return runImage(t, im, length, presses...)
}

const begin = "#include <wiringPi.h>\n#include <softPwm.h>\n#include <pthread.h>\n#include <wiringPiI2C.h>\n#include <wiringPiSPI.h>\n" +
	"#include <stdio.h>\n#include <stdlib.h>\n#include <string.h>\n" +
	"#include <unistd.h>\n#include <time.h>\n"

// Time, pins, pulses and edges of a program in C.
func TestNative(t *testing.T) {
	for _, c := range []struct{ name, text, want string }{
		{"time", `int main(void) { wiringPiSetupGpio(); delay(1500); printf("%u\n", millis()); usleep(250000);
			printf("%u\n", millis()); sleep(1); printf("%u %ld\n", millis(), (long)time(0)); return 0; }`,
			"1500\n1750\n2750 1772438402\n"},
		{"a loop that asks", `int main(void) { wiringPiSetupGpio(); pinMode(4, INPUT); pullUpDnControl(4, PUD_UP);
			while (digitalRead(4)) ; printf("pressed %u\n", millis()); while (!digitalRead(4)) ; printf("let go %u\n", millis()); }`,
			"pressed 1000\nlet go 1200\n"},
		{"an interrupt", `static volatile int n; static void f(void) { n++; printf("%d at %u\n", n, millis()); }
			int main(void) { wiringPiSetup(); pullUpDnControl(7, PUD_UP); wiringPiISR(7, INT_EDGE_BOTH, f); while (n < 2) ; puts("done"); }`,
			"1 at 1000\n2 at 1200\ndone\n"},
		{"waiting for an edge", `int main(void) { wiringPiSetupPhys(); pinMode(7, INPUT); pullUpDnControl(7, PUD_UP);
			printf("%d %u\n", waitForInterrupt(7, 400), millis()); printf("%d %u\n", waitForInterrupt(7, -1), millis()); }`,
			"0 400\n1 1000\n"},
		{"threads", `static volatile int shared; static pthread_mutex_t m = PTHREAD_MUTEX_INITIALIZER;
			static void *blink(void *of) { int ms = *(int *)of; char room[2000]; memset(room, ms & 127, sizeof room);
				for (int i = 0; i < 3; i++) { pthread_mutex_lock(&m); shared++; printf("%d %u\n", ms, millis()); pthread_mutex_unlock(&m);
					delay(ms); }
				return room[1999] == (ms & 127) ? of : 0; }
			int main(void) { int a = 300, b = 200; void *r; pthread_t x, y; wiringPiSetup();
				pthread_create(&x, 0, blink, &a); pthread_create(&y, 0, blink, &b);
				pthread_join(x, &r); printf("joined %d %d %u\n", *(int *)r, shared, millis()); }`,
			"300 0\n200 0\n200 200\n300 300\n200 400\n300 600\njoined 300 6 900\n"},
		{"a thread that never waits", `static volatile unsigned n; PI_THREAD(count) { for (;;) n++; }
			int main(void) { wiringPiSetup(); piThreadCreate(count); delay(1000); printf("%d %d\n", n > 1000, millis() >= 1000 && millis() < 1010); }`,
			"1 1\n"},
		{"a condition", `static pthread_mutex_t m; static pthread_cond_t c; static int ready;
			static void *wait(void *of) { pthread_mutex_lock(&m); while (!ready) pthread_cond_wait(&c, &m); printf("ready %u\n", millis());
				pthread_mutex_unlock(&m); pthread_exit(of); }
			int main(void) { pthread_t t; wiringPiSetup(); pthread_create(&t, 0, wait, 0); delay(500); pthread_mutex_lock(&m); ready = 1;
				pthread_cond_signal(&c); pthread_mutex_unlock(&m); pthread_join(t, 0); puts("over"); }`,
			"ready 500\nover\n"},
		{"a thread that ends the program", `PI_THREAD(last) { delay(100); puts("last"); exit(0); }
			int main(void) { wiringPiSetup(); piThreadCreate(last); for (;;) delay(50); }`, "last\n"},
		{"a bus that two threads use", `static int d; static void *call(void *of) {
				for (int i = 0; i < 3; i++) { wiringPiI2CWriteReg16(d, 1, 2); delayMicroseconds(30); } return of; }
			int main(void) { pthread_t x, y; wiringPiSetup(); d = wiringPiI2CSetup(0x27); pthread_create(&x, 0, call, 0);
				pthread_create(&y, 0, call, 0); pthread_join(x, 0); pthread_join(y, 0); puts("over"); }`, "over\n"},
		{"buses where nobody answers", `int main(void) { wiringPiSetup(); int d = wiringPiI2CSetup(0x27); unsigned char b[] = {1, 2};
			printf("%d %d %d\n", d, wiringPiI2CWrite(d, 1), wiringPiI2CReadReg8(d, 2));
			printf("%d %d\n", wiringPiSPISetup(0, 1000000), wiringPiSPIDataRW(0, b, 2)); }`, "39 -1 -1\n3 2\n"},
		{"chance", `int main(void) { srand(7); printf("%d\n", rand() % 2 < 2); }`, "1\n"},
	} {
		t.Run(c.name, func(t *testing.T) {
			t.Parallel()
			s, stop := runC(t, begin+c.text, 4*clock.Second, press{clock.Second, 4, circuit.Low},
				press{1200 * clock.Millisecond, 4, circuit.Float})
			assert.Equal(t, machine.Reached, stop.Reason, stop.Text)
			assert.Equal(t, c.want, s.text.String())
		})
	}
	s, stop := runC(t, begin+`int main(void) { int n; wiringPiSetupGpio(); printf("How many? "); if (scanf("%d", &n) == EOF) puts("nobody"); }`, clock.Second)
	assert.Equal(t, machine.Reached, stop.Reason, stop.Text)
	assert.Equal(t, "How many? nobody\n", s.text.String(), "nothing is wired to the console")
	s, stop = runC(t, begin+`int main(void) { wiringPiSetupGpio(); softPwmCreate(17, 25, 100); delay(100);
		softPwmStop(17); pinMode(18, PWM_OUTPUT); pwmWrite(18, 512); for (;;) delay(1000); }`, 200*clock.Millisecond)
	assert.Equal(t, machine.Reached, stop.Reason, stop.Text)
	count := map[string]int{}
	for _, e := range s.edges {
		count[e[len(e)-len("GPIO17 high"):]]++
	}
	assert.InDelta(t, 10, count["GPIO17 high"], 1, "10 ms each")
	assert.Greater(t, count["GPIO18 high"], 50, "1.7 ms each")
}

// What goes wrong is told with its line; what is hostile comes to an end.
func TestNativeFails(t *testing.T) {
	before := limits
	defer func() { limits = before }()
	limits.CPU = 4 * time.Second
	t.Run("all", func(t *testing.T) {
		for _, c := range []struct {
			name, text string
			reason     machine.Reason
			want       string
		}{
			{"no setup", "int main(void) { digitalWrite(1, 1); }", machine.Exception, "a pin is used before wiringPiSetup"},
			{"division", "volatile int n;\nint main(void) {\n  printf(\"%d\\n\", 10 / n);\n}", machine.Exception, "integer divide by zero"},
			{"out of memory", "int main(void) { char *p; while ((p = malloc(1 << 20))) memset(p, 1, 1 << 20); return 3; }",
				machine.Exception, ""},
			{"a wild pointer", "int main(void) { *(volatile int *)0xfffffff0 = 1; }", machine.Exception, "out of bounds memory access"},
			{"without end of calls", "int f(int n) { volatile char room[1000]; room[0] = n; return f(n + 1) + room[0]; }\nint main(void) { return f(0); }",
				machine.Exception, ""},
			{"never ends", "int main(void) { for (;;) ; }", machine.Reached, ""},
			{"not counted", "__attribute__((no_sanitize(\"coverage\"))) int main(void) { volatile int n = 0; for (;;) n++; }",
				machine.TooMuch, "it needed more than 4s"},
			{"a thread that is not counted", "__attribute__((no_sanitize(\"coverage\"))) static void *f(void *of) { volatile int n = 0; for (;;) n++; return of; }\n" +
				"int main(void) { wiringPiSetup(); piThreadCreate(f); for (;;) delay(1); }", machine.TooMuch, "it needed more than 4s"},
			{"threads without end", "static void *f(void *of) { piThreadCreate(f); for (;;) delay(1); return of; }\n" +
				"int main(void) { wiringPiSetup(); f(0); }", machine.Reached, ""},
			{"printing without end", "int main(void) { for (;;) puts(\"xxxxxxxxxxxxxxxxxxxxxxxxxxx\"); }", "", ""},
			{"files", "int main(void) { FILE *f = fopen(\"/etc/hostname\", \"r\"); printf(\"%d\\n\", f != 0); return f ? 9 : 0; }",
				machine.Reached, ""},
			{"pins that are none", "int main(void) { wiringPiSetupGpio(); digitalWrite(99, 1); digitalRead(-5); pinMode(1000000, 7); return 0; }",
				machine.Reached, ""},
		} {
			t.Run(c.name, func(t *testing.T) {
				t.Parallel()
				_, stop := runC(t, begin+c.text+"\n", 200*clock.Millisecond) // far from the limit, on a slow machine, too
				t.Log(stop.Reason, stop.Text)
				if c.name != "printing without end" {
					assert.Equal(t, c.reason, stop.Reason, stop.Text)
				}
				assert.Contains(t, stop.Text, c.want)
			})
		}
	})
}
