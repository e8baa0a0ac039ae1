package console_test

import (
	"context"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/exercise"
	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/wire"
)

// point is the middle of a control that hands can work, by its part's name.
func point(t *testing.T, part string, x, y *float64) chromedp.Action {
	const middle = `(() => { const li = [...document.querySelectorAll('li')].find(l => l.firstElementChild?.textContent === '`
	find := func(axis string, to *float64) chromedp.Action {
		return chromedp.Evaluate(middle+part+
			`'); const b = li.querySelector('button'); b.scrollIntoView({block: 'center'});
			const r = b.getBoundingClientRect(); return `+map[string]string{"x": "r.x + r.width / 2",
			"y": "r.y + r.height / 2"}[axis]+` })()`, to)
	}
	return chromedp.Tasks{find("x", x), find("y", y)}
}

// An exercise begins with a template, its trial is shown by pointer and by keyboard, its marks are set, its strength is
// seen, and it is assigned: nothing is written but names and the brief.
func TestDemonstrate(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	ctx := browser(t, false)
	signIn(t, ctx, s.Address)
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/exercises"), link("New exercise"),
		chromedp.WaitVisible(`input[name=template]`))
	assert.Empty(t, axe(t, ctx, "light"))
	run(t, ctx, chromedp.Click(`input[value=digit-with-keys]`, chromedp.ByQuery),
		chromedp.WaitVisible(`input[name=title]`),
		chromedp.SetValue(`input[name=title]`, "Paddle height", chromedp.ByQuery),
		chromedp.SetValue(`input[name=name]`, "paddle-height", chromedp.ByQuery),
		button("Make the exercise"),
		chromedp.WaitVisible(`//h1[contains(., "Paddle height: live bench")]`))
	run(t, ctx, shows("paddle", "0"),
		button("Record a trial"), chromedp.WaitVisible(`//button[.="Stop recording"]`),
		chromedp.Poll(`document.querySelector('output')?.textContent.startsWith('0.')`, nil), passes(0.4))

	var x, y float64
	run(t, ctx, point(t, "raise", &x, &y))
	run(t, ctx, input.DispatchMouseEvent(input.MousePressed, x, y).WithButton(input.Left).WithClickCount(1),
		shows("paddle", "1"), passes(0.1),
		input.DispatchMouseEvent(input.MouseReleased, x, y).WithButton(input.Left).WithClickCount(1), passes(0.3))
	var key string
	run(t, ctx, chromedp.AttributeValue(`//li[starts-with(., "lower")]//button`, "aria-keyshortcuts", &key, nil))
	press := func(kind input.KeyType) chromedp.Action {
		return input.DispatchKeyEvent(kind).WithKey(key).WithText(key)
	}
	run(t, ctx, press(input.KeyDown), shows("paddle", "0"), passes(0.1), press(input.KeyUp), passes(0.5))
	run(t, ctx, button("Stop recording"), chromedp.WaitVisible(`//h2[contains(., "as you showed it")]`),
		button("Make a trial of it"),
		chromedp.WaitVisible(`//p[@role="status"][contains(., "Played again, the reference has")][contains(., "✓")]`),
		chromedp.WaitVisible(`//section[@aria-label="strength"]`),
		chromedp.Evaluate(`document.querySelector('[aria-label="the trial as it was shown"]').scrollIntoView()`, nil))
	picture(t, ctx, "demonstrated")
	assert.Empty(t, axe(t, ctx, "light"))
	run(t, ctx, chromedp.SetValue(`input[aria-label="marks for paddle"]`, "", chromedp.ByQuery),
		chromedp.SendKeys(`input[aria-label="marks for paddle"]`, "8\r", chromedp.ByQuery),
		chromedp.WaitVisible(`//p[@role="status"][contains(., "8 / 8")]`),
		chromedp.WaitVisible(`//section[@aria-label="strength"]`),
		button("Save as a new revision"), has("saved as revision 2"))

	saved, err := c.Exercise(t.Context(), "paddle-height")
	require.NoError(t, err)
	read, problems := exercise.Read("exercise.yaml", []byte(saved.Text))
	require.NotNil(t, read, "%v\n%s", problems, saved.Text)
	require.Len(t, read.Trials, 1)
	assert.Len(t, read.Trials[0].Cues, 2, saved.Text)
	assert.Equal(t, "raise", read.Trials[0].Cues[0].Part)
	assert.Equal(t, "lower", read.Trials[0].Cues[1].Part)
	run(t, ctx, chromedp.Click(`//a[starts-with(., "Assign to")]`), chromedp.WaitVisible(`//*[@role="dialog"]`),
		confirm("Assign"), chromedp.WaitNotPresent(`//*[@role="dialog"]`))
	assigned, err := c.Assignments(t.Context(), class.Name)
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(assigned, func(a wire.Assignment) bool { return a.Exercise == "paddle-height" }))
}

