package console_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/demo"
	"hemble/demo/class"
	"hemble/service"
	"hemble/service/servicetest"
	"hemble/wire"
)

func button(text string) chromedp.Action {
	return click(`//button[normalize-space(.)="` + text + `"]`)
}

// confirm is the action of the dialog that is open.
func confirm(text string) chromedp.Action {
	return click(`//*[@role="dialog"]//button[normalize-space(.)="` + text + `"]`)
}

func link(text string) chromedp.Action {
	return click(`//a[normalize-space(.)="` + text + `"]`)
}

// click clicks on what a path finds. A page that still grows can move it away between the look for it and the click,
// which is by a place: what was missed is clicked on again.
func click(path string) chromedp.Action {
	watch := fmt.Sprintf(`window.met = false; document.addEventListener('click', (e) => {
		const all = document.evaluate(%q, document, null, XPathResult.ORDERED_NODE_SNAPSHOT_TYPE, null)
		for (let i = 0; i < all.snapshotLength; i++) window.met ||= all.snapshotItem(i).contains(e.target)
	}, { capture: true, once: true })`, path)
	return chromedp.ActionFunc(func(ctx context.Context) error {
		for {
			missed := false
			if err := chromedp.Run(ctx, chromedp.WaitVisible(path, chromedp.BySearch), chromedp.Evaluate(watch, nil),
				chromedp.Click(path, chromedp.BySearch),
				// where the click led to another page, nothing is left of the watch
				chromedp.Evaluate(`window.met === false`, &missed)); err != nil || !missed {
				return err
			}
		}
	})
}

func fill(name, text string) chromedp.Action {
	return chromedp.SendKeys(`[name="`+name+`"]`, text, chromedp.ByQuery)
}

// has waits until a text stands on the page.
func has(text string) chromedp.Action {
	holds := `contains(normalize-space(.), "` + text + `")`
	return chromedp.WaitVisible(`//body//*[`+holds+` and not(*[`+holds+`])]`, chromedp.BySearch)
}

// written is a file for an upload.
func written(t *testing.T, name string, data []byte) []string {
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, data, 0o600))
	return []string{path}
}

// fetched is what the page's own address gives, with the page's sign-in.
func fetched(t *testing.T, ctx context.Context, selector string) (text string) {
	run(t, ctx, chromedp.Evaluate(`fetch(document.querySelector('`+selector+`').href).then((r) => r.text())`, &text,
		func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) }))
	return text
}

