package shoptest

import (
	"sync"

	"github.com/stretchr/testify/require"
)

// Together lets n people do the same at the same moment and counts the answers
// by their codes; "yes" is done.
func Together(n int, do func(i int) (status int, r Refused)) map[string]int {
	var mu sync.Mutex
	var all sync.WaitGroup
	counts, start := map[string]int{}, make(chan struct{})
	for i := range n {
		all.Add(1)
		go func() {
			defer all.Done()
			<-start
			status, r := do(i)
			mu.Lock()
			defer mu.Unlock()
			if status == 200 {
				r.Code = "yes"
			}
			counts[r.Code]++
		}()
	}
	close(start)
	all.Wait()
	return counts
}

func (b *Bench) Post(login, path string, body any) (int, Refused) {
	var r Refused
	status := b.As[login].Send("POST", path, body, &r)
	return status, r
}

func (b *Bench) Count(query string, args ...any) (n int) {
	require.NoError(b.T, b.S.DB.Get(&n, query, args...))
	return n
}

// Float asks the database for a figure.
func (b *Bench) Float(query string, args ...any) (x float64) {
	require.NoError(b.T, b.S.DB.Get(&x, query, args...))
	return x
}

var Three = []string{"maud", "ivo", "pip"}
