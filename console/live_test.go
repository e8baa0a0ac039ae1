package console_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/demo"
	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/wire"
)

// firmware writes a firmware of the demo course to a file.
func firmware(t testing.TB, exercise, name string) string {
	x, err := demo.Find(exercise)
	require.NoError(t, err)
	for _, f := range x.Files {
		if f.Name == name {
			path := filepath.Join(t.TempDir(), name)
			require.NoError(t, os.WriteFile(path, f.Data, 0o600))
			return path
		}
	}
	require.Fail(t, "no such firmware", "%s of %s", name, exercise)
	return ""
}

// shows waits until a display of the live bench shows something, by its label.
func shows(display, what string) chromedp.Action {
	return chromedp.WaitVisible(`//*[@data-testid="live bench"]//*[local-name()="svg"][@aria-label="` + display +
		` shows ` + what + `"]`)
}

// A script does not run in the page: the live bench says where it does, and offers nothing.
func TestLiveBenchOfScripts(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	ctx := browser(t, false)
	signIn(t, ctx, s.Address)
	var files int
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/exercises/ferry-bell/bench"),
		chromedp.WaitVisible(`//p[contains(., "run on the service, not in a page")]`),
		chromedp.Evaluate(`document.querySelectorAll("input[type=file], select").length`, &files))
	assert.Zero(t, files)
}

// passes waits until so many seconds have gone by on the live bench.
func passes(seconds float64) chromedp.Action {
	const now = `parseFloat(document.querySelector('output[aria-label="time since power-on"]')?.textContent ?? 0)`
	return chromedp.Tasks{chromedp.Evaluate(`window.began = `+now, nil),
		chromedp.Poll(fmt.Sprintf(`%s > window.began + %g`, now, seconds), nil)}
}

// The bench runs in the page: a press by the pointer and one by its key count, time can be held, and a file that is no
// firmware is refused with the reason.
func TestLiveBench(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	ctx := browser(t, false)
	signIn(t, ctx, s.Address)
	const choose = `input[type=file]`
	bad := filepath.Join(t.TempDir(), "notes.hex")
	require.NoError(t, os.WriteFile(bad, []byte("no firmware"), 0o600))
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/exercises/lock-tally"),
		// the page may still grow above it
		chromedp.WaitVisible(`//a[.="Live bench"][@href="/exercises/lock-tally/bench"]`),
		chromedp.Navigate("http://"+s.Address+"/exercises/lock-tally/bench"),
		chromedp.WaitVisible(`//h1[contains(., "live bench")]`),
		chromedp.SetUploadFiles(choose, []string{bad}, chromedp.ByQuery),
		chromedp.WaitVisible(`//*[@role="alert"][contains(., "✗")]`),
		chromedp.SetUploadFiles(choose, []string{firmware(t, "lock-tally", "keane-debounced.elf")}, chromedp.ByQuery),
		shows("right", "0"))

	var x, y float64
	run(t, ctx, chromedp.Evaluate(`(() => { const b = [...document.querySelectorAll('button')].find(b =>
		b.getAttribute('aria-keyshortcuts')); const r = b.getBoundingClientRect(); return r.x + r.width / 2 })()`, &x),
		chromedp.Evaluate(`(() => { const b = [...document.querySelectorAll('button')].find(b =>
		b.getAttribute('aria-keyshortcuts')); const r = b.getBoundingClientRect(); return r.y + r.height / 2 })()`, &y))
	down := input.DispatchMouseEvent(input.MousePressed, x, y).WithButton(input.Left).WithClickCount(1)
	up := input.DispatchMouseEvent(input.MouseReleased, x, y).WithButton(input.Left).WithClickCount(1)
	// Time on the bench is what counts: a contact that closes again at once is one that bounces.
	run(t, ctx, down, shows("right", "1"), up, passes(0.2))

	var key string
	run(t, ctx, chromedp.AttributeValue(`button[aria-keyshortcuts]`, "aria-keyshortcuts", &key, nil, chromedp.ByQuery))
	require.Len(t, key, 1)
	press := func(kind input.KeyType) chromedp.Action {
		return input.DispatchKeyEvent(kind).WithKey(key).WithText(key)
	}
	run(t, ctx, press(input.KeyDown), shows("right", "2"), press(input.KeyUp), passes(0.2))

	// source is built first, and what the builder says is told
	broken := filepath.Join(t.TempDir(), "broken.c")
	require.NoError(t, os.WriteFile(broken, []byte("int main(void) { retrun 0; }"), 0o600))
	whole := filepath.Join(t.TempDir(), "whole.c")
	require.NoError(t, os.WriteFile(whole, []byte("int main(void) { for (;;); }"), 0o600))
	run(t, ctx, chromedp.SetUploadFiles(choose, []string{broken}, chromedp.ByQuery),
		chromedp.WaitVisible(`//*[@role="alert"][contains(., "retrun")]`),
		chromedp.SetUploadFiles(choose, []string{whole}, chromedp.ByQuery),
		chromedp.WaitNotPresent(`//*[@role="alert"]`),
		// the bench before is gone, and the new one runs
		chromedp.WaitNotPresent(`//*[local-name()="svg"][@aria-label="right shows 2"]`),
		chromedp.Poll(`document.querySelector('output[aria-label="time since power-on"]')?.textContent.startsWith('0.')`,
			nil))

	at := func() (s string) {
		run(t, ctx, chromedp.Text(`output[aria-label="time since power-on"]`, &s, chromedp.ByQuery))
		return s
	}
	run(t, ctx, button("Pause"), chromedp.WaitVisible(`//button[contains(., "Run")]`),
		chromedp.Sleep(200*time.Millisecond))
	before := at()
	run(t, ctx, chromedp.Sleep(300*time.Millisecond))
	assert.Equal(t, before, at(), "time stands still")
	assert.True(t, strings.HasSuffix(before, " s"))
}

