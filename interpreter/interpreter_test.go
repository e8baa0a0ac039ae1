package interpreter

import (
	"fmt"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/scripted"
	"hemble/core/script"
)

// told is what a run of a script did, in lines: what it printed, and what pins did.
type told struct {
	text  strings.Builder
	edges []string
}

func (s *told) Drive(t clock.Time, all []machine.Change, _ machine.Place) clock.Time {
	for _, c := range all {
		s.edges = append(s.edges, fmt.Sprintf("%s %s %v", t, scripted.Linux.Pins[c.Pin].Name, c.Drive.Level))
	}
	return clock.Never
}

// press is an input that changes at a time.
type press struct {
	at    clock.Time
	pin   machine.Pin
	level circuit.Level
}

// run runs a script, and gives what it did.
func run(t testing.TB, text string, length clock.Time, presses ...press) (*told, machine.Stop) {
	t.Helper()
	if _, err := os.Stat(scripted.Python); err != nil {
		t.Skip("python3 is not installed; `make tools` installs it")
	}
	data, err := script.Write("main.py", map[string]string{"main.py": text, "helper.py": "def twice(n):\n    return 2 * n\n"})
	require.NoError(t, err)
	im, err := firmware.Read(data, scripted.Linux.Firmware)
	require.NoError(t, err)
	return runImage(t, im, length, presses...)
}

func runImage(t testing.TB, im *firmware.Image, length clock.Time, presses ...press) (*told, machine.Stop) {
	t.Helper()
	s := &told{}
	pins := make([]machine.Pin, 28) // nothing is wired to the console
	for i := range pins {
		pins[i] = machine.Pin(i)
	}
	m := scripted.Linux.New(machine.Config{Seed: 3, Supply: 3_300_000, Watched: pins,
		Bytes: func(b machine.Byte) { s.text.WriteByte(b.Value) }})
	require.NoError(t, m.Load(im))
	defer m.(*scripted.Machine).Close()
	var stop machine.Stop
	for _, p := range append(presses, press{at: length}) {
		if stop = m.Run(p.at, s); stop.Reason != machine.Reached {
			break
		}
		if p.at < length {
			m.Input(p.pin, p.level)
		}
	}
	return s, stop
}

