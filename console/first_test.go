package console_test

import (
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/demo"
	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/wire"
)

// typed puts a text in the place of the whole of the editor's.
func typed(text string) chromedp.Action {
	return chromedp.Tasks{chromedp.WaitVisible(`.cm-content`, chromedp.ByQuery),
		chromedp.Focus(`.cm-content`, chromedp.ByQuery),
		chromedp.KeyEvent("a", chromedp.KeyModifiers(input.ModifierCtrl)), chromedp.Sleep(100 * time.Millisecond),
		input.InsertText(text), chromedp.Sleep(100 * time.Millisecond)}
}

// Of two who change an exercise at once the second is shown the difference and asked; a taken name is refused; what was
// not saved is offered again after a reload.
func TestWritingTogether(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	x, err := demo.Find("boat-lamps")
	require.NoError(t, err)
	old := string(x.Text)
	theirs := strings.Replace(old, "title: Boat signal lamps", "title: Boat lamps", 1)
	mine := strings.Replace(old, "at: 13s", "at: 12.9s", 1)
	require.NotEqual(t, old, mine)
	url := "http://" + s.Address

	ctx := browser(t, false)
	signIn(t, ctx, s.Address)
	run(t, ctx, chromedp.Navigate(url+"/exercises/boat-lamps"), chromedp.WaitVisible(`//p[contains(., "✓ valid")]`),
		typed(mine))
	_, err = c.PutExercise(t.Context(), "boat-lamps", []byte(theirs))
	require.NoError(t, err)
	run(t, ctx, button("Save as a new revision"), has("saved revision 2 while you wrote"), has("title: Boat lamps"),
		has("at: 12.9s"))
	now, err := c.Exercise(t.Context(), "boat-lamps")
	require.NoError(t, err)
	assert.Equal(t, theirs, now.Text, "nothing was written over")
	run(t, ctx, button("Save mine as revision 3"), has("saved as revision 3"), has("still uses revision 1"))

	// Leaving asks; what was written is offered when one comes back, and after a reload.
	draft := strings.Replace(mine, "at: 12.9s", "at: 12.8s", 1)
	run(t, ctx, typed(draft), chromedp.Sleep(500*time.Millisecond), link("All exercises"), has("Leave without saving?"),
		button("Leave"), chromedp.WaitVisible(`//h1[text()="Exercises"]`),
		chromedp.Navigate(url+"/exercises/boat-lamps"), has("was not saved"), button("Restore it"), has("at: 12.8s"))

	// A taken name is refused with a free one.
	run(t, ctx, chromedp.Evaluate(`onbeforeunload = null`, nil), link("All exercises"), button("Leave"),
		link("Write one"), typed(strings.Replace(old, "marks: ", "marks: ", 1)),
		chromedp.WaitVisible(`//p[contains(., "✓ valid")]`), button("Save"),
		has("boat-lamps-2 is free"))
	now, err = c.Exercise(t.Context(), "boat-lamps")
	require.NoError(t, err)
	assert.Equal(t, 3, now.Revision)
	run(t, ctx, typed(strings.Replace(old, "name: boat-lamps", "name: boat-lamps-2", 1)),
		chromedp.Sleep(500*time.Millisecond), button("Save"), has("saved as revision 1"),
		link("Assign to "+class.Title), has("Assign an exercise to this class"), confirm("Assign"),
		chromedp.WaitVisible(`//a[contains(@href, "assignments/boat-lamps-2")]`))
}

// Links are made for everybody who has none, each to be copied; those that were given out stay.
func TestLinksForAll(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	require.NoError(t, class.Set(t.Context(), c, time.Now()))
	ctx := browser(t, false)
	signIn(t, ctx, s.Address)
	run(t, ctx, link("Members"), chromedp.Click(`//button[contains(., "Create links for all")]`),
		has("Each signs its student in once"), chromedp.WaitVisible(`//button[@aria-label="copy the link of R. Oke"]`))
	var saved string
	run(t, ctx, chromedp.Evaluate(`decodeURIComponent(document.querySelector('a[download$="links.csv"]').href)`,
		&saved))
	assert.Contains(t, saved, "login,name,group,link\r\n")
	assert.Regexp(t, `"oke","R\. Oke","[a-z]*","http://`, saved)
	run(t, ctx, button("Close"), chromedp.Click(`//button[contains(., "Create links for all")]`),
		has("already have links, which are still valid"), has("0 links"))
}

// A session that ends under somebody's hands is begun again in place, with all that was written; a page of one person
// notices that another has signed in beside it, and does nothing in that name.
func TestSessionsInPlace(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	marked := servicetest.Course(t.Context(), t, c,
		func(x, f string) bool { return x == "chamber-gauge" && strings.HasPrefix(f, "tarn") })
	id := marked["tarn-wrong-six.elf"].ID
	url := "http://" + s.Address
	ctx := browser(t, false)
	signIn(t, ctx, s.Address)
	end := chromedp.Evaluate(`fetch("/api/v1/session", {method: "DELETE"}).then(() => 1)`, nil, awaited)
	run(t, ctx, chromedp.Navigate(url+"/submissions/"+id), button("Comment"), chromedp.WaitVisible(`[name=text]`),
		fill("text", "Look at the six."), end, confirm("Send"), has("Sign in again"))
	run(t, ctx, chromedp.SendKeys(`//div[.//h2[text()="Sign in again"]]//input[@name="password"]`, class.Password+"\r"),
		chromedp.WaitNotPresent(`//h2[text()="Sign in again"]`), confirm("Send"), has("Look at the six."))
	result, err := c.Result(t.Context(), id)
	require.NoError(t, err)
	require.Len(t, result.Comments, 1)

	// In another tab a student signs in.
	require.NoError(t,
		c.PutMember(t.Context(), class.Name, class.Student, wire.SetMember{Name: "A. Marsh", Role: wire.Student}))
	run(t, ctx, button("Comment"), chromedp.WaitVisible(`[name=text]`), fill("text", "In whose name?"),
		chromedp.Evaluate(`fetch("/api/v1/session", {method: "POST", headers: {"Content-Type": "application/json"}, body: JSON.stringify({login: "`+
			class.Student+`", password: "`+class.Password+`"})}).then((r) => r.status)`, nil, awaited),
		confirm("Send"), has("Somebody else is signed in"), has("nothing on it was done in the other name"))
	result, err = c.Result(t.Context(), id)
	require.NoError(t, err)
	assert.Len(t, result.Comments, 1)
	load(t, ctx, button("Continue as the other person"))
	run(t, ctx, chromedp.WaitVisible(`//a[text()="A. Marsh"]`))
}
