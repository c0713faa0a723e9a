package main

import (
	"context"
	"fmt"

	"yewmoor/internal/platform/backup"
)

type place struct {
	DSN   string `help:"Address of the MariaDB database." env:"YEWMOOR_DSN" required:""`
	Files string `help:"Folder for pictures." default:"files" env:"YEWMOOR_FILES"`
}

type backupCmd struct {
	place
	Archive string `arg:"" help:"The archive to write; it must not exist yet."`
}

// Run writes the archive and reads it back.
func (c backupCmd) Run(ctx context.Context) error {
	m, err := backup.Write(ctx, c.DSN, c.Files, c.Archive)
	if err != nil {
		return err
	}
	fmt.Printf("%s holds the database and %d files, %d bytes, and was read back.\n", c.Archive, len(m.Entries)-1, m.Size())
	for _, stray := range m.Strays {
		fmt.Printf("Not taken, since it is no file of ours: %s\n", stray)
	}
	if m.Whole() {
		return nil
	}
	for _, sum := range m.Missing {
		fmt.Printf("Missing: %s\n", sum)
	}
	// The backup is kept; whoever watches the night's work is told all the same.
	return fmt.Errorf("the backup was kept, but %d files that the database knows were not there", len(m.Missing))
}

type restoreCmd struct {
	place
	Archive string `arg:"" help:"The archive to read."`
}

// Run restores into an empty place.
func (c restoreCmd) Run(ctx context.Context) error {
	m, err := backup.Restore(ctx, c.Archive, c.DSN, c.Files)
	if err == nil {
		fmt.Printf("Restored what stood there at %s, with %d files.\n", m.MadeAt.Format("2006-01-02 15:04 MST"), len(m.Entries)-1)
	}
	return err
}
