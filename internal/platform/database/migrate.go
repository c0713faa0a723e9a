package database

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"strings"

	"github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"
)

//go:embed migrations/*.sql
var migrations embed.FS

// provider hands the migrations to goose, which keeps the versions. What they
// do is carried out statement by statement, see carryOut.
func (db *DB) provider() (*goose.Provider, error) {
	names, err := fs.Glob(migrations, "migrations/*.sql")
	if err != nil {
		return nil, err
	}
	var all []*goose.Migration
	for _, name := range names {
		version, err := goose.NumericComponent(name)
		if err != nil {
			return nil, err
		}
		text, err := migrations.ReadFile(name)
		if err != nil {
			return nil, err
		}
		statements := statementsOf(string(text))
		all = append(all, goose.NewGoMigration(version, &goose.GoFunc{RunDB: func(ctx context.Context, _ *sql.DB) error {
			return db.carryOut(ctx, version, statements)
		}}, nil))
	}
	p, err := goose.NewProvider(goose.DialectMySQL, db.DB.DB, nil, goose.WithDisableGlobalRegistry(true), goose.WithGoMigrations(all...))
	if err != nil {
		return nil, fmt.Errorf("reading the migrations: %w", err)
	}
	return p, nil
}

// statementsOf splits the part "Up" of a migration: a statement ends with the
// line that ends with a semicolon, or with StatementEnd where it was begun.
func statementsOf(text string) (statements []string) {
	up, _, _ := strings.Cut(text, "-- +goose Down")
	var now []string
	inside := false
	for _, line := range strings.Split(up, "\n") {
		switch mark := strings.TrimSpace(line); {
		case mark == "-- +goose StatementBegin":
			inside = true
			continue
		case mark == "-- +goose StatementEnd":
			inside = false
		case mark == "" || strings.HasPrefix(mark, "--"):
			continue
		default:
			now = append(now, line)
			if inside || !strings.HasSuffix(mark, ";") {
				continue
			}
		}
		statements = append(statements, strings.TrimSuffix(strings.TrimSpace(strings.Join(now, "\n")), ";"))
		now = nil
	}
	return statements
}

// steps remembers how far a migration came, so that one which was broken off
// goes on where it was. Rows of MariaDB's schema changes cannot be taken back.
const steps = `CREATE TABLE IF NOT EXISTS migration_step (version BIGINT NOT NULL PRIMARY KEY, done INT NOT NULL)`

// carryOut does a migration's statements that are not done yet, each together
// with the note that it is. A change of the schema ends the transaction by
// itself: one that was done without its note says so when it is done again.
func (db *DB) carryOut(ctx context.Context, version int64, statements []string) error {
	if _, err := db.ExecContext(ctx, steps); err != nil {
		return err
	}
	begun, err := Changed(db.ExecContext(ctx, `INSERT IGNORE INTO migration_step (version, done) VALUES (?, 0)`, version))
	if err != nil {
		return err
	}
	done := 0
	if err := db.GetContext(ctx, &done, `SELECT done FROM migration_step WHERE version = ?`, version); err != nil {
		return err
	}
	for i := done; i < len(statements); i++ {
		err := db.step(ctx, version, i+1, statements[i])
		if !begun && i == done && alreadyThere(err) {
			err = db.step(ctx, version, i+1, "DO 0")
		}
		if err != nil {
			return fmt.Errorf("statement %d of %d: %w; mend what is wrong and start again, it goes on from there", i+1, len(statements), err)
		}
	}
	_, err = db.ExecContext(ctx, `DELETE FROM migration_step WHERE version = ?`, version)
	return err
}

func (db *DB) step(ctx context.Context, version int64, number int, statement string) error {
	tx, err := db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback() //nolint:errcheck // after a commit there is nothing to take back
	if _, err := tx.ExecContext(ctx, statement); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE migration_step SET done = ? WHERE version = ?`, number, version); err != nil {
		return err
	}
	return tx.Commit()
}

// alreadyThere says whether a change of the schema failed because it was made
// before: table, column, index, trigger or key is there, or gone, already.
func alreadyThere(err error) bool {
	var e *mysql.MySQLError
	if !errors.As(err, &e) {
		return false
	}
	switch e.Number {
	case 1050, 1051, 1060, 1061, 1091, 1359, 1826:
		return true
	}
	return false
}

// Version is the schema version of the database.
func (db *DB) Version(ctx context.Context) (int64, error) {
	p, err := db.provider()
	if err != nil {
		return 0, err
	}
	return p.GetDBVersion(ctx)
}

// Migrate brings the schema forward. A database that is newer than this
// program is refused.
func (db *DB) Migrate(ctx context.Context) error { return db.MigrateTo(ctx, 0) }

// MigrateTo brings the schema forward to a version, 0 for the newest that this
// program knows.
func (db *DB) MigrateTo(ctx context.Context, version int64) error {
	if err := db.mayMakeTriggers(ctx); err != nil {
		return err
	}
	p, err := db.provider()
	if err != nil {
		return err
	}
	have, err := p.GetDBVersion(ctx)
	if err != nil {
		return fmt.Errorf("reading the schema version: %w", err)
	}
	known := p.ListSources()[len(p.ListSources())-1].Version
	if newest := max(have, version); newest > known {
		return fmt.Errorf("this database is at version %d, but this program only knows version %d: run a newer Yewmoor", newest, known)
	}
	if version == 0 {
		version = known
	}
	results, err := p.UpTo(ctx, version)
	for _, r := range results {
		slog.Debug("schema brought forward", "version", r.Source.Version)
	}
	return err
}

// mayMakeTriggers refuses, before anything is touched, a database that would
// refuse the triggers which keep the record as it was written: one with its
// binary log on takes them from a privileged account only (error 1419).
func (db *DB) mayMakeTriggers(ctx context.Context) error {
	var there, safe bool
	if err := db.GetContext(ctx, &there, `SELECT COUNT(*) = 2 FROM information_schema.triggers WHERE trigger_schema = DATABASE() AND trigger_name IN ('journal_no_update', 'journal_no_delete')`); err != nil || there {
		return err
	}
	if err := db.GetContext(ctx, &safe, `SELECT NOT @@log_bin OR @@log_bin_trust_function_creators`); err != nil || safe {
		return err
	}
	var grants []string
	if err := db.SelectContext(ctx, &grants, `SHOW GRANTS`); err != nil {
		return err
	}
	for _, g := range grants {
		if strings.Contains(g, " ON *.* ") && (strings.Contains(g, "SUPER") || strings.Contains(g, "ALL PRIVILEGES")) {
			return nil
		}
	}
	return errors.New("this database keeps a binary log and takes triggers from privileged accounts only, but the record needs two. Nothing was changed. Have its administrator run SET GLOBAL log_bin_trust_function_creators = 1 (and put it into the server's settings), then start again")
}
