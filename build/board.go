package build

import (
	"context"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	packed "hemble/core/script"
	"hemble/core/sheet"
	"hemble/sandbox"
)

// clang makes programs of C for boards on which no compiler of a chip is asked: WebAssembly with the interface of WASI,
// in which basic blocks are counted.
const clang = "clang"

var clangArgs = []string{"--target=wasm32-wasi", "-std=gnu11", "-O1", "-g", "-Wall", "-Wno-unused-function",
	"-fsanitize-coverage=trace-pc,no-prune", "-fuse-ld=/usr/bin/wasm-ld", "-I" + sourceFolder, "-I" + supportFolder}

// isC tells whether a source is one of C.
func isC(s *Source) bool {
	return slices.ContainsFunc(s.Files, func(f File) bool { return strings.ToLower(path.Ext(f.Path)) == ".c" })
}

// onBoard builds C for a Linux board.
func (b *Builder) onBoard(ctx context.Context, s *Source, t Target) (*Result, error) {
	with, err := findTools(clang)
	if err != nil {
		return nil, err
	}
	j := &job{builder: b, tools: with, plan: &planned{shown: map[string][]string{}}, target: t, script: newScript("")}
	files := map[string]string{}
	args := slices.Clone(clangArgs)
	for _, own := range clangOwn {
		args = append(args, "-resource-dir="+own)
	}
	entry, units := "", 0
	for _, f := range s.Files {
		switch strings.ToLower(path.Ext(f.Path)) {
		case ".c":
			name := fmt.Sprintf("%s/%d.c", unitFolder, units)
			units++
			j.script.put(name, []byte("#line 1 \""+inSource(f.Path)+"\"\n#include \""+inSource(f.Path)+"\"\n"))
			args = append(args, name)
			if entry == "" || f.Path == "main.c" {
				entry = f.Path
			}
		case ".h":
		default:
			return &Result{Messages: []sheet.Message{{Kind: "error", File: f.Path,
				Text: "for this board only Python (.py) and C (.c, .h) are taken, and not both at once"}}}, nil
		}
		j.script.put(inSource(f.Path), f.Data)
		files[f.Path] = string(f.Data)
		j.plan.shown[f.Path] = strings.Split(string(f.Data), "\n")
	}
	err = fs.WalkDir(t.Chip.Toolchain.Support, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		data, err := fs.ReadFile(t.Chip.Toolchain.Support, name)
		j.script.put(supportFolder+"/"+name, data)
		return err
	})
	if err != nil {
		return nil, err
	}
	program := sandbox.Folder + "/program.wasm"
	args = append(args, supportFolder+"/board.c", "-lm", "-o", program)
	o, err := with.box.Run(ctx, j.script.files, command(clang, args)+" || exit 1\ncat "+program+"\n", b.limits)
	if err != nil {
		return nil, err
	}
	r := &Result{Messages: j.messages(o)}
	if !o.OK {
		if len(r.Messages) == 0 {
			r.Messages = append(r.Messages, sheet.Message{Kind: "error", Text: "the compiler gave up without a message"})
		}
		return r, nil
	}
	r.ELF, err = packed.WriteBinary(entry, files, o.Output)
	return r, err
}
