// Package handover is where pieces leave the shop: kits for a day, sheets and
// labels, and the makeup artist's own page by an expiring link.
package handover

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"

	"github.com/jmoiron/sqlx"
)

// Service does the use cases of the hand-over. Links run on real time, not on
// the bench clock.
type Service struct {
	DB        *database.DB
	Clock     clock.Clock
	Real      func() time.Time
	Live      *live.Hub
	Pieces    *piece.Service
	Lots      Lots
	Colours   Colours
	Maps      Maps
	Pots      Pots
	Files     *files.Store
	PublicURL string
}

// Colours are what a piece is touched up with on the day; wired to the colour room.
type Colours interface {
	ForTheDay(ctx context.Context, db database.Reader, piece string) ([]TouchUp, error)
}

// Lots is what handing over needs of the stores.
type Lots interface {
	// Unfit says which lots that went into a copy or a kit may not be used, and why; ""
	// for none.
	Unfit(ctx context.Context, kind, code string) (string, error)
	// FillForKit draws so much of a product from its lot into a kit, of the lot that runs out first of those that
	// may be used; 0 g only sets a lot aside. It asks the rule book as everything that is filled off does.
	FillForKit(ctx context.Context, tx database.Tx, kit, slug string, grams float64) (lot string, err error)
	// Letters are what a kit is told of recalled lots and nobody has answered.
	KitLetters(ctx context.Context, db database.Reader, kit string) ([]KitLetter, error)
	// AnswerLetter notes what the kit's artist answered to one.
	AnswerLetter(ctx context.Context, tx database.Tx, recall, kit, answer string) error
	// OrderedBy is when more of a product can be here, and why; the zero time where nobody knows.
	OrderedBy(ctx context.Context, slug string) (time.Time, string, error)
}

// KitLetter is a recall as a kit's artist reads it.
type KitLetter struct {
	Recall string    `json:"recall"`
	Lot    string    `json:"lot"`
	What   string    `json:"what" doc:"product and lot"`
	Reason string    `json:"reason"`
	At     time.Time `json:"at"`
	Copies string    `json:"copies" doc:"of the kit, that have it in them"`
}

// Pots tells when the next copy of a piece is out of its mould or dry; wired to the build room. The zero time where
// none is being made.
type Pots interface {
	NextOut(ctx context.Context, piece string) (time.Time, error)
}

// Kit is what is handed over for a day.
type Kit struct {
	ID         uint64     `db:"id" json:"-"`
	Code       string     `db:"code" json:"code"`
	Artist     string     `db:"artist" json:"artist"`
	ArtistID   uint64     `db:"artist_id" json:"artist_id"`
	Note       string     `db:"note" json:"note"`
	Performer  string     `db:"performer" json:"performer" doc:"whose kit it is; empty where it was packed for more than one"`
	Scene      string     `db:"scene" json:"scene"`
	BackAt     *time.Time `db:"back_at" json:"back_at,omitempty"`
	Production string     `db:"production" json:"production"`
	Day        time.Time  `db:"day" json:"day"`
	Place      string     `db:"place" json:"place"`
	CreatedAt  time.Time  `db:"created_at" json:"created_at"`
	HandedAt   *time.Time `db:"handed_at" json:"handed_at,omitempty"`
	ReceivedAt *time.Time `db:"received_at" json:"received_at,omitempty"`
	SignedName string     `db:"signed_name" json:"signed_name"`
	Days       []KitDay   `db:"-" json:"days" doc:"all days that it is for, the first is day"`
	Copies     []KitCopy  `db:"-" json:"copies"`
	Links      []Link     `db:"-" json:"links"`
	Reports    []Report   `db:"-" json:"reports"`
}

// KitDay is one of a kit's days.
type KitDay struct {
	ID    uint64    `db:"id" json:"id"`
	Day   time.Time `db:"day" json:"day"`
	Place string    `db:"place" json:"place"`
}

