// Package accounts knows the people of the shop, their roles and their sign-in
// sessions. The makeup artist has no account: their page hangs on a link of
// its own (station/handover).
package accounts

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"

	"github.com/alexedwards/scs/mysqlstore"
	"github.com/alexedwards/scs/v2"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/turns"
)

// Role of a person in the shop.
type Role string

// The roles.
const (
	Lead       Role = "lead"
	Fabricator Role = "fabricator"
	Apprentice Role = "apprentice"
)

// Person is somebody with an account.
type Person struct {
	ID    uint64 `db:"id" json:"id"`
	Login string `db:"login" json:"login"`
	Name  string `db:"name" json:"name"`
	Role  Role   `db:"role" json:"role" enum:"lead,fabricator,apprentice"`
}

type contextKey struct{}

// With puts the signed-in person into a context.
func With(ctx context.Context, p Person) context.Context {
	return context.WithValue(ctx, contextKey{}, p)
}

// From is the signed-in person; ok is false for nobody.
func From(ctx context.Context) (Person, bool) {
	p, ok := ctx.Value(contextKey{}).(Person)
	return p, ok
}

// Service signs people in and out.
type Service struct {
	db       *database.DB
	sessions *scs.SessionManager
	// Open lets the people of the demo in without a password; never set in a
	// real installation.
	Open bool
	// Real is the time of sessions and sign-ins, whatever the bench clock says.
	Real func() time.Time
	// Note records what happened to an account, inside the act that did it; the
	// journal is above this package, so it is handed in.
	Note func(ctx context.Context, tx database.Tx, login, act string) error
	// Cost is what hashing a password costs: argon2id's usual parameters. Tests,
	// which make hundreds of accounts, take less.
	Cost *argon2id.Params
	// hashing bounds how many passwords are hashed at once: each takes 64 MB.
	hashing *turns.Turns
	open    open
	trying  sync.Mutex
}

const (
	cookieName = "yewmoor_session"
	// A browser takes a __Host- cookie from this host by TLS only.
	tlsCookieName = "__Host-yewmoor_session"
	signInKey     = "sign_in"
	// idle is how long a sign-in may go unseen.
	idle = 3 * 24 * time.Hour
)

// NewService keeps sessions in db; secure marks the cookie for TLS only.
func NewService(db *database.DB, secure bool) *Service {
	m := scs.New()
	m.Store = mysqlstore.NewWithCleanupInterval(db.DB.DB, time.Hour)
	m.HashTokenInStore = true
	m.Lifetime = 14 * 24 * time.Hour
	m.Cookie.Name, m.Cookie.HttpOnly, m.Cookie.Secure = cookieName, true, secure
	if secure {
		m.Cookie.Name = tlsCookieName
	}
	m.Cookie.SameSite, m.Cookie.Path = http.SameSiteStrictMode, "/"
	return &Service{db: db, sessions: m, Real: time.Now, Note: func(context.Context, database.Tx, string, string) error { return nil }, Cost: argon2id.DefaultParams, hashing: turns.New("signing in", 2, 64)}
}

// People lists who may sign in.
func (s *Service) People(ctx context.Context) ([]Person, error) {
	people := []Person{}
	err := s.db.SelectContext(ctx, &people, `SELECT id, login, name, role FROM person WHERE active ORDER BY FIELD(role,'lead','fabricator','apprentice'), name`)
	return people, err
}

// Add makes an account. An empty password makes one that nobody can sign in
// to but in the demo.
func (s *Service) Add(ctx context.Context, login, name string, role Role, password string, at time.Time) (Person, error) {
	login, name = strings.TrimSpace(login), strings.TrimSpace(name)
	switch {
	case login == "":
		return Person{}, problem.Invalid("missing", "login", "A sign-in name is missing.")
	case name == "":
		return Person{}, problem.Invalid("missing", "name", "The person's name is missing.")
	}
	hash := ""
	if password != "" {
		var err error
		if hash, err = s.hash(ctx, password); err != nil {
			return Person{}, err
		}
	}
	p := Person{Login: login, Name: name, Role: role}
	err := s.db.InTx(ctx, func(tx database.Tx) error {
		res, err := tx.ExecContext(ctx, `INSERT INTO person (login, name, role, password_hash, created_at) VALUES (?,?,?,?,?)`, login, name, role, hash, at)
		if err != nil {
			return fmt.Errorf("adding a person: %w", err)
		}
		id, err := res.LastInsertId()
		p.ID = uint64(id)
		return errors.Join(err, s.Note(ctx, tx, login, "account made"))
	})
	if database.IsDuplicate(err) {
		return Person{}, problem.Conflict("taken", "Somebody already signs in as %s.", login)
	}
	return p, err
}
