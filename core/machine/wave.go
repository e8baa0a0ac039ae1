package machine

// MostKept is how many edges that nobody answers a core keeps before it hands them over.
const MostKept = 256

// A wave is what pins do again and again without the program, as by PWM. Where many periods of it are to be told, a
// core tells one that changed nothing but when things happen, and how often it comes again (Config.Repeat).
const (
	FewPeriods = 4       // are told one by one
	LongPeriod = 1 << 22 // cycles of a period that is looked at, at most
	LongWave   = 4_096   // edges of one
)

// Together is after how many cycles two waves, of periods in cycles, do the same again.
func Together(a, b int64) int64 {
	x, y := a, b
	for y != 0 {
		x, y = y, x%y
	}
	return a / x * b
}
