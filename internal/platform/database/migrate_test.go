package database_test

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/platform/mariadb"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

func TestAMigrationIsSplitIntoItsStatements(t *testing.T) {
	assert.Equal(t, []string{"CREATE TABLE a (\n  id INT\n)", "CREATE TRIGGER t\n  SIGNAL '1';\n  DO 1", "DO 2"}, database.StatementsOf(`-- +goose Up
-- what a is for;
CREATE TABLE a (
  id INT
);
-- +goose StatementBegin
CREATE TRIGGER t
  SIGNAL '1';
  DO 1;
-- +goose StatementEnd
DO 2;
-- +goose Down
DROP TABLE a;
`)[:3])
}

// shape is the schema, column by column, with what is indexed and triggered.
func shape(t *testing.T, db *database.DB) (lines []string) {
	t.Helper()
	require.NoError(t, db.Select(&lines, `SELECT CONCAT_WS(' ', table_name, column_name, column_type, is_nullable, COALESCE(column_default, '-')) FROM information_schema.columns WHERE table_schema = DATABASE() AND table_name <> 'migration_step'
		UNION ALL SELECT CONCAT_WS(' ', table_name, index_name, seq_in_index, column_name) FROM information_schema.statistics WHERE table_schema = DATABASE() AND table_name <> 'migration_step'
		UNION ALL SELECT trigger_name FROM information_schema.triggers WHERE trigger_schema = DATABASE()
		UNION ALL SELECT CONCAT_WS(' ', table_name, constraint_name) FROM information_schema.referential_constraints WHERE constraint_schema = DATABASE() ORDER BY 1`))
	return lines
}

// Every migration may be broken off after any of its statements, with or
// without the note that the last was done, and is gone on with.
func TestABrokenMigrationGoesOnWhereItWas(t *testing.T) {
	whole := shape(t, dbtest.New(t))
	entries, err := os.ReadDir("migrations")
	require.NoError(t, err)
	for i, e := range entries {
		text, err := database.Text(e.Name())
		require.NoError(t, err)
		statements := database.StatementsOf(text)
		for _, at := range []int{0, len(statements) / 2, len(statements) - 1} {
			for _, noted := range []bool{true, false} {
				db, err := database.Open(t.Context(), dbtest.DSN(t))
				require.NoError(t, err)
				if i > 0 {
					require.NoError(t, db.MigrateTo(t.Context(), int64(i)))
				}
				broken := append(append([]string{}, statements[:at]...), "SELECT broken FROM off")
				require.Error(t, db.CarryOut(t.Context(), int64(i+1), broken))
				if !noted {
					_, err := db.Exec(statements[at])
					require.NoError(t, err, statements[at])
					if !strings.Contains(statements[at], "TABLE") && !strings.Contains(statements[at], "TRIGGER") {
						continue // rows are written together with the note
					}
				}
				require.NoError(t, db.Migrate(t.Context()), "%s, broken off before statement %d", e.Name(), at+1)
				assert.Equal(t, whole, shape(t, db), "%s, statement %d", e.Name(), at+1)
				require.NoError(t, db.Close())
			}
		}
	}
}

// On a database with its binary log on, an ordinary account may not make the
// record's triggers: that is said before anything is touched.
func TestABinaryLogIsNoticedBeforeAnythingIsTouched(t *testing.T) {
	ctx, dir := context.Background(), filepath.Join(t.TempDir(), "db")
	try := func(trusting string) error {
		server, err := mariadb.Start(ctx, dir, "--innodb-buffer-pool-size=64M", "--log-bin=binary", "--server-id=1", "--log-bin-trust-function-creators="+trusting)
		require.NoError(t, err)
		t.Cleanup(func() { _ = server.Stop() })
		dsn, err := server.Create(ctx, "yewmoor_held")
		require.NoError(t, err)
		db, err := database.Open(ctx, dsn)
		require.NoError(t, err)
		defer db.Close()
		err = db.Migrate(ctx)
		var tables int
		require.NoError(t, db.Get(&tables, `SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = DATABASE()`))
		assert.Equal(t, err != nil, tables == 0, "%d tables", tables)
		require.NoError(t, server.Stop())
		return err
	}
	require.ErrorContains(t, try("0"), "log_bin_trust_function_creators")
	require.NoError(t, try("1"))
}
