package marks

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/script"
	"hemble/core/similarity"
	"hemble/service/grading"
	"hemble/service/web"
	"hemble/wire"
)

// mostSimilar bounds the list: what comes behind these says little.
const mostSimilar = 50

// similarCode compares the submissions that count. The references are the firmware files in the exercise's folder.
func (a *API) similarCode(r *web.Request) (any, error) {
	ctx, done, err := a.Turns.Enter(r)
	if err != nil {
		return nil, err
	}
	defer done()
	x, err := a.Reader.Of(r, r.Assignment, "")
	if err != nil {
		return nil, err
	}
	out := []wire.SimilarCode{}
	if x.Chip == nil {
		return out, nil
	}
	known := map[*machine.Chip][]*firmware.Image{}
	files, err := a.Exercises.Folder(r, r.Assignment.RevisionID)
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		ext := strings.ToLower(path.Ext(f.Path))
		if ext == ".py" || ext == ".c" {
			for _, one := range x.Every() {
				if one.Chip.Firmware.Script {
					known[one.Chip] = append(known[one.Chip], given(one.Chip, f.Path, f.Data))
				}
			}
		}
		if !slices.Contains(firmware.Endings, ext) {
			continue
		}
		chip := x.For(f.Data).Chip
		if im, err := firmware.Read(f.Data, chip.Firmware); err == nil {
			known[chip] = append(known[chip], im)
		}
	}
	rows, err := a.countedOf(r)
	if err != nil {
		return nil, err
	}
	programs := map[*machine.Chip][]*firmware.Image{}
	for _, one := range x.Every() {
		programs[one.Chip] = make([]*firmware.Image, len(rows))
	}
	chips := make([]*machine.Chip, len(rows))
	for i := range rows {
		im, chip, err := a.Grader.Image(ctx, rows[i].ID)
		if err != nil {
			return nil, grading.OutOfTime(ctx, err)
		}
		chips[i] = chip
		if of := programs[chip]; of != nil {
			of[i] = im
		}
	}
	var same []similarity.Match
	for _, one := range x.Every() {
		same = append(same, similarity.Find(one.Chip, programs[one.Chip], known[one.Chip])...)
	}
	for _, s := range same {
		if len(out) == mostSimilar {
			break
		}
		w := wire.SimilarCode{Instructions: s.Instructions, Of: unit(chips[s.Sites[0].Program].Firmware),
			Students: s.Programs, Rank: s.Rank}
		for _, at := range s.Sites {
			site := wire.SimilarSite{Submission: rows[at.Program].ID, Student: rows[at.Program].Student,
				Address: chips[at.Program].Firmware.Address(at.Address), Function: at.Function}
			if at.Line != nil {
				site.Source = fmt.Sprintf("%s:%d", at.Line.File, at.Line.Line)
			}
			w.In = append(w.In, site)
		}
		out = append(out, w)
	}
	return out, nil
}

// given is a script that stands beside the exercise: what students began with; nil where it cannot be read.
func given(chip *machine.Chip, name string, text []byte) *firmware.Image {
	data, err := script.Write(name, map[string]string{name: string(text)})
	if err != nil {
		return nil
	}
	im, err := firmware.Read(data, chip.Firmware)
	if err != nil {
		return nil
	}
	return im
}

// unit is what programs of a kind are compared by.
func unit(l firmware.Layout) string {
	switch {
	case l.Design:
		return "cells"
	case l.Script:
		return "words"
	}
	return "instructions"
}
