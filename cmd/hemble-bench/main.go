//go:build js && wasm

// Command hemble-bench is the live bench for a web page: it gives the page's worker an object `bench` whose functions
// take and give JSON. Each returns {error} where something is wrong.
package main

import (
	"context"
	"encoding/json"
	"math"
	"syscall/js"

	_ "hemble/core/catalogue"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/live"
)

func main() {
	var x *exercise.Exercise
	var im *firmware.Image
	var s *live.Session
	var file []byte

	js.Global().Set("bench", js.ValueOf(map[string]any{
		// read(exercise, wiring, firmware): takes them, and gives the names of the trials.
		"read": call(func(args []js.Value) (any, error) {
			var err error
			file = make([]byte, args[2].Length())
			js.CopyBytesToGo(file, args[2])
			if x, err = live.Read([]byte(args[0].String()), []byte(args[1].String()), file); err != nil {
				return nil, err
			}
			if im, err = live.Image(x, file); err != nil {
				return nil, err
			}
			names := []string{}
			for _, t := range x.Trials {
				names = append(names, t.Name)
			}
			return names, nil
		}),
		// begin(trial, way, probe): powers on, with a probe where one is wanted, and describes the bench.
		"begin": call(func(args []js.Value) (any, error) {
			var err error
			if s, err = live.Begin(x, args[0].Int(), im, live.Way(args[1].String()),
				args[2].Bool()); err != nil {
				return nil, err
			}
			return s.Description, nil
		}),
		// advance(nanoseconds): lets time go by, and gives how far it has come, and why it stopped.
		"advance": call(func(args []js.Value) (any, error) {
			if err := s.Advance(context.Background(), nanoseconds(args[0])); err != nil {
				return nil, err
			}
			return came(s), nil
		}),
		// edge(nanoseconds): goes on to the next moment at which a net changes.
		"edge": call(func(args []js.Value) (any, error) {
			if err := s.AdvanceToChange(context.Background(), nanoseconds(args[0])); err != nil {
				return nil, err
			}
			return came(s), nil
		}),
		// scope(from, to, columns): all nets over a stretch of time.
		"scope": call(func(args []js.Value) (any, error) {
			return s.Scope(nanoseconds(args[0]), nanoseconds(args[1]), args[2].Int())
		}),
		"driven": call(func([]js.Value) (any, error) { return s.Driven() }),
		"byHand": call(func([]js.Value) (any, error) {
			s.ByHand()
			return nil, nil
		}),
		"displays": call(func([]js.Value) (any, error) { return s.Displays(), nil }),
		"sure":     call(func([]js.Value) (any, error) { return s.Sure(), nil }),
		"serial":   call(func([]js.Value) (any, error) { return s.Serial(), nil }),
		"do": call(func(args []js.Value) (any, error) {
			return nil, s.Do(args[0].Int(), args[1].Bool(), args[2].String())
		}),
		// check(name, marks): marks the firmware on the trials that are there, and gives {sheet, reels}.
		"check": call(func(args []js.Value) (any, error) {
			r, err := live.Check(context.Background(), x, args[0].String(), file, args[1].Bool())
			if err != nil {
				return nil, err
			}
			return map[string]any{"sheet": r.Sheet, "reels": r.Reels}, nil
		}),
		"reel": call(func([]js.Value) (any, error) { return s.Reel(), nil }),
	}))
	select {}
}

// Times of the page are in ns, with fractions: what was told comes back as the same moment.
func nanoseconds(v js.Value) clock.Time {
	return clock.Time(math.Round(v.Float() * float64(clock.Nanosecond)))
}

// came is how far a bench has come, why its program stopped, and how much its serial ports sent.
func came(s *live.Session) any {
	return map[string]any{"now": float64(s.Now()) / float64(clock.Nanosecond), "stop": s.Stop(),
		"transmitted": s.Transmitted()}
}

// call makes a function of the page that gives JSON.
func call(f func([]js.Value) (any, error)) js.Func {
	return js.FuncOf(func(_ js.Value, args []js.Value) any {
		v, err := f(args)
		if err != nil {
			v = map[string]string{"error": err.Error()}
		}
		text, err := json.Marshal(v)
		if err != nil {
			return `{"error":"what the bench gives cannot be written"}`
		}
		return string(text)
	})
}
