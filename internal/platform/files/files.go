// Package files keeps pictures and other uploads once, by content, in a data
// folder, and records them in the database.
package files

import (
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"sync"
	"time"

	"yewmoor/internal/platform/turns"
)

// Store is the data folder.
type Store struct {
	dir  string
	make func(dir string) (temporary, error)
	// turn lets one picture be opened at a time, until it is reduced.
	turn *turns.Turns
	// placing keeps a sweep from removing what is just being put in its place.
	placing sync.Mutex
}

// temporary is a file that is not in place yet.
type temporary interface {
	io.Writer
	Sync() error
	Close() error
	Name() string
}

// NewStore uses dir, which is made when it is missing.
func NewStore(dir string) (*Store, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("making the folder for files: %w", err)
	}
	return &Store{dir: dir, make: func(dir string) (temporary, error) { return os.CreateTemp(dir, "in-*") }, turn: turns.New("a picture to be read", 1, 32)}, nil
}

// File is one stored file.
type File struct {
	ID        uint64    `db:"id" json:"id"`
	SHA256    string    `db:"sha256" json:"sha256"`
	MediaType string    `db:"media_type" json:"media_type"`
	Size      int64     `db:"size" json:"size"`
	CreatedAt time.Time `db:"created_at" json:"created_at"`
}

func (s *Store) path(name string) string { return filepath.Join(s.dir, name[:2], name) }

// Open reads a stored file.
func (s *Store) Open(name string) (*os.File, error) {
	if !IsSum(name) {
		return nil, fs.ErrNotExist
	}
	return os.Open(s.path(name))
}
