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
	told := progressOf(ctx)
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
		if told.runs {
			told.share(float64(k+1) / float64(total))
		}
	}
	close(next)
	wg.Wait()
	return ctx.Err()
}

type progressKey struct{}

// progress hears how far a long calculation is; runs is false where a longer
// whole, of which the runs are a small part, tells itself.
type progress struct {
	say  func(share float64)
	runs bool
}

func (p progress) share(x float64) {
	if p.say != nil {
		p.say(x)
	}
}

// WithProgress lets say hear how far a calculation is, from 0 to 1 and at most a
// hundred times: it is called from the goroutine that calculates.
func WithProgress(ctx context.Context, say func(share float64)) context.Context {
	last := 0.0
	return context.WithValue(ctx, progressKey{}, progress{runs: true, say: func(x float64) {
		if x >= last+0.01 || x >= 1 && last < 1 {
			last = x
			say(x)
		}
	}})
}

func progressOf(ctx context.Context) progress {
	p, _ := ctx.Value(progressKey{}).(progress)
	return p
}

// whole takes the progress of the parts over into the hands of what is made of
// them.
func whole(ctx context.Context) (context.Context, progress) {
	p := progressOf(ctx)
	return context.WithValue(ctx, progressKey{}, progress{}), p
}
