// Package e2e drives the real interface in headless Chromium, on the real
// server and database: the binary as it is shipped, started as a person would
// start it.
package e2e

import (
	"bufio"
	"context"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"yewmoor/internal/demo/demotest"
	"yewmoor/internal/platform/dbtest"
)

func TestMain(m *testing.M) {
	dbtest.MainAfter(m, func() {
		if built.file != "" {
			_ = os.Remove(built.file)
		}
	})
}

var built struct {
	sync.Once
	file string
	err  error
}

// binary builds the product once for all tests of the package, as `make` builds
// it.
func binary(t *testing.T) string {
	t.Helper()
	built.Do(func() {
		built.file = filepath.Join(os.TempDir(), fmt.Sprintf("yewmoor-e2e-%d", os.Getpid()))
		out, err := exec.Command("go", "build", "-o", built.file, "../cmd/yewmoor").CombinedOutput()
		if err != nil {
			built.err = fmt.Errorf("%w: %s", err, out)
		}
	})
	require.NoError(t, built.err)
	return built.file
}

// demo starts the product on a clone of the told demo.
func demo(t *testing.T) *server {
	t.Helper()
	return start(t, binary(t), nil, "demo", "--dir", demotest.Folder(t))
}

type server struct {
	base string
	cmd  *exec.Cmd
	done chan struct{}
}

// start runs the binary and waits for its one line.
func start(t *testing.T, file string, env []string, args ...string) *server {
	t.Helper()
	addr := freeAddr(t)
	cmd := exec.Command(file, args...)
	cmd.Env = append(os.Environ(), append(env, "YEWMOOR_ADDR="+addr, "YEWMOOR_LOG=warn")...)
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	s := &server{base: "http://" + addr, cmd: cmd, done: make(chan struct{})}
	ready := make(chan string, 1)
	go func() {
		lines := bufio.NewScanner(out)
		for lines.Scan() {
			if strings.HasPrefix(lines.Text(), "Yewmoor is ready at ") {
				ready <- lines.Text()
			}
		}
		_ = cmd.Wait()
		close(s.done)
	}()
	select {
	case line := <-ready:
		require.Equal(t, "Yewmoor is ready at "+s.base, line)
	case <-s.done:
		t.Fatal("the server ended while starting")
	case <-time.After(3 * time.Minute):
		_ = cmd.Process.Kill()
		t.Fatal("the server did not become ready")
	}
	t.Cleanup(func() { s.stop(t) })
	return s
}

// stop is Ctrl-C.
func (s *server) stop(t *testing.T) {
	t.Helper()
	select {
	case <-s.done:
		return
	default:
	}
	_ = s.cmd.Process.Signal(syscall.SIGINT)
	select {
	case <-s.done:
	case <-time.After(60 * time.Second):
		_ = s.cmd.Process.Kill()
		t.Error("the server did not stop on Ctrl-C")
	}
}

func freeAddr(t *testing.T) string {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	return l.Addr().String()
}

// runFor gives a browser test a generous end.
func runFor(t *testing.T, d time.Duration) context.Context {
	ctx, cancel := context.WithTimeout(context.Background(), d)
	t.Cleanup(cancel)
	return ctx
}
