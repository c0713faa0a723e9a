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
	"os"
	"path"
	"path/filepath"
	"strings"

	"yewmoor/internal/platform/database"
	store "yewmoor/internal/platform/files"
)

// read hands every entry but the manifest to take, and returns the manifest.
func read(from string, take func(name string, r io.Reader) error) (Manifest, error) {
	var m Manifest
	f, err := os.Open(from)
	if err != nil {
		return m, err
	}
	defer f.Close()
	zip, err := gzip.NewReader(f)
	if err != nil {
		return m, fmt.Errorf("%s is no backup: %w", filepath.Base(from), err)
	}
	t := tar.NewReader(zip)
	for {
		h, err := t.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return m, fmt.Errorf("the archive is broken: %w", err)
		}
		if h.Name == manifestName {
			if err := json.NewDecoder(t).Decode(&m); err != nil {
				return m, fmt.Errorf("reading the manifest: %w", err)
			}
			continue
		}
		if !belongs(h.Name) {
			return m, fmt.Errorf("the archive holds %q, which no backup does; nothing of it was written", h.Name)
		}
		if err := take(h.Name, t); err != nil {
			return m, fmt.Errorf("%s: %w", h.Name, err)
		}
	}
	if m.Product != product {
		return m, fmt.Errorf("%s is no backup of Yewmoor", filepath.Base(from))
	}
	return m, nil
}

// belongs says whether an archive of ours can hold an entry of this name: the
// rows, and files by their content. Anything else might lead out of its folder.
func belongs(name string) bool {
	if name == dumpName {
		return true
	}
	sum := path.Base(name)
	return store.IsSum(sum) && name == path.Join(filesFolder, sum[:2], sum)
}

// Verify reads an archive through and compares every entry with the manifest.
func Verify(from string) (Manifest, error) {
	sums := map[string]Entry{}
	var end tail
	m, err := read(from, func(name string, r io.Reader) error {
		sum := sha256.New()
		to := io.Writer(sum)
		if name == dumpName {
			to = io.MultiWriter(sum, &end)
		}
		n, err := io.Copy(to, r)
		sums[name] = Entry{name, n, hex.EncodeToString(sum.Sum(nil))}
		return err
	})
	if err != nil {
		return m, err
	}
	if len(sums) != len(m.Entries) {
		return m, fmt.Errorf("the archive holds %d entries, its manifest names %d", len(sums), len(m.Entries))
	}
	for _, e := range m.Entries {
		if sums[e.Name] != e {
			return m, fmt.Errorf("%s is not what the manifest says", e.Name)
		}
		if strings.HasPrefix(e.Name, filesFolder+"/") && path.Base(e.Name) != e.SHA256 {
			return m, fmt.Errorf("%s does not hold what it is named after", e.Name)
		}
	}
	if !bytes.Contains(end, []byte("-- Dump completed")) {
		return m, errors.New("the rows are not complete")
	}
	return m, nil
}

// tail keeps the last bytes that were written to it.
type tail []byte

func (t *tail) Write(p []byte) (int, error) {
	*t = append(*t, p...)
	if over := len(*t) - 200; over > 0 {
		*t = append((*t)[:0], (*t)[over:]...)
	}
	return len(p), nil
}

// Restore puts an archive into the empty database of dsn and the empty folder
// of files, brings the schema forward to this program's, and ends every sign-in
// and every artist's link: one that was ended after the backup must not come
// back to life with it. It refuses to touch a place where something is, and an
// archive of a newer program; what a restore that failed began is taken away
// again. The shop is asked afterwards what came after the backup.
func Restore(ctx context.Context, from, dsn, files string) (Manifest, error) {
	m, err := Verify(from)
	if err != nil {
		return m, err
	}
	db, err := database.Open(ctx, dsn)
	if err != nil {
		return m, err
	}
	defer db.Close()
	var tables int
	if err := db.GetContext(ctx, &tables, `SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = DATABASE()`); err != nil {
		return m, err
	}
	if tables > 0 {
		return m, errors.New("the database is not empty; restore into a new one. Nothing was changed")
	}
	if there, err := os.ReadDir(files); err == nil && len(there) > 0 {
		return m, errors.New("the folder of files is not empty; restore into a new one. Nothing was changed")
	}
	_, err = os.Stat(files)
	made := errors.Is(err, os.ErrNotExist)
	if err := fill(ctx, db, from, dsn, files, m); err != nil {
		return m, errors.Join(fmt.Errorf("nothing was restored: %w", err), clear(context.WithoutCancel(ctx), db, files, made))
	}
	return m, nil
}

func fill(ctx context.Context, db *database.DB, from, dsn, files string, m Manifest) error {
	if err := db.MigrateTo(ctx, m.Schema); err != nil {
		return err
	}
	_, err := read(from, func(name string, r io.Reader) error {
		if name == dumpName {
			return client(ctx, dsn, "mariadb", r, io.Discard, "--default-character-set=utf8mb4", "--binary-mode", "%s")
		}
		return put(filepath.Join(files, path.Base(path.Dir(name))), path.Base(name), r)
	})
	if err != nil {
		return err
	}
	if err := db.Migrate(ctx); err != nil {
		return err
	}
	return begin(ctx, db, m)
}

// clear takes away what a restore that failed began: the place was empty
// before.
func clear(ctx context.Context, db *database.DB, files string, made bool) error {
	conn, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	var tables []string
	if err := db.SelectContext(ctx, &tables, `SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE()`); err != nil {
		return err
	}
	if _, err := conn.ExecContext(ctx, `SET foreign_key_checks = 0`); err != nil {
		return err
	}
	for _, t := range tables {
		if _, err := conn.ExecContext(ctx, "DROP TABLE IF EXISTS `"+t+"`"); err != nil {
			return err
		}
	}
	if made {
		return os.RemoveAll(files)
	}
	there, err := os.ReadDir(files)
	for _, one := range there {
		err = errors.Join(err, os.RemoveAll(filepath.Join(files, one.Name())))
	}
	return err
}

// begin makes a restored shop begin anew: everybody signs in again, artists get
// new links, and what came after the backup is asked before the first act.
func begin(ctx context.Context, db *database.DB, m Manifest) error {
	missing := strings.Join(m.Missing, " ")
	for _, q := range []struct {
		text string
		args []any
	}{
		{`DELETE FROM sessions`, nil},
		{`DELETE FROM known_device`, nil},
		{`UPDATE sign_in SET ended_at = UTC_TIMESTAMP(6) WHERE ended_at IS NULL`, nil},
		{`UPDATE artist_link SET withdrawn_at = UTC_TIMESTAMP(6) WHERE withdrawn_at IS NULL`, nil},
		{`UPDATE act_key SET answer = NULL`, nil},
		{`INSERT INTO restored (made_at, restored_at, missing) VALUES (?, UTC_TIMESTAMP(6), ?)`, []any{m.MadeAt, missing}},
	} {
		if _, err := db.ExecContext(ctx, q.text, q.args...); err != nil {
			return fmt.Errorf("beginning anew: %w", err)
		}
	}
	return nil
}

func put(folder, name string, r io.Reader) error {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return err
	}
	f, err := os.OpenFile(filepath.Join(folder, name), os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	_, err = io.Copy(f, r)
	return errors.Join(err, f.Sync(), f.Close())
}
