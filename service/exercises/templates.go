package exercises

import (
	"strings"

	"hemble/core/spec"
	"hemble/service/web"
	"hemble/templates"
	"hemble/wire"
)

func (a *API) templates(*web.Request) (any, error) {
	all, err := templates.All()
	if err != nil {
		return nil, err
	}
	out := []wire.Template{}
	for _, t := range all {
		out = append(out, wire.Template{Name: t.Name, Title: t.Title, Brief: t.Brief})
	}
	return out, nil
}

// maxTitle and maxBrief bound what an exercise that is made of a template is called.
const (
	maxTitle = 200
	maxBrief = 10_000
)

func (a *API) fromTemplate(r *web.Request) (any, error) {
	in, err := web.Body[wire.FromTemplate](r)
	if err != nil {
		return nil, err
	}
	t, err := templates.Find(in.Template)
	if err != nil {
		return nil, err
	}
	name, title, brief := r.Param("exercise"), strings.TrimSpace(in.Title), strings.TrimSpace(in.Brief)
	switch {
	case t == nil:
		return nil, web.Unfit("template", "no template is called %.80q", in.Template)
	case !spec.IsName(name):
		return nil, web.Unfit("name", "%.80q is no name: write lower-case letters, digits and hyphens", name)
	case title == "" || len(title) > maxTitle || strings.ContainsAny(title, "\n\r"):
		return nil, web.Unfit("title", "write a title in one line, of up to %d characters", maxTitle)
	case brief == "" || len(brief) > maxBrief:
		return nil, web.Unfit("brief", "write what students are to build, in up to %d characters", maxBrief)
	}
	text, err := t.As(name, title, brief)
	if err != nil {
		return nil, err
	}
	var files []File
	for _, f := range t.Files {
		files = append(files, File{Path: f.Name, Data: f.Data})
	}
	return a.revise(r, text, files, true)
}
