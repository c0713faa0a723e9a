package files

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"time"

	"yewmoor/internal/platform/database"
)

// sweptAfter is how long anything lies before it is swept: whatever is under
// way is younger.
const sweptAfter = 24 * time.Hour

// Swept is what a sweep found and removed.
type Swept struct {
	Temporary int // of uploads and forms that were broken off, by a killed program too
	Unknown   int // pictures that no row knows: their act was refused
	Views     int // reduced views of such pictures
}

// Temp is the folder for what the program writes down in passing: forms with
// large files, secrets for MariaDB's own programs.
func (s *Store) Temp() string { return s.dir + ".tmp" }

// UseTemp makes Temp the folder of everything temporary in this process, so
// that what a killed program left is found again, and nobody else's is touched.
func (s *Store) UseTemp() error {
	if err := os.MkdirAll(s.Temp(), 0o700); err != nil {
		return err
	}
	return os.Setenv("TMPDIR", s.Temp())
}

// Sweep removes what nothing knows and nothing will: never anything younger
// than a day, and never a file while its picture is just being taken in again.
func (s *Store) Sweep(ctx context.Context, db database.Reader, now time.Time) (Swept, error) {
	var out Swept
	known, err := names(ctx, db, `SELECT sha256 FROM file`)
	if err != nil {
		return out, fmt.Errorf("reading the files: %w", err)
	}
	uploads, err := names(ctx, db, `SELECT id FROM upload`)
	if err != nil {
		return out, fmt.Errorf("reading the uploads: %w", err)
	}
	for _, place := range []struct {
		dir   string
		keep  func(name string) bool
		count *int
	}{
		{s.Temp(), func(string) bool { return false }, &out.Temporary},
		{s.dir, func(name string) bool {
			id, upload := strings.CutPrefix(name, "in-up-")
			return !strings.HasPrefix(name, "in-") || upload && uploads[id]
		}, &out.Temporary},
		{s.views(), func(name string) bool {
			sha, _, _ := strings.Cut(name, "-")
			return known[sha]
		}, &out.Views},
	} {
		if err := s.sweep(ctx, place.dir, 1, now, place.keep, place.count); err != nil {
			return out, err
		}
	}
	// Only what is named as a picture is, in its own folder: a stray file is
	// somebody's, and not ours to remove.
	err = s.sweep(ctx, s.dir, 2, now, func(name string) bool { return !IsSum(name) || known[name] }, &out.Unknown)
	if out != (Swept{}) {
		slog.InfoContext(ctx, "swept", "temporary", out.Temporary, "unknown", out.Unknown, "views", out.Views)
	}
	return out, err
}

func names(ctx context.Context, db database.Reader, query string) (map[string]bool, error) {
	var list []string
	if err := db.SelectContext(ctx, &list, query); err != nil {
		return nil, err
	}
	out := make(map[string]bool, len(list))
	for _, name := range list {
		out[name] = true
	}
	return out, nil
}

// sweep removes old files at a depth below dir unless they are kept.
func (s *Store) sweep(ctx context.Context, dir string, depth int, now time.Time, keep func(name string) bool, count *int) error {
	err := filepath.WalkDir(dir, func(p string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		below := 0
		if p != dir {
			rel, _ := filepath.Rel(dir, p)
			below = strings.Count(rel, string(filepath.Separator)) + 1
		}
		if d.IsDir() {
			if below >= depth && p != dir {
				return filepath.SkipDir
			}
			return nil
		}
		if below != depth || keep(d.Name()) {
			return nil
		}
		removed, err := s.removeOld(p, now)
		if removed {
			*count++
		}
		return err
	})
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return err
}

// removeOld removes a file that is old at this moment: one that was taken in
// again meanwhile is new.
func (s *Store) removeOld(p string, now time.Time) (bool, error) {
	s.placing.Lock()
	defer s.placing.Unlock()
	info, err := os.Stat(p)
	if errors.Is(err, fs.ErrNotExist) || err == nil && now.Sub(info.ModTime()) < sweptAfter {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	return true, os.Remove(p)
}

// place puts a finished file where its content says, as the newest of its kind.
func (s *Store) place(from, name string) error {
	if err := os.MkdirAll(filepath.Dir(s.path(name)), 0o700); err != nil {
		return err
	}
	s.placing.Lock()
	defer s.placing.Unlock()
	return os.Rename(from, s.path(name))
}

// IsSum says whether a name is a SHA-256 as we write it.
func IsSum(name string) bool {
	return len(name) == 64 && strings.Trim(name, "0123456789abcdef") == ""
}
