// Package dbtest gives tests a real database: a throwaway MariaDB for the
// package under test, and a fresh schema for each test that asks.
package dbtest

import (
	"context"
	"fmt"
	"os"
	"sync"
	"sync/atomic"
	"testing"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/mariadb"
)

var (
	once   sync.Once
	server *mariadb.Server
	failed error
	dir    string
	count  atomic.Int64
)

// Main runs a package's tests and stops its database afterwards; call it from
// TestMain.
func Main(m *testing.M) { MainAfter(m, func() {}) }

// MainAfter does something more when the tests are over.
func MainAfter(m *testing.M, then func()) {
	code := m.Run()
	then()
	if server != nil {
		if err := server.Stop(); err != nil {
			fmt.Fprintln(os.Stderr, "stopping the test database:", err)
		}
	}
	if dir != "" {
		_ = os.RemoveAll(dir)
	}
	os.Exit(code)
}

// DSN makes a fresh schema and returns its address.
func DSN(t testing.TB) string {
	t.Helper()
	ctx := context.Background()
	once.Do(func() {
		if dir, failed = fastDir(); failed == nil {
			server, failed = mariadb.Start(ctx, dir, mariadb.Throwaway...)
		}
	})
	if failed != nil {
		t.Fatalf("starting the test database: %v", failed)
	}
	dsn, err := server.Create(ctx, fmt.Sprintf("yewmoor_test_%d", count.Add(1)))
	if err != nil {
		t.Fatalf("making a test schema: %v", err)
	}
	return dsn
}

// New makes a fresh schema, brought up to date.
func New(t testing.TB) *database.DB {
	t.Helper()
	ctx := context.Background()
	db, err := database.Open(ctx, DSN(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Close() })
	if err := db.Migrate(ctx); err != nil {
		t.Fatal(err)
	}
	return db
}
