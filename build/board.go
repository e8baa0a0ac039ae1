package build

import (
	"context"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"
	"sync"

	packed "hemble/core/script"
	"hemble/core/sheet"
	"hemble/sandbox"
)

// clang makes programs of C for boards on which no compiler of a chip is asked: WebAssembly with the interface of WASI,
// in which basic blocks are counted.
const clang = "clang"

var clangArgs = []string{"--target=wasm32-wasi", "-std=gnu11", "-O1", "-g", "-Wall", "-Wno-unused-function",
	"-fsanitize-coverage=trace-pc,no-prune", "-mmutable-globals", "-I" + sourceFolder, "-I" + supportFolder}

// isC tells whether a source is one of C.
func isC(s *Source) bool {
	return slices.ContainsFunc(s.Files, func(f File) bool { return strings.ToLower(path.Ext(f.Path)) == ".c" })
}

// onBoard builds C for a Linux board.
func (b *Builder) onBoard(ctx context.Context, s *Source, t Target) (*Result, error) {
	with, err := findTools(clang)
	if err != nil {
		return &Result{Messages: []sheet.Message{{Kind: "error",
			Text: fmt.Sprintf("no C for the %s is built here: %s", t.Chip.Title, err)}}}, nil
	}
	j := &job{builder: b, tools: with, plan: &planned{shown: map[string][]string{}}, target: t, script: newScript("")}
	files := map[string]string{}
	args := boardArgs()
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
	support, object, err := b.besides(ctx, with, t.Chip.Toolchain.Support)
	if err != nil {
		return nil, err
	}
	for _, f := range support {
		j.script.put(f.Path, f.Data)
	}
	j.script.put(supportObject, object)
	program := sandbox.Folder + "/program.wasm"
	args = append(args, supportObject, "-fuse-ld=/usr/bin/wasm-ld", "-Wl,--export=__stack_pointer", "-lm", "-o", program)
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

// boardArgs are the flags of every compilation for the board.
func boardArgs() []string {
	args := slices.Clone(clangArgs)
	for _, own := range clangOwn {
		args = append(args, "-resource-dir="+own)
	}
	return args
}

// supportObject is what stands beside every program, compiled.
const supportObject = supportFolder + "/board.o"

// besideBoard keeps it: it is the same for all.
var besideBoard struct {
	sync.Mutex
	object []byte
}

// besides gives the files that stand beside every program for the board, and what they compile to.
func (b *Builder) besides(ctx context.Context, with tools, from fs.FS) (files []sandbox.File, object []byte,
	err error) {
	all := ""
	err = fs.WalkDir(from, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		data, err := fs.ReadFile(from, name)
		files = append(files, sandbox.File{Path: supportFolder + "/" + name, Data: data})
		if path.Ext(name) == ".c" {
			all += "#include \"" + name + "\"\n"
		}
		return err
	})
	if err != nil {
		return nil, nil, err
	}
	besideBoard.Lock()
	defer besideBoard.Unlock()
	if besideBoard.object == nil {
		inside := append(slices.Clone(files), sandbox.File{Path: supportFolder + "/all.c", Data: []byte(all)})
		out := sandbox.Folder + "/board.o"
		o, err := with.box.Run(ctx, inside, command(clang, append(boardArgs(), "-c", supportFolder+"/all.c", "-o", out))+
			" || exit 1\ncat "+out+"\n", b.limits)
		switch {
		case err != nil:
			return nil, nil, err
		case !o.OK:
			return nil, nil, fmt.Errorf("what stands beside programs for the board could not be compiled: %.300s %.300s", o.Stopped,
				o.Messages)
		}
		besideBoard.object = o.Output
	}
	return files, besideBoard.object, nil
}
