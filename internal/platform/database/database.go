// Package database opens MariaDB, brings its schema up to date and runs one
// act as one transaction.
package database

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync/atomic"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/jmoiron/sqlx"

	"yewmoor/internal/platform/problem"
)

// DB is the database.
type DB struct {
	*sqlx.DB
	// acts are as many as are done at once. An act may read beside itself on
	// another connection; half of them stay free for that, so that acts which
	// wait for one never hold all of them.
	acts chan struct{}
	held atomic.Pointer[problem.Problem]
}

// connections to the database at most.
const connections = 24

// Tx is one act in progress. Services hand it on to each other so that what
// they write stands or falls together.
type Tx = *sqlx.Tx

// Reader is what read-only SQL needs: the database or an act in progress.
type Reader interface {
	GetContext(ctx context.Context, dest any, query string, args ...any) error
	SelectContext(ctx context.Context, dest any, query string, args ...any) error
}

// Open connects to dsn (as the MySQL driver reads it). Times are UTC and the
// mode is strict whatever the dsn says.
func Open(ctx context.Context, dsn string) (*DB, error) {
	c, err := ParseDSN(dsn)
	if err != nil {
		return nil, err
	}
	c.ParseTime, c.Loc, c.Collation = true, time.UTC, "utf8mb4_unicode_ci"
	if c.Params == nil {
		c.Params = map[string]string{}
	}
	c.Params["sql_mode"] = "'TRADITIONAL,NO_ENGINE_SUBSTITUTION,ONLY_FULL_GROUP_BY'"
	c.Params["time_zone"] = "'+00:00'"
	// What an act reads after it got a lock is what stands there then, not what
	// stood there when it began: acts lock the row that orders them.
	c.Params["tx_isolation"] = "'READ-COMMITTED'"
	// One way to the server and back a query instead of three; safe with UTF-8.
	c.InterpolateParams = true
	// A database that is gone is said to be gone soon.
	c.Timeout = 3 * time.Second
	db, err := sqlx.ConnectContext(ctx, "mysql", c.FormatDSN())
	if err != nil {
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	db.SetMaxOpenConns(connections)
	db.SetMaxIdleConns(8)
	db.SetConnMaxLifetime(30 * time.Minute)
	return &DB{DB: db, acts: make(chan struct{}, connections/2)}, nil
}

// ParseDSN reads the address of a database.
func ParseDSN(dsn string) (*mysql.Config, error) {
	c, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("reading the database address: %w", err)
	}
	return c, nil
}

type watchKey struct{}

// Watching lets a caller learn afterwards whether an act of this context was
// kept, when something went wrong after it: nobody must then be told that
// nothing was recorded. One watch serves all that happens below it.
func Watching(ctx context.Context) (_ context.Context, kept func() bool) {
	if flag, ok := ctx.Value(watchKey{}).(*atomic.Bool); ok {
		return ctx, flag.Load
	}
	var flag atomic.Bool
	return context.WithValue(ctx, watchKey{}, &flag), flag.Load
}

const attempts = 6

// InTx runs act in one transaction. A deadlock, a lock wait that ran out or a
// failed certification of a replicated database is tried again; act must
// therefore have no effect but on tx.
func (db *DB) InTx(ctx context.Context, act func(tx Tx) error) error {
	if err := db.heldBack(ctx); err != nil {
		return err
	}
	select {
	case db.acts <- struct{}{}:
		defer func() { <-db.acts }()
	case <-ctx.Done():
		return ctx.Err()
	}
	var err error
	for try := range attempts {
		if err = db.once(ctx, act); !again(err) {
			if flag, ok := ctx.Value(watchKey{}).(*atomic.Bool); ok && err == nil {
				flag.Store(true)
			}
			return err
		}
		pause := time.Duration(rand.IntN(20)+10*(try+1)) * time.Millisecond
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(pause):
		}
	}
	return fmt.Errorf("the database was too busy, tried %d times: %w", attempts, err)
}

func (db *DB) once(ctx context.Context, act func(tx Tx) error) (err error) {
	tx, err := db.BeginTxx(ctx, nil)
	if err != nil {
		return fmt.Errorf("beginning: %w", err)
	}
	defer func() {
		if p := recover(); p != nil {
			_ = tx.Rollback()
			panic(p)
		}
	}()
	kept, err := leaveKey(ctx, tx)
	if err == nil {
		err = act(tx)
	}
	if err != nil {
		_ = tx.Rollback()
		return err
	}
	if err := tx.Commit(); err != nil {
		if again(err) {
			return err
		}
		return fmt.Errorf("%w: %w", problem.ErrUnsure, err)
	}
	kept()
	return nil
}

func again(err error) bool {
	var e *mysql.MySQLError
	return errors.As(err, &e) && (e.Number == 1213 || e.Number == 1205 || e.Number == 1020)
}

// IsDuplicate says whether err is a second row for a key that may be there
// only once.
func IsDuplicate(err error) bool {
	var e *mysql.MySQLError
	return errors.As(err, &e) && e.Number == 1062
}

// NextNumber hands out the next number of a named series, 1 first, inside an
// act: a number is used up only if the act succeeds.
func NextNumber(ctx context.Context, tx Tx, name string) (int64, error) {
	res, err := tx.ExecContext(ctx, `INSERT INTO counter (name, value) VALUES (?, LAST_INSERT_ID(1)) ON DUPLICATE KEY UPDATE value = LAST_INSERT_ID(value + 1)`, name)
	if err != nil {
		return 0, fmt.Errorf("counting %s: %w", name, err)
	}
	return res.LastInsertId()
}

// Changed says whether a statement changed anything: the answer of Exec goes
// straight in, so that neither its error nor the count's is passed over.
func Changed(res sql.Result, err error) (bool, error) {
	if err != nil {
		return false, err
	}
	n, err := res.RowsAffected()
	return n > 0, err
}
