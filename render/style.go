package render

// Style writes the roles of look: with colour where the terminal has it, plain otherwise.
type Style struct {
	Colour bool
	Width  int // columns
}

func (s Style) in(code, text string) string {
	if !s.Colour || text == "" {
		return text
	}
	return "\x1b[" + code + "m" + text + "\x1b[0m"
}

func (s Style) met(t string) string    { return s.in("32", t) }
func (s Style) partly(t string) string { return s.in("33", t) }
func (s Style) missed(t string) string { return s.in("31", t) }
func (s Style) second(t string) string { return s.in("2", t) }
func (s Style) title(t string) string  { return s.in("1", t) }
