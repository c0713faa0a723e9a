package demo_test

import (
	"archive/tar"
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
	"path/filepath"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/demo"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/backup"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
)

// whole is a database as a checksum of each table, and a folder of files
// as their contents.
func whole(t *testing.T, db *database.DB, files string) map[string]string {
	all := map[string]string{}
	var tables []string
	require.NoError(t, db.Select(&tables, `SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name NOT IN ('goose_db_version','migration_step','sessions','sign_in','known_device','act_key','artist_link','restored')`))
	for _, name := range tables {
		var row struct {
			Table    string `db:"Table"`
			Checksum uint64 `db:"Checksum"`
		}
		require.NoError(t, db.Get(&row, "CHECKSUM TABLE `"+name+"` EXTENDED"))
		var n int
		require.NoError(t, db.Get(&n, "SELECT COUNT(*) FROM `"+name+"`"))
		all[name] = fmt.Sprint(n, " rows, ", row.Checksum)
	}
	found, err := filepath.Glob(filepath.Join(files, "*", "*"))
	require.NoError(t, err)
	for _, f := range found {
		raw, err := os.ReadFile(f)
		require.NoError(t, err)
		all[filepath.Base(f)] = string(raw)
	}
	return all
}

func TestABackupComesBackWhole(t *testing.T) {
	s, _, dsn := told(t)
	_, err := s.DB.Exec(`INSERT INTO sign_in (person_id, device, address, at, seen_at) VALUES (1, 'Chromium on Linux', '127.0.0.1', ?, ?)`, demo.Start, demo.Start)
	require.NoError(t, err)
	archive := filepath.Join(t.TempDir(), "yewmoor.backup")
	m, err := backup.Write(t.Context(), dsn, s.Config.FilesDir, archive)
	require.NoError(t, err)
	assert.Greater(t, len(m.Entries), 1, "pictures too")
	before := whole(t, s.DB, s.Config.FilesDir)
	assert.Greater(t, len(before), 30)

	_, err = backup.Write(t.Context(), dsn, s.Config.FilesDir, archive)
	assert.ErrorContains(t, err, "there already")
	_, err = backup.Restore(t.Context(), archive, dsn, t.TempDir())
	assert.ErrorContains(t, err, "not empty", "over what is there it is refused")
	_, err = backup.Restore(t.Context(), archive, dbtest.DSN(t), s.Config.FilesDir)
	assert.ErrorContains(t, err, "not empty")

	empty, files := dbtest.DSN(t), filepath.Join(t.TempDir(), "files")
	_, err = backup.Restore(t.Context(), archive, empty, files)
	require.NoError(t, err)
	db, err := database.Open(t.Context(), empty)
	require.NoError(t, err)
	defer db.Close()
	assert.Equal(t, before, whole(t, db, files))
	var open int
	require.NoError(t, db.Get(&open, `SELECT COUNT(*) FROM sign_in WHERE ended_at IS NULL`))
	assert.Zero(t, open, "everybody signs in again")
	require.NoError(t, db.Get(&open, `SELECT COUNT(*) FROM artist_link WHERE withdrawn_at IS NULL`))
	assert.Zero(t, open, "a link that was withdrawn after the backup does not come back: all have ended")
	require.NoError(t, db.Get(&open, `SELECT COUNT(*) FROM restored WHERE answered_at IS NULL`))
	assert.Equal(t, 1, open, "what came after it is still to be asked")
	_, err = db.Exec(`DELETE FROM journal`)
	assert.ErrorContains(t, err, "only ever added", "what the database refuses, it still refuses")
}