// KitCopy is one copy in a kit.
type KitCopy struct {
	Code    string       `db:"code" json:"code"`
	Piece   string       `db:"piece" json:"piece"`
	Name    string       `db:"name" json:"name"`
	State   copies.State `db:"state" json:"state" enum:"making,made,repair,accepted,scrapped,packed,handed_over,spent"`
	Section int          `db:"section_number" json:"section_number" doc:"the version that it was made on; 0 for one from before this was kept"`
	Back    string       `db:"back" json:"back" enum:",again,spent,lost" doc:"how it came back; empty while it is out"`
	Wears   int          `db:"wears" json:"wears" doc:"days on which it was worn before"`
}

const kitCopyColumns = `c.code, q.code AS piece, q.name, c.state, COALESCE(c.section_number, 0) AS section_number, kc.back,
	(SELECT COUNT(*) FROM copy_use u WHERE u.copy_id = c.id AND u.kit_id <> kc.kit_id AND u.worn_h > 0) AS wears
	FROM kit_copy kc JOIN copy c ON c.id = kc.copy_id JOIN piece q ON q.id = c.piece_id`

// Link is an artist's link; its token is not kept.
type Link struct {
	ID          uint64     `db:"id" json:"id"`
	CreatedAt   time.Time  `db:"created_at" json:"created_at"`
	ExpiresAt   time.Time  `db:"expires_at" json:"expires_at"`
	WithdrawnAt *time.Time `db:"withdrawn_at" json:"withdrawn_at,omitempty"`
	AskedAt     *time.Time `db:"asked_at" json:"asked_at,omitempty" doc:"when a page of it asked last"`
	Works       bool       `db:"-" json:"works"`
}

const kitColumns = `k.id, k.code, ar.name AS artist, ar.id AS artist_id, k.note, k.scene, k.back_at, COALESCE(pf.name, '') AS performer, pr.name AS production, d.day, d.place, k.created_at, k.handed_at, k.received_at, k.signed_name
	FROM kit k JOIN contact ar ON ar.id = k.artist_id JOIN shooting_day d ON d.id = k.day_id JOIN production pr ON pr.id = d.production_id LEFT JOIN performer pf ON pf.id = k.performer_id`

// listed is how many kits that were received are listed with those that are
// still on their way.
const listed = 60

// List reads the kits that are not received yet and the newest of the rest,
// newest first. Indexes kit_open and the primary key.
func (s *Service) List(ctx context.Context) ([]Kit, error) {
	kits := []Kit{}
	if err := s.DB.SelectContext(ctx, &kits, `SELECT `+kitColumns+` WHERE k.undone_at IS NULL AND (k.received_at IS NULL OR k.id IN (SELECT id FROM (SELECT id FROM kit ORDER BY id DESC LIMIT ?) newest)) ORDER BY k.id DESC`, listed); err != nil {
		return nil, err
	}
	return kits, s.withCopies(ctx, kits)
}

// withCopies says of listed kits what is in each.
func (s *Service) withCopies(ctx context.Context, kits []Kit) error {
	if len(kits) == 0 {
		return nil
	}
	at, ids := map[uint64]int{}, []uint64{}
	for i := range kits {
		kits[i].Days, kits[i].Copies, kits[i].Links, kits[i].Reports = []KitDay{}, []KitCopy{}, []Link{}, []Report{}
		at[kits[i].ID], ids = i, append(ids, kits[i].ID)
	}
	query, args, err := sqlx.In(`SELECT kc.kit_id, `+kitCopyColumns+` WHERE kc.kit_id IN (?) ORDER BY c.code`, ids)
	if err != nil {
		return err
	}
	var rows []struct {
		Kit uint64 `db:"kit_id"`
		KitCopy
	}
	if err := s.DB.SelectContext(ctx, &rows, query, args...); err != nil {
		return fmt.Errorf("reading what is in the kits: %w", err)
	}
	for _, r := range rows {
		kits[at[r.Kit]].Copies = append(kits[at[r.Kit]].Copies, r.KitCopy)
	}
	return nil
}

// Kit reads one kit.
func (s *Service) Kit(ctx context.Context, code string) (Kit, error) {
	return s.find(ctx, s.DB, `k.code = ?`, code)
}

