package mariadb

import (
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"

	"github.com/jmoiron/sqlx"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func query(t *testing.T, dsn, q string) {
	db, err := sqlx.Connect("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(q)
	require.NoError(t, err)
}

func rows(t *testing.T, dsn string) (n int) {
	db, err := sqlx.Connect("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	require.NoError(t, db.Get(&n, `SELECT COUNT(*) FROM kept`))
	return n
}

// A program that was killed leaves its database running: the next one takes it
// over. A database that was killed itself is started on what it left.
func TestADatabaseSurvivesWhoeverStartedIt(t *testing.T) {
	dir := t.TempDir()
	first, err := Start(t.Context(), dir)
	require.NoError(t, err)
	dsn, err := first.Create(t.Context(), "yewmoor_kept")
	require.NoError(t, err)
	query(t, dsn, `CREATE TABLE kept (n INT PRIMARY KEY)`)
	query(t, dsn, `INSERT INTO kept VALUES (1)`)

	first.release() // as its end would
	second, err := Start(t.Context(), dir)
	require.NoError(t, err)
	assert.Equal(t, first.port, second.port, "the same server")
	dsn, err = second.Create(t.Context(), "yewmoor_kept")
	require.NoError(t, err)
	query(t, dsn, `INSERT INTO kept VALUES (2)`)

	raw, err := os.ReadFile(filepath.Join(dir, "mariadb.pid"))
	require.NoError(t, err)
	pid, err := strconv.Atoi(strings.TrimSpace(string(raw)))
	require.NoError(t, err)
	require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
	<-first.exited
	require.NoError(t, second.Stop())
	third, err := Start(t.Context(), dir)
	require.NoError(t, err)
	dsn, err = third.Create(t.Context(), "yewmoor_kept")
	require.NoError(t, err)
	assert.Equal(t, 2, rows(t, dsn), "what was committed is there")

	require.NoError(t, third.Stop())
	_, err = os.Stat(third.socket())
	assert.ErrorIs(t, err, os.ErrNotExist)
}

// Two programs on one folder: the second is told where the first one is, and
// the first one's database goes on with its account as it was.
func TestAFolderIsRunByOneProgram(t *testing.T) {
	dir := t.TempDir()
	first, err := Start(t.Context(), dir)
	require.NoError(t, err)
	defer func() { require.NoError(t, first.Stop()) }()
	dsn, err := first.Create(t.Context(), "yewmoor_kept")
	require.NoError(t, err)

	var held *Held
	_, err = Start(t.Context(), dir)
	require.ErrorAs(t, err, &held)
	assert.Empty(t, held.Note)
	require.NoError(t, first.Tell("at http://127.0.0.1:1"))
	_, err = Start(t.Context(), dir)
	require.ErrorAs(t, err, &held)
	assert.ErrorContains(t, err, "already runs from the same folder, at http://127.0.0.1:1")
	query(t, dsn, `CREATE TABLE kept (n INT PRIMARY KEY)`)
}

func TestOnlyOurOwnSchemasAreMade(t *testing.T) {
	s := &Server{}
	for _, name := range []string{"mysql", "", "yewmoor`; DROP DATABASE mysql; --", "yewmoor'x"} {
		_, err := s.Create(t.Context(), name)
		assert.ErrorContains(t, err, "not a schema name of ours", name)
	}
}

func TestALongFolderStillHasASocket(t *testing.T) {
	s := &Server{dir: "/" + strings.Repeat("a long folder/", 20)}
	assert.Less(t, len(s.socket()), 108, "what a Unix socket's name may have")
}
