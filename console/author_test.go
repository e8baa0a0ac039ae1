package console_test

import (
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/demo"
	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/wire"
)

// written text of the editor.
const editorText = `[...document.querySelectorAll(".cm-line")].map((l) => l.textContent).join("\n")`

// Beside the text of an exercise: its bench drawn, what is wired where, the film strip of the reference, its faults;
// what it shows is recorded into the text, and words are offered that fit their place.
func TestBesideTheText(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	ctx := browser(t, false)
	said := listen(ctx)
	signIn(t, ctx, s.Address)
	said.take()
	tab := func(name string) chromedp.Action {
		return chromedp.Click(`//button[@role="tab"][text()="` + name + `"]`)
	}
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/exercises/boat-lamps"),
		chromedp.WaitVisible(`//*[name()="text"][text()="ATmega328P"]`))
	picture(t, ctx, "editor")
	run(t, ctx, tab("pins"),
		chromedp.WaitVisible(`//tr[td[text()="14"]][td[text()="PB0"]][td[contains(., "red anode")]][td[contains(., "270 Ω")]]`))
	run(t, ctx, tab("firmware"),
		chromedp.WaitVisible(`//section[@aria-label="what it shows"]//p[normalize-space(.)="10 / 10"]`),
		chromedp.WaitVisible(`//span[@aria-label][contains(@aria-label, "red showed on, off, on")]`))
	run(t, ctx, tab("strength"), button("Test with faults"), has("faults caught"))
	require.Contains(t, text(t, ctx), "takes 2 times as long")

	// Another file clears what the last one gave, and a wrong program is told why.
	_, slow, err := demo.Pick("boat-lamps", "oke-half-speed")
	require.NoError(t, err)
	run(t, ctx, tab("firmware"), chromedp.SetUploadFiles(`[role=tabpanel][data-state=active] input[type=file]`,
		written(t, "slow.elf", slow), chromedp.ByQuery), has("Try the reference"), button("Try it"),
		has("first difference at"), has("rounded from"), chromedp.WaitVisible(`//li[contains(., "mistimed, on for")]`))

	// The help puts an example where it belongs.
	var helped string
	run(t, ctx, tab("help"), chromedp.SendKeys(`[aria-label="search the reference"]`, "seven-seg", chromedp.ByQuery),
		chromedp.Click(`//summary[span[text()="seven-segment"]]`), chromedp.WaitVisible(`//details[@open]//img`),
		button("Insert"), chromedp.Evaluate(editorText, &helped))
	assert.Regexp(t, `(?s)bench:.*part: seven-segment.*trials:`, helped)

	x, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	bare, _, _ := strings.Cut(string(x.Text), "    expect:")
	run(t, ctx, tab("firmware"), chromedp.Focus(`.cm-content`, chromedp.ByQuery),
		chromedp.Evaluate(`document.execCommand("selectAll")`, nil), input.InsertText("# kept\n"+bare),
		button("Record expectations"), button("Insert into the text"),
		chromedp.WaitVisible(`//p[contains(., "✓ valid")]`))
	var now string
	run(t, ctx, chromedp.Evaluate(editorText, &now))
	assert.Contains(t, now, "# kept")
	assert.Contains(t, now, "- {shows: red, frames: [on, off")

	run(t, ctx, chromedp.Focus(`.cm-content`, chromedp.ByQuery),
		chromedp.Evaluate(`document.execCommand("selectAll")`, nil), input.InsertText("hemble: 1\nchip: {is: atm"),
		chromedp.WaitVisible(`//ul[@role="listbox"]//li[contains(., "atmega328p")]`, chromedp.BySearch))
	assert.Empty(t, said.take())
}

// What a submission showed is accepted as right, too: previewed, kept, and proposed to be applied.
func TestAcceptingInTheConsole(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	marked := servicetest.Course(t.Context(), t, c, func(x, _ string) bool { return x == "chamber-gauge" })
	ctx := browser(t, false)
	said := listen(ctx)
	signIn(t, ctx, s.Address)
	said.take()
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/submissions/"+marked["tarn-wrong-six.elf"].ID),
		button("Accept as correct…"), chromedp.WaitVisible(`//*[@role="dialog"]//*[name()="svg"]`),
		click(`(//*[@role="dialog"]//button[text()="Preview"])[1]`), has("that stay: 7"),
		chromedp.WaitVisible(`//td[text()="K. Tarn"]`))
	assert.Empty(t, axe(t, ctx, "light"))
	picture(t, ctx, "accept")
	run(t, ctx, confirm("Save and propose marks"), chromedp.WaitVisible(`//td[contains(., "K. Tarn")]`),
		has("9"))
	var kept wire.Exercise
	require.Eventually(t, func() bool { // the preview had the same words
		var err error
		kept, err = c.Exercise(t.Context(), "chamber-gauge")
		return err == nil && kept.Revision == 2
	}, 20*time.Second, 50*time.Millisecond)
	assert.Contains(t, kept.Text, "one-of: [6, ")
	assert.Empty(t, said.take())
}

