// Package backup writes the whole of an installation, database and files, into
// one archive while it runs, and puts it back into an empty place.
//
// The archive is a gzipped tar: database.sql as mariadb-dump writes it (rows
// only; the schema comes from the program's own migrations), files/… by
// content, and manifest.json with the size and SHA-256 of each, last.
package backup

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"strings"
	"time"

	"yewmoor/internal/platform/database"
	store "yewmoor/internal/platform/files"
)

const (
	product      = "yewmoor-backup"
	manifestName = "manifest.json"
	dumpName     = "database.sql"
	filesFolder  = "files"
)

// Manifest says what is in an archive.
type Manifest struct {
	Product string    `json:"product"`
	MadeAt  time.Time `json:"made_at"`
	Schema  int64     `json:"schema_version"`
	Entries []Entry   `json:"entries"`
	// Missing are files that the database knows and that were not there, Strays
	// those that lay there and are no file of ours: neither costs the backup, and
	// both are somebody's to look at.
	Missing []string `json:"missing,omitempty"`
	Strays  []string `json:"strays,omitempty"`
}

// Whole says whether nothing was missing.
func (m Manifest) Whole() bool { return len(m.Missing) == 0 }

// Entry is one file of the archive.
type Entry struct {
	Name   string `json:"name"`
	Size   int64  `json:"size"`
	SHA256 string `json:"sha256"`
}

// Size is how much the entries hold, in bytes.
func (m Manifest) Size() (bytes int64) {
	for _, e := range m.Entries {
		bytes += e.Size
	}
	return bytes
}

// Write makes the archive to, which must not exist yet, from the database of
// dsn and the folder of files, and reads it back. What is kept is one moment:
// the rows are read in one snapshot; files are only ever added, and are copied
// after it, so every file that a row knows is there.
func Write(ctx context.Context, dsn, files, to string) (Manifest, error) {
	m := Manifest{Product: product, MadeAt: time.Now().UTC().Truncate(time.Second), Entries: []Entry{}}
	if _, err := os.Stat(to); err == nil {
		return m, fmt.Errorf("%s is there already; nothing was written", to)
	}
	db, err := database.Open(ctx, dsn)
	if err != nil {
		return m, err
	}
	defer db.Close()
	if m.Schema, err = db.Version(ctx); err != nil {
		return m, err
	}
	part := to + ".part"
	defer os.Remove(part)
	dump := to + ".sql.part"
	defer os.Remove(dump)
	if err := dumpRows(ctx, dsn, dump); err != nil {
		return m, err
	}
	// What the database knows is read after its rows were: whatever a row of the
	// dump knows is among it.
	if m.Missing, err = missing(ctx, db, files); err != nil {
		return m, err
	}
	if err := writeArchive(part, dump, files, &m); err != nil {
		return m, err
	}
	if _, err := Verify(part); err != nil {
		return m, fmt.Errorf("the backup does not read back: %w", err)
	}
	return m, os.Rename(part, to)
}

func dumpRows(ctx context.Context, dsn, to string) error {
	out, err := os.OpenFile(to, os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	defer out.Close()
	err = client(ctx, dsn, "mariadb-dump", nil, out, "--single-transaction", "--quick", "--no-create-info", "--skip-triggers", "--skip-lock-tables", "--no-tablespaces",
		"--hex-blob", "--complete-insert", "--default-character-set=utf8mb4", "--tz-utc", "--ignore-table=%s.goose_db_version", "--ignore-table=%s.migration_step", "%s")
	return errors.Join(err, out.Sync())
}

// client runs one of MariaDB's own programs on the database of dsn. Its
// password goes through a file that only this user can read. %s in an argument
// stands for the database's name.
func client(ctx context.Context, dsn, program string, in io.Reader, out io.Writer, args ...string) error {
	c, err := database.ParseDSN(dsn)
	if err != nil {
		return err
	}
	secret, err := os.CreateTemp("", "yewmoor-client-*")
	if err != nil {
		return err
	}
	defer os.Remove(secret.Name())
	where := fmt.Sprintf("socket=%q\n", c.Addr)
	if c.Net == "tcp" {
		host, port, _ := strings.Cut(c.Addr, ":")
		where = fmt.Sprintf("protocol=tcp\nhost=%q\nport=%s\n", host, port)
	}
	_, err = fmt.Fprintf(secret, "[client]\nuser=%q\npassword=%q\n%s", c.User, c.Passwd, where)
	if err = errors.Join(err, secret.Close()); err != nil {
		return err
	}
	for i, a := range args {
		args[i] = strings.ReplaceAll(a, "%s", c.DBName)
	}
	cmd := exec.CommandContext(ctx, program, append([]string{"--defaults-file=" + secret.Name()}, args...)...)
	var complaints bytes.Buffer
	cmd.Stdin, cmd.Stdout, cmd.Stderr = in, out, &complaints
	if err := cmd.Run(); err != nil {
		return fmt.Errorf("%s: %w: %s", program, err, strings.TrimSpace(complaints.String()))
	}
	return nil
}

func writeArchive(to, dump, files string, m *Manifest) (err error) {
	f, err := os.OpenFile(to, os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	defer f.Close()
	zip := gzip.NewWriter(f)
	t := tar.NewWriter(zip)
	if err := add(t, m, dumpName, dump); err != nil {
		return err
	}
	err = filepath.WalkDir(files, func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || strings.HasPrefix(d.Name(), "in-") { // in-… is an upload under way
			return err
		}
		name := d.Name()
		if rel, err := filepath.Rel(files, p); err != nil || !store.IsSum(name) || filepath.ToSlash(rel) != name[:2]+"/"+name {
			m.Strays = append(m.Strays, filepath.ToSlash(rel))
			return err
		}
		err = add(t, m, path.Join(filesFolder, name[:2], name), p)
		if errors.Is(err, fs.ErrNotExist) {
			return nil // swept just now, so nothing knew it
		}
		return err
	})
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("copying the files: %w", err)
	}
	raw, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		return err
	}
	if err := t.WriteHeader(&tar.Header{Name: manifestName, Mode: 0o600, Size: int64(len(raw)), ModTime: m.MadeAt}); err != nil {
		return err
	}
	_, err = t.Write(raw)
	return errors.Join(err, t.Close(), zip.Close(), f.Sync())
}

func add(t *tar.Writer, m *Manifest, name, from string) error {
	f, err := os.Open(from)
	if err != nil {
		return err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return err
	}
	if err := t.WriteHeader(&tar.Header{Name: name, Mode: 0o600, Size: info.Size(), ModTime: m.MadeAt}); err != nil {
		return err
	}
	sum := sha256.New()
	if _, err := io.Copy(io.MultiWriter(t, sum), f); err != nil {
		return fmt.Errorf("writing %s: %w", name, err)
	}
	m.Entries = append(m.Entries, Entry{name, info.Size(), hex.EncodeToString(sum.Sum(nil))})
	return nil
}

// missing are the files that the database knows and that are not in the folder.
func missing(ctx context.Context, db *database.DB, files string) ([]string, error) {
	var known, out []string
	if err := db.SelectContext(ctx, &known, `SELECT sha256 FROM file ORDER BY id`); err != nil {
		return nil, err
	}
	for _, sum := range known {
		if _, err := os.Stat(filepath.Join(files, sum[:2], sum)); errors.Is(err, fs.ErrNotExist) {
			out = append(out, sum)
		} else if err != nil {
			return nil, err
		}
	}
	return out, nil
}
