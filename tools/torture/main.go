// Command torture kills the server at random moments while people weigh, pour
// and note, and proves after each start that nothing which was answered is
// missing or doubled, that the ledger adds up, and that every pot is right.
// Every tenth time the database is killed with it.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"math/rand/v2"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/mariadb"
)

func main() {
	kills := flag.Int("kills", 200, "how often the server is killed")
	seed := flag.Uint64("seed", 1, "of the moments")
	flag.Parse()
	if err := run(context.Background(), *kills, *seed); err != nil {
		fmt.Fprintln(os.Stderr, "torture:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, kills int, seed uint64) error {
	dir, err := os.MkdirTemp("", "yewmoor-torture-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	w := &works{dir: dir}
	if err := w.startDatabase(ctx); err != nil {
		return err
	}
	defer func() { w.stopServer(syscall.SIGTERM); _ = w.maria.Stop() }()
	pieces, err := furnish(ctx, w.db, filepath.Join(dir, "files"))
	if err != nil {
		return fmt.Errorf("furnishing the shop: %w", err)
	}
	rng := rand.New(rand.NewPCG(seed, 7))
	said := newAnswers()
	begun := time.Now()
	for n := 1; n <= kills; n++ {
		if err := w.startServer(); err != nil {
			return err
		}
		if err := oneRound(ctx, w, pieces, said, time.Duration(150+rng.IntN(1300))*time.Millisecond, n%10 == 0); err != nil {
			return err
		}
		if err := check(ctx, w, said); err != nil {
			return fmt.Errorf("after kill %d: %w", n, err)
		}
		if n%20 == 0 {
			fmt.Printf("%4d kills: %s\n", n, said)
		}
	}
	if len(said.pours) < kills/4 {
		return fmt.Errorf("too little was done to prove anything: %s", said)
	}
	fmt.Printf("%d kills in %.0f s, %d of them with the database: nothing answered was missing or doubled, the ledger adds up, every pot is right (%s)\n", kills, time.Since(begun).Seconds(), kills/10, said)
	return nil
}

// oneRound lets people work for a while, then kills the server, and the
// database with it when asked.
func oneRound(ctx context.Context, w *works, pieces []string, said *answers, after time.Duration, database bool) error {
	round, stop := context.WithCancel(ctx)
	defer stop()
	var people sync.WaitGroup
	for i, login := range []string{"maud", "ivo", "pip"} {
		people.Add(1)
		go func() { defer people.Done(); work(round, w.base, login, pieces[i], said) }()
	}
	time.Sleep(after)
	w.stopServer(syscall.SIGKILL)
	var err error
	if database {
		err = w.killDatabase(ctx)
	}
	stop()
	people.Wait()
	return err
}

// works is the database and the server under torture.
type works struct {
	dir, dsn, base string
	maria          *mariadb.Server
	db             *database.DB
	cmd            *exec.Cmd
}

func (w *works) startDatabase(ctx context.Context) (err error) {
	if w.maria, err = mariadb.Start(ctx, filepath.Join(w.dir, "mariadb")); err != nil {
		return err
	}
	if w.dsn, err = w.maria.Create(ctx, "yewmoor_torture"); err != nil {
		return err
	}
	if w.db != nil {
		_ = w.db.Close()
	}
	if w.db, err = database.Open(ctx, w.dsn); err != nil {
		return err
	}
	return w.db.Migrate(ctx)
}

// killDatabase kills MariaDB without warning and starts it on what is left.
func (w *works) killDatabase(ctx context.Context) error {
	raw, err := os.ReadFile(filepath.Join(w.dir, "mariadb", "mariadb.pid"))
	if err != nil {
		return err
	}
	pid, err := strconv.Atoi(strings.TrimSpace(string(raw)))
	if err != nil {
		return err
	}
	if err := syscall.Kill(pid, syscall.SIGKILL); err != nil {
		return err
	}
	for syscall.Kill(pid, 0) == nil {
		time.Sleep(20 * time.Millisecond)
	}
	_ = os.Remove(filepath.Join(w.dir, "mariadb", "db.sock"))
	if err := w.maria.Stop(); err != nil {
		return err
	}
	return w.startDatabase(ctx)
}

func (w *works) startServer() error {
	if w.base == "" {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			return err
		}
		w.base = "http://" + l.Addr().String()
		_ = l.Close()
	}
	w.cmd = exec.Command("./bin/yewmoor", "serve", "--addr", strings.TrimPrefix(w.base, "http://"), "--files", filepath.Join(w.dir, "files"), "--log", "error")
	w.cmd.Env = append(os.Environ(), "YEWMOOR_DSN="+w.dsn)
	if err := w.cmd.Start(); err != nil {
		return err
	}
	for range 400 {
		if c, err := net.Dial("tcp", strings.TrimPrefix(w.base, "http://")); err == nil {
			return c.Close()
		}
		time.Sleep(10 * time.Millisecond)
	}
	return errors.New("the server did not come back")
}

func (w *works) stopServer(how os.Signal) {
	if w.cmd != nil {
		_ = w.cmd.Process.Signal(how)
		_ = w.cmd.Wait()
		w.cmd = nil
	}
}
