// Command decade makes ten years of a busy shop once, in a database of its
// own, and measures the screens, the live readings and the memory of the
// shipped server on it.
package main

import (
	"context"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/mariadb"
)

func main() {
	dir := flag.String("dir", ".run/decade", "where the ten years are kept")
	asks := flag.Int("asks", 40, "how often each person asks for each screen")
	flag.Parse()
	if err := run(context.Background(), *dir, *asks); err != nil {
		fmt.Fprintln(os.Stderr, "decade:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, dir string, asks int) (err error) {
	maria, err := mariadb.Start(ctx, filepath.Join(dir, "mariadb"))
	if err != nil {
		return err
	}
	defer func() {
		if stopped := maria.Stop(); err == nil {
			err = stopped
		}
	}()
	dsn, err := maria.Create(ctx, "yewmoor_decade")
	if err != nil {
		return err
	}
	db, err := database.Open(ctx, dsn)
	if err != nil {
		return err
	}
	defer db.Close()
	if err := db.Migrate(ctx); err != nil {
		return err
	}
	var pieces int
	if err := db.GetContext(ctx, &pieces, `SELECT COUNT(*) FROM piece`); err != nil {
		return err
	}
	if pieces == 0 {
		begun := time.Now()
		if err := generate(ctx, dsn, filepath.Join(dir, "files")); err != nil {
			return fmt.Errorf("making ten years: %w", err)
		}
		fmt.Printf("%-44s %8.0f s\n", "ten years made", time.Since(begun).Seconds())
	}
	if err := sizes(ctx, db); err != nil {
		return err
	}
	return measure(ctx, db, dsn, filepath.Join(dir, "files"), asks)
}

func sizes(ctx context.Context, db *database.DB) error {
	for _, table := range []string{"piece", "mix", "weigh_in", "copy", "kit", "journal", "room_reading"} {
		var n int
		if err := db.GetContext(ctx, &n, "SELECT COUNT(*) FROM `"+table+"`"); err != nil {
			return err
		}
		fmt.Printf("%-44s %8d rows\n", table, n)
	}
	var mb float64
	err := db.GetContext(ctx, &mb, `SELECT SUM(data_length + index_length) / 1048576 FROM information_schema.tables WHERE table_schema = DATABASE()`)
	fmt.Printf("%-44s %8.0f MB\n", "the database", mb)
	return err
}
