package console_test

import (
	"context"
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"hemble/client"
	clockwork "hemble/core/clock"
	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/wire"
)

// browserTime bounds what one test does in the browser.
const browserTime = 4 * time.Minute

// browser opens a page of headless Chromium, as make tools installs it.
func browser(t testing.TB, dark bool) context.Context {
	path, err := exec.LookPath("chromium")
	if err != nil {
		t.Skip("chromium is not installed; `make tools` installs it")
	}
	profile, err := os.MkdirTemp("", "hemble-browser")
	require.NoError(t, err)
	t.Cleanup(func() { // the browser's helpers write for a while after it was closed
		for range 50 {
			if os.RemoveAll(profile) == nil {
				return
			}
			time.Sleep(100 * time.Millisecond)
		}
	})
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(path), chromedp.NoSandbox,
		chromedp.DisableGPU, chromedp.WindowSize(1280, 800),
		chromedp.UserDataDir(profile), chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-background-networking", true),
		chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-sync", true),
		chromedp.Flag("hide-scrollbars", true))
	ctx, cancel := chromedp.NewExecAllocator(t.Context(), options...)
	t.Cleanup(cancel)
	ctx, cancel = chromedp.NewContext(ctx)
	t.Cleanup(cancel)
	ctx, cancel = context.WithTimeout(ctx, browserTime)
	t.Cleanup(cancel)
	scheme := "light"
	if dark {
		scheme = "dark"
	}
	require.NoError(t,
		chromedp.Run(ctx, chromedp.EmulateViewport(1280, 800),
			emulation.SetEmulatedMedia().WithFeatures([]*emulation.MediaFeature{{Name: "prefers-color-scheme",
				Value: scheme}})))
	return ctx
}

// stepTime bounds what is done in one go; HEMBLE_STEP_TIME shortens it for whoever waits for a failure.
func stepTime() time.Duration {
	if own, err := time.ParseDuration(os.Getenv("HEMBLE_STEP_TIME")); err == nil {
		return own
	}
	return 90 * time.Second
}

// run does actions in the page.
func run(t testing.TB, ctx context.Context, actions ...chromedp.Action) {
	t.Helper()
	step, cancel := context.WithTimeout(ctx, stepTime())
	defer cancel()
	requireDone(t, ctx, chromedp.Run(step, actions...))
}

// load does actions that end in another page's being loaded, and waits for that page: a question that is still put to
// the old one when it goes would be an error.
func load(t testing.TB, ctx context.Context, actions ...chromedp.Action) {
	t.Helper()
	step, cancel := context.WithTimeout(ctx, stepTime())
	defer cancel()
	_, err := chromedp.RunResponse(step, actions...)
	requireDone(t, ctx, err)
}

// requireDone tells what the page showed where something in it failed.
func requireDone(t testing.TB, ctx context.Context, err error) {
	t.Helper()
	if err == nil {
		return
	}
	var page string
	_ = chromedp.Run(ctx, chromedp.Evaluate("location.href + String.fromCharCode(10) + document.body.innerText", &page))
	require.NoError(t, err, "the page was: %.3000s", page)
}

// picture writes a screenshot for the README where HEMBLE_PICTURES names a folder.
func picture(t *testing.T, ctx context.Context, name string) {
	dir := os.Getenv("HEMBLE_PICTURES")
	if dir == "" {
		return
	}
	var png []byte
	run(t, ctx, chromedp.Sleep(300*time.Millisecond), chromedp.CaptureScreenshot(&png))
	require.NoError(t, os.WriteFile(filepath.Join(dir, name+".png"), png, 0o644))
}

func signIn(t testing.TB, ctx context.Context, address string) {
	signInAs(t, ctx, address, class.Instructor)
}

func signInAs(t testing.TB, ctx context.Context, address, login string) {
	run(t, ctx,
		chromedp.Navigate("http://"+address+"/sign-in"),
		chromedp.WaitVisible(`input[name=password]`),
		chromedp.SendKeys(`input[name=login]`, login),
		chromedp.SendKeys(`input[name=password]`, class.Password+"\r"),
		chromedp.WaitVisible(`//h1[text()="Assignments"]`),
	)
}

const pageOf = `document.querySelector("main").innerText`

func text(t *testing.T, ctx context.Context) (s string) {
	run(t, ctx, chromedp.Evaluate(pageOf, &s))
	return s
}

func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	os.Exit(m.Run())
}

func requireBuilt(t testing.TB) {
	if _, err := os.Stat("dist/site/index.html"); err != nil {
		t.Skip("the console is not built; `make console` builds it")
	}
}

