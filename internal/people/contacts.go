package people

import (
	"context"
	"fmt"

	"yewmoor/internal/platform/database"
)

// Contact is somebody outside the shop, in its address book.
type Contact struct {
	ID   uint64 `db:"id" json:"id"`
	Name string `db:"name" json:"name"`
	What string `db:"what" json:"what" doc:"what they are to the shop"`
	Note string `db:"note" json:"note"`
}

// MakeupArtist is what an artist is in the address book.
const MakeupArtist = "makeup artist"

// Contacts lists those of the address book who are something to the shop.
func (s *Service) Contacts(ctx context.Context, what string) ([]Contact, error) {
	list := []Contact{}
	err := s.DB.SelectContext(ctx, &list, `SELECT id, name, what, note FROM contact WHERE what = ? ORDER BY name`, what)
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