// A terminal is typed into, and keeps what it got; a switch is set.
func TestLiveTerminal(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	ctx := browser(t, false)
	signIn(t, ctx, s.Address)
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/exercises/log-terminal/bench"),
		chromedp.WaitVisible(`//h1[contains(., "live bench")]`),
		chromedp.SetUploadFiles(`input[type=file]`, []string{firmware(t, "log-terminal", "tate-polling.elf")},
			chromedp.ByQuery),
		chromedp.WaitVisible(`//pre[@role="log"][contains(., "Wherry Lock ready")]`),
		chromedp.Click(`//button[@role="switch"]`),
		chromedp.WaitVisible(`//button[@role="switch"][@aria-checked="true"]`),
		chromedp.SendKeys(`input[aria-label="type to log"]`, "open\n", chromedp.ByQuery),
		chromedp.WaitVisible(`//pre[@role="log"][contains(., "gate")]`),
		button("Scope"), chromedp.WaitVisible(`//canvas[starts-with(@aria-label, "USART0: nothing was sent")]`))
	assert.Empty(t, axe(t, ctx, "light"))
}

const twoPorts = `hemble: 1
name: two-ports
title: Two ports
brief: A terminal at each of two ports, and a display whose light dims.
chip: {is: atmega2560, clock: 16MHz}
bench:
  near: {part: terminal, baud: 9600, pins: {rx: PE1}}
  far: {part: terminal, baud: 9600, pins: {rx: PD3}}
  board: {part: lcd, pins: {rs: PA0, rw: GND, e: PA1, d4: PA2, d5: PA3, d6: PA4, d7: PA5, a: PB5, k: GND}}
trials:
  - name: at rest
    length: 2s
    expect: [{steady: board}]
`

const twoPortsProgram = `#include <avr/io.h>

static void say(const char *text, volatile uint8_t *status, volatile uint8_t *data)
{
	for (; *text; text++) {
		while (!(*status & _BV(UDRE0)))
			;
		*data = *text;
	}
}

int main(void)
{
	UBRR0 = UBRR1 = 103;
	UCSR0B = _BV(TXEN0);
	UCSR1B = _BV(TXEN1);
	DDRB = _BV(PB5);
	TCCR1A = _BV(COM1A1) | _BV(WGM10);
	TCCR1B = _BV(WGM12) | _BV(CS10);
	OCR1A = 77;
	say("at the near gate\n", &UCSR0A, &UDR0);
	say("at the far gate\n", &UCSR1A, &UDR1);
	for (;;)
		;
}
`

// What each serial port sent is there by its name, and the light behind a display dims it.
func TestLivePorts(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	_, err := c.NewExercise(t.Context(), "two-ports", []byte(twoPorts))
	require.NoError(t, err)
	built, err := c.Build(t.Context(), client.Draft{Text: []byte(twoPorts), File: "ports.c",
		Data: []byte(twoPortsProgram)})
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "ports.elf")
	require.NoError(t, os.WriteFile(file, built.Data, 0o600))
	ctx := browser(t, false)
	signIn(t, ctx, s.Address)
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/exercises/two-ports/bench"),
		chromedp.WaitVisible(`//h1[contains(., "live bench")]`),
		chromedp.SetUploadFiles(`input[type=file]`, []string{file}, chromedp.ByQuery),
		chromedp.WaitVisible(`//pre[@aria-label="sent by USART0"][contains(., "at the near gate")]`),
		chromedp.WaitVisible(`//pre[@aria-label="sent by USART1"][contains(., "at the far gate")]`), passes(1))
	var lit float64
	run(t, ctx, chromedp.Evaluate(`parseFloat(getComputedStyle([...document.querySelectorAll('figure')].find(f =>
		f.textContent === 'board')).getPropertyValue('--lit'))`, &lit))
	assert.InDelta(t, 0.35+0.65*0.49, lit, 0.05, "three tenths of 16 mA, beside 10 mA")
}