// The whole way of an instructor and a student, from an empty service to an exported gradebook, by the pages alone; the
// two at once, each in a browser of their own.
func TestFromNothingToAGradebook(t *testing.T) {
	requireBuilt(t)
	config := servicetest.Config(t.TempDir())
	config.First.Login = ""
	s, err := service.Start(t.Context(), config)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	url := s.URL(config)
	x, right, err := demo.Pick("boat-lamps", "marsh-waits")
	require.NoError(t, err)
	_, slow, err := demo.Pick("boat-lamps", "oke-half-speed")
	require.NoError(t, err)

	keeper := browser(t, false)
	run(t, keeper, chromedp.Navigate(url+"/setup#"+s.SetUp), chromedp.WaitVisible(`[name=login]`),
		fill("login", "keeper"), fill("name", "I. Keeper"), fill("password", "wherry-lock"), button("Set up"),
		has("Create a class, then add its students"))
	run(t, keeper, button("New class"), chromedp.WaitVisible(`[name=title]`), fill("name", "lock-house"),
		fill("title", "Wherry Lock"), confirm("Create"), has("No students yet"))
	run(t, keeper, button("Import roster…"), chromedp.WaitReady(`[role=dialog] input[type=file]`),
		chromedp.SetUploadFiles(`[role=dialog] input[type=file]`,
			written(t, "roster.csv", []byte("login;name;group\noke;R. Oke;morning\nno good;x;\n"))),
		confirm("Preview"), has("row 3: a login is"), confirm("Import"),
		chromedp.WaitVisible(`//td[text()="R. Oke"]`))
	var code string
	run(t, keeper, button("Create join code"), chromedp.Text(`strong.font-mono`, &code, chromedp.ByQuery))
	require.Regexp(t, `^[A-Z2-9]{4}-[A-Z2-9]{4}$`, code)

	// The exercise is written in the editor; what is wrong is told at its line.
	write := func(text string) chromedp.Action {
		return chromedp.Tasks{chromedp.Focus(`.cm-content`, chromedp.ByQuery),
			chromedp.Evaluate(`document.execCommand("selectAll")`, nil), input.InsertText(text)}
	}
	wrong := strings.Replace(string(x.Text), "part: lamp", "part: lmap", 1)
	run(t, keeper, link("Exercises"), link("Write one"), chromedp.WaitVisible(`.cm-content`, chromedp.ByQuery),
		has("valid"), write(wrong), has("lmap"), has("problems; the first in line"))
	run(t, keeper, write(string(x.Text)), chromedp.WaitVisible(`//p[contains(., "✓ valid")]`), button("Save"),
		has("revision 1"))
	run(t, keeper, link("Classes"), link("Wherry Lock"), button("Assign exercise"),
		chromedp.Click(`//summary[contains(., "Late work")]`), chromedp.WaitVisible(`[name=show_marks]`),
		chromedp.SetValue(`[name=show_marks]`, "on-release", chromedp.ByQuery), confirm("Assign"),
		link("Boat signal lamps"), has("Nothing has been submitted yet"))

	// The student joins by the code, gets a wrong file refused, submits, and does better at the second attempt.
	student := browser(t, false)
	said := listen(student)
	run(t, student, chromedp.Navigate(url+"/join?code="+code), chromedp.WaitVisible(`[name=login]`),
		fill("login", "marsh"), fill("name", "A. Marsh"), fill("password", "wherry-lock"), button("Join"),
		link("Boat signal lamps"), has("You have not submitted yet"))
	said.take()
	hand := func(name string, data []byte) chromedp.Action {
		return chromedp.Tasks{chromedp.SetUploadFiles(`label input[name=file]`, written(t, name, data),
			chromedp.ByQuery), chromedp.WaitVisible(`//span[text()="` + name + `"]`),
			chromedp.Click(`//form//button[text()="Submit"]`)}
	}
	run(t, student, hand("photo.png", []byte("\x89PNG")), has("neither firmware"))
	said.take() // the refusal is in the browser's log, too
	run(t, student, hand("lamps.elf", slow), has("Received as attempt 1"),
		chromedp.WaitVisible(`//tr[@data-state="marked"]//a[normalize-space(.)="attempt 1"]`))
	run(t, student, hand("lamps.elf", right), has("Received as attempt 2"),
		chromedp.WaitVisible(`//tr[@data-state="marked"][.//a[normalize-space(.)="attempt 2"]]//td[contains(., "more met")]`))
	require.NotContains(t, text(t, student), "10 / 10", "marks come with the release")
	run(t, student, chromedp.Evaluate(`document.querySelector("td details").open = true`, nil),
		chromedp.WaitVisible(`//td//li[contains(., "→")][contains(., "✓ met")]`))
	assert.Empty(t, said.take())

	// The instructor has seen it come, changes a mark, comments, releases, and takes the marks out.
	run(t, keeper, chromedp.WaitVisible(`//tr[@data-state="marked"]//td[contains(., "10 / 10")]`)) // without a reload
	run(t, keeper, link("Contact sheet"), chromedp.WaitVisible(`//h2[contains(., "Correct")]`),
		button("Comment"), chromedp.WaitVisible(`[name=text]`), fill("text", "Well timed."), confirm("Send"),
		chromedp.WaitNotPresent(`[role=dialog]`),
		link("A. Marsh"), has("Well timed."), button("Change marks"), chromedp.WaitVisible(`[name=marks]`),
		fill("marks", "9.5"), fill("reason", "the report was late"), confirm("Change"), has("9.5 / 10"))
	run(t, keeper, link("Boat signal lamps"), link("Gradebook"), button("release"),
		chromedp.WaitVisible(`//button[text()="hide"]`), chromedp.WaitVisible(`//td[contains(., "9.5 *")]`))
	assert.Equal(t, "login,name,number,group,boat-lamps,total\nmarsh,A. Marsh,,,9.5,9.5\noke,R. Oke,,morning,,0\n",
		fetched(t, keeper, `a[href$="gradebook.csv"]`))
	run(t, student, chromedp.Reload(), chromedp.WaitVisible(`//td[contains(., "9.5 / 10")]`), link("attempt 2"),
		has("Well timed."))
	require.Contains(t, text(t, student), "I. Keeper")
}

// An assistant marks, and finds no way to the roster, the terms or the audit.
func TestAssistant(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	servicetest.Course(t.Context(), t, c, func(_, file string) bool { return file == "tarn-wrong-six.elf" })
	ctx := browser(t, false)
	signInAs(t, ctx, s.Address, class.Assistant)
	page := func() (s string) {
		run(t, ctx, chromedp.Evaluate(`document.body.innerText`, &s))
		return s
	}
	assert.NotContains(t, page(), "Audit")
	assert.NotContains(t, page(), "Assign exercise")
	run(t, ctx, link("Chamber level gauge"), link("K. Tarn"), button("Change marks"),
		chromedp.WaitVisible(`[name=marks]`), fill("marks", "99"), fill("reason", "too kind"), confirm("Change"),
		has("marks are 0 to 10 here"),
		chromedp.SetValue(`[name=marks]`, "8", chromedp.ByQuery), confirm("Change"), has("8 / 10"))
	assert.NotContains(t, page(), "Terms")
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/classes/"+class.Name+"/audit"),
		has("your account may not do this"))
}