func TestConsole(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	marked := servicetest.Course(t.Context(), t, c, nil)
	ctx := browser(t, false)

	t.Run("a wrong password is told", func(t *testing.T) {
		run(t, ctx,
			chromedp.Navigate("http://"+s.Address+"/classes/lock-house/assignments/boat-lamps"),
			chromedp.WaitVisible(`input[name=password]`),
			chromedp.SendKeys(`input[name=login]`, class.Instructor),
			chromedp.SendKeys(`input[name=password]`, "wrong\r"),
			chromedp.WaitVisible(`//p[contains(., "login or password is wrong")]`))
	})
	t.Run("a link to a page leads there by way of signing in", func(t *testing.T) {
		run(t, ctx, chromedp.Navigate("http://"+s.Address+"/sign-in"), chromedp.WaitVisible(`input[name=password]`),
			chromedp.SendKeys(`input[name=login]`, class.Instructor),
			chromedp.SendKeys(`input[name=password]`, class.Password+"\r"),
			chromedp.WaitVisible(`//h1[text()="Boat signal lamps"]`))
	})
	t.Run("exercises", func(t *testing.T) {
		run(t, ctx, chromedp.Navigate("http://"+s.Address+"/"),
			chromedp.WaitVisible(`//a[text()="Chamber level gauge"]`))
		require.Contains(t, text(t, ctx), "Keeper's board")
	})
	t.Run("submissions, live", func(t *testing.T) {
		run(t, ctx, chromedp.Click(`//a[text()="Chamber level gauge"]`),
			chromedp.WaitVisible(`//a[text()="V. Stroud"]`))
		page := text(t, ctx)
		require.Contains(t, page, "all 8 marked")
		require.Contains(t, page, "10 / 10")
		picture(t, ctx, "submissions")
		late, err := c.Submit(t.Context(), class.Name, "chamber-gauge",
			client.Work{Student: "zelnik", File: "late.hex", Data: []byte("no firmware")})
		require.NoError(t, err)
		run(t, ctx, chromedp.WaitVisible(`//tr[@data-state="marked"]//a[text()="O. Zelnik"]`)) // without a reload
		require.Equal(t, 1, late.Attempt)
	})
	t.Run("submit", func(t *testing.T) {
		file := filepath.Join(t.TempDir(), "again.elf")
		data, err := os.ReadFile("../demo/course/chamber-gauge/firmware/ames-polling.elf")
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(file, data, 0o600))
		run(t, ctx,
			chromedp.Click(`//button[text()="Submit"]`),
			chromedp.WaitReady(`select[name=student] option[value=zeller]`, chromedp.ByQuery),
			chromedp.SetValue(`select[name=student]`, "zeller", chromedp.ByQuery),
			chromedp.SetUploadFiles(`input[name=file]`, []string{file}),
			chromedp.Click(`//form//button[text()="Submit"]`),
			chromedp.WaitVisible(`//tr[@data-state="marked"][.//a[text()="N. Zeller"]]//td[text()="10 / 10"]`))
	})
	t.Run("result", func(t *testing.T) {
		result(t, ctx, s.Address, c, marked["stroud-b-f-swapped.elf"].ID)
		picture(t, ctx, "result")
	})
	t.Run("result of a character display", func(t *testing.T) {
		run(t, ctx, chromedp.Navigate("http://"+s.Address+"/submissions/"+marked["ferris-leftover.elf"].ID),
			chromedp.WaitVisible(`[data-testid=bench] svg path`),
			chromedp.Click(`//ul//button[contains(., "3.0")]`))
		require.Contains(t, text(t, ctx), `saw "Wherry Lock    ▢" / "Level 99 cmm"`)
		picture(t, ctx, "result-lcd")
	})
	t.Run("result of a scanned display", func(t *testing.T) {
		run(t, ctx, chromedp.Navigate("http://"+s.Address+"/submissions/"+marked["nash-blocked-scan.elf"].ID),
			chromedp.WaitVisible(`[data-testid=bench] svg polygon`),
			chromedp.Click(`[aria-label^="next state"]`))
		require.Contains(t, text(t, ctx), "nothing more here")
		run(t, ctx, chromedp.Click(`//button[@aria-pressed][contains(., "as seen")]`),
			chromedp.WaitVisible(`//*[name()="svg"][@aria-label="PB0 as driven"]`),
			chromedp.Evaluate(`document.querySelector("[data-testid=bench]").scrollIntoView()`, nil))
		picture(t, ctx, "result-as-driven")
	})
	t.Run("results with buses and a backlight", func(t *testing.T) {
		run(t, ctx, chromedp.Navigate("http://"+s.Address+"/submissions/"+marked["bowles-leftover.elf"].ID),
			chromedp.WaitVisible(`[data-testid=bench] svg path`),
			chromedp.Click(`//ul//button[contains(., "3.1")]`),
			chromedp.Click(`//summary[text()="bus log"]`),
			chromedp.WaitVisible(`//td[contains(., "write to 0x27")]`))
		require.Contains(t, text(t, ctx), "set DDRAM address 0x54")
	})
	t.Run("results with lamps and a horn", func(t *testing.T) {
		run(t, ctx, chromedp.Navigate("http://"+s.Address+"/submissions/"+marked["rowe-octave.elf"].ID),
			chromedp.WaitVisible(`[data-testid=bench] svg circle`),
			chromedp.Click(`//ul//button[contains(., "3.5")]`),
			chromedp.WaitVisible(`//*[name()="text"][contains(., "440")]`))
		page := text(t, ctx)
		require.Contains(t, page, "expected 880Hz, saw 440Hz")
		require.Contains(t, page, "horn, expected")
	})
	t.Run("results of a terminal", func(t *testing.T) {
		run(t, ctx, chromedp.Navigate("http://"+s.Address+"/submissions/"+marked["zeller-words.elf"].ID),
			chromedp.WaitVisible(`[data-testid=bench] svg text`))
		require.Contains(t, text(t, ctx), "Gate opened")
	})
	t.Run("source, and what the compiler said", func(t *testing.T) {
		sub, err := c.Submit(t.Context(), class.Name, "boat-lamps", client.Work{Student: "zelnik", File: "lamps.c",
			Data: []byte("#include <avr/io.h>\n\nint main(void)\n{\n\tDDRB = 3\n\tPORTB = 1;\n\tfor (;;)\n\t\t;\n}\n")})
		require.NoError(t, err)
		require.NoError(t, c.Wait(t.Context(), class.Name, "boat-lamps", []string{sub.ID}, func(wire.Submission) {}))
		run(t, ctx, chromedp.Navigate("http://"+s.Address+"/submissions/"+sub.ID),
			chromedp.WaitVisible(`//h2[text()="About the file"]`))
		page := text(t, ctx)
		require.Contains(t, page, "is not a function or function pointer")
		require.Contains(t, page, "lamps.c")
	})
	t.Run("a file that is no firmware", func(t *testing.T) {
		list, err := c.Submissions(t.Context(), class.Name, "chamber-gauge")
		require.NoError(t, err)
		for _, sub := range list {
			if sub.Student == "O. Zelnik" {
				run(t, ctx, chromedp.Navigate("http://"+s.Address+"/submissions/"+sub.ID),
					chromedp.WaitVisible(`//p[contains(., "could not be put on the chip")]`))
			}
		}
	})
}

