package render

import (
	"encoding/csv"
	"encoding/xml"
	"fmt"
	"io"
	"strings"

	"hemble/core/judge"
	"hemble/core/sheet"
	"hemble/table"
)

// CSV writes a row for each sheet: its marks, the first finding, and the marks of each expectation.
func CSV(w io.Writer, sheets []*sheet.Sheet) error {
	out := csv.NewWriter(w)
	head := []string{"file", "marks", "of", "first finding"}
	for _, s := range sheets { // all are of one exercise; one that did not run has no trials
		if len(s.Trials) > 0 {
			for _, t := range s.Trials {
				for _, v := range t.Verdicts {
					head = append(head, fmt.Sprintf("%s: line %d", t.Name, v.Line))
				}
			}
			break
		}
	}
	if err := out.Write(head); err != nil {
		return err
	}
	for _, s := range sheets {
		row := []string{s.Firmware, s.Marks.String(), s.Of.String(), ""}
		if len(s.Findings) > 0 {
			row[3] = s.Findings[0].Text
		}
		for _, t := range s.Trials {
			for _, v := range t.Verdicts {
				row = append(row, v.Marks.String())
			}
		}
		for len(row) < len(head) {
			row = append(row, "")
		}
		for i, cell := range row {
			row[i] = table.EscapeFormula(cell)
		}
		if err := out.Write(row); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// The elements of JUnit XML that its readers agree on.
type (
	junitSuites struct {
		XMLName xml.Name     `xml:"testsuites"`
		Suites  []junitSuite `xml:"testsuite"`
	}
	junitSuite struct {
		Name     string      `xml:"name,attr"`
		Tests    int         `xml:"tests,attr"`
		Failures int         `xml:"failures,attr"`
		Errors   int         `xml:"errors,attr"`
		Skipped  int         `xml:"skipped,attr"`
		Cases    []junitCase `xml:"testcase"`
	}
	junitCase struct {
		Name    string        `xml:"name,attr"`
		Class   string        `xml:"classname,attr"`
		Failure *junitMessage `xml:"failure,omitempty"`
		Error   *junitMessage `xml:"error,omitempty"`
		Skipped *junitMessage `xml:"skipped,omitempty"`
	}
	junitMessage struct {
		Message string `xml:"message,attr"`
		Text    string `xml:",chardata"`
	}
)

// JUnit writes a test suite for each trial of each sheet, and a test case for each expectation.
func JUnit(w io.Writer, sheets []*sheet.Sheet) error {
	all := junitSuites{}
	for _, s := range sheets {
		if s.Failed != "" {
			all.Suites = append(all.Suites,
				junitSuite{Name: s.Firmware, Tests: 1, Errors: 1,
					Cases: []junitCase{{Name: "runs", Class: s.Firmware, Error: &junitMessage{Message: s.Failed}}}})
			continue
		}
		for _, t := range s.Trials {
			suite := junitSuite{Name: s.Firmware + ": " + t.Name, Tests: len(t.Verdicts)}
			for _, v := range t.Verdicts {
				c := junitCase{Name: fmt.Sprintf("line %d: %s", v.Line, v.Expectation), Class: s.Firmware}
				m := &junitMessage{Message: v.Marks.String() + " of " + v.Of.String() + " marks",
					Text: strings.Join(v.Evidence, "; ")}
				if f := v.First; f != nil {
					m.Text += fmt.Sprintf("\nfirst difference at %s: expected %s, saw %s", f.At, f.Expected, f.Seen)
				}
				switch v.Outcome {
				case judge.Met:
				case judge.NotJudged:
					c.Skipped, suite.Skipped = m, suite.Skipped+1
				default:
					c.Failure, suite.Failures = m, suite.Failures+1
				}
				suite.Cases = append(suite.Cases, c)
			}
			all.Suites = append(all.Suites, suite)
		}
	}
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return err
	}
	e := xml.NewEncoder(w)
	e.Indent("", "  ")
	if err := e.Encode(all); err != nil {
		return err
	}
	_, err := io.WriteString(w, "\n")
	return err
}
