package console_test

import (
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/wire"
)

// A student tries a firmware before it is submitted, and checks it in the page; no attempt is used.
func TestPractice(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	_, err := c.Assign(t.Context(), class.Name, "lock-tally", wire.SetAssignment{Policy: wire.Policy{
		Opens: time.Now().Add(-time.Hour), ShowSheet: wire.AtOnce, ShowMarks: wire.AtOnce}})
	require.NoError(t, err)
	ctx := browser(t, false)
	signInAs(t, ctx, s.Address, class.Student)
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/classes/"+class.Name+"/assignments/lock-tally"),
		link("Try it on the live bench"), chromedp.WaitVisible(`//h1[contains(., "live bench")]`),
		chromedp.SetUploadFiles(`input[type=file]`, []string{firmware(t, "lock-tally", "keane-debounced.elf")},
			chromedp.ByQuery), shows("right", "0"), button("Check it here"),
		chromedp.WaitVisible(`//section[@aria-label="what it shows"]`))
	assert.Contains(t, text(t, ctx), "Hidden trials")
	assert.Empty(t, axe(t, ctx, "light"))
	var sheet string
	run(t, ctx, chromedp.Text(`section[aria-label="what it shows"] p`, &sheet, chromedp.ByQuery))
	assert.Regexp(t, `^(\S+) / (\S+)`, sheet)
	list, err := servicetest.SignIn(t, s.Address, class.Student, class.Password).Submissions(t.Context(), class.Name,
		"lock-tally")
	require.NoError(t, err)
	assert.Empty(t, list)
}

// Who marks continues a submission by hand from the moment that is shown, and works its keys from there.
func TestContinue(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	marked := servicetest.Course(t.Context(), t, c, func(x, file string) bool {
		return x == "lock-tally" && file == "keane-debounced.elf"
	})
	sub, ok := marked["keane-debounced.elf"]
	require.True(t, ok)
	ctx := browser(t, false)
	signIn(t, ctx, s.Address)
	run(t, ctx, chromedp.Navigate("http://"+s.Address+"/submissions/"+sub.ID+"?trial=0&at=2.5"),
		button("Continue by hand from here"),
		chromedp.WaitVisible(`//p[contains(., "continued by hand from 2.500 s")]`),
		chromedp.Poll(`parseFloat(document.querySelector('output')?.textContent ?? 0) > 2.5`, nil))
	press := func(kind input.KeyType) chromedp.Action {
		return input.DispatchKeyEvent(kind).WithKey("b").WithText("b")
	}
	run(t, ctx, shows("right", "4"), press(input.KeyDown), shows("right", "5"), press(input.KeyUp), passes(2))
	run(t, ctx, shows("right", "5"))
}
