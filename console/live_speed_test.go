package console_test

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/cdproto/performance"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/demo/class"
	"hemble/service/servicetest"
)

const busyBench = `hemble: 1
name: busy-bench
title: Busy bench
brief: Four scanned digits and a display.
chip: {is: atmega328p, clock: 16MHz}
bench:
  count: {part: seven-segment, digits: 4, common: cathode, select: transistor, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PD0, digit1: PD1, digit2: PD2, digit3: PD3, digit4: PB3}}
  board: {part: lcd, pins: {rs: PB0, rw: GND, e: PB1, d4: PD4, d5: PD5, d6: PD6, d7: PD7}}
  boat: {part: button, bounce: 0ms, pins: {1: PB2, 2: GND}}
trials:
  - name: at rest
    length: 2s
    expect: [{steady: count}]
`

// Digits are scanned in an interrupt every millisecond; both displays count ten times a second, and by 1000 for a
// press.
const busyProgram = `#include <avr/interrupt.h>
#include <avr/io.h>
#include <stdlib.h>
#include <util/delay.h>

static const uint8_t figure[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};
static volatile uint16_t number, ms;

ISR(TIMER0_COMPA_vect)
{
	static const uint16_t worth[4] = {1000, 100, 10, 1};
	static uint8_t place, down;
	PORTD &= 0xf0;
	PORTB &= ~_BV(PB3);
	uint8_t p = figure[number / worth[place] % 10];
	PORTC = p & 0x3f;
	if (p & 0x40)
		PORTD |= 1;
	if (place < 3)
		PORTD |= 2 << place;
	else
		PORTB |= _BV(PB3);
	place = (place + 1) % 4;
	uint8_t now = !(PINB & _BV(PB2));
	if (now && !down)
		number = (number + 1000) % 10000;
	down = now;
	if (++ms == 100) {
		ms = 0;
		number = (number + 1) % 10000;
	}
}

static void nibble(uint8_t n)
{
	PORTD = (PORTD & 0x0f) | n << 4;
	PORTB |= _BV(PB1);
	_delay_us(1);
	PORTB &= ~_BV(PB1);
	_delay_us(50);
}

static void send(uint8_t b, uint8_t text)
{
	if (text)
		PORTB |= _BV(PB0);
	else
		PORTB &= ~_BV(PB0);
	cli();
	nibble(b >> 4);
	nibble(b & 15);
	sei();
}

int main(void)
{
	DDRC = 0x3f;
	DDRD = 0xff;
	DDRB = 0x0b;
	PORTB = _BV(PB2);
	_delay_ms(50);
	nibble(3);
	_delay_ms(5);
	nibble(3);
	_delay_us(200);
	nibble(3);
	nibble(2);
	send(0x28, 0);
	send(0x0c, 0);
	send(0x01, 0);
	_delay_ms(2);
	send(0x06, 0);
	TCCR0A = _BV(WGM01);
	OCR0A = 249;
	TCCR0B = _BV(CS01) | _BV(CS00);
	TIMSK0 = _BV(OCIE0A);
	sei();
	for (;;) {
		char text[8];
		utoa(number, text, 10);
		send(0x80, 0);
		for (char *c = text; *c; c++)
			send(*c, 1);
		send(' ', 1);
		_delay_ms(90);
	}
}
`

// The live bench with a scan of four digits and a character display: how long it takes to load, how much of real time
// it reaches, of one core and of script it takes, and how soon a key is seen.
func BenchmarkLive(b *testing.B) {
	requireBuilt(b)
	s, c := servicetest.Start(b, b.TempDir())
	require.NoError(b, class.Set(b.Context(), c, time.Now()))
	_, err := c.NewExercise(b.Context(), "busy-bench", []byte(busyBench))
	require.NoError(b, err)
	built, err := c.Build(b.Context(), client.Draft{Text: []byte(busyBench), File: "busy.c", Data: []byte(busyProgram)})
	require.NoError(b, err)
	file := filepath.Join(b.TempDir(), "busy.elf")
	require.NoError(b, os.WriteFile(file, built.Data, 0o600))
	ctx := browser(b, false)
	signIn(b, ctx, s.Address)
	run(b, ctx, performance.Enable())
	metrics := func(names ...string) (sum float64) {
		run(b, ctx, chromedp.ActionFunc(func(ctx context.Context) error {
			all, err := performance.GetMetrics().Do(ctx)
			for _, m := range all {
				if slices.Contains(names, m.Name) {
					sum += m.Value
				}
			}
			return err
		}))
		return sum
	}
	const now = `parseFloat(document.querySelector('output[aria-label="time since power-on"]')?.textContent ?? 0)`
	for b.Loop() {
		run(b, ctx, chromedp.Navigate("http://"+s.Address+"/exercises/busy-bench/bench"),
			chromedp.WaitVisible(`input[type=file]`))
		began := time.Now()
		run(b, ctx, chromedp.SetUploadFiles(`input[type=file]`, []string{file}, chromedp.ByQuery),
			chromedp.Poll(now+` > 0`, nil))
		b.ReportMetric(time.Since(began).Seconds(), "load-s")
		run(b, ctx, chromedp.Sleep(2*time.Second))

		var from, to float64
		work := []string{"ScriptDuration", "LayoutDuration", "RecalcStyleDuration"}
		cpu, tasks := metrics("ProcessTime"), metrics("TaskDuration")
		run(b, ctx, chromedp.Evaluate(now, &from))
		began = time.Now()
		var frames []float64 // script and layout of a tenth of a second, of which each frame has a sixth
		for range 100 {
			before := metrics(work...)
			run(b, ctx, chromedp.Sleep(100*time.Millisecond))
			frames = append(frames, 1000*(metrics(work...)-before)/6)
		}
		real := time.Since(began).Seconds()
		run(b, ctx, chromedp.Evaluate(now, &to))
		b.ReportMetric(100*(to-from)/real, "%real-time")
		b.ReportMetric(100*(metrics("ProcessTime")-cpu)/real, "%core")
		b.ReportMetric(100*(metrics("TaskDuration")-tasks)/real, "%page-thread")
		told(b, "frame", frames)

		var waits []float64
		for range 20 {
			var ms float64
			run(b, ctx, chromedp.Evaluate(`(async () => {
				const shown = () => [...document.querySelectorAll('[data-testid="live bench"] svg')].map(s =>
					s.getAttribute('aria-label')).find(l => l.startsWith('count')).match(/(\d)(\d)(\d)(\d)/)?.[1]
				const before = shown(), began = performance.now()
				dispatchEvent(new KeyboardEvent('keydown', {key: 'b', bubbles: true}))
				while (shown() === before && performance.now() < began + 1000) await new Promise((r) => setTimeout(r, 1))
				const took = performance.now() - began
				await new Promise((r) => setTimeout(r, 100))
				dispatchEvent(new KeyboardEvent('keyup', {key: 'b', bubbles: true}))
				await new Promise((r) => setTimeout(r, 150))
				return took
			})()`, &ms, awaited))
			waits = append(waits, ms)
		}
		told(b, "key", waits)
	}
}
