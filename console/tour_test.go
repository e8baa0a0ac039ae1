package console_test

import (
	"os"
	"os/exec"
	"regexp"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"hemble/service"
	"hemble/service/servicetest"
)

const blinking = "#include <avr/io.h>\n#include <util/delay.h>\nint main(void)\n{\n\tDDRB = _BV(5);\n\tfor (;;) {\n\t\tPORTB = _BV(5);\n\t\t_delay_ms(1000);\n\t\tPORTB = 0;\n\t\t_delay_ms(1000);\n\t}\n}\n"

// The steps of docs/tour.md, one after the other, with the exercise that stands there: from an empty service to marks
// in the school's own file.
func TestTheTour(t *testing.T) {
	requireBuilt(t)
	for _, tool := range []string{"avr-gcc", "bwrap"} {
		if _, err := exec.LookPath(tool); err != nil {
			t.Skipf("%s is not installed; `make tools` installs it", tool)
		}
	}
	tour, err := os.ReadFile("../docs/tour.md")
	require.NoError(t, err)
	text := regexp.MustCompile("(?s)```yaml\n(.*?)```").FindSubmatch(tour)
	require.NotNil(t, text)
	config := servicetest.Config(t.TempDir())
	config.First.Login = ""
	s, err := service.Start(t.Context(), config)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	url := s.URL(config)

	// 1 and 2: the set-up link, a class, its roster, a link for a student.
	keeper := browser(t, false)
	run(t, keeper, chromedp.Navigate(url+"/setup#"+s.SetUp), chromedp.WaitVisible(`[name=login]`),
		fill("login", "keeper"), fill("name", "I. Keeper"), fill("password", "wherry-lock"), button("Set up"),
		button("New class"), chromedp.WaitVisible(`[name=title]`), fill("name", "lock-house"),
		fill("title", "Wherry Lock"), confirm("Create"), has("No students yet"),
		button("Import roster…"), chromedp.WaitReady(`[role=dialog] input[type=file]`),
		chromedp.SetUploadFiles(`[role=dialog] input[type=file]`,
			written(t, "roster.csv", []byte("login;name;number\noke;R\xf6sa Oke;4001\n"))),
		confirm("Preview"), has("Windows-1252"), has("Rösa Oke"), confirm("Import"),
		chromedp.WaitVisible(`//td[text()="Rösa Oke"]`))
	var link1 string
	run(t, keeper, button("Link"), chromedp.Text(`[role=status] code`, &link1, chromedp.ByQuery))

	// 3: the exercise of the tour, tried with a program of one's own, saved.
	run(t, keeper, link("Exercises"), link("Write one"), chromedp.WaitVisible(`.cm-content`, chromedp.ByQuery),
		typed(string(text[1])), chromedp.WaitVisible(`//p[contains(., "✓ valid")]`),
		chromedp.Click(`//button[@role="tab"][text()="firmware"]`),
		chromedp.SetUploadFiles(`[role=tabpanel][data-state=active] input[type=file]`,
			written(t, "blink.c", []byte(blinking)), chromedp.ByQuery), button("Try it"),
		chromedp.WaitVisible(`//section[@aria-label="what it shows"]//p[normalize-space(.)="10 / 10"]`),
		button("Save"), has("saved as revision 1"))

	// 4: open it to the class, from where saving led.
	run(t, keeper, link("Assign to Wherry Lock"), has("Assign an exercise to this class"), confirm("Assign"),
		chromedp.WaitVisible(`//a[text()="A signal lamp"]`))

	// 5: the student comes by the link, submits, and sees the marks.
	student := browser(t, false)
	run(t, student, chromedp.Navigate(link1), chromedp.WaitVisible(`[name=password]`), fill("password", "wherry-lock"),
		button("Sign in"), link("A signal lamp"), has("You have not submitted yet"),
		chromedp.SetUploadFiles(`label input[name=file]`, written(t, "main.c", []byte(blinking)), chromedp.ByQuery),
		chromedp.Click(`//form//button[text()="Submit"]`), has("Received as attempt 1"),
		chromedp.WaitVisible(`//tr[@data-state="marked"]//td[contains(., "10 / 10")]`), chromedp.Navigate(url+"/"),
		chromedp.WaitVisible(`//td[contains(., "10 of 10")]`))

	// 6 and 8: the result, and the marks into the school's own file.
	run(t, keeper, link("A signal lamp"), chromedp.WaitVisible(`//tr[@data-state="marked"]`), link("Rösa Oke"),
		has("10 / 10"),
		link("A signal lamp"), link("Gradebook"), button("release"),
		chromedp.WaitVisible(`//button[text()="hide"]`),
		button("Fill in school file…"),
		chromedp.SetUploadFiles(`[role=dialog] input[type=file]`,
			written(t, "school.csv", []byte("Nr;Gr\xf6\xdfe;Lab 1\r\n4001;\"1,80\";\r\n"))),
		has("“Nr” identifies students: 1 of 1"),
		chromedp.SetValue(`[role=dialog] [name=column]`, "Lab 1", chromedp.ByQuery), confirm("Fill in"),
		has("1 marks filled in"))
}
