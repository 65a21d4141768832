// Package parallel has work on many things done on all processors at once.
package parallel

import (
	"runtime"
	"sync"
	"sync/atomic"
)

// Each calls do with each number from 0 to n-1, the small ones first, as many at once as there are processors, and
// returns when all are done. Where do panics, Each does, with the same value, once the others have ended; of several
// with that of the smallest number.
func Each(n int, do func(i int)) {
	workers := min(n, runtime.GOMAXPROCS(0))
	if workers <= 1 {
		for i := range n {
			do(i)
		}
		return
	}
	var next atomic.Int64
	var wait sync.WaitGroup
	var broken fault
	for range workers {
		wait.Go(func() {
			for i := int(next.Add(1)) - 1; i < n && !broken.known(); i = int(next.Add(1)) - 1 {
				broken.guard(i, do)
			}
		})
	}
	wait.Wait()
	if broken.known() {
		panic(broken.why)
	}
}

// fault is what the work broke off with, nil for nothing.
type fault struct {
	some atomic.Bool
	lock sync.Mutex
	at   int
	why  any
}

func (f *fault) known() bool { return f.some.Load() }

// guard does the work on one thing, and notes what it panics with.
func (f *fault) guard(i int, do func(int)) {
	defer func() {
		why := recover()
		if why == nil {
			return
		}
		f.lock.Lock()
		defer f.lock.Unlock()
		if !f.some.Load() || i < f.at {
			f.at, f.why = i, why
		}
		f.some.Store(true)
	}()
	do(i)
}
