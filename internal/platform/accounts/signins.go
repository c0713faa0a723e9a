package accounts

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/mileusna/useragent"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Visit is where a request comes from: on which sign-in, device and address.
// The sign-in is 0 for nobody.
type Visit struct {
	SignIn  uint64
	Device  string
	Address string
	token   [sha256.Size]byte // of the cookie that the browser is known by
	streams *open
}

type visitKey struct{}

// VisitOf is where the request of ctx comes from; zero for the program's own
// acts.
func VisitOf(ctx context.Context) Visit {
	v, _ := ctx.Value(visitKey{}).(Visit)
	return v
}

// DeviceName says in plain words what a browser calls itself.
func DeviceName(header string) string {
	ua := useragent.Parse(header)
	switch {
	case ua.Name == "":
		return "unknown device"
	case ua.OS == "":
		return cut(ua.Name, 60)
	}
	return cut(ua.Name, 60) + " on " + cut(ua.OS, 40)
}

func cut(s string, n int) string {
	r := []rune(strings.ToValidUTF8(s, ""))
	return string(r[:min(n, len(r))])
}

// Load reads the request's session and puts its person and where it comes
// from, at address, into the context. A request without a valid session, or on
// a sign-in that was ended, goes on as nobody.
func (s *Service) Load(r *http.Request, address string) (context.Context, error) {
	token := ""
	if c, err := r.Cookie(s.sessions.Cookie.Name); err == nil {
		token = c.Value
	}
	visit := Visit{Device: DeviceName(r.UserAgent()), Address: address, token: s.tokenOf(r), streams: &s.open}
	ctx, err := s.sessions.Load(context.WithValue(r.Context(), visitKey{}, visit), token)
	if err != nil {
		return nil, fmt.Errorf("reading the session: %w", err)
	}
	id := s.sessions.GetInt64(ctx, signInKey)
	if id == 0 {
		return ctx, nil
	}
	var row struct {
		Person
		Seen time.Time `db:"seen_at"`
	}
	// By the primary keys of both.
	err = s.db.GetContext(ctx, &row, `SELECT p.id, p.login, p.name, p.role, i.seen_at FROM sign_in i JOIN person p ON p.id = i.person_id WHERE i.id = ? AND i.ended_at IS NULL AND i.seen_at > ? AND p.active`, id, s.Real().UTC().Add(-idle))
	if errors.Is(err, sql.ErrNoRows) {
		return ctx, nil
	}
	if err != nil {
		return nil, fmt.Errorf("reading the person: %w", err)
	}
	visit.SignIn = uint64(id)
	if now := s.Real().UTC(); now.Sub(row.Seen) > time.Minute {
		if _, err := s.db.ExecContext(ctx, `UPDATE sign_in SET seen_at = ? WHERE id = ?`, now, id); err != nil {
			return nil, fmt.Errorf("noting the visit: %w", err)
		}
	}
	return With(context.WithValue(ctx, visitKey{}, visit), row.Person), nil
}

// SignIn checks login and password and starts a session; the cookies carry it
// and make the browser known. After some failures an account, and an address,
// must wait.
func (s *Service) SignIn(ctx context.Context, login, password string) (Person, []http.Cookie, error) {
	login = strings.TrimSpace(login)
	t, err := s.beginTry(ctx, login)
	if err != nil {
		return Person{}, nil, err
	}
	var row struct {
		Person
		Hash string `db:"password_hash"`
	}
	err = s.db.GetContext(ctx, &row, `SELECT id, login, name, role, password_hash FROM person WHERE login = ? AND active`, login)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return Person{}, nil, err
	}
	known := err == nil
	ok := known && s.Open
	if !ok {
		match, err := s.matches(ctx, password, row.Hash)
		if err != nil {
			return Person{}, nil, err
		}
		ok = match && known
	}
	if !ok {
		return Person{}, nil, problem.New(http.StatusUnauthorized, "wrong_sign_in", "password", "Name and password do not go together.")
	}
	cookies, err := s.begin(ctx, row.Person, t, s.Real().UTC())
	return row.Person, cookies, err
}

// begin starts the session and records the sign-in.
func (s *Service) begin(ctx context.Context, p Person, t try, now time.Time) ([]http.Cookie, error) {
	visit := VisitOf(ctx)
	var id int64
	var device *http.Cookie
	err := s.db.InTx(database.Through(ctx), func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, forgiven, t.forgiven(now)...); err != nil {
			return err
		}
		var err error
		if device, err = s.remember(ctx, tx, p.ID, now); err != nil {
			return fmt.Errorf("remembering the device: %w", err)
		}
		res, err := tx.ExecContext(ctx, `INSERT INTO sign_in (person_id, device, address, at, seen_at) VALUES (?,?,?,?,?)`, p.ID, visit.Device, visit.Address, now, now)
		if err != nil {
			return fmt.Errorf("recording the sign-in: %w", err)
		}
		id, err = res.LastInsertId()
		return errors.Join(err, s.Note(With(ctx, p), tx, p.Login, "signed in"))
	})
	if err != nil {
		return nil, err
	}
	if err := s.sessions.RenewToken(ctx); err != nil {
		return nil, fmt.Errorf("renewing the session: %w", err)
	}
	s.sessions.Put(ctx, signInKey, id)
	token, expiry, err := s.sessions.Commit(ctx)
	if err != nil {
		return nil, fmt.Errorf("storing the session: %w", err)
	}
	cookies := []http.Cookie{s.cookie(token, expiry)}
	if device != nil {
		cookies = append(cookies, *device)
	}
	return cookies, nil
}

