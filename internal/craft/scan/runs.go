package scan

import (
	"context"
	"runtime"
	"sync"
)

// runLength is how many things one worker takes at a time. It is fixed, so that
// sums by run do not hang on the number of processors.
const runLength = 1 << 14

func runs(n int) int { return (n + runLength - 1) / runLength }

// eachRun works through n things in runs, side by side.
func eachRun(n int, work func(run, from, to int)) {
	_ = eachRunCtx(context.Background(), n, runLength, work)
}

// eachRunCtx does so until ctx ends.
func eachRunCtx(ctx context.Context, n, length int, work func(run, from, to int)) error {
	total := (n + length - 1) / length
	next := make(chan int)
	var wg sync.WaitGroup
	for range min(runtime.GOMAXPROCS(0), max(1, total)) {
		wg.Go(func() {
			for k := range next {
				work(k, k*length, min(n, (k+1)*length))
			}
		})
	}
	for k := range total {
		if ctx.Err() != nil {
			break
		}
		next <- k
	}
	close(next)
	wg.Wait()
	return ctx.Err()
}
