package wire

import (
	"regexp"
	"time"
)

// stampLayout is how the service writes a time within a text: whole, and in UTC, because it does not know where its
// reader is.
const stampLayout = "2 January 2006 15:04:05 UTC"

// Stamp writes a time within a text.
func Stamp(t time.Time) string { return t.UTC().Format(stampLayout) }

var stamped = regexp.MustCompile(`\b\d{1,2} (January|February|March|April|May|June|July|August|September|October|November|December) \d{4} \d\d:\d\d:\d\d UTC\b`)

// InZone writes the times within a text as they are where its reader is.
func InZone(text string, zone *time.Location) string {
	return stamped.ReplaceAllStringFunc(text, func(s string) string {
		t, err := time.Parse(stampLayout, s)
		if err != nil {
			return s
		}
		return t.In(zone).Format("2 January 2006 15:04:05 MST")
	})
}
