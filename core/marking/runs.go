package marking

import (
	"context"
	"errors"
	"fmt"
	"sync"

	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/sync/singleflight"

	"hemble/core/diagnosis"
)

// runKey tells runs apart: the same key, the same reel, byte for byte.
type runKey struct {
	image    [32]byte
	exercise [32]byte
	trial    int
	dataEnd  uint32 // beyond it a stack has run into variables; files of the same bytes differ in telling it
	plain    bool
	source   [32]byte // of causes alone: what the image was built from
}

func (k runKey) of(trial int) runKey {
	k.trial = trial
	return k
}

// runs are those that were made lately. One that is asked for while it is being made is waited for.
type runs struct {
	begin   sync.Once
	making  singleflight.Group
	bare    *lru.Cache[runKey, *outcome] // without their reels
	reeled  *lru.Cache[runKey, *outcome] // with them
	advised *lru.Cache[runKey, diagnosis.Advice]
}

// Bounds of what is remembered: outcomes and causes are small, reels are not.
const (
	maxOutcomes = 20_000
	maxReels    = 64
)

func (r *runs) start() {
	r.begin.Do(func() {
		r.bare, r.reeled = cache[*outcome](maxOutcomes), cache[*outcome](maxReels)
		r.advised = cache[diagnosis.Advice](maxOutcomes)
	})
}

func cache[V any](size int) *lru.Cache[runKey, V] {
	c, err := lru.New[runKey, V](size)
	if err != nil {
		panic(err) // of a size under one
	}
	return c
}

// get gives a run, with its reel where that is asked for, and makes it where it is not there.
func (r *runs) get(ctx context.Context, key runKey, withReel bool, run func() (*outcome, error)) (*outcome, error) {
	r.start()
	kept := func() (*outcome, bool) {
		if o, ok := r.reeled.Get(key); ok {
			return o, true
		}
		if withReel {
			return nil, false
		}
		return r.bare.Get(key)
	}
	for {
		if o, ok := kept(); ok {
			return o, nil
		}
		made, err, shared := r.making.Do(fmt.Sprint(key), func() (any, error) {
			if o, ok := kept(); ok { // made since it was looked for
				return o, nil
			}
			o, err := run()
			if err != nil {
				return nil, err
			}
			bare := *o
			bare.reel = nil
			r.bare.Add(key, &bare)
			if withReel {
				r.reeled.Add(key, o)
			}
			return o, nil
		})
		switch {
		case err == nil:
			return made.(*outcome), nil
		case shared && ctx.Err() == nil && (errors.Is(err, context.Canceled) ||
			errors.Is(err, context.DeadlineExceeded)):
			// whoever made it was called off: it is made again
		default:
			return nil, err
		}
	}
}
