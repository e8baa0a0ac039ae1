package marking

import "hemble/core/finding"

func init() {
	finding.Provide(finding.Note, func() []finding.Entry {
		return []finding.Entry{
			{Code: "capture-end", Doc: "a capture ends long before its trial"},
			{Code: "nothing-happened", Doc: "the program never changed anything on the bench"},
		}
	})
}
