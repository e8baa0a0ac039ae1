package marking

import (
	"sync"

	"hemble/core/advice"
)

// runKey tells runs apart: the same key, the same reel, byte for byte.
type runKey struct {
	image    [32]byte
	exercise [32]byte
	trial    int
	dataEnd  uint32 // beyond it a stack has run into variables; files of the same bytes differ in telling it
	plain    bool
}

func (k runKey) of(trial int) runKey {
	k.trial = trial
	return k
}

// runs are those that were made. One that is asked for while it is being made is waited for.
type runs struct {
	lock  sync.Mutex
	made  map[runKey]*entry
	reels []*entry                    // those that still have their reel, in the order of making
	found map[runKey][]advice.Finding // causes of lost marks, by the key of the first trial
}

type entry struct {
	lock    sync.Mutex
	outcome *outcome
}

// Bounds of what is remembered: outcomes are small, reels are not.
const (
	maxOutcomes = 20_000
	maxReels    = 64
)

// get gives a run, with its reel where that is asked for, and makes it where it is not there.
func (r *runs) get(key runKey, withReel bool, run func() (*outcome, error)) (*outcome, error) {
	r.lock.Lock()
	e := r.made[key]
	if e == nil {
		if r.made == nil || len(r.made) == maxOutcomes {
			r.made, r.reels, r.found = map[runKey]*entry{}, nil, nil
		}
		e = &entry{}
		r.made[key] = e
	}
	r.lock.Unlock()
	e.lock.Lock()
	defer e.lock.Unlock()
	if o := e.outcome; o != nil && (o.reel != nil || !withReel) {
		return o, nil
	}
	o, err := run()
	if err != nil {
		return nil, err
	}
	e.outcome = r.keep(e, o, withReel)
	return o, nil
}

// keep gives what is remembered of a run.
func (r *runs) keep(e *entry, o *outcome, withReel bool) *outcome {
	kept := *o
	kept.reel = nil
	if !withReel {
		return &kept
	}
	r.lock.Lock()
	var oldest *entry
	if r.reels = append(r.reels, e); len(r.reels) > maxReels {
		oldest = r.reels[0]
		r.reels = r.reels[1:]
	}
	r.lock.Unlock()
	if oldest != nil && oldest != e && oldest.lock.TryLock() {
		without := *oldest.outcome
		without.reel = nil
		oldest.outcome = &without
		oldest.lock.Unlock()
	}
	return o
}

// advice gives the causes that were found before.
func (r *runs) advice(key runKey) (found []advice.Finding, ok bool) {
	r.lock.Lock()
	defer r.lock.Unlock()
	found, ok = r.found[key]
	return found, ok
}

func (r *runs) advised(key runKey, found []advice.Finding) {
	r.lock.Lock()
	defer r.lock.Unlock()
	if r.found == nil || len(r.found) == maxOutcomes {
		r.found = map[runKey][]advice.Finding{}
	}
	r.found[key] = found
}
