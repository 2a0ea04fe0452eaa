package main

import (
	"context"
	"runtime"
	"sync/atomic"
	"time"
)

// watched is how much memory is held beyond what was when watching began.
type watched struct {
	held uint64
	peak atomic.Uint64
	stop context.CancelFunc
}

// watch looks at what is held every few moments, until it is asked.
func watch(ctx context.Context) *watched {
	w := &watched{}
	ctx, w.stop = context.WithCancel(ctx)
	runtime.GC()
	w.held = holds()
	w.peak.Store(w.held)
	go func() {
		for ctx.Err() == nil {
			if now := holds(); now > w.peak.Load() {
				w.peak.Store(now)
			}
			time.Sleep(50 * time.Millisecond)
		}
	}()
	return w
}

// most ends it, and gives the most that was held, in MB.
func (w *watched) most() uint64 {
	w.stop()
	return (w.peak.Load() - w.held) >> 20
}

func holds() uint64 {
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return m.HeapAlloc
}