func (s *Service) find(ctx context.Context, db database.Reader, where string, arg any) (Kit, error) {
	var k Kit
	err := db.GetContext(ctx, &k, `SELECT `+kitColumns+` WHERE `+where, arg)
	if errors.Is(err, sql.ErrNoRows) {
		return k, problem.NotFound("kit", fmt.Sprint(arg))
	}
	if err != nil {
		return k, err
	}
	return k, s.fill(ctx, db, &k)
}

func (s *Service) fill(ctx context.Context, db database.Reader, k *Kit) error {
	k.Days, k.Copies, k.Links = []KitDay{}, []KitCopy{}, []Link{}
	if err := db.SelectContext(ctx, &k.Days, `SELECT d.id, d.day, d.place FROM kit_day kd JOIN shooting_day d ON d.id = kd.day_id WHERE kd.kit_id = ? ORDER BY d.day, d.id`, k.ID); err != nil {
		return err
	}
	if err := db.SelectContext(ctx, &k.Copies, `SELECT `+kitCopyColumns+` WHERE kc.kit_id = ? ORDER BY c.code`, k.ID); err != nil {
		return err
	}
	if err := db.SelectContext(ctx, &k.Links, `SELECT id, created_at, expires_at, withdrawn_at, asked_at FROM artist_link WHERE kit_id = ? ORDER BY id DESC`, k.ID); err != nil {
		return err
	}
	for i, l := range k.Links {
		k.Links[i].Works = l.WithdrawnAt == nil && l.ExpiresAt.After(s.Real())
	}
	var err error
	k.Reports, err = s.reports(ctx, db, k.ID)
	return err
}

// Hand records that the kit left the shop.
func (s *Service) Hand(ctx context.Context, code string) (Kit, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.find(ctx, tx, `k.code = ?`, code)
		if err != nil {
			return err
		}
		return s.leave(ctx, tx, k)
	})
	if err != nil {
		return Kit{}, err
	}
	s.Live.Tell(ctx, "kits", code)
	s.Live.Tell(ctx, "copies", "")
	return s.Kit(ctx, code)
}

// leave marks a kit and its copies as handed over, once.
func (s *Service) leave(ctx context.Context, tx database.Tx, k Kit) error {
	if k.HandedAt != nil {
		return nil
	}
	if why, err := s.Lots.Unfit(ctx, "kit", k.Code); err != nil {
		return err
	} else if why != "" {
		return problem.Conflict("recalled", "Kit %s stays here: %s. Take out what has it in, and pack it anew. Nothing was recorded.", k.Code, why)
	}
	now := s.Clock.Now()
	for _, kc := range k.Copies {
		p, err := piece.Find(ctx, tx, kc.Piece)
		if err != nil {
			return err
		}
		if err := s.Pieces.AskLeaving(ctx, tx, p, kc.Section, journal.Entry{At: now, Piece: p.ID, Kind: "kit", Code: k.Code}); err != nil {
			return err
		}
	}
	left, err := database.Changed(tx.ExecContext(ctx, `UPDATE kit SET handed_at = ? WHERE id = ? AND handed_at IS NULL`, now, k.ID))
	if err != nil || !left {
		return err
	}
	for _, kc := range k.Copies {
		c, err := copies.Lock(ctx, tx, kc.Code)
		if err != nil {
			return err
		}
		if err := copies.Move(ctx, tx, now, c, copies.Step{To: copies.HandedOver, Words: "in " + k.Code}); err != nil {
			return err
		}
		// It serves the kit's day; how long it was worn, the artist says.
		if _, err := tx.ExecContext(ctx, `INSERT INTO copy_use (copy_id, day_id, kit_id) SELECT ?, day_id, id FROM kit WHERE id = ? ON DUPLICATE KEY UPDATE kit_id = VALUES(kit_id), returned_at = NULL`, c.ID, k.ID); err != nil {
			return fmt.Errorf("noting the use of %s: %w", kc.Code, err)
		}
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "kit", Code: k.Code, Act: "handed over", Words: "to " + k.Artist, Actor: k.Artist})
	return err
}
