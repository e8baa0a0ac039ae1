// Package interpreter runs scripts in the sandbox, under simulated time, for the boards of core/machine/scripted. What
// stands around a script there is in the folder python.
package interpreter

import (
	"context"
	"embed"
	"encoding/json"
	"fmt"
	"io/fs"
	"path/filepath"
	"sync"
	"time"

	"hemble/core/machine/scripted"
	"hemble/core/script"
	"hemble/sandbox"
)

//go:embed python
var surroundings embed.FS

// limits are those of one run of a script.
var limits = sandbox.Limits{Wall: 90 * time.Second, CPU: 20 * time.Second, Memory: 512 << 20, Processes: 40,
	Disk: 16 << 20, Files: 200, Messages: 16 << 10}

// setting is what a board is like for its scripts.
type setting struct {
	statement, pin int // what a statement and a call for a pin take, in ns
	micro          bool
}

// settings are those of the boards. A Linux board of the usual kind carries out half a million statements a second, a
// microcontroller a tenth of that: figures in the middle of what such boards do.
var settings = map[string]setting{"linux-board": {2_000, 3_000, false}, "rp2040-python": {10_000, 5_000, true}}

type host struct{}

func init() { scripted.Use(host{}) }

var box = sync.OnceValues(func() (*sandbox.Box, error) {
	places, err := filepath.Glob("/usr/lib/python3*")
	if err != nil {
		return nil, err
	}
	b, err := sandbox.New([]string{scripted.Python}, places)
	if err != nil {
		return nil, fmt.Errorf("scripts cannot be run here: %w (Debian package python3)", err)
	}
	return b, nil
})

// folder and work are where a script's surroundings and its files are in the sandbox.
const folder, work = "/hemble/", "/work/"

// Start starts a script.
func (host) Start(p *script.Program, b scripted.Board) (scripted.Child, error) {
	if p.Binary != nil {
		return startNative(p, b), nil
	}
	at, err := box()
	if err != nil {
		return nil, err
	}
	files, err := around()
	if err != nil {
		return nil, err
	}
	set := settings[b.Name]
	run, err := json.Marshal(map[string]any{"seed": b.Seed, "cost": set.statement, "pin_cost": set.pin, "micro": set.micro,
		"main": p.Main, "files": p.Names(), "numbering": p.Numbering, "header": scripted.Header(),
		"console": b.Console, "cover": b.Cover})
	if err != nil {
		return nil, err
	}
	files = append(files, sandbox.File{Path: folder + "run.json", Data: run})
	for _, name := range p.Names() {
		files = append(files, sandbox.File{Path: work + name, Data: []byte(p.Files[name])})
	}
	child, err := at.Start(context.Background(), files,
		"PYTHONHASHSEED=0 exec "+scripted.Python+" -s -S -P -B "+folder+"runner.py\n", limits)
	if err != nil {
		return nil, err
	}
	return process{child}, nil
}

// around are the files that stand around every script.
func around() (out []sandbox.File, err error) {
	err = fs.WalkDir(surroundings, "python", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		data, err := surroundings.ReadFile(name)
		out = append(out, sandbox.File{Path: folder + name[len("python/"):], Data: data})
		return err
	})
	return out, err
}

type process struct{ *sandbox.Process }

// Wait tells why it was stopped, and what it said.
func (p process) Wait() (stopped, messages string) {
	o, err := p.Process.Wait()
	if err != nil {
		return "", err.Error()
	}
	return o.Stopped, o.Messages
}
