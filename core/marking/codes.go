package marking

import "hemble/core/finding"

// Why there is nothing to judge.
const (
	Firmware finding.Code = "firmware"
	Capture  finding.Code = "capture"
	Build    finding.Code = "build"
	Effort   finding.Code = "effort"
)

func init() {
	finding.Provide(finding.Note, func() []finding.Entry {
		return []finding.Entry{
			{Code: "capture-end", Doc: "a capture ends long before its trial"},
			{Code: "nothing-happened", Doc: "the program never changed anything on the bench"},
		}
	})
	finding.Provide(finding.Refused, func() []finding.Entry {
		return []finding.Entry{
			{Code: Firmware, Doc: "the file could not be programmed into the chip"},
			{Code: Capture, Doc: "the capture could not be read"},
			{Code: Build, Doc: "the source could not be built, or the wiring is not possible"},
			{Code: Effort, Doc: "marking took too long, and was stopped"},
		}
	})
}