// result goes through the page that people live in: what went wrong, one click to the first
// difference, stepping, playing.
func result(t *testing.T, ctx context.Context, address string, c *client.Client, id string) {
	r, err := c.Reel(t.Context(), id, 0)
	require.NoError(t, err)
	var label, clock string
	look := chromedp.Tasks{
		chromedp.AttributeValue(`[data-testid=bench] svg`, "aria-label", &label, nil),
		chromedp.Text(`output`, &clock),
	}
	run(t, ctx, chromedp.Navigate("http://"+address+"/submissions/"+id),
		chromedp.WaitVisible(`[data-testid=bench] svg`), look)
	require.Equal(t, "gauge shows -", label)
	require.Equal(t, "0.000 s", clock)
	page := text(t, ctx)
	require.Contains(t, page, "What went wrong")
	require.Contains(t, page, "5 / 10")
	require.Contains(t, page, "One mistake: −4.8")
	require.Contains(t, page, "gauge, expected")
	require.Contains(t, page, "gauge, seen")

	run(t, ctx, chromedp.Click(`[title^="first difference"]`), look)
	require.Equal(t, r.Tracks[0].Frames[1].From.String(), clock)
	require.Equal(t, "gauge shows "+r.Tracks[0].Frames[1].Text, label)

	run(t, ctx, chromedp.Click(`[aria-label^="next state"]`), look)
	require.Equal(t, r.Tracks[0].Frames[2].From.String(), clock)
	run(t, ctx, chromedp.Click(`//button[contains(., "16×")]`), chromedp.Click(`//button[text()="Play"]`),
		chromedp.WaitVisible(`//button[text()="Play"]`), look) // it runs to the end and stops there
	require.Equal(t, r.Length.String(), clock)
	run(t, ctx, chromedp.Click(`[title^="first difference"]`))
}

func TestConsoleInTheDark(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	marked := servicetest.Course(t.Context(), t, c, func(_, file string) bool { return file == "quill-bounce.elf" })
	ctx := browser(t, true)
	signIn(t, ctx, s.Address)
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/submissions/"+marked["quill-bounce.elf"].ID),
		chromedp.WaitVisible(`[data-testid=bench] svg`))
	require.Contains(t, text(t, ctx), "raising by hand")
	var background string
	var clock string
	run(t, ctx, chromedp.Evaluate(`getComputedStyle(document.body).backgroundColor`, &background),
		chromedp.Click(`[title^="first difference"]`), chromedp.Text(`output`, &clock))
	require.Equal(t, "rgb(18, 26, 27)", background)
	r, err := c.Result(t.Context(), marked["quill-bounce.elf"].ID)
	require.NoError(t, err)
	sh := r.Sheet
	first := clockwork.Never
	for _, v := range sh.Trials[1].Verdicts {
		if v.First != nil {
			first = min(first, v.First.At)
		}
	}
	require.Equal(t, first.String(), clock)
}