// With the keyboard alone: from signing in to a result, its next moment, and back.
func TestByKeyboard(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	servicetest.Course(t.Context(), t, c, func(_, file string) bool {
		return file == "quill-bounce.elf" ||
			file == "stroud-b-f-swapped.elf"
	})
	ctx := browser(t, false)
	// tabTo continues with Tab until the focus is on something whose text or label begins so.
	tabTo := func(text string) {
		t.Helper()
		for range 120 {
			var on string
			run(t, ctx, chromedp.KeyEvent(kb.Tab),
				chromedp.Evaluate(`(document.activeElement.getAttribute("aria-label") || document.activeElement.innerText || document.activeElement.name || "").trim()`, &on))
			if strings.HasPrefix(on, text) {
				var ringed bool
				run(t, ctx, chromedp.Evaluate(`document.activeElement.matches(":focus-visible")`, &ringed))
				require.True(t, ringed, "where the focus is can be seen")
				return
			}
		}
		require.Fail(t, "the keyboard does not come to "+text)
	}
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/sign-in"), chromedp.WaitVisible(`[name=login]`),
		chromedp.Sleep(200_000_000), chromedp.KeyEvent(class.Instructor), chromedp.KeyEvent(kb.Tab),
		chromedp.KeyEvent(class.Password), chromedp.KeyEvent(kb.Enter),
		chromedp.WaitVisible(`//a[text()="Chamber level gauge"]`))
	tabTo("Chamber level gauge")
	run(t, ctx, chromedp.KeyEvent(kb.Enter), chromedp.WaitVisible(`//a[text()="V. Stroud"]`))
	// From the top of the page ten steps lead to the first submission.
	run(t, ctx, chromedp.Reload(), chromedp.WaitVisible(`//a[text()="V. Stroud"]`))
	steps, there := 0, false
	for ; steps < 10 && !there; steps++ {
		var on string
		run(t, ctx, chromedp.KeyEvent(kb.Tab), chromedp.Evaluate(`document.activeElement.innerText.trim()`, &on))
		if on == "Skip to submissions" {
			run(t, ctx, chromedp.KeyEvent(kb.Enter))
		}
		run(t, ctx, chromedp.Evaluate(`!!document.activeElement.closest("#list a")`, &there))
	}
	assert.True(t, there, "after %d steps", steps)
	run(t, ctx, chromedp.Reload(), chromedp.WaitVisible(`//a[text()="V. Stroud"]`))
	tabTo("V. Stroud")
	run(t, ctx, chromedp.KeyEvent(kb.Enter), chromedp.WaitVisible(`[data-testid=bench] svg`, chromedp.ByQuery))
	tabTo("0.700 s")
	var clock string
	run(t, ctx, chromedp.KeyEvent(kb.Enter), chromedp.Text(`output`, &clock))
	assert.Equal(t, "0.700 s", clock)
	run(t, ctx, chromedp.KeyEvent("p"), has("D. Quill"), chromedp.KeyEvent("n"), has("V. Stroud"))
	tabTo("Change")
	run(t, ctx, chromedp.KeyEvent(kb.Enter), chromedp.WaitVisible(`[role=dialog]`), chromedp.KeyEvent(kb.Escape),
		chromedp.WaitNotPresent(`[role=dialog]`))
}

// Many files at once, in the page: the wrong kind is told first, the doubtful one is chosen by hand.
func TestManyFiles(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	ctx := browser(t, false)
	signIn(t, ctx, s.Address)
	_, data, err := demo.Pick("chamber-gauge", "haq-interrupts")
	require.NoError(t, err)
	_, other, err := demo.Pick("chamber-gauge", "quill-bounce")
	require.NoError(t, err)
	files := append(append(written(t, "haq-gauge.elf", data), written(t, "quil_final.elf", other)...),
		written(t, "report.pdf", []byte("%PDF"))...)
	run(t, ctx, link("Chamber level gauge"), has("Nothing has been submitted yet"),
		chromedp.SetUploadFiles(`label input[type=file][multiple]`, files, chromedp.ByQuery), has("3 files"),
		has("neither firmware"), has("near name: D. Quill"),
		chromedp.SetValue(`[aria-label="student of quil_final.elf"]`, "quill", chromedp.ByQuery),
		chromedp.Evaluate(`document.querySelector('[aria-label="student of quil_final.elf"]').dispatchEvent(new Event("change", {bubbles: true}))`, nil),
		button("Submit 2"), chromedp.WaitVisible(`//tr[@data-state="marked"]//a[text()="S. Haq"]`),
		chromedp.WaitVisible(`//tr[@data-state="marked"]//a[text()="D. Quill"]`))
	list, err := c.SubmissionPage(t.Context(), class.Name, "chamber-gauge", client.Filter{})
	require.NoError(t, err)
	assert.Len(t, list.Items, 2)
	for _, sub := range list.Items {
		assert.Equal(t, wire.Marked, sub.State)
	}
}
