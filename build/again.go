package build

import (
	"context"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/source"
)

// again gives a source as one that may be built anew with other words in it; nil where no file is C or C++.
func (b *Builder) again(s *Source, t Target) *source.Program {
	files := map[string]string{}
	for _, f := range s.Files {
		if source.Reads(f.Path) {
			files[f.Path] = string(f.Data)
		}
	}
	if len(files) == 0 {
		return nil
	}
	return &source.Program{Files: files,
		Build: func(ctx context.Context, name, text string) (*firmware.Image, error) {
			changed := &Source{Files: make([]File, len(s.Files))}
			for i, f := range s.Files {
				if changed.Files[i] = f; f.Path == name {
					changed.Files[i].Data = []byte(text)
				}
			}
			r, err := b.once(ctx, changed, t)
			if err != nil || r.Failed() {
				return nil, err
			}
			im, err := firmware.Read(r.ELF, t.Chip.Firmware)
			if err != nil {
				return nil, err
			}
			return im, t.Chip.Takes(im, clock.Rate(t.Clock)) // it may be too large now
		}}
}
