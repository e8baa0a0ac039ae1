package display

// Plain is what most types do alike; they embed it.
type Plain struct{}

// Traits are none.
func (Plain) Traits() Traits { return Traits{} }

// Short says no less than Describe.
func (Plain) Short(*Track, State) string { return "" }

// Alike goes by the words.
func (Plain) Alike(t *Track, a, b State) bool { return SameWords(t, a, b) }

// Keys are none.
func (Plain) Keys() []Key { return nil }

// Spell takes the words that tell a state.
func (Plain) Spell(t *Track, s State) []string { return []string{t.Describe(s)} }

// Mistakes are none.
func (Plain) Mistakes() []*Mistake { return nil }

// Symptoms are none.
func (Plain) Symptoms() []*Symptom { return nil }