// What happens when, in each way that scripts have of doing several things.
func TestOrder(t *testing.T) {
	for _, c := range []struct{ name, text, want string }{
		{"one after the other", `
import time
print(time.monotonic() < 0.001)
time.sleep(1.5)
print(round(time.monotonic(), 2))
`, "True\n1.5\n"},
		{"threads", `
import threading, time
def blink(name, pause):
    for i in range(3):
        print(name, i, round(time.monotonic(), 2))
        time.sleep(pause)
a = threading.Thread(target=blink, args=("a", 0.3))
b = threading.Thread(target=blink, args=("b", 0.2), daemon=True)
a.start(); b.start()
a.join()
print("joined", round(time.monotonic(), 2))
`, "a 0 0.0\nb 0 0.0\nb 1 0.2\na 1 0.3\nb 2 0.4\na 2 0.6\njoined 0.9\n"},
		{"a thread that never sleeps", `
import threading, time
n = 0
def count():
    global n
    while True:
        n += 1
threading.Thread(target=count, daemon=True).start()
time.sleep(1)
print(n > 1000, round(time.monotonic(), 1))
`, "True 1.0\n"},
		{"timers", `
import threading, time
def later(name):
    print(name, round(time.monotonic(), 2))
threading.Timer(0.5, later, ["half"]).start()
t = threading.Timer(0.2, later, ["never"]); t.start(); t.cancel()
threading.Timer(0.25, later, ["quarter"]).start()
`, "quarter 0.25\nhalf 0.5\n"},
		{"a queue", `
import queue, threading, time
q = queue.Queue(1)
def worker():
    while True:
        item = q.get()
        if item is None:
            break
        time.sleep(0.1)
        print(item, round(time.monotonic(), 1))
        q.task_done()
threading.Thread(target=worker).start()
for i in range(3):
    q.put(i)
q.join()
q.put(None)
try:
    queue.Queue().get(timeout=0.4)
except queue.Empty:
    print("empty", round(time.monotonic(), 1))
`, "0 0.1\n1 0.2\n2 0.3\nempty 0.7\n"},
		{"simple queue and condition", `
import queue, threading, time
q = queue.SimpleQueue()
c = threading.Condition()
def waiter():
    with c:
        print(c.wait(timeout=0.3), round(time.monotonic(), 1))
        print(c.wait(), round(time.monotonic(), 1))
    q.put("done")
threading.Thread(target=waiter).start()
time.sleep(0.5)
with c:
    c.notify()
print(q.get())
`, "False 0.3\nTrue 0.5\ndone\n"},
		{"asyncio", `
import asyncio, time
async def blink(name, pause):
    for i in range(2):
        print(name, i, round(time.monotonic(), 2))
        await asyncio.sleep(pause)
async def main():
    await asyncio.gather(blink("a", 0.3), blink("b", 0.2))
    try:
        await asyncio.wait_for(asyncio.sleep(9), 0.5)
    except asyncio.TimeoutError:
        print("late", round(time.monotonic(), 2))
asyncio.run(main())
`, "a 0 0.0\nb 0 0.0\nb 1 0.2\na 1 0.3\nlate 1.1\n"},
		{"pools", `
import time
from concurrent.futures import ThreadPoolExecutor
def work(n):
    time.sleep(n / 10)
    return n
with ThreadPoolExecutor(max_workers=2) as pool:
    print(list(pool.map(work, [3, 1, 2])), round(time.monotonic(), 1))
`, "[3, 1, 2] 0.3\n"},
		{"a bus that several threads use, and that is opened again and again", `
import threading, time, smbus, spidev
def call(name, pause):
    for i in range(3):
        try:
            smbus.SMBus(1).write_i2c_block_data(0x27, 0, [0] * 32)
        except OSError as e:
            print(name, i, e.errno)
        time.sleep(pause)
a = threading.Thread(target=call, args=("a", 0.001)); b = threading.Thread(target=call, args=("b", 0.001))
a.start(); b.start(); a.join(); b.join()
for i in range(40):
    with spidev.SpiDev(0, 0) as spi:
        spi.xfer2([1, 2])
print("over")
`, "a 0 121\nb 0 121\na 1 121\nb 1 121\na 2 121\nb 2 121\nover\n"},
		{"modules and chance", `
import random, os, uuid
from helper import twice
print(twice(21), random.randint(1, 6), os.urandom(2).hex(), uuid.uuid4().hex[:4], hash("a") == hash("a"))
`, ""},
		{"dates", `
import datetime, time
print(datetime.datetime.now(), datetime.date.today(), time.strftime("%H:%M:%S"))
time.sleep(61)
print(datetime.datetime.now().strftime("%H:%M:%S"), time.ctime())
`, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			t.Parallel()
			s, stop := run(t, c.text, 100*clock.Second)
			assert.Equal(t, machine.Reached, stop.Reason, stop.Text)
			if c.want != "" {
				assert.Equal(t, c.want, s.text.String())
			}
			again, _ := run(t, c.text, 100*clock.Second)
			assert.Equal(t, s.text.String(), again.text.String())
			t.Log(s.text.String())
		})
	}
}

// Edges of inputs: asked for, waited for, and called back.
func TestInputs(t *testing.T) {
	text := `
import time
import RPi.GPIO as GPIO
GPIO.setmode(GPIO.BCM)
GPIO.setup([4, 5], GPIO.IN, pull_up_down=GPIO.PUD_UP)
GPIO.setup(17, GPIO.OUT)
def pressed(channel):
    print("called", channel, GPIO.input(channel), round(time.monotonic(), 3))
GPIO.add_event_detect(4, GPIO.BOTH, callback=pressed, bouncetime=20)
print("waited", GPIO.wait_for_edge(5, GPIO.FALLING, timeout=300), round(time.monotonic(), 3))
print("waited", GPIO.wait_for_edge(5, GPIO.FALLING, timeout=5000), round(time.monotonic(), 3))
pwm = GPIO.PWM(17, 100)
pwm.start(25)
while GPIO.input(5) == 0:
    pass
print("let go", round(time.monotonic(), 3))
pwm.stop()
GPIO.cleanup()
`
	at := func(ms int, pin machine.Pin, level circuit.Level) press {
		return press{clock.Time(ms) * clock.Millisecond, pin, level}
	}
	s, stop := run(t, text, 2*clock.Second, at(100, 4, circuit.Low), at(105, 4, circuit.Float), at(110, 4, circuit.Low),
		at(200, 4, circuit.Float), at(700, 5, circuit.Low), at(760, 5, circuit.Float))
	assert.Equal(t, machine.Reached, stop.Reason, stop.Text)
	assert.Equal(t, "called 4 0 0.1\ncalled 4 1 0.2\nwaited None 0.3\nwaited 5 0.7\nlet go 0.76\n", s.text.String())
	high := 0
	for _, e := range s.edges {
		if strings.HasSuffix(e, "GPIO17 high") {
			high++
		}
	}
	assert.Equal(t, 7, high, "pulses of 100 Hz for 60 ms: %v", s.edges)
}

