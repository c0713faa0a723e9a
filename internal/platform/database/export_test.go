package database

import "context"

// StatementsOf, CarryOut and Text are for the tests of broken migrations.
func StatementsOf(text string) []string { return statementsOf(text) }

func (db *DB) CarryOut(ctx context.Context, version int64, statements []string) error {
	return db.carryOut(ctx, version, statements)
}

func Text(name string) (string, error) {
	raw, err := migrations.ReadFile("migrations/" + name)
	return string(raw), err
}
