package people

import (
	"context"
	"fmt"
	"strings"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Contact is somebody outside the shop, in its address book.
type Contact struct {
	ID    uint64 `db:"id" json:"id"`
	Name  string `db:"name" json:"name"`
	What  string `db:"what" json:"what" doc:"what they are to the shop"`
	Note  string `db:"note" json:"note"`
	Phone string `db:"phone" json:"phone"`
}

// What contacts are in the address book: artists, and whom of the workshop to ring from a set.
const (
	MakeupArtist = "makeup artist"
	Workshop     = "workshop"
)

// Contacts lists those of the address book who are something to the shop.
func (s *Service) Contacts(ctx context.Context, what string) ([]Contact, error) {
	list := []Contact{}
	err := s.DB.SelectContext(ctx, &list, `SELECT id, name, what, note, phone FROM contact WHERE what = ? ORDER BY name`, what)
	return list, err
}

// FindContact is the number of a contact, who is written into the address book
// when nobody of that name stands in it.
func FindContact(ctx context.Context, tx database.Tx, name, what string) (uint64, error) {
	res, err := tx.ExecContext(ctx, `INSERT INTO contact (name, what) VALUES (?,?) ON DUPLICATE KEY UPDATE id = LAST_INSERT_ID(id)`, name, what)
	if err != nil {
		return 0, fmt.Errorf("writing into the address book: %w", err)
	}
	id, err := res.LastInsertId()
	return uint64(id), err
}

// SetPhone writes down how somebody of the address book is rung, who is written in when nobody of that name stands there.
func (s *Service) SetPhone(ctx context.Context, name, what, phone string) ([]Contact, error) {
	name, phone = strings.TrimSpace(name), strings.TrimSpace(phone)
	switch {
	case name == "":
		return nil, problem.Invalid("missing", "name", "Who is it?")
	case what != MakeupArtist && what != Workshop:
		return nil, problem.Invalid("unknown_value", "what", "Somebody of the workshop, or a makeup artist.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		id, err := FindContact(ctx, tx, name, what)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE contact SET phone = ? WHERE id = ?`, phone, id); err != nil {
			return fmt.Errorf("writing down how they are rung: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "contact", Code: fmt.Sprint(id), Act: "number written down"})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "kits", "")
	return s.Contacts(ctx, what)
}
