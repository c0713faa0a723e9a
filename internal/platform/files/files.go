// Package files keeps pictures and other uploads once, by content, in a data
// folder, and records them in the database.
package files

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"time"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// MaxBytes is the largest picture that is taken.
const MaxBytes = 20 << 20

var pictureTypes = []string{"image/png", "image/jpeg", "image/webp", "image/gif"}

// Store is the data folder.
type Store struct {
	dir  string
	make func(dir string) (temporary, error)
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
	return &Store{dir, func(dir string) (temporary, error) { return os.CreateTemp(dir, "in-*") }}, nil
}

// File is one stored file.
type File struct {
	ID        uint64    `db:"id" json:"id"`
	SHA256    string    `db:"sha256" json:"sha256"`
	MediaType string    `db:"media_type" json:"media_type"`
	Size      int64     `db:"size" json:"size"`
	CreatedAt time.Time `db:"created_at" json:"created_at"`
}

// Picture takes in an uploaded picture: its type is judged by its content,
// its size is limited, and it is on disk before the database knows of it.
func (s *Store) Picture(ctx context.Context, tx database.Tx, from io.Reader, at time.Time, person uint64) (File, error) {
	raw, err := io.ReadAll(io.LimitReader(from, MaxBytes+1))
	if err != nil {
		return File{}, fmt.Errorf("reading the upload: %w", err)
	}
	if len(raw) > MaxBytes {
		return File{}, problem.New(http.StatusRequestEntityTooLarge, "too_large", "file", "The picture is larger than 20 MB. Nothing was stored; make it smaller and try again.")
	}
	kind := http.DetectContentType(raw)
	if !slices.Contains(pictureTypes, kind) {
		return File{}, problem.Invalid("wrong_type", "file", "This is not a PNG, JPEG, WebP or GIF picture. Nothing was stored.")
	}
	sum := sha256.Sum256(raw)
	name := hex.EncodeToString(sum[:])
	if err := s.write(name, raw); err != nil {
		return File{}, err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO file (sha256, media_type, size, created_at, created_by) VALUES (?,?,?,?,NULLIF(?,0)) ON DUPLICATE KEY UPDATE id = id`, name, kind, len(raw), at, person); err != nil {
		return File{}, fmt.Errorf("recording the file: %w", err)
	}
	var f File
	err = tx.GetContext(ctx, &f, `SELECT id, sha256, media_type, size, created_at FROM file WHERE sha256 = ?`, name)
	return f, err
}

// write puts content in place in one step: a crash leaves either the whole
// file or none.
func (s *Store) write(name string, raw []byte) error {
	if _, err := os.Stat(s.path(name)); err == nil {
		return nil
	}
	if err := os.MkdirAll(filepath.Dir(s.path(name)), 0o700); err != nil {
		return err
	}
	tmp, err := s.make(s.dir)
	if err != nil {
		return fmt.Errorf("storing the file: %w", err)
	}
	defer os.Remove(tmp.Name())
	_, err = tmp.Write(raw)
	if err = errors.Join(err, tmp.Sync(), tmp.Close()); err != nil {
		return fmt.Errorf("storing the file: %w", err)
	}
	return os.Rename(tmp.Name(), s.path(name))
}

func (s *Store) path(name string) string { return filepath.Join(s.dir, name[:2], name) }

// Open reads a stored file.
func (s *Store) Open(name string) (*os.File, error) { return os.Open(s.path(name)) }
