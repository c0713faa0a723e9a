// Package accounts knows the people of the shop, their roles and their sign-in
// sessions. The makeup artist has no account: their page hangs on a link of
// its own (station/handover).
package accounts

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/alexedwards/scs/mysqlstore"
	"github.com/alexedwards/scs/v2"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
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
}

const (
	cookieName = "yewmoor_session"
	personKey  = "person"
)

// NewService keeps sessions in db; secure marks the cookie for TLS only.
func NewService(db *database.DB, secure bool) *Service {
	m := scs.New()
	m.Store = mysqlstore.NewWithCleanupInterval(db.DB.DB, time.Hour)
	m.HashTokenInStore = true
	m.Lifetime = 14 * 24 * time.Hour
	m.IdleTimeout = 3 * 24 * time.Hour
	m.Cookie.Name, m.Cookie.HttpOnly, m.Cookie.Secure = cookieName, true, secure
	m.Cookie.SameSite, m.Cookie.Path = http.SameSiteStrictMode, "/"
	return &Service{db: db, sessions: m}
}

// Load reads the request's session and puts its person into the context. A
// request without a valid session goes on as nobody.
func (s *Service) Load(r *http.Request) (context.Context, error) {
	token := ""
	if c, err := r.Cookie(cookieName); err == nil {
		token = c.Value
	}
	ctx, err := s.sessions.Load(r.Context(), token)
	if err != nil {
		return nil, fmt.Errorf("reading the session: %w", err)
	}
	id := s.sessions.GetInt64(ctx, personKey)
	if id == 0 {
		return ctx, nil
	}
	var p Person
	err = s.db.GetContext(ctx, &p, `SELECT id, login, name, role FROM person WHERE id = ? AND active`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return ctx, nil
	}
	if err != nil {
		return nil, fmt.Errorf("reading the person: %w", err)
	}
	return With(ctx, p), nil
}

// SignIn checks login and password and starts a session; the cookie carries it.
func (s *Service) SignIn(ctx context.Context, login, password string) (Person, http.Cookie, error) {
	var row struct {
		Person
		Hash string `db:"password_hash"`
	}
	err := s.db.GetContext(ctx, &row, `SELECT id, login, name, role, password_hash FROM person WHERE login = ? AND active`, strings.TrimSpace(login))
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return Person{}, http.Cookie{}, err
	}
	known := err == nil
	ok := known && s.Open
	if !ok {
		hash := row.Hash
		if !known || hash == "" {
			hash = decoy
		}
		match, err := argon2id.ComparePasswordAndHash(password, hash)
		ok = err == nil && match && known
	}
	if !ok {
		return Person{}, http.Cookie{}, problem.New(http.StatusUnauthorized, "wrong_sign_in", "password", "Name and password do not go together.")
	}
	if err := s.sessions.RenewToken(ctx); err != nil {
		return Person{}, http.Cookie{}, fmt.Errorf("renewing the session: %w", err)
	}
	s.sessions.Put(ctx, personKey, int64(row.ID))
	token, expiry, err := s.sessions.Commit(ctx)
	if err != nil {
		return Person{}, http.Cookie{}, fmt.Errorf("storing the session: %w", err)
	}
	return row.Person, s.cookie(token, expiry), nil
}

// decoy makes an unknown name take as long as a wrong password.
var decoy = func() string {
	hash, err := argon2id.CreateHash("nobody has this password", argon2id.DefaultParams)
	if err != nil {
		panic(err)
	}
	return hash
}()

// SignOut ends the session of the context.
func (s *Service) SignOut(ctx context.Context) (http.Cookie, error) {
	if err := s.sessions.Destroy(ctx); err != nil {
		return http.Cookie{}, fmt.Errorf("ending the session: %w", err)
	}
	return s.cookie("", time.Unix(1, 0)), nil
}

func (s *Service) cookie(token string, expiry time.Time) http.Cookie {
	c := s.sessions.Cookie
	out := http.Cookie{Name: c.Name, Value: token, Path: c.Path, HttpOnly: true, Secure: c.Secure, SameSite: c.SameSite, Expires: expiry}
	if token == "" {
		out.MaxAge = -1
	}
	return out
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
	case password != "" && len([]rune(password)) < 12:
		return Person{}, problem.Invalid("too_short", "password", "A password needs at least 12 characters.")
	}
	hash := ""
	if password != "" {
		var err error
		if hash, err = argon2id.CreateHash(password, argon2id.DefaultParams); err != nil {
			return Person{}, err
		}
	}
	res, err := s.db.ExecContext(ctx, `INSERT INTO person (login, name, role, password_hash, created_at) VALUES (?,?,?,?,?)`, login, name, role, hash, at)
	if database.IsDuplicate(err) {
		return Person{}, problem.Conflict("taken", "Somebody already signs in as %s.", login)
	}
	if err != nil {
		return Person{}, fmt.Errorf("adding a person: %w", err)
	}
	id, err := res.LastInsertId()
	return Person{ID: uint64(id), Login: login, Name: name, Role: role}, err
}