func TestABackupWhilePeopleWorkIsOneMoment(t *testing.T) {
	s, _, dsn := told(t)
	ctx, stop := context.WithCancel(t.Context())
	var work sync.WaitGroup
	work.Add(1)
	go func() {
		defer work.Done()
		for i := 0; ctx.Err() == nil; i++ {
			// One act, two rows: both or neither.
			_ = s.DB.InTx(ctx, func(tx database.Tx) error {
				for _, half := range []string{"first", "second"} {
					if _, err := journal.Add(ctx, tx, journal.Entry{At: demo.Start, Kind: "shop", Code: fmt.Sprint(i), Act: half}); err != nil {
						return err
					}
				}
				return nil
			})
		}
	}()
	archive := filepath.Join(t.TempDir(), "yewmoor.backup")
	_, err := backup.Write(t.Context(), dsn, s.Config.FilesDir, archive)
	stop()
	work.Wait()
	require.NoError(t, err)
	empty := dbtest.DSN(t)
	_, err = backup.Restore(t.Context(), archive, empty, filepath.Join(t.TempDir(), "files"))
	require.NoError(t, err)
	db, err := database.Open(t.Context(), empty)
	require.NoError(t, err)
	defer db.Close()
	var first, second int
	require.NoError(t, db.Get(&first, `SELECT COUNT(*) FROM journal WHERE kind = 'shop' AND act = 'first'`))
	require.NoError(t, db.Get(&second, `SELECT COUNT(*) FROM journal WHERE kind = 'shop' AND act = 'second'`))
	assert.Equal(t, first, second)
}

func TestABrokenBackupIsRefused(t *testing.T) {
	s, _, dsn := told(t)
	archive := filepath.Join(t.TempDir(), "yewmoor.backup")
	_, err := backup.Write(t.Context(), dsn, s.Config.FilesDir, archive)
	require.NoError(t, err)
	raw, err := os.ReadFile(archive)
	require.NoError(t, err)
	for name, broken := range map[string][]byte{
		"cut short":    raw[:len(raw)/2],
		"one bit":      append(append([]byte{}, raw[:len(raw)/2]...), append([]byte{raw[len(raw)/2] ^ 1}, raw[len(raw)/2+1:]...)...),
		"not a backup": []byte("hello"),
	} {
		path := filepath.Join(t.TempDir(), "broken")
		require.NoError(t, os.WriteFile(path, broken, 0o600))
		_, err := backup.Restore(t.Context(), path, dbtest.DSN(t), filepath.Join(t.TempDir(), "files"))
		assert.Error(t, err, name)
	}

}

// One missing picture, or a stray file, must not cost the night's backup: it is
// kept, and both are listed.
func TestAMissingPictureCostsNoBackup(t *testing.T) {
	s, _, dsn := told(t)
	var sum string
	require.NoError(t, s.DB.Get(&sum, `SELECT sha256 FROM file LIMIT 1`))
	require.NoError(t, os.Remove(filepath.Join(s.Config.FilesDir, sum[:2], sum)))
	require.NoError(t, os.WriteFile(filepath.Join(s.Config.FilesDir, "x"), []byte("a name of one letter"), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(s.Config.FilesDir, "notes.txt"), []byte("somebody's"), 0o600))
	archive := filepath.Join(t.TempDir(), "late")
	m, err := backup.Write(t.Context(), dsn, s.Config.FilesDir, archive)
	require.NoError(t, err)
	assert.Equal(t, []string{sum}, m.Missing)
	assert.ElementsMatch(t, []string{"x", "notes.txt"}, m.Strays)
	assert.False(t, m.Whole())
	empty := dbtest.DSN(t)
	_, err = backup.Restore(t.Context(), archive, empty, filepath.Join(t.TempDir(), "files"))
	require.NoError(t, err)
	db, err := database.Open(t.Context(), empty)
	require.NoError(t, err)
	defer db.Close()
	var kept string
	require.NoError(t, db.Get(&kept, `SELECT missing FROM restored`))
	assert.Equal(t, sum, kept, "and it is known where it comes back")
}

