// Package demotest gives tests a folder in which the demo scenario was told: it
// is told once for a state of the program, kept by a digest of everything that it
// follows from, and cloned for each test.
package demotest

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"syscall"
	"testing"
	"time"

	"yewmoor/internal/demo"
	"yewmoor/internal/device"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/platform/mariadb"
	"yewmoor/internal/shop"
)

// Schema is the name of the demo's schema, as `yewmoor demo` has it.
const Schema = "yewmoor_demo"

// Seeds of the demo's stand-ins, as `yewmoor demo` has them.
const roomSeed, scaleSeed = 3, 7

// Told is a shop on a clone of the told demo.
type Told struct {
	Shop  *shop.Shop
	Clock *clock.Fixed
	DSN   string
}

// Folder clones the told demo for a test: what `yewmoor demo --dir` finds after
// its first start.
func Folder(t testing.TB) string {
	t.Helper()
	kept, err := told()
	if err != nil {
		t.Fatalf("telling the demo: %v", err)
	}
	dir := dbtest.FastDir(t)
	if err := clone(kept, dir); err != nil {
		t.Fatalf("cloning the demo: %v", err)
	}
	return dir
}

// New is a shop on a clone of the told demo, on a database server of its own,
// its clock standing where the demo begins.
func New(t testing.TB) Told {
	t.Helper()
	ctx := context.Background()
	dir := Folder(t)
	server, err := mariadb.Start(ctx, filepath.Join(dir, "mariadb"), mariadb.Throwaway...)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := server.Stop(); err != nil {
			t.Errorf("stopping the demo's database: %v", err)
		}
	})
	dsn, err := server.Create(ctx, Schema)
	if err != nil {
		t.Fatal(err)
	}
	db, err := database.Open(ctx, dsn)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Close() })
	at := clock.NewFixed(demo.Start)
	s, err := open(ctx, db, filepath.Join(dir, "files"), at)
	if err != nil {
		t.Fatal(err)
	}
	return Told{s, at, dsn}
}

func open(ctx context.Context, db *database.DB, files string, at clock.Clock) (*shop.Shop, error) {
	return shop.New(ctx, shop.Config{PublicURL: "http://yewmoor.test", FilesDir: files, Demo: true}, db, at, device.NewSimulatedScale(scaleSeed, time.Now), device.NewSimulatedRoom(roomSeed))
}

// told is the folder in which the demo of this state of the program was told.
func told() (string, error) {
	digest, err := follows()
	if err != nil {
		return "", err
	}
	cache, err := os.UserCacheDir()
	if err != nil {
		cache = os.TempDir()
	}
	cache = filepath.Join(cache, "yewmoor-demo")
	if err := os.MkdirAll(cache, 0o700); err != nil {
		return "", err
	}
	lock, err := os.OpenFile(filepath.Join(cache, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return "", err
	}
	defer lock.Close()
	// Test binaries of several packages run at once: one of them tells it.
	if err := syscall.Flock(int(lock.Fd()), syscall.LOCK_EX); err != nil {
		return "", err
	}
	kept := filepath.Join(cache, digest)
	now := time.Now()
	if err := os.Chtimes(kept, now, now); err == nil {
		return kept, nil
	}
	old, err := filepath.Glob(filepath.Join(cache, "*-*"))
	if err != nil {
		return "", err
	}
	for _, dir := range old {
		// Tests of an earlier state may still be cloning theirs.
		if at, err := os.Stat(dir); err == nil && now.Sub(at.ModTime()) > time.Hour {
			_ = os.RemoveAll(dir)
		}
	}
	part := kept + ".part"
	if err := errors.Join(os.RemoveAll(part), tell(part)); err != nil {
		return "", errors.Join(err, os.RemoveAll(part))
	}
	return kept, os.Rename(part, kept)
}

// tell tells the demo into an empty folder.
func tell(dir string) (err error) {
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Minute)
	defer cancel()
	work, err := os.MkdirTemp("", "yewmoor-tell-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(work)
	server, err := mariadb.Start(ctx, filepath.Join(work, "mariadb"), mariadb.Throwaway...)
	if err != nil {
		return err
	}
	stopped := false
	defer func() {
		if !stopped {
			err = errors.Join(err, server.Stop())
		}
	}()
	dsn, err := server.Create(ctx, Schema)
	if err != nil {
		return err
	}
	db, err := database.Open(ctx, dsn)
	if err != nil {
		return err
	}
	defer db.Close()
	if err := db.Migrate(ctx); err != nil {
		return err
	}
	past := clock.NewFixed(demo.Start)
	s, err := open(ctx, db, filepath.Join(work, "files"), past)
	if err != nil {
		return err
	}
	if err := demo.Load(ctx, s, past); err != nil {
		return err
	}
	if err := db.Close(); err != nil {
		return err
	}
	stopped = true
	if err := server.Stop(); err != nil {
		return err
	}
	return clone(work, dir)
}

// clone copies a folder, leaving out what belongs to a running server.
func clone(from, to string) error {
	return filepath.WalkDir(from, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		rel, err := filepath.Rel(from, path)
		if err != nil {
			return err
		}
		at := filepath.Join(to, rel)
		switch {
		case d.IsDir() && d.Name() == "tmp":
			return fs.SkipDir
		case d.IsDir():
			return os.MkdirAll(at, 0o700)
		case !d.Type().IsRegular() || strings.HasSuffix(d.Name(), ".pid") || strings.HasSuffix(d.Name(), ".log"):
			return nil
		}
		return copyFile(path, at)
	})
}

func copyFile(from, to string) error {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.OpenFile(to, os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, in)
	return errors.Join(err, out.Close())
}

// follows is a digest of everything that the told demo follows from: the
// program's own sources and data, and the modules it is built with.
func follows() (string, error) {
	_, here, _, known := runtime.Caller(0)
	if !known {
		return "", errors.New("the sources are not here")
	}
	root := filepath.Join(filepath.Dir(here), "..", "..", "..")
	sum := sha256.New()
	add := func(path string) error {
		f, err := os.Open(path)
		if err != nil {
			return err
		}
		defer f.Close()
		fmt.Fprintln(sum, path)
		_, err = io.Copy(sum, f)
		return err
	}
	for _, name := range []string{"go.mod", "go.sum"} {
		if err := add(filepath.Join(root, name)); err != nil {
			return "", err
		}
	}
	err := filepath.WalkDir(filepath.Join(root, "internal"), func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "testdata" && !strings.Contains(path, "demo")) {
			return fs.SkipDir
		}
		if d.IsDir() || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		return add(path)
	})
	return "told-" + hex.EncodeToString(sum.Sum(nil))[:24], err
}
