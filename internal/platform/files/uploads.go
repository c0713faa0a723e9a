package files

import (
	"bufio"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"

	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

const (
	// MaxUpload is the largest file that may come in pieces.
	MaxUpload = 600 << 20
	// MaxPiece is the largest piece of it.
	MaxPiece = 8 << 20
	// uploadLife is how long an upload may rest before it is swept up.
	uploadLife = 72 * time.Hour
)

// Uploads are large files that come in pieces, so that a lost connection costs
// one piece. Whoever began one goes on with it by choosing the same file again.
type Uploads struct {
	Store *Store
	DB    *database.DB
	Now   func() time.Time
	mu    sync.Mutex
	turns map[string]*turn
}

// turn is held by whoever writes to an upload. A newer one makes it break off:
// what a lost line left half-sent must not hold the file for ever.
type turn struct {
	sync.Mutex
	breakOff func()
	newest   int
}

// Upload is a file under way.
type Upload struct {
	ID       string `db:"id" json:"id"`
	Name     string `db:"name" json:"name"`
	Size     int64  `db:"size" json:"size"`
	Received int64  `db:"-" json:"received" doc:"bytes that are there; go on from here"`
}

// NewUpload is what is about to come.
type NewUpload struct {
	Name string `json:"name" maxLength:"200"`
	Size int64  `json:"size"`
	Mark string `json:"mark" maxLength:"100" doc:"tells this file from others of the person: name, size and date of it"`
}

func (u *Uploads) path(id string) string { return filepath.Join(u.Store.dir, "in-up-"+id) }

// take waits for the turn at an upload, which whoever has it gives up at once.
// breakOff makes this one give it up in turn.
func (u *Uploads) take(id string, breakOff func()) (done func()) {
	u.mu.Lock()
	if u.turns == nil {
		u.turns = map[string]*turn{}
	}
	if u.turns[id] == nil {
		u.turns[id] = &turn{}
	}
	t := u.turns[id]
	if t.breakOff != nil {
		t.breakOff()
	}
	t.breakOff = breakOff
	t.newest++
	mine := t.newest
	u.mu.Unlock()
	t.Lock()
	return func() {
		u.mu.Lock()
		if t.newest == mine {
			t.breakOff = nil // what is over cannot be broken off
		}
		u.mu.Unlock()
		t.Unlock()
	}
}

// forget lets go of the turn of an upload that is over.
func (u *Uploads) forget(id string) {
	u.mu.Lock()
	defer u.mu.Unlock()
	delete(u.turns, id)
}

// Begin opens an upload, or goes on with the person's own of the same mark.
func (u *Uploads) Begin(ctx context.Context, in NewUpload) (Upload, error) {
	in.Name = strings.TrimSpace(filepath.Base(in.Name))
	switch {
	case in.Name == "" || in.Name == ".":
		return Upload{}, problem.Invalid("missing", "file", "The file has no name.")
	case in.Size <= 0:
		return Upload{}, problem.Invalid("EMPTY_FILE", "file", "The file is empty: export it again.")
	case in.Size > MaxUpload:
		return Upload{}, problem.New(http.StatusRequestEntityTooLarge, "too_large", "file", "The file has %d MB; at most %d MB are taken. Nothing was stored; export it with fewer triangles.", in.Size>>20, MaxUpload>>20)
	}
	who, _ := accounts.From(ctx)
	now := u.Now()
	err := u.DB.InTx(ctx, func(tx database.Tx) error {
		_, err := tx.ExecContext(ctx, `INSERT INTO upload (id, person_id, name, size, mark, began_at, touched_at) VALUES (?,?,?,?,?,?,?) ON DUPLICATE KEY UPDATE touched_at = VALUES(touched_at)`, uuid.NewString(), who.ID, in.Name, in.Size, in.Mark, now, now)
		return err
	})
	if err != nil {
		return Upload{}, fmt.Errorf("beginning the upload: %w", err)
	}
	var id string
	if err := u.DB.GetContext(ctx, &id, `SELECT id FROM upload WHERE person_id = ? AND mark = ?`, who.ID, in.Mark); err != nil {
		return Upload{}, err
	}
	return u.Read(ctx, id)
}

// Read says how far one's own upload is.
func (u *Uploads) Read(ctx context.Context, id string) (Upload, error) {
	who, _ := accounts.From(ctx)
	var out Upload
	err := u.DB.GetContext(ctx, &out, `SELECT id, name, size FROM upload WHERE id = ? AND person_id = ?`, id, who.ID)
	if errors.Is(err, sql.ErrNoRows) {
		return out, problem.NotFound("upload", id)
	}
	if err != nil {
		return out, err
	}
	if f, err := os.Stat(u.path(id)); err == nil {
		out.Received = f.Size()
	}
	return out, nil
}

// Append puts the piece that begins at a byte behind what is there. A piece that
// does not follow is refused with how much is there. breakOff ends the reading
// of from: the newer of two connections wins.
func (u *Uploads) Append(ctx context.Context, id string, at int64, from io.Reader, breakOff func()) (Upload, error) {
	if now, err := u.Read(ctx, id); err != nil {
		return now, err
	}
	defer u.take(id, breakOff)()
	now, err := u.Read(ctx, id)
	if err != nil {
		return now, err
	}
	if at != now.Received {
		return now, problem.Conflict("moved_on", "%d bytes of it are there; go on from there.", now.Received)
	}
	f, err := os.OpenFile(u.path(id), os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o600)
	if err != nil {
		return now, fmt.Errorf("storing the piece: %w", err)
	}
	room := min(int64(MaxPiece), now.Size-now.Received)
	n, err := io.Copy(f, io.LimitReader(from, room))
	if err = errors.Join(err, f.Close()); err != nil {
		return now, fmt.Errorf("storing the piece: %w", err)
	}
	now.Received += n
	_, err = u.DB.ExecContext(ctx, `UPDATE upload SET touched_at = ? WHERE id = ?`, u.Now(), id)
	return now, err
}

// Drop gives an upload up.
func (u *Uploads) Drop(ctx context.Context, id string) error {
	if _, err := u.Read(ctx, id); err != nil {
		return err
	}
	if err := os.Remove(u.path(id)); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	u.forget(id)
	_, err := u.DB.ExecContext(ctx, `DELETE FROM upload WHERE id = ?`, id)
	return err
}

// Whole takes an upload that has all its bytes and puts it in its place by
// content. Taken makes it known inside the act that says what it is; only then
// is the upload gone.
func (u *Uploads) Whole(ctx context.Context, id, kind string) (Prepared, Upload, error) {
	defer u.take(id, nil)()
	up, err := u.Read(ctx, id)
	if err != nil {
		return Prepared{}, up, err
	}
	if up.Received < up.Size {
		return Prepared{}, up, problem.Conflict("not_whole", "%d of %d bytes of %s are there. Choose the file again to go on.", up.Received, up.Size, up.Name)
	}
	f, err := os.Open(u.path(id))
	if err != nil {
		return Prepared{}, up, fmt.Errorf("opening the upload: %w", err)
	}
	defer f.Close()
	p, err := u.Store.PutAs(ctx, f, kind)
	return p, up, err
}

// Taken ends an upload inside the act that used it.
func (u *Uploads) Taken(ctx context.Context, tx database.Tx, id string) error {
	_, err := tx.ExecContext(ctx, `DELETE FROM upload WHERE id = ?`, id)
	return err
}

// Swept removes what a taken upload left, after its act.
func (u *Uploads) Swept(id string) {
	u.forget(id)
	_ = os.Remove(u.path(id))
}

// Tidy sweeps up uploads that nobody went on with.
func (u *Uploads) Tidy(ctx context.Context) error {
	var ids []string
	if err := u.DB.SelectContext(ctx, &ids, `SELECT id FROM upload WHERE touched_at < ?`, u.Now().Add(-uploadLife)); err != nil {
		return err
	}
	for _, id := range ids {
		u.Swept(id)
		if _, err := u.DB.ExecContext(ctx, `DELETE FROM upload WHERE id = ?`, id); err != nil {
			return err
		}
	}
	return nil
}

// PutAs stores what is read by its content, as it is; who stores it answers for
// its kind.
func (s *Store) PutAs(ctx context.Context, from io.Reader, kind string) (Prepared, error) {
	tmp, err := s.make(s.dir)
	if err != nil {
		return Prepared{}, fmt.Errorf("storing the file: %w", err)
	}
	defer os.Remove(tmp.Name())
	defer tmp.Close()
	sum := sha256.New()
	n, err := io.Copy(io.MultiWriter(tmp, sum), bufio.NewReaderSize(reading{ctx, from}, 1<<20))
	if err != nil {
		return Prepared{}, fmt.Errorf("storing the file: %w", err)
	}
	if err := errors.Join(tmp.Sync(), tmp.Close()); err != nil {
		return Prepared{}, fmt.Errorf("storing the file: %w", err)
	}
	p := Prepared{name: hex.EncodeToString(sum.Sum(nil)), kind: kind, size: n}
	return p, s.place(tmp.Name(), p.name)
}

// SHA256 names a prepared file by its content.
func (p Prepared) SHA256() string { return p.name }

// reading ends when its context does.
type reading struct {
	ctx  context.Context
	from io.Reader
}

func (r reading) Read(b []byte) (int, error) {
	if err := r.ctx.Err(); err != nil {
		return 0, err
	}
	return r.from.Read(b)
}
