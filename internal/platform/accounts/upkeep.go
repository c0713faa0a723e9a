package accounts

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/alexedwards/argon2id"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// shortest password, in characters; there is no rule what is in it.
const shortest = 12

func tooShort() error {
	return problem.Invalid("too_short", "password", "A password needs at least %d characters.", shortest)
}

func (s *Service) hash(ctx context.Context, password string) (string, error) {
	if len([]rune(password)) < shortest {
		return "", tooShort()
	}
	done, err := s.hashing.Take(ctx)
	if err != nil {
		return "", err
	}
	defer done()
	return argon2id.CreateHash(password, s.Cost)
}

// ChangePassword gives the signed-in person a new password and ends their
// other sign-ins.
func (s *Service) ChangePassword(ctx context.Context, old, password string) error {
	who, _ := From(ctx)
	var hash string
	if err := s.db.GetContext(ctx, &hash, `SELECT password_hash FROM person WHERE id = ?`, who.ID); err != nil {
		return fmt.Errorf("reading the account: %w", err)
	}
	// Whoever sits down at an open session must not guess for ever either.
	t, err := s.beginTry(ctx, who.Login)
	if err != nil {
		return err
	}
	match, err := s.matches(ctx, old, hash)
	if err != nil {
		return err
	}
	if !match {
		return problem.Invalid("wrong_password", "old", "This is not the password you have now.")
	}
	if hash, err = s.hash(ctx, password); err != nil {
		return err
	}
	err = s.db.InTx(database.Through(ctx), func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, forgiven, t.forgiven(s.Real().UTC())...); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE person SET password_hash = ? WHERE id = ?`, hash, who.ID); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `UPDATE sign_in SET ended_at = ?, ended_by = ? WHERE person_id = ? AND ended_at IS NULL AND id <> ?`, s.Real().UTC(), who.ID, who.ID, VisitOf(ctx).SignIn)
		return errors.Join(err, s.Note(ctx, tx, who.Login, "password changed"))
	})
	return errors.Join(err, s.EndStreams(ctx))
}

// Close ends an account and everything it is signed in on. What the person
// did stays in the record under their name.
func (s *Service) Close(ctx context.Context, id uint64) ([]Person, error) {
	who, _ := From(ctx)
	if who.ID == id {
		return nil, problem.Conflict("yourself", "This is your own account. Ask another lead to close it.")
	}
	err := s.db.InTx(database.Through(ctx), func(tx database.Tx) error {
		changed, err := database.Changed(tx.ExecContext(ctx, `UPDATE person SET active = FALSE WHERE id = ? AND active`, id))
		if err != nil {
			return fmt.Errorf("closing an account: %w", err)
		}
		if !changed {
			return problem.NotFound("open account", fmt.Sprint(id))
		}
		if _, err = tx.ExecContext(ctx, `UPDATE sign_in SET ended_at = ?, ended_by = ? WHERE person_id = ? AND ended_at IS NULL`, s.Real().UTC(), who.ID, id); err != nil {
			return err
		}
		var login string
		if err := tx.GetContext(ctx, &login, `SELECT login FROM person WHERE id = ?`, id); err != nil {
			return err
		}
		return s.Note(ctx, tx, login, "account closed")
	})
	if err = errors.Join(err, s.EndStreams(ctx)); err != nil {
		return nil, err
	}
	return s.People(ctx)
}

// AddOrReopen makes an account that has a password, or opens the closed one of
// this name again. An open one is refused.
func (s *Service) AddOrReopen(ctx context.Context, login, name string, role Role, password string) (Person, error) {
	login, name = strings.TrimSpace(login), strings.TrimSpace(name)
	if len([]rune(password)) < shortest {
		return Person{}, tooShort()
	}
	p, err := s.Reopen(ctx, login, name, role, password)
	if problem.IsNotFound(err) {
		return s.Add(ctx, login, name, role, password, s.Real().UTC())
	}
	return p, err
}

// Reopen opens an account that was closed, with a new password. What the person
// did before stays theirs; what they were signed in on stays ended.
func (s *Service) Reopen(ctx context.Context, login, name string, role Role, password string) (Person, error) {
	hash, err := s.hash(ctx, password)
	if err != nil {
		return Person{}, err
	}
	var p Person
	err = s.db.InTx(database.Through(ctx), func(tx database.Tx) error {
		opened, err := database.Changed(tx.ExecContext(ctx, `UPDATE person SET active = TRUE, name = ?, role = ?, password_hash = ? WHERE login = ? AND NOT active`, name, role, hash, login))
		if err != nil {
			return fmt.Errorf("opening the account: %w", err)
		}
		if !opened {
			return problem.NotFound("closed account", login)
		}
		if err := tx.GetContext(ctx, &p, `SELECT id, login, name, role FROM person WHERE login = ?`, login); err != nil {
			return err
		}
		return s.Note(ctx, tx, login, "account opened again")
	})
	return p, err
}
