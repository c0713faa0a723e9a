package main

import (
	"bufio"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"runtime/debug"
	"strconv"
	"strings"
)

// share is how much of the machine's memory the server may take before it works
// to give some back: the database lives on the same machine.
const share = 0.5

// bounded sets the memory ceiling of the process from the machine, unless
// GOMEMLIMIT says one.
func bounded() {
	if os.Getenv("GOMEMLIMIT") != "" {
		return
	}
	if bytes, ok := memory(); ok {
		debug.SetMemoryLimit(int64(share * float64(bytes)))
		slog.Debug("memory ceiling", "bytes", int64(share*float64(bytes)))
	}
}

// memory is what the machine has, or what its container may take, in bytes.
func memory() (bytes uint64, ok bool) {
	f, err := os.Open("/proc/meminfo")
	if err != nil {
		return 0, false
	}
	defer f.Close()
	lines := bufio.NewScanner(f)
	for lines.Scan() {
		var kb uint64
		if n, _ := fmt.Sscanf(lines.Text(), "MemTotal: %d kB", &kb); n == 1 {
			bytes = kb << 10
			break
		}
	}
	for _, file := range []string{"/sys/fs/cgroup/memory.max", "/sys/fs/cgroup/memory/memory.limit_in_bytes"} {
		raw, err := os.ReadFile(filepath.Clean(file))
		if err != nil {
			continue
		}
		if most, err := strconv.ParseUint(strings.TrimSpace(string(raw)), 10, 64); err == nil && (bytes == 0 || most < bytes) {
			bytes = most
		}
	}
	return bytes, bytes > 0
}