// remade is an archive with its entries changed, and a manifest that fits them.
func remade(t *testing.T, from string, change func(entries map[string][]byte)) string {
	t.Helper()
	f, err := os.Open(from)
	require.NoError(t, err)
	defer f.Close()
	zip, err := gzip.NewReader(f)
	require.NoError(t, err)
	var m backup.Manifest
	entries, in := map[string][]byte{}, tar.NewReader(zip)
	for {
		h, err := in.Next()
		if err == io.EOF {
			break
		}
		require.NoError(t, err)
		raw, err := io.ReadAll(in)
		require.NoError(t, err)
		if h.Name == "manifest.json" {
			require.NoError(t, json.Unmarshal(raw, &m))
			continue
		}
		entries[h.Name] = raw
	}
	change(entries)
	m.Entries = nil
	to := filepath.Join(t.TempDir(), "remade")
	out, err := os.Create(to)
	require.NoError(t, err)
	pack := gzip.NewWriter(out)
	w := tar.NewWriter(pack)
	put := func(name string, raw []byte) {
		require.NoError(t, w.WriteHeader(&tar.Header{Name: name, Mode: 0o600, Size: int64(len(raw))}))
		_, err := w.Write(raw)
		require.NoError(t, err)
	}
	for name, raw := range entries {
		put(name, raw)
		sum := sha256.Sum256(raw)
		m.Entries = append(m.Entries, backup.Entry{Name: name, Size: int64(len(raw)), SHA256: hex.EncodeToString(sum[:])})
	}
	raw, err := json.Marshal(m)
	require.NoError(t, err)
	put("manifest.json", raw)
	require.NoError(t, errors.Join(w.Close(), pack.Close(), out.Close()))
	return to
}

func TestAHostileArchiveWritesNothingOutsideItsFolder(t *testing.T) {
	s, _, dsn := told(t)
	archive := filepath.Join(t.TempDir(), "yewmoor.backup")
	_, err := backup.Write(t.Context(), dsn, s.Config.FilesDir, archive)
	require.NoError(t, err)
	for _, name := range []string{"../evil.txt", "files/../../evil.txt", "files/ev/evil.txt", "/evil.txt", "files/x"} {
		bad := remade(t, archive, func(e map[string][]byte) { e[name] = []byte("evil") })
		place := t.TempDir()
		_, err := backup.Restore(t.Context(), bad, dbtest.DSN(t), filepath.Join(place, "in", "files"))
		require.Error(t, err, name)
		found := 0
		require.NoError(t, filepath.WalkDir(place, func(_ string, d fs.DirEntry, err error) error {
			if err == nil && !d.IsDir() {
				found++
			}
			return err
		}))
		assert.Zero(t, found, name)
	}
}

func TestARestoreThatFailsLeavesThePlaceEmpty(t *testing.T) {
	s, _, dsn := told(t)
	archive := filepath.Join(t.TempDir(), "yewmoor.backup")
	_, err := backup.Write(t.Context(), dsn, s.Config.FilesDir, archive)
	require.NoError(t, err)
	bad := remade(t, archive, func(e map[string][]byte) {
		e["database.sql"] = []byte("INSERT INTO person (login) VALUES ('half');\nTHIS IS NO SQL;\n-- Dump completed\n")
	})
	empty, files := dbtest.DSN(t), filepath.Join(t.TempDir(), "files")
	_, err = backup.Restore(t.Context(), bad, empty, files)
	require.ErrorContains(t, err, "nothing was restored")
	assert.NoDirExists(t, files)
	_, err = backup.Restore(t.Context(), archive, empty, files)
	require.NoError(t, err, "the same place takes a good one then")
}

func TestANewerDatabaseIsRefused(t *testing.T) {
	db := dbtest.New(t)
	_, err := db.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (9999, 1)`)
	require.NoError(t, err)
	assert.ErrorContains(t, db.Migrate(t.Context()), "run a newer Yewmoor")
}

func TestAnOlderDatabaseIsBroughtForwardWithWhatItHolds(t *testing.T) {
	db, err := database.Open(t.Context(), dbtest.DSN(t))
	require.NoError(t, err)
	defer db.Close()
	require.NoError(t, db.MigrateTo(t.Context(), 1))
	_, err = db.Exec(`INSERT INTO journal (at, kind, code, act) VALUES (?, 'shop', 'old', 'was here before')`, demo.Start)
	require.NoError(t, err)
	require.NoError(t, db.Migrate(t.Context()))
	var row struct{ Act, Device string }
	require.NoError(t, db.Get(&row, `SELECT act, device FROM journal WHERE code = 'old'`))
	assert.Equal(t, "was here before", row.Act)
	assert.Empty(t, row.Device)
}
