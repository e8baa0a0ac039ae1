package exercises

import (
	"sync"

	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/spec"
	"hemble/render"
	"hemble/service/web"
	"hemble/wire"
)

// theReference is what may be in an exercise file, for whoever writes one: parts with their pictures and pins,
// expectations, and an example of each. It is made once, from the declarations that also check the files.
var theReference = sync.OnceValues(func() (*wire.Reference, error) {
	displays, err := exercise.Examples()
	if err != nil {
		return nil, err
	}
	pictures := map[string]string{}
	for _, d := range displays {
		t := &display.Track{Display: d.Name, Geometry: d.Kind.Geometry(*d)}
		pictures[d.Name] = render.SVG(t, render.Samples(t)[0].State)
	}
	out := &wire.Reference{}
	for _, k := range part.Kinds() {
		p := wire.ReferencePart{Name: k.Name, Title: k.Title, Doc: k.Doc, Picture: pictures[k.Name],
			Example: exercise.Example(k, machine.Usual()), Settings: options(k.Settings)}
		for _, pin := range k.Pins {
			doc := pin.Doc
			if pin.Optional {
				doc += " (may be left out)"
			}
			p.Pins = append(p.Pins, wire.Option{Name: pin.Name, Doc: doc})
		}
		out.Parts = append(out.Parts, p)
	}
	for _, k := range judge.Kinds() {
		out.Expectations = append(out.Expectations,
			wire.ReferenceExpectation{Name: k.Name, Doc: k.Doc, Example: k.Example, Options: options(k.Fields)})
	}
	out.Expectations = append(out.Expectations,
		wire.ReferenceExpectation{Name: exercise.AnyOf,
			Doc: "Several expectations; the best one counts.", Example: exercise.AnyOfExample})
	return out, nil
})

func options(fields []spec.Field) (out []wire.Option) {
	for _, f := range fields {
		out = append(out, wire.Option{Name: f.Name, Doc: f.Doc, Default: f.Default})
	}
	return out
}

func (a *API) fileReference(*web.Request) (any, error) { return theReference() }
