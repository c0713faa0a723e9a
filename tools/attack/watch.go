package main

import (
	"bufio"
	"bytes"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"
)

// state is how the server stands at a moment.
type state struct{ memory, goroutines, files, temporary, today float64 }

// watch looks at the server, from outside, while it is attacked.
type watch struct {
	s     *server
	most  state
	times []time.Duration
}

func (w *watch) run(stop chan struct{}) {
	tick := time.NewTicker(500 * time.Millisecond)
	defer tick.Stop()
	for {
		select {
		case <-stop:
			return
		case <-tick.C:
			now := w.look()
			w.most = state{max(w.most.memory, now.memory), max(w.most.goroutines, now.goroutines), max(w.most.files, now.files), max(w.most.temporary, now.temporary), max(w.most.today, now.today)}
		}
	}
}

func (w *watch) look() state {
	var out state
	process := filepath.Join("/proc", strconv.Itoa(w.s.cmd.Process.Pid))
	raw, _ := os.ReadFile(filepath.Join(process, "status"))
	for line := range strings.Lines(string(raw)) {
		var kb float64
		if n, _ := fmt.Sscanf(line, "VmRSS: %f kB", &kb); n == 1 {
			out.memory = kb / 1024
		}
	}
	open, _ := os.ReadDir(filepath.Join(process, "fd"))
	out.files = float64(len(open))
	_, metrics := w.s.send("GET", "/metrics", nil)
	lines := bufio.NewScanner(bytes.NewReader(metrics))
	for lines.Scan() {
		if n, ok := strings.CutPrefix(lines.Text(), "go_goroutines "); ok {
			out.goroutines, _ = strconv.ParseFloat(n, 64)
		}
	}
	_ = filepath.WalkDir(filepath.Join(w.s.dir, "run"), func(_ string, d fs.DirEntry, err error) error {
		if err == nil && !d.IsDir() && (strings.HasPrefix(d.Name(), "in-") || strings.HasPrefix(d.Name(), "multipart-")) {
			out.temporary++
		}
		return nil
	})
	begun := time.Now()
	w.s.send("GET", "/api/today", nil)
	w.times = append(w.times, time.Since(begun))
	lately := slices.Clone(w.times[max(0, len(w.times)-100):])
	slices.Sort(lately)
	out.today = float64(lately[len(lately)*95/100].Microseconds()) / 1000
	return out
}
