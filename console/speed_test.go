package console_test

import (
	"context"
	"encoding/json"
	"fmt"
	"os/exec"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/performance"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/demo"
	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/wire"
)

// A minute of four scanned digits that count ten times a second, and of a character LCD that follows them.
func longReel(t testing.TB) *reel.Reel {
	_, err := exec.LookPath("chromium")
	if err != nil {
		t.Skip("chromium is not installed; `make tools` installs it")
	}
	x, problems := exercise.Reader{File: "x", Draft: true}.Read([]byte(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench:
  count: {part: seven-segment, digits: 4, common: cathode, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PD0, digit1: PD1, digit2: PD2, digit3: PD3, digit4: PB3}}
  board: {part: lcd, size: 20x4, pins: {rs: PB0, rw: GND, e: PB1, d4: PD4, d5: PD5, d6: PD6, d7: PD7}}
trials: [{name: a minute, length: 60s}]
`))
	require.NotNil(t, x, "%v", problems)
	track := func(p *part.Instance) display.Track {
		return display.Track{Display: p.Name, Geometry: p.Kind.Geometry(*p)}
	}
	count, board := track(x.Part("count")), track(x.Part("board"))
	segments := [10]int{0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f}
	for i := range 600 {
		from, to := clock.Time(i)*100*clock.Millisecond, clock.Time(i+1)*100*clock.Millisecond
		s := display.State{Lights: make(display.Lights, 32), Levels: make([]int, 32)}
		text := fmt.Sprintf("%04d", i)
		for d, c := range text {
			for k := range 7 {
				if segments[c-'0']>>k&1 == 1 {
					s.Lights[8*d+k], s.Levels[8*d+k] = display.Lit, 200
				}
			}
		}
		count.Frames = append(count.Frames, display.Frame{From: from, To: to, Text: `"` + text + `"`, State: s})
		var cells []display.Cell
		for _, c := range fmt.Sprintf("%-20s%-20s%-20s%-20s", "Wherry Lock", "Boats today: "+text, "Water: rising",
			strings.Repeat("*", i%20)) {
			cells = append(cells, display.Cell(c))
		}
		board.Frames = append(board.Frames,
			display.Frame{From: from, To: to, Text: `"Wherry Lock" / "Boats today: ` + text + `"`,
				State: display.State{Cells: cells}})
	}
	return &reel.Reel{Trial: "a minute", Length: 60 * clock.Second, Tracks: []display.Track{count, board}}
}

func awaited(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) }

// told writes a list of times as what is worth knowing of it.
func told(b *testing.B, what string, ms []float64) {
	slices.Sort(ms)
	b.ReportMetric(0, "ns/op")
	b.ReportMetric(ms[len(ms)/2], what+"-p50-ms")
	b.ReportMetric(ms[len(ms)*95/100], what+"-p95-ms")
}

// Script and layout of each step through a minute of two displays.
func BenchmarkScrub(b *testing.B) {
	requireBuilt(b)
	minute := longReel(b)
	s, c := servicetest.Start(b, b.TempDir())
	require.NoError(b, class.Set(b.Context(), c, time.Now()))
	x, err := demo.Find("boat-lamps")
	require.NoError(b, err)
	r, err := c.Submit(b.Context(), class.Name, x.Name,
		client.Work{Student: "oke", File: "a.elf", Data: x.Files[0].Data})
	require.NoError(b, err)
	require.NoError(b, c.Wait(b.Context(), class.Name, x.Name, []string{r.ID}, func(wire.Submission) {}))
	sub, err := s.Store.Submissions.Submission(b.Context(), r.ID)
	require.NoError(b, err)
	require.NoError(b, s.Store.Grading.PutReel(sub.Job, 0, minute))
	ctx := browser(b, false)
	signIn(b, ctx, s.Address)
	run(b, ctx, performance.Enable())
	spent := func() (seconds float64) {
		run(b, ctx, chromedp.ActionFunc(func(ctx context.Context) error {
			all, err := performance.GetMetrics().Do(ctx)
			for _, m := range all {
				if slices.Contains([]string{"ScriptDuration", "LayoutDuration", "RecalcStyleDuration"}, m.Name) {
					seconds += m.Value
				}
			}
			return err
		}))
		return seconds
	}
	for b.Loop() {
		run(b, ctx, chromedp.Navigate("http://"+s.Address+"/submissions/"+r.ID),
			chromedp.WaitVisible(`[data-testid=bench] svg polygon`),
			chromedp.WaitVisible(`[data-testid=bench] svg path`),
			chromedp.Evaluate(`document.body.tabIndex = -1; document.body.focus()`, nil), chromedp.Sleep(time.Second))
		var ms []float64
		for range 200 {
			before := spent()
			run(b, ctx, chromedp.Evaluate(`(async () => {
				const clock = document.querySelector('output'), before = clock.textContent
				dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowRight', bubbles: true}))
				while (clock.textContent === before) await new Promise((r) => setTimeout(r))
				document.body.offsetHeight
			})()`, nil, awaited))
			ms = append(ms, 1000*(spent()-before))
		}
		told(b, "step", ms)
	}
}

// Filtering a list of a thousand submissions as one types.
func BenchmarkFilter(b *testing.B) {
	requireBuilt(b)
	s, c := servicetest.Start(b, b.TempDir())
	require.NoError(b, class.Set(b.Context(), c, time.Now()))
	var rows []wire.Submission
	for i := range 1000 {
		rows = append(rows, wire.Submission{ID: fmt.Sprint("s", i), Class: class.Name, Exercise: "boat-lamps",
			Login: fmt.Sprint("student", i), Student: fmt.Sprintf("Student %04d", i),
			File:    fmt.Sprintf("lamps-%d.elf", i%17),
			Attempt: 1, State: wire.Marked, Marks: "7", Of: "10", Met: 2, Partly: 1,
			First: fmt.Sprintf("red, at %d.000 s: expected on, saw off", i%13), Submitted: time.Now()})
	}
	list, err := json.Marshal(wire.Page[wire.Submission]{Items: rows, Total: len(rows)})
	require.NoError(b, err)
	ctx := browser(b, false)
	signIn(b, ctx, s.Address)
	instead := `const was = window.fetch; window.fetch = (at, how) => String(at).includes('/submissions?') ? Promise.resolve(new Response(` +
		"`" + strings.ReplaceAll(string(list), "`",
		"") + "`" + `, {headers: {'Content-Type': 'application/json'}})) : was(at, how)`
	run(b, ctx, chromedp.ActionFunc(func(ctx context.Context) error {
		_, err := page.AddScriptToEvaluateOnNewDocument(instead).Do(ctx)
		return err
	}), chromedp.Navigate("http://"+s.Address+"/classes/"+class.Name+"/assignments/boat-lamps"), has("all 1000 marked"))
	for b.Loop() {
		var ms []float64
		run(b, ctx, chromedp.Evaluate(`(async () => {
			const out = [], field = document.querySelector('input[type=search]')
			const table = () => Number(document.querySelector('table[aria-rowcount]').getAttribute('aria-rowcount'))
			const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set
			for (let i = 0; i < 60; i++) {
				const [text, rows] = [['student 00', 100], ['lamps-3', 59], ['', 1000],
					['saw off', 1000], ['student 0999', 1], ['at 5.000', 77]][i % 6]
				const start = performance.now()
				set.call(field, text)
				field.dispatchEvent(new Event('input', {bubbles: true}))
				for (let k = 0; table() !== rows + 1; k++) {
					if (k > 2000) throw new Error(text + ' gives ' + table())
					await new Promise((r) => setTimeout(r))
				}
				document.body.offsetHeight
				out.push(performance.now() - start)
			}
			return out
		})()`, &ms, awaited))
		told(b, "filter", ms)
	}
}