// Every template is a whole exercise: its reference runs in the page, what is shown with it becomes a trial on which it
// has full marks, and the strength of that is told.
func TestEveryTemplateIsDemonstrated(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	ctx := browser(t, false)
	signIn(t, ctx, s.Address)
	all, err := c.Templates(t.Context())
	require.NoError(t, err)
	require.Len(t, all, 10)
	for _, one := range all {
		name := "shown-" + one.Name
		run(t, ctx, chromedp.Navigate("http://"+s.Address+"/exercises/new/template"),
			chromedp.WaitVisible(`input[name=template]`),
			chromedp.Click(`input[value="`+one.Name+`"]`, chromedp.ByQuery),
			chromedp.SetValue(`input[name=title]`, one.Title, chromedp.ByQuery),
			chromedp.SetValue(`input[name=name]`, name, chromedp.ByQuery),
			button("Make the exercise"), chromedp.WaitVisible(`//h1[contains(., "live bench")]`),
			button("Record a trial"), chromedp.WaitVisible(`//button[.="Stop recording"]`),
			chromedp.Poll(`document.querySelector('output')?.textContent.startsWith('0.')`, nil), passes(1))
		worked := work(t, ctx)
		run(t, ctx, passes(2.5), button("Stop recording"), chromedp.WaitVisible(`//h2[contains(., "as you showed it")]`),
			button("Make a trial of it"),
			chromedp.WaitVisible(`//p[@role="status"][contains(., "Played again, the reference has")]`),
			chromedp.WaitVisible(`//section[@aria-label="strength"]`))
		var status string
		run(t, ctx, chromedp.Text(`//p[@role="status"][contains(., "Played again")]`, &status),
			button("Save as a new revision"), has("saved as revision 2"))
		assert.Contains(t, status, "✓", one.Name)
		saved, err := c.Exercise(t.Context(), name)
		require.NoError(t, err)
		read, problems := exercise.Read("exercise.yaml", []byte(saved.Text))
		require.NotNil(t, read, "%s: %v", one.Name, problems)
		require.Len(t, read.Trials, 1)
		assert.Equal(t, worked, len(read.Trials[0].Cues) > 0, "%s: what hands did became cues", one.Name)
		assert.NotEmpty(t, read.Trials[0].Expect, one.Name)
	}
}

// work does something to the first part that hands can work, by its key or by typing; false where there is none.
func work(t *testing.T, ctx context.Context) bool {
	var key string
	var typed bool
	run(t, ctx, chromedp.Evaluate(`document.querySelector('li kbd')?.textContent ?? ''`, &key),
		chromedp.Evaluate(`!!document.querySelector('input[aria-label^="type to"]')`, &typed))
	switch {
	case typed:
		run(t, ctx, chromedp.SendKeys(`input[aria-label^="type to"]`, "7\n", chromedp.ByQuery))
	case key != "":
		run(t, ctx, input.DispatchKeyEvent(input.KeyDown).WithKey(key).WithText(key), passes(0.2),
			input.DispatchKeyEvent(input.KeyUp).WithKey(key))
	}
	return typed || key != ""
}