// A probe is put to the bench while it runs: what was done stays done, nets are drawn at any width, time goes from edge
// to edge, and displays can be looked at as driven.
func TestLiveScope(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	_, err := c.FromTemplate(t.Context(), "boats", wire.FromTemplate{Template: "four-digits-scanned", Title: "Boats",
		Brief: "Count."})
	require.NoError(t, err)
	reference, err := filepath.Abs("../templates/04-four-digits-scanned/reference.elf")
	require.NoError(t, err)
	ctx := browser(t, false)
	signIn(t, ctx, s.Address)
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/exercises/boats/bench"),
		chromedp.WaitVisible(`//h1[contains(., "live bench")]`),
		chromedp.SetUploadFiles(`input[type=file]`, []string{reference}, chromedp.ByQuery),
		chromedp.WaitVisible(`//*[@data-testid="live bench"]`), passes(0.3))
	press := func(kind input.KeyType) chromedp.Action {
		return input.DispatchKeyEvent(kind).WithKey("b").WithText("b")
	}
	run(t, ctx, press(input.KeyDown), passes(0.15), press(input.KeyUp), passes(0.2))
	counted := func() chromedp.Action {
		return chromedp.Poll(`[...document.querySelectorAll('[data-testid="live bench"] svg')].some(s =>
			/ shows +1$/.test(s.getAttribute('aria-label').replace(/"/g, '')))`, nil)
	}
	run(t, ctx, counted(), button("Scope"), chromedp.WaitVisible(`section[aria-label="scope"] canvas`), counted(),
		button("Pause"), chromedp.WaitVisible(`//button[contains(., "Run")]`))
	for range 4 {
		run(t, ctx, chromedp.Click(`button[aria-label="less time"]`, chromedp.ByQuery))
	}
	run(t, ctx, chromedp.Sleep(200*time.Millisecond))
	picture(t, ctx, "live-bench")
	assert.Empty(t, axe(t, ctx, "light"))
	at := func() (s string) {
		run(t, ctx, chromedp.Text(`output[aria-label="time since power-on"]`, &s, chromedp.ByQuery))
		return s
	}
	before := at()
	run(t, ctx, button("Next edge"), button("Next edge"), chromedp.Sleep(200*time.Millisecond))
	for range 3 {
		run(t, ctx, button("Next edge"), chromedp.Sleep(100*time.Millisecond))
	}
	assert.NotEqual(t, before, at())
	run(t, ctx, chromedp.Click(`//button[.="as driven"]`), chromedp.Sleep(200*time.Millisecond))
	var shown string
	run(t, ctx, chromedp.Evaluate(`[...document.querySelectorAll('[data-testid="live bench"] svg')].map(s =>
		s.getAttribute('aria-label')).join()`, &shown))
	assert.NotRegexp(t, ` shows +1$`, shown, "one digit at a time")
}

// A step goes on to the next state of a display, and not to less.
func TestLiveStep(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	_, err := c.FromTemplate(t.Context(), "level", wire.FromTemplate{Template: "one-digit-counting", Title: "Level",
		Brief: "Count."})
	require.NoError(t, err)
	reference, err := filepath.Abs("../templates/02-one-digit-counting/reference.elf")
	require.NoError(t, err)
	ctx := browser(t, false)
	signIn(t, ctx, s.Address)
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/exercises/level/bench"),
		chromedp.WaitVisible(`//h1[contains(., "live bench")]`),
		chromedp.SetUploadFiles(`input[type=file]`, []string{reference}, chromedp.ByQuery), shows("level", "1"),
		button("Pause"), chromedp.WaitVisible(`//button[contains(., "Run")]`),
		chromedp.Click(`button[aria-label="to the next state"]`, chromedp.ByQuery), shows("level", "2"),
		chromedp.Click(`button[aria-label="to the next state"]`, chromedp.ByQuery), shows("level", "3"))
}
