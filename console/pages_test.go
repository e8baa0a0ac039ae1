package console_test

import (
	"context"
	"fmt"
	"os"
	"slices"
	"strings"
	"sync"
	"testing"

	cdplog "github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/wire"
)

// complaints collects what a page's own console says.
type complaints struct {
	lock sync.Mutex
	list []string
}

func listen(ctx context.Context) *complaints {
	c := &complaints{}
	add := func(format string, args ...any) {
		c.lock.Lock()
		defer c.lock.Unlock()
		c.list = append(c.list, fmt.Sprintf(format, args...))
	}
	chromedp.ListenTarget(ctx, func(event any) {
		switch e := event.(type) {
		case *runtime.EventExceptionThrown:
			add("exception: %s", e.ExceptionDetails.Error())
		case *runtime.EventConsoleAPICalled:
			if e.Type == runtime.APITypeError || e.Type == runtime.APITypeWarning {
				for _, a := range e.Args {
					add("%s: %s", e.Type, a.Value)
				}
			}
		case *cdplog.EventEntryAdded:
			if e.Entry.Level == cdplog.LevelError {
				add("log: %s %s", e.Entry.Text, e.Entry.URL)
			}
		}
	})
	return c
}

func (c *complaints) take() []string {
	c.lock.Lock()
	defer c.lock.Unlock()
	out := c.list
	c.list = nil
	return out
}

// axe returns what axe-core finds on the page as it is (WCAG 2.2 A and AA, and good practice), but for what is minor;
// in the dark only of its colours, on a phone only of the sizes of what is touched: all else is as it is in the light.
func axe(t *testing.T, ctx context.Context, look string) []string {
	what := map[string]string{"light": `"wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"`}[look]
	options := `{runOnly: [` + what + `]}`
	if what == "" {
		options = `{runOnly: {type: "rule", values: ["` + map[string]string{"dark": "color-contrast",
			"phone": `target-size", "scrollable-region-focusable`}[look] + `"]}}`
	}
	script, err := os.ReadFile("node_modules/axe-core/axe.min.js")
	require.NoError(t, err)
	var found []string
	run(t, ctx, chromedp.Evaluate(string(script)+"; 0", nil),
		chromedp.Evaluate(`axe.run(document, `+options+`).then((r) => r.violations.filter((v) => v.impact !== "minor")
		.map((v) => v.id + ": " + v.help + ": " + v.nodes.slice(0, 3).map((n) => n.html.slice(0, 160)).join(" | ")))`,
			&found, func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) }))
	return found
}

// place is a page and what is on it once it is there.
type place struct{ name, path, ready string }

func instructorsPlaces(submission string) []place {
	at := "/classes/" + class.Name
	gauge := at + "/assignments/chamber-gauge"
	return []place{
		{"class", at, `//a[text()="Chamber level gauge"]`}, {"submissions", gauge, `//a[text()="V. Stroud"]`},
		{"contact-sheet", gauge + "/look-alikes", `//li//*[name()="svg"]`},
		{"overview", gauge + "/overview", `//h2[text()="Causes found"]`},
		{"proposals", gauge + "/proposals", `//button[text()="Mark again"]`},
		{"similar-code", gauge + "/similar-code", `//ol/li`},
		{"policy", gauge + "/policy", `//button[text()="Save"]`},
		{"gradebook", at + "/gradebook", `//th[text()="V. Stroud"]`},
		{"members", at + "/members", `//td[text()="V. Stroud"]`},
		{"libraries", at + "/libraries", `//td[text()="GateDigits"]`},
		{"audit", at + "/audit", `//li[contains(., "imported a roster")]`},
		{"library", "/exercises", `//a[text()="Chamber level gauge"]`},
		{"editor", "/exercises/chamber-gauge", `//p[contains(., "valid")]`},
		{"live-bench", "/exercises/chamber-gauge/bench", `//h1[contains(., "live bench")]`},
		{"templates", "/exercises/new/template", `//input[@name="template"]`},
		{"continued", "/submissions/" + submission + "/bench?trial=0&at=1", `[data-testid="live bench"] svg`},
		{"account", "/account", `//td[contains(., "this session")]`},
		{"administration", "/administration", `//h2[text()="Accounts"]`},
		{"classes", "/classes", `//a[text()="` + class.Title + `"]`},
		{"result", "/submissions/" + submission, `[data-testid=bench] svg`},
		{"nowhere", "/no/such/page", `//h1[contains(., "nothing at this address")]`},
	}
}