// The package of the system that drives pins by objects, with its threads and callbacks.
func TestZero(t *testing.T) {
	if _, err := os.Stat("/usr/lib/python3/dist-packages/gpiozero"); err != nil {
		t.Skip("python3-gpiozero is not installed; `make tools` installs it")
	}
	s, stop := run(t, `
from gpiozero import LED, Button, PWMLED
from signal import pause
import time
lamp, dim, key = LED(17), PWMLED(27), Button(4)
def pressed():
    print("pressed", round(time.monotonic() - begin, 2))
    lamp.blink(0.1, 0.1, n=2)
key.when_pressed = pressed
key.when_released = lambda: print("released", round(time.monotonic() - begin, 2))
dim.value = 0.5
begin = 0
pause()
`, 2*clock.Second, press{clock.Second, 4, circuit.Low}, press{1200 * clock.Millisecond, 4, circuit.Float})
	assert.Equal(t, machine.Reached, stop.Reason, stop.Text)
	assert.Equal(t, "pressed 1.0\nreleased 1.2\n", s.text.String())
	var lamp []string
	for _, e := range s.edges {
		if strings.Contains(e, "GPIO17") {
			lamp = append(lamp, e)
		}
	}
	assert.Len(t, lamp, 5, "an output, on and off twice: %v", lamp)
}

// Objects make a pin an input before it is what it is to be; that is not taken for a missing pull-up.
func TestSettingUp(t *testing.T) {
	if _, err := os.Stat("/usr/lib/python3/dist-packages/gpiozero"); err != nil {
		t.Skip("python3-gpiozero is not installed; `make tools` installs it")
	}
	for pulled, want := range map[string]int{"Button(16)": 0, "Button(16, pull_up=None, active_state=True)": 1} {
		data, err := script.Write("main.py", map[string]string{"main.py": "from gpiozero import LED, Button\n" +
			"from time import sleep\na = Button(12)\nb = " + pulled + "\nlamps = [LED(n) for n in (17, 27, 22)]\n" +
			"while True:\n    lamps[0].value = a.is_pressed or b.is_pressed\n    sleep(0.01)\n"})
		require.NoError(t, err)
		im, err := firmware.Read(data, scripted.Linux.Firmware)
		require.NoError(t, err)
		m := scripted.Linux.New(machine.Config{Seed: 3, Supply: 3_300_000, Watched: []machine.Pin{12, 16, 17, 22, 27}})
		require.NoError(t, m.Load(im))
		require.Empty(t, m.Run(clock.Second, &told{}).Reason)
		m.(*scripted.Machine).Close()
		assert.Len(t, m.Notes(), want, "%s: %v", pulled, m.Notes())
	}
}

// Exceptions are told with the script's lines, and what is missing on the board is missing.
func TestExceptions(t *testing.T) {
	for text, want := range map[string]string{
		"x = 1\nprint(y)\n":                                             "main.py:2: NameError: name 'y' is not defined",
		"import helper\nhelper.twice()\n":                               "main.py:2: TypeError: twice() missing 1 required positional argument: 'n'",
		"import numpy\n":                                                "main.py:1: ModuleNotFoundError: No module named 'numpy'",
		"import RPi.GPIO as G\nG.setup(4, G.OUT)\n":                     "main.py:2: RuntimeError: no numbering is chosen",
		"import RPi.GPIO as G\nG.setmode(G.BOARD)\nG.setup(6, G.OUT)\n": "main.py:3: ValueError: pin 6 of the header is ground",
		"import RPi.GPIO as G\nG.setmode(G.BCM)\nG.output(4, 1)\n":      "main.py:3: RuntimeError: channel 4 is no output",
		"input('name? ')\n":                                             "main.py:1: EOFError: nobody types",
		"def f():\n    return f()\nf()\n":                               "RecursionError",
		"while True print(1)\n":                                         "main.py:1: SyntaxError",
		"x = [0] * 10**10\n":                                            "main.py:1: MemoryError",
	} {
		s, stop := run(t, text, clock.Second)
		assert.Equal(t, machine.Exception, stop.Reason, text)
		assert.Contains(t, stop.Text, want, text)
		_ = s
	}
	s, stop := run(t, "import sys\nprint('bye')\nsys.exit(0)\n", clock.Second)
	assert.Equal(t, machine.Reached, stop.Reason)
	assert.Equal(t, "bye\n", s.text.String())
}

// Hostile scripts come to an end, see nothing of the machine, and start nothing.
func TestHostileScripts(t *testing.T) {
	before := limits
	defer func() { limits = before }()
	limits.CPU = 3 * time.Second
	t.Run("all", hostileScripts)
}

