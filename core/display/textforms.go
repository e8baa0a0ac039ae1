package display

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"hemble/core/finding"
)

// TextForms are the mistakes within a text, of its numbers, times and rows, each a rule that holds for every text.
var TextForms = []*Mistake{
	{
		Entry: finding.Entry{Code: "leading-zeros", Price: finding.Form,
			Doc:   "leading zeros are shown where blanks are expected, or the reverse",
			Catch: "show a number that does not fill the display"},
		Once: true,
		Sizes: func(c *Case) []Size {
			out := rule(c, byRow(func(row string) string { return afterColon.ReplaceAllString(row, ":0$1$2") }),
				"%s leaves out the zero behind a colon: %q for %q.")
			for _, filler := range []string{" ", ""} {
				out = append(out, rule(c, byRow(func(row string) string { return unpadded(row, filler) }),
					"%s shows zeros before its numbers: %q for %q.")...)
			}
			for width := 2; width <= 4; width++ {
				out = append(out, rule(c, byRow(func(row string) string { return padded(row, width) }),
					"%s leaves out the zeros before its numbers: %q for %q.")...)
			}
			return out
		},
	},
	{
		Entry: finding.Entry{Code: "plain-seconds", Price: finding.Constant, Vague: true,
			Doc:   "a time is shown as a plain number of seconds, or minutes, where m:ss is expected",
			Catch: "show a time of more than a minute"},
		Once: true,
		Sizes: func(c *Case) []Size {
			out := rule(c, byRow(ofTheMinute),
				"%s shows all seconds behind the colon, where those of the minute are expected: %q for %q.")
			return append(out, rule(c, byRow(asTime),
				"%s shows a plain number where minutes and seconds are expected: %q for %q.")...)
		},
	},
	{
		Entry: finding.Entry{Code: "texts-swapped", Price: finding.Constant, Vague: true,
			Doc: "two texts, numbers or tones are exchanged"},
		Once: true,
		Sizes: func(c *Case) []Size {
			return rule(c, numbersExchanged, "The two numbers on %s are exchanged: %q for %q.")
		},
	},
	overwritten,
}

// clockTime is m:ss of a time of minutes.
var clockTime = regexp.MustCompile(`\b[0-9]{1,2}:[0-9]{2}\b`)

var afterColon = regexp.MustCompile(`:([0-9])([^0-9]|$)`)

// padded is a row whose whole numbers have zeros before them, up to a width, in the place of spaces where there are
// enough to leave one.
func padded(row string, width int) string {
	out, last := "", 0
	for _, at := range Number.FindAllStringIndex(row, -1) {
		before, number := row[last:at[0]], row[at[0]:at[1]]
		last = at[1]
		if more := width - len(number); more > 0 && !strings.HasSuffix(before, ".") && !strings.HasSuffix(before, ",") &&
			!strings.HasSuffix(before, ":") {
			room := strings.Repeat(" ", more)
			if strings.HasSuffix(before, room+" ") || strings.HasSuffix(before, ":"+room) {
				before = before[:len(before)-more]
			}
			number = strings.Repeat("0", more) + number
		}
		out += before + number
	}
	return out + row[last:]
}

// ofTheMinute leaves of the seconds behind a colon those that are not in its minutes.
func ofTheMinute(row string) string {
	return clockTime.ReplaceAllStringFunc(row, func(s string) string {
		m, seconds, _ := strings.Cut(s, ":")
		a, _ := strconv.Atoi(m)
		b, _ := strconv.Atoi(seconds)
		return fmt.Sprintf("%s:%02d", m, ((b-60*a)%100+100)%100)
	})
}

// asTime makes minutes and seconds of the numbers of a row.
func asTime(row string) string {
	if strings.Contains(row, ":") {
		return row
	}
	return Number.ReplaceAllStringFunc(row, func(s string) string {
		n, err := strconv.Atoi(s)
		if err != nil {
			return s
		}
		return fmt.Sprintf("%d:%02d", n/60, n%60)
	})
}

// numbersExchanged exchanges the numbers of a text that has two.
func numbersExchanged(rows []string) []string {
	text := strings.Join(rows, "\n")
	all := Number.FindAllStringIndex(text, 3)
	if len(all) != 2 {
		return rows
	}
	a, b := all[0], all[1]
	text = text[:a[0]] + text[b[0]:b[1]] + text[a[1]:b[0]] + text[a[0]:a[1]] + text[b[1]:]
	return strings.Split(text, "\n")
}

// byRow changes each row.
func byRow(f func(string) string) func(rows []string) []string {
	return func(rows []string) []string {
		out := slices.Clone(rows)
		for i := range out {
			out[i] = f(out[i])
		}
		return out
	}
}

// rule gives a change of the rows of a text where it makes some wrong state the one that was wanted. Spaces at the end
// of a row do not count. What is told has the display's name, a row that was seen, and the wanted one.
func rule(c *Case, change func([]string) []string, text string) []Size {
	lettered, _ := As[Lettered](c.Geometry)
	trimmed := byRow(func(s string) string { return strings.TrimRight(s, " ") })
	for _, p := range c.Pairs {
		if !p.Wrong {
			continue
		}
		seen, want := lettered.Rows(p.On, p.Seen), trimmed(lettered.Rows(p.On, p.Want))
		if !slices.Equal(trimmed(change(seen)), want) || slices.Equal(trimmed(seen), want) {
			continue
		}
		i := 0
		for strings.TrimRight(seen[i], " ") == want[i] {
			i++
		}
		return []Size{{Text: fmt.Sprintf(text, c.Name, strings.TrimSpace(seen[i]), strings.TrimSpace(want[i])),
			State: func(t *Track, s State) State {
				rows := lettered.Rows(t, s)
				changed := change(rows)
				if slices.Equal(rows, changed) {
					return s
				}
				if g := t.Geometry.Grid; g != nil { // a row keeps its width
					for k := range changed {
						r := []rune(changed[k] + strings.Repeat(" ", g.Columns))
						changed[k] = string(r[:g.Columns])
					}
				}
				return lettered.WithRows(t, s, changed)
			}}}
	}
	return nil
}