func seconds(d time.Duration) string {
	if d > 90*time.Second {
		return fmt.Sprintf("%d minutes", int(d.Minutes()+0.99))
	}
	return fmt.Sprintf("%d seconds", int(d.Seconds()+0.99))
}

// matches compares; an unknown name takes as long as a wrong password.
func (s *Service) matches(ctx context.Context, password, hash string) (bool, error) {
	done, err := s.hashing.Take(ctx)
	if err != nil {
		return false, err
	}
	defer done()
	real := hash != ""
	if !real {
		hash = decoy
	}
	match, err := argon2id.ComparePasswordAndHash(password, hash)
	return match && real, err
}

var decoy = func() string {
	hash, err := argon2id.CreateHash("nobody has this password", argon2id.DefaultParams)
	if err != nil {
		panic(err)
	}
	return hash
}()

// SignOut ends the session of the context.
func (s *Service) SignOut(ctx context.Context) (http.Cookie, error) {
	if v := VisitOf(ctx); v.SignIn > 0 {
		who, _ := From(ctx)
		err := s.db.InTx(database.Through(ctx), func(tx database.Tx) error {
			_, err := tx.ExecContext(ctx, `UPDATE sign_in SET ended_at = ?, ended_by = ? WHERE id = ? AND ended_at IS NULL`, s.Real().UTC(), who.ID, v.SignIn)
			return errors.Join(err, s.Note(ctx, tx, who.Login, "signed out"))
		})
		if err != nil {
			return http.Cookie{}, fmt.Errorf("ending the sign-in: %w", err)
		}
	}
	if err := errors.Join(s.sessions.Destroy(ctx), s.EndStreams(ctx)); err != nil {
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

// SignedIn is one open sign-in.
type SignedIn struct {
	ID      uint64    `db:"id" json:"id"`
	Name    string    `db:"name" json:"name"`
	Device  string    `db:"device" json:"device"`
	Address string    `db:"address" json:"address"`
	At      time.Time `db:"at" json:"at"`
	SeenAt  time.Time `db:"seen_at" json:"seen_at"`
	This    bool      `db:"-" json:"this" doc:"the one that asks"`
}

// SignIns lists what is signed in: a lead sees everybody's, others their own.
func (s *Service) SignIns(ctx context.Context) ([]SignedIn, error) {
	who, _ := From(ctx)
	list := []SignedIn{}
	// Index sign_in_open. Older ones have run out by themselves.
	err := s.db.SelectContext(ctx, &list, `SELECT i.id, p.name, i.device, i.address, i.at, i.seen_at FROM sign_in i JOIN person p ON p.id = i.person_id
		WHERE i.ended_at IS NULL AND i.seen_at > ? AND (? = 'lead' OR i.person_id = ?) ORDER BY i.seen_at DESC LIMIT 200`, s.Real().UTC().Add(-idle), who.Role, who.ID)
	for i := range list {
		list[i].This = list[i].ID == VisitOf(ctx).SignIn
	}
	return list, err
}

// EndSignIn ends one sign-in at once: one's own, or anybody's for a lead.
func (s *Service) EndSignIn(ctx context.Context, id uint64) ([]SignedIn, error) {
	who, _ := From(ctx)
	err := s.db.InTx(database.Through(ctx), func(tx database.Tx) error {
		var login string
		err := tx.GetContext(ctx, &login, `SELECT p.login FROM sign_in i JOIN person p ON p.id = i.person_id WHERE i.id = ? AND i.ended_at IS NULL AND (? = 'lead' OR i.person_id = ?) FOR UPDATE`, id, who.Role, who.ID)
		if errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("open sign-in", fmt.Sprint(id))
		}
		if err != nil {
			return fmt.Errorf("reading the sign-in: %w", err)
		}
		_, err = tx.ExecContext(ctx, `UPDATE sign_in SET ended_at = ?, ended_by = ? WHERE id = ?`, s.Real().UTC(), who.ID, id)
		return errors.Join(err, s.Note(ctx, tx, login, "sign-in ended"))
	})
	if err = errors.Join(err, s.EndStreams(ctx)); err != nil {
		return nil, err
	}
	return s.SignIns(ctx)
}