func hostileScripts(t *testing.T) {
	for _, c := range []struct {
		name, text string
		reason     machine.Reason
		want       string
	}{
		{"never ends", "while True:\n    pass\n", machine.Reached, ""},
		{"a busy extension", "sum(range(10**12))\n", machine.TooMuch, "processor time"},
		{"memory", "x = []\nwhile True:\n    x.append('a' * 10**7)\n", machine.Exception, "MemoryError"},
		{"files of the host", "print(open('/etc/hostname').read())\n", machine.Exception, "FileNotFoundError"},
		{"all files", "import os\nprint(os.listdir('/'))\nprint(os.listdir('/root'))\n", machine.Exception, "FileNotFoundError"},
		{"processes", "import os\nos.fork()\nos.fork()\n", "", ""},
		{"a shell", "import os\nprint(os.system('id'))\nimport subprocess\nsubprocess.run(['/usr/bin/id'])\n", machine.Exception, ""},
		{"network", "import socket\nsocket.create_connection(('127.0.0.1', 80), 1)\n", machine.Exception, ""},
		{"a forged protocol", "import os\nfor fd in range(3, 20):\n    try:\n        os.write(fd, b'w 1 99 1 1\\n')\n    except OSError:\n        pass\n",
			machine.Exception, ""},
		{"a line without end", "import os\nfor fd in range(3, 20):\n    try:\n        os.write(fd, b'b' * 200000)\n    except OSError:\n        pass\n",
			machine.Exception, ""},
		{"threads without end", "import threading, time\nwhile True:\n    threading.Thread(target=time.sleep, args=(1e6,)).start()\n",
			"", ""},
		{"printing without end", "while True:\n    print('x' * 1000)\n", "", ""},
		{"pins without end", "import RPi.GPIO as G\nG.setmode(G.BCM)\nG.setup(4, G.OUT)\nwhile True:\n    G.output(4, 1)\n    G.output(4, 0)\n",
			machine.Reached, ""},
		{"the surroundings", "import builtins\nbuiltins.__board__.now = -5\nimport time\ntime.sleep(1)\n", "", ""},
		{"no time", "import builtins\nbuiltins.__board__.tick = builtins.__tick__ = lambda n: None\nwhile True:\n    pass\n",
			machine.TooMuch, "processor time"},
		{"its end", "import os\nos._exit(3)\n", machine.Exception, "ended"},
		{"a signal", "import os, signal\nos.kill(os.getpid(), signal.SIGKILL)\n", machine.Exception, "ended"},
	} {
		t.Run(c.name, func(t *testing.T) {
			t.Parallel()
			began := time.Now()
			_, stop := run(t, c.text, 5*clock.Second)
			t.Logf("%s: %s %s", time.Since(began).Round(time.Millisecond), stop.Reason, stop.Text)
			if c.want != "" || c.reason != "" {
				assert.Equal(t, c.reason, stop.Reason, stop.Text)
			}
			assert.Contains(t, stop.Text, c.want)
			assert.Less(t, time.Since(began), limits.Wall)
		})
	}
}

// The same script does the same, byte for byte, whatever else the machine is busy with.
func TestDeterministic(t *testing.T) {
	text := `
import random, threading, time
import RPi.GPIO as GPIO
GPIO.setmode(GPIO.BCM)
pins = [4, 17, 27, 22]
GPIO.setup(pins, GPIO.OUT)
def blink(pin):
    for _ in range(40):
        GPIO.output(pin, random.random() < 0.5)
        time.sleep(random.uniform(0.001, 0.02))
all = [threading.Thread(target=blink, args=(p,)) for p in pins]
for one in all: one.start()
for one in all: one.join()
print({"a", "b", "c", "d"}, time.time())
`
	var wait sync.WaitGroup
	all := make([]string, 8)
	for i := range all {
		wait.Go(func() {
			s, stop := run(t, text, 3*clock.Second)
			all[i] = s.text.String() + strings.Join(s.edges, "\n") + stop.Text
		})
	}
	wait.Wait()
	assert.Greater(t, len(all[0]), 1000)
	for _, one := range all[1:] {
		assert.Equal(t, all[0], one)
	}
}

// What tries only whether a chip takes a script leaves nothing of it: no process, no folder.
func TestTriedAndGone(t *testing.T) {
	dir, err := os.MkdirTemp("", "tried-")
	require.NoError(t, err)
	defer os.RemoveAll(dir)
	require.NoError(t, os.Chmod(dir, 0o755)) // the sandbox's user comes to it
	run(t, "pass\n", clock.Millisecond)      // what is made once is made before; skips where there is no python3
	t.Setenv("TMPDIR", dir)
	data, err := script.Write("main.py", map[string]string{"main.py": "while True:\n    pass\n"})
	require.NoError(t, err)
	im, err := firmware.Read(data, scripted.Linux.Firmware)
	require.NoError(t, err)
	require.NoError(t, scripted.Linux.Takes(im, scripted.Linux.Clock))
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left)
}