// With as driven the displays show what is driven, pins are drawn, and the line at work is marked in the source.
func TestEyeOff(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	wrong := "#define F_CPU 16000000UL\n#include <avr/io.h>\n#include <util/delay.h>\n\nint main(void)\n{\n\tDDRB = 3;\n\tfor (;;) {\n\t\tPORTB = 3;\n\t\t_delay_ms(1000);\n\t\tPORTB = 0;\n\t\t_delay_ms(1000);\n\t}\n}\n"
	sub, err := c.Submit(t.Context(), class.Name, "boat-lamps",
		client.Work{Student: "oke", File: "lamps.c", Data: []byte(wrong)})
	require.NoError(t, err)
	require.NoError(t, c.Wait(t.Context(), class.Name, "boat-lamps", []string{sub.ID}, func(wire.Submission) {}))
	ctx := browser(t, false)
	said := listen(ctx)
	signIn(t, ctx, s.Address)
	said.take()
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/submissions/"+sub.ID),
		chromedp.WaitVisible(`[data-testid=bench] svg circle`), chromedp.Click(`[title^="first difference"]`),
		chromedp.Click(`//button[@aria-pressed][contains(., "as seen")]`),
		chromedp.WaitVisible(`//*[name()="svg"][@aria-label="PB0 as driven"]`),
		chromedp.WaitVisible(`//output[contains(., "µs")]`))
	var clock, before string
	run(t, ctx, chromedp.Text(`output`, &before), chromedp.Click(`[aria-label="next change"]`),
		chromedp.Text(`output`, &clock))
	assert.NotEqual(t, before, clock)
	assert.Contains(t, clock, "µs")
	run(t, ctx, chromedp.Evaluate(`document.querySelector("details").open = true`, nil),
		chromedp.WaitReady(`li[aria-current=true]`, chromedp.ByQuery))
	assert.Empty(t, axe(t, ctx, "light"))
	run(t, ctx, chromedp.Click(`//button[@aria-pressed][contains(., "as driven")]`),
		chromedp.WaitNotPresent(`//*[name()="svg"][@aria-label="PB0 as driven"]`))
	run(t, ctx, chromedp.Click(`//ul//button[contains(., "lamps.c")]`),
		chromedp.WaitVisible(`li[aria-current=true]`, chromedp.ByQuery))
	assert.Empty(t, said.take())

	// An axis can be looked at closely, to a microsecond, and as a whole again; by the keyboard, as the source may
	// still scroll to its line under a pointer.
	for _, times := range []string{"2×", "4×"} {
		run(t, ctx, chromedp.SendKeys(`[aria-label=closer]`, kb.Enter, chromedp.ByQuery),
			chromedp.WaitVisible(`//button[text()="`+times+`"]`))
	}
	run(t, ctx, chromedp.SendKeys(`//button[text()="4×"]`, kb.Enter), chromedp.WaitVisible(`//button[text()="whole"]`))
}

// A late file is taken and says what it costs; one after the close is refused, with the reason. Without a connection
// the page says so, and continues when there is one. Nothing moves by itself, reduced motion asked for or not.
func TestLateAndOffline(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	x, right, err := demo.Pick("boat-lamps", "marsh-waits")
	require.NoError(t, err)
	due, closes := time.Now().Add(-time.Hour), time.Now().Add(time.Hour)
	set := wire.SetAssignment{Policy: wire.Policy{Opens: time.Now().Add(-48 * time.Hour), Due: &due, Closes: &closes,
		Late: wire.LatePerDay, PerDay: 10, Counts: wire.CountsBest}}
	_, err = c.Assign(t.Context(), class.Name, x.Name, set)
	require.NoError(t, err)
	ctx := browser(t, false)
	run(t, ctx, emulation.SetEmulatedMedia().WithFeatures([]*emulation.MediaFeature{{Name: "prefers-reduced-motion",
		Value: "reduce"}}))
	signInAs(t, ctx, s.Address, class.Student)
	hand := func(name string, data []byte) chromedp.Action {
		return chromedp.Tasks{chromedp.SetUploadFiles(`label input[name=file]`, written(t, name, data),
			chromedp.ByQuery), chromedp.WaitVisible(`//span[text()="` + name + `"]`),
			chromedp.Click(`//form//button[text()="Submit"]`)}
	}
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/classes/"+class.Name+"/assignments/"+x.Name),
		chromedp.WaitReady(`label input[name=file]`, chromedp.ByQuery), hand("lamps.elf", right),
		chromedp.WaitVisible(`//td[contains(., "late (90 %)")]`),
		chromedp.WaitVisible(`//tr[@data-state="marked"]//a[normalize-space(.)="attempt 1"]`))
	var moving int
	run(t, ctx, chromedp.Evaluate(`document.getAnimations().length`, &moving))
	assert.Zero(t, moving)

	over := time.Now().Add(-time.Minute)
	set.Closes = &over
	_, err = c.Assign(t.Context(), class.Name, x.Name, set)
	require.NoError(t, err)
	other := append([]byte{}, right...)
	run(t, ctx, hand("again.elf", append(other, 0)), has("not accepted: "))

	run(t, ctx, chromedp.Evaluate(`dispatchEvent(new Event("offline"))`, nil), has("You are offline"))
	run(t, ctx, chromedp.Evaluate(`dispatchEvent(new Event("online"))`, nil),
		chromedp.WaitNotPresent(`//p[@role="status"][contains(., "You are offline")]`), chromedp.Reload(),
		has("Your attempts"))
}
