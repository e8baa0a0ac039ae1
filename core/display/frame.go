package display

import (
	"slices"
	"strings"
	"sync"

	"go.yaml.in/yaml/v3"

	"hemble/core/clock"
	"hemble/core/glyph"
	"hemble/core/spec"
)

// Named is a display with the name that an exercise has for it.
type Named struct {
	Name     string
	Geometry Geometry
}

// Written is a frame of an exercise file, to be read for a display.
type Written struct {
	Named
	spec.Value
	Map    spec.Values // of a mapping
	Text   string
	Strict bool // only the usual pattern of each symbol will do
}

// Has reports whether the frame is a mapping with a key.
func (w Written) Has(key string) bool { return w.Map.Has(key) }

// List gives the texts of a key's list.
func (w Written) List(key string) (out []string) {
	for _, v := range w.Map.Get(key).List {
		out = append(out, v.Text)
	}
	return out
}

// Key is what a frame may have, written as a mapping, on displays of some types.
type Key struct {
	spec.Field
	Refused string // what is told of it on a display of another type: %q is its name
	Beside  bool   // it goes beside what the frame shows, and is not that itself
	Alone   bool   // it may also be all that a frame has
}

// The keys that several types have.
var (
	KeyRows = Key{spec.Field{Name: "rows", Kind: spec.List, Of: &spec.Field{Name: "row", Kind: spec.Text},
		Doc: "the text of each row of a character display, or of the lines of text on a graphic one"},
		"%q has no rows of text", false, false}
	KeyBitmap = Key{spec.Field{Name: "bitmap", Kind: spec.List, Of: &spec.Field{Name: "row", Kind: spec.Text},
		Doc: "rows of # for lit and . for dark dots: the whole of a matrix, or a picture that is anywhere on a graphic display"},
		"%q has no dots; a bitmap goes with a matrix or a graphic display", false, false}
)

var (
	fieldOneOf = spec.Field{Name: "one-of", Kind: spec.List, Of: &spec.Field{Name: "frame", Kind: spec.Frame},
		Doc: "any of several frames is right"}
	fieldFor = spec.Field{Name: "for", Kind: spec.Text,
		Doc: "how long this frame lasts, in place of `each`; `any` for any time"}
)

// FieldText is what a frame written as a mapping shows, where that is one text.
var FieldText = spec.Field{Name: "text", Kind: spec.Text, Doc: "what is shown, as in a plain frame"}

// CommonFields are those that a frame written as a mapping may have on any display.
var CommonFields = []spec.Field{fieldFor, fieldOneOf}

// keys are those of all types, each once.
var keys = sync.OnceValue(func() (out []Key) {
	for _, t := range Types() {
		for _, k := range t.Keys() {
			if !slices.ContainsFunc(out, func(o Key) bool { return o.Name == k.Name }) {
				out = append(out, k)
			}
		}
	}
	return out
})

// FrameFields are those of a frame that is written as a mapping.
var FrameFields = sync.OnceValue(func() []spec.Field {
	out := []spec.Field{FieldText}
	for _, k := range keys() {
		out = append(out, k.Field)
	}
	return append(out, fieldOneOf, fieldFor)
})

// AnyLength is the length of a frame that may last as long as it likes.
const AnyLength = clock.Time(-1)

// ReadFrame reads a frame for a display: nil where it cannot be read, which is told. The length is 0 where none is
// written.
func ReadFrame(v spec.Value, d Named, strict bool, ps *spec.Problems) (Matcher, clock.Time) {
	t, w := d.Geometry.Type(), Written{Named: d, Value: v, Text: v.Text, Strict: strict}
	if v.Node.Kind != yaml.MappingNode {
		return t.Read(w, ps), 0
	}
	if own, ok := t.(Composed); ok {
		return own.ReadMapping(w, ps)
	}
	w.Map = spec.Decode(v.Node, FrameFields(), ps)
	w.Text = w.Map.Text("text")
	var shown []string // the keys that say what is shown
	beside, alone := false, false
	for _, name := range []string{"text", "one-of"} {
		if w.Has(name) {
			shown = append(shown, name)
		}
	}
	var refused *Key
	for _, k := range keys() {
		switch {
		case !w.Has(k.Name):
			continue
		case !slices.ContainsFunc(t.Keys(), func(own Key) bool { return own.Name == k.Name }):
			refused = &k
		}
		if alone = alone || k.Alone; k.Beside {
			beside = true
		} else {
			shown = append(shown, k.Name)
		}
	}
	if len(shown) != 1 && (len(shown) > 0 || !alone) {
		ps.Add(v.Pos, "a frame has one of text, %sone-of", showing())
		return nil, 0
	}
	length := ReadLength(w.Map.Get("for"), ps)
	switch {
	case refused != nil:
		ps.Add(v.Pos, refused.Refused, d.Name)
		return nil, length
	case w.Has("one-of") && !beside:
		return ReadAny(w.Map.Get("one-of"), d, strict, ps), length
	}
	return t.Read(w, ps), length
}

// showing lists the keys of types that say what is shown, as a sentence has them.
func showing() string {
	var names []string
	for _, k := range keys() {
		if !k.Beside {
			names = append(names, k.Name)
		}
	}
	return strings.Join(names, ", ") + " and "
}

// ReadLength reads how long a frame lasts; 0 where nothing is written.
func ReadLength(f spec.Value, ps *spec.Problems) clock.Time {
	switch f.Text {
	case "":
		return 0
	case "any":
		return AnyLength
	}
	t, err := clock.Parse(f.Text)
	if err != nil || t == 0 {
		ps.Add(f.Pos, "%q is not a time; write one such as 250ms, or any", f.Text)
	}
	return t
}

// ReadRows reads rows of text that are written by themselves, as a list.
func ReadRows(v spec.Value, d Named, ps *spec.Problems) Matcher {
	if !slices.ContainsFunc(d.Geometry.Type().Keys(), func(k Key) bool { return k.Name == KeyRows.Name }) {
		ps.Add(v.Pos, KeyRows.Refused, d.Name)
		return nil
	}
	return d.Geometry.Type().Read(Written{Named: d, Value: v, Map: spec.Values{Pos: v.Pos}.With(KeyRows.Name, v)}, ps)
}

// ReadBitmap reads the picture of a frame.
func ReadBitmap(w Written, ps *spec.Problems) (picture glyph.Bitmap, ok bool) {
	picture, bad := glyph.ParseBitmap(w.List(KeyBitmap.Name))
	if bad != 0 {
		ps.Add(w.Pos, "%q is no dot; write # for lit and . for dark", bad)
		return picture, false
	}
	return picture, true
}