func (p place) wait() chromedp.Action {
	if strings.HasPrefix(p.ready, "//") {
		return chromedp.WaitVisible(p.ready)
	}
	return chromedp.WaitVisible(p.ready, chromedp.ByQuery)
}

// Every page, in light and dark and on a phone: it comes, says nothing in the browser's console, has nothing that
// axe-core finds serious, and on a phone does not scroll sideways as a whole.
func TestEveryPage(t *testing.T) {
	requireBuilt(t)
	s, c := servicetest.Start(t, t.TempDir())
	marked := servicetest.Course(t.Context(), t, c, func(x, _ string) bool { return x == "chamber-gauge" })
	id := marked["stroud-b-f-swapped.elf"].ID
	require.NoError(t,
		c.PutMember(t.Context(), class.Name, class.Student, wire.SetMember{Name: "A. Marsh", Role: wire.Student}))
	for _, look := range []string{"light", "dark", "phone"} {
		t.Run(look, func(t *testing.T) {
			ctx := browser(t, look == "dark")
			if look == "phone" {
				run(t, ctx, chromedp.EmulateViewport(360, 740, chromedp.EmulateMobile))
			}
			said := listen(ctx)
			run(t, ctx, chromedp.Navigate("http://"+s.Address+"/join"), chromedp.WaitVisible(`input[name=code]`))
			said.take() // that nobody is signed in
			assert.Empty(t, axe(t, ctx, look), "join")
			visit := func(p place) {
				run(t, ctx, chromedp.Navigate("http://"+s.Address+p.path), p.wait())
				pictureOf(t, ctx, look, p.name)
				if look == "light" && slices.Contains([]string{"contact-sheet", "gradebook", "student-exercise"},
					p.name) {
					picture(t, ctx, p.name)
				}
				if look == "phone" {
					var wide bool
					run(t, ctx, chromedp.Evaluate(`document.documentElement.scrollWidth > innerWidth + 1`, &wide))
					assert.False(t, wide, "%s scrolls sideways", p.name)
				}
				assert.Empty(t, axe(t, ctx, look), p.name)
				assert.Empty(t, said.take(), p.name)
			}
			signIn(t, ctx, s.Address)
			said.take()
			for _, p := range instructorsPlaces(id) {
				visit(p)
			}
			run(t, ctx, chromedp.Click(`//button[text()="Sign out"]`), chromedp.WaitVisible(`input[name=login]`))
			signInAs(t, ctx, s.Address, class.Student)
			said.take()
			visit(place{"student-class", "/classes/" + class.Name, `//a[text()="Chamber level gauge"]`})
			visit(place{"student-exercise", "/classes/" + class.Name + "/assignments/chamber-gauge",
				`//h2[text()="Task"]`})
			visit(place{"practice", "/classes/" + class.Name + "/assignments/chamber-gauge/bench",
				`//h1[contains(., "live bench")]`})
		})
	}
}

// pictureOf keeps a picture of a page for somebody to look at, where HEMBLE_LOOKS names a folder.
func pictureOf(t *testing.T, ctx context.Context, look, name string) {
	if dir := os.Getenv("HEMBLE_LOOKS"); dir != "" {
		var png []byte
		run(t, ctx, chromedp.Sleep(400_000_000), chromedp.CaptureScreenshot(&png))
		require.NoError(t, os.WriteFile(dir+"/"+look+"-"+name+".png", png, 0o644))
	}
}
