package main

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const printed = `== Go benchmarks
goos: linux
BenchmarkBestPull/two-2                1        4416627707 ns/op
BenchmarkLookAt870kTriangles-2         5         478982235 ns/op        116996100 B/op       110 allocs/op
== Load on the demo
first start, with the scenario                   12.31 s
a weight on the scale to the screen's line         48.1 ms median, 50.2 ms worst of 20
one person, in ms                                  p50     p95     p99        kB
  section                                            7.2     9.1    12.0      88.1
the body dragged: 5.90 ms of script, 0.10 style, 0.40 layout a frame
214.9 kB in 31 files
`

func TestEveryKindOfLineIsRead(t *testing.T) {
	var p parser
	got := map[string]float64{}
	for _, line := range strings.Split(printed, "\n") {
		for _, f := range p.line(line) {
			got[f.name+" "+f.unit] = f.value
		}
	}
	assert.Equal(t, map[string]float64{"BestPull/two ms": 4416.627707, "LookAt870kTriangles ms": 478.982235, "LookAt870kTriangles, memory MB": 116.9961, "first start, with the scenario s": 12.31,
		"a weight on the scale to the screen's line ms": 48.1, "section, one person, p95 ms": 9.1, "the body dragged, script a frame ms": 5.9, "first load of the interface, gzipped kB": 214.9}, got)
}

func TestWhatGrewIsNamedAndEverythingIsKept(t *testing.T) {
	file, page := filepath.Join(t.TempDir(), "figures.csv"), filepath.Join(t.TempDir(), "figures.md")
	var first, second bytes.Buffer
	require.NoError(t, run(strings.NewReader(printed), &first, file, page))
	assert.Contains(t, first.String(), "Nothing grew")
	slower := strings.Replace(printed, "4416627707", "9416627707", 1)
	require.NoError(t, run(strings.NewReader(slower), &second, file, page))
	assert.Contains(t, second.String(), "BestPull/two: 9417 ms, was 4417 ms at")
	assert.Contains(t, second.String(), "Misses its goal: BestPull/two")
	raw, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, 1+2*8, strings.Count(string(raw), "\n"))
	text, err := os.ReadFile(page)
	require.NoError(t, err)
	assert.Contains(t, string(text), "| BestPull/two | ≤ 5000 ms | 9417 ms | 4417 ms |")
	assert.Error(t, run(strings.NewReader("nothing"), &first, file, page), "an empty run is none")
}
