// Package handover is where pieces leave the shop: kits for a day, sheets and
// labels, and the makeup artist's own page by an expiring link.
package handover

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/journal"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"

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
	PublicURL string
}

// Kit is what is handed over for a day.
type Kit struct {
	ID         uint64     `db:"id" json:"-"`
	Code       string     `db:"code" json:"code"`
	Artist     string     `db:"artist" json:"artist"`
	Note       string     `db:"note" json:"note"`
	Production string     `db:"production" json:"production"`
	Day        time.Time  `db:"day" json:"day"`
	Place      string     `db:"place" json:"place"`
	CreatedAt  time.Time  `db:"created_at" json:"created_at"`
	HandedAt   *time.Time `db:"handed_at" json:"handed_at,omitempty"`
	ReceivedAt *time.Time `db:"received_at" json:"received_at,omitempty"`
	SignedName string     `db:"signed_name" json:"signed_name"`
	Copies     []KitCopy  `db:"-" json:"copies"`
	Links      []Link     `db:"-" json:"links"`
	Reports    []Report   `db:"-" json:"reports"`
}

// KitCopy is one copy in a kit.
type KitCopy struct {
	Code    string       `db:"code" json:"code"`
	Piece   string       `db:"piece" json:"piece"`
	Name    string       `db:"name" json:"name"`
	State   copies.State `db:"state" json:"state" enum:"making,made,repair,accepted,scrapped,packed,handed_over"`
	Section int          `db:"section_number" json:"section_number" doc:"the version that it was made on; 0 for one from before this was kept"`
}

// Link is an artist's link; its token is not kept.
type Link struct {
	ID          uint64     `db:"id" json:"id"`
	CreatedAt   time.Time  `db:"created_at" json:"created_at"`
	ExpiresAt   time.Time  `db:"expires_at" json:"expires_at"`
	WithdrawnAt *time.Time `db:"withdrawn_at" json:"withdrawn_at,omitempty"`
	Works       bool       `db:"-" json:"works"`
}

// Report is what the artist wrote back.
type Report struct {
	Edge   int       `db:"edge" json:"edge" minimum:"1" maximum:"5"`
	Colour int       `db:"colour" json:"colour" minimum:"1" maximum:"5"`
	Hold   int       `db:"hold" json:"hold" minimum:"1" maximum:"5"`
	WornH  float64   `db:"worn_h" json:"worn_h" minimum:"0" maximum:"48"`
	Words  string    `db:"words" json:"words" maxLength:"1000"`
	At     time.Time `db:"at" json:"at"`
}

const kitColumns = `k.id, k.code, ar.name AS artist, k.note, pr.name AS production, d.day, d.place, k.created_at, k.handed_at, k.received_at, k.signed_name
	FROM kit k JOIN contact ar ON ar.id = k.artist_id JOIN shooting_day d ON d.id = k.day_id JOIN production pr ON pr.id = d.production_id`

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
		kits[i].Copies, kits[i].Links, kits[i].Reports = []KitCopy{}, []Link{}, []Report{}
		at[kits[i].ID], ids = i, append(ids, kits[i].ID)
	}
	query, args, err := sqlx.In(`SELECT kc.kit_id, c.code, q.code AS piece, q.name, c.state, COALESCE(c.section_number, 0) AS section_number FROM kit_copy kc JOIN copy c ON c.id = kc.copy_id JOIN piece q ON q.id = c.piece_id WHERE kc.kit_id IN (?) ORDER BY c.code`, ids)
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
	k.Copies, k.Links, k.Reports = []KitCopy{}, []Link{}, []Report{}
	if err := db.SelectContext(ctx, &k.Copies, `SELECT c.code, q.code AS piece, q.name, c.state, COALESCE(c.section_number, 0) AS section_number FROM kit_copy kc JOIN copy c ON c.id = kc.copy_id JOIN piece q ON q.id = c.piece_id WHERE kc.kit_id = ? ORDER BY c.code`, k.ID); err != nil {
		return err
	}
	if err := db.SelectContext(ctx, &k.Links, `SELECT id, created_at, expires_at, withdrawn_at FROM artist_link WHERE kit_id = ? ORDER BY id DESC`, k.ID); err != nil {
		return err
	}
	for i, l := range k.Links {
		k.Links[i].Works = l.WithdrawnAt == nil && l.ExpiresAt.After(s.Real())
	}
	return db.SelectContext(ctx, &k.Reports, `SELECT edge, colour, hold, worn_h, words, at FROM artist_report WHERE kit_id = ? ORDER BY id DESC`, k.ID)
}

// NewKit is a kit as it is packed.
type NewKit struct {
	DayID  uint64   `json:"day_id"`
	Artist string   `json:"artist" maxLength:"120"`
	Note   string   `json:"note,omitempty" maxLength:"500"`
	Copies []string `json:"copies"`
}

// Pack makes a kit of accepted copies.
func (s *Service) Pack(ctx context.Context, in NewKit) (Kit, error) {
	in.Artist = strings.TrimSpace(in.Artist)
	switch {
	case in.Artist == "":
		return Kit{}, problem.Invalid("missing", "artist", "Who gets it?")
	case len(in.Copies) == 0:
		return Kit{}, problem.Invalid("missing", "copies", "Choose at least one accepted copy.")
	}
	who, _ := accounts.From(ctx)
	var code string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		number, err := database.NextNumber(ctx, tx, "kit")
		if err != nil {
			return err
		}
		code = fmt.Sprintf("K-%03d", number)
		now := s.Clock.Now()
		artist, err := people.FindContact(ctx, tx, in.Artist, people.MakeupArtist)
		if err != nil {
			return err
		}
		res, err := tx.ExecContext(ctx, `INSERT INTO kit (code, day_id, artist_id, note, created_at, created_by) SELECT ?, id, ?, ?, ?, ? FROM shooting_day WHERE id = ?`, code, artist, in.Note, now, who.ID, in.DayID)
		if known, err := database.Changed(res, err); err != nil {
			return fmt.Errorf("packing the kit: %w", err)
		} else if !known {
			return problem.Invalid("unknown_value", "day_id", "Choose the shooting day.")
		}
		kit, err := res.LastInsertId()
		if err != nil {
			return err
		}
		for i, c := range in.Copies {
			if err := s.packCopy(ctx, tx, uint64(kit), contact{artist, in.Artist}, code, c, fmt.Sprintf("copies[%d]", i), now); err != nil {
				return err
			}
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "kit", Code: code, Act: "packed", Words: strings.Join(in.Copies, ", ") + " for " + in.Artist})
		return err
	})
	if err != nil {
		return Kit{}, err
	}
	s.Live.Tell(ctx, "kits", code)
	s.Live.Tell(ctx, "copies", "")
	return s.Kit(ctx, code)
}

// artistMeets takes the day's materials from the shelf and asks whether the artist may take what the day has them put on:
// glue, what takes it off, colour, and what they lay on skin.
func (s *Service) artistMeets(ctx context.Context, tx database.Tx, kit uint64, p piece.Piece, number int, artist contact, about journal.Entry, colours []string) error {
	doc, _, _, err := piece.SectionAt(ctx, tx, p, number)
	if err != nil {
		return err
	}
	materials, err := shelf.Load(ctx, tx)
	if err != nil {
		return err
	}
	stuff := ofTheDay(doc, materials, colours)
	if err := fromTheShelf(ctx, tx, kit, stuff); err != nil {
		return err
	}
	open, err := s.Pieces.Hands(ctx, tx, people.Owner{Kind: "contact", ID: artist.id}, artist.name, stuff...)
	if err != nil {
		return err
	}
	return piece.Meet(ctx, tx, about, open...)
}

// fromTheShelf notes which lots of the day's materials go with a kit: of each the
// one that runs out first, of those that may be used. What the shop has none of is
// left out, and the sheet says so.
func fromTheShelf(ctx context.Context, tx database.Tx, kit uint64, stuff []string) error {
	for _, slug := range stuff {
		if _, err := tx.ExecContext(ctx, `INSERT IGNORE INTO kit_lot (kit_id, lot_id) SELECT ?, l.id FROM lot l JOIN material m ON m.id = l.material_id, kit k JOIN shooting_day d ON d.id = k.day_id
			WHERE k.id = ? AND m.slug = ? AND l.status = 'ok' AND l.used_up_at IS NULL AND l.expires_on >= d.day ORDER BY l.expires_on, l.id LIMIT 1`, kit, kit, slug); err != nil {
			return fmt.Errorf("noting the lot of %s: %w", slug, err)
		}
	}
	return nil
}

// ofTheDay are the materials that somebody puts on or takes off on the day: of a
// piece that is built on skin all of them.
func ofTheDay(doc section.Section, materials material.Shelf, colours []string) []string {
	stuff := append(slices.Clone(colours), doc.Touching...)
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		if !onTheDay(l.Kind) && doc.MadeOn() != section.OnSkin {
			return
		}
		stuff = append(stuff, l.Material)
		if l.Kind == section.Adhesive {
			stuff = append(stuff, materials[l.Material].Remover)
		}
	})
	return stuff
}

// contact is an artist of the address book.
type contact struct {
	id   uint64
	name string
}

func (s *Service) packCopy(ctx context.Context, tx database.Tx, kit uint64, artist contact, kitCode, code, field string, now time.Time) error {
	c, err := copies.Lock(ctx, tx, code)
	if problem.IsNotFound(err) {
		return problem.Invalid("unknown_value", field, "There is no copy %s.", code)
	}
	if err != nil {
		return err
	}
	if !copies.Packed.MayFollow(c.State) {
		return problem.Invalid("not_accepted", field, "%s is %s; only an accepted copy goes into a kit.", code, c.State.Text())
	}
	p, err := piece.Find(ctx, tx, c.Piece)
	if err != nil {
		return err
	}
	// What leaves the shop goes on a wearer: the rules are asked as they stand now.
	about := journal.Entry{At: now, Piece: p.ID, Kind: "kit", Code: kitCode}
	if err := s.Pieces.AskRules(ctx, tx, p, c.SectionNumber, about); err != nil {
		return err
	}
	var colours []string
	if err := tx.SelectContext(ctx, &colours, `SELECT DISTINCT m.slug FROM touch_up t JOIN material m ON m.id = t.material_id WHERE t.piece_id = ?`, p.ID); err != nil {
		return err
	}
	if err := s.Pieces.AskStuff(ctx, tx, p, c.SectionNumber, about, colours...); err != nil {
		return err
	}
	if err := s.artistMeets(ctx, tx, kit, p, c.SectionNumber, artist, about, colours); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO kit_copy (kit_id, copy_id) VALUES (?,?)`, kit, c.ID); err != nil {
		return err
	}
	return copies.Move(ctx, tx, now, c, copies.Step{To: copies.Packed, Words: "into " + kitCode})
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
	now := s.Clock.Now()
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
		if _, err := tx.ExecContext(ctx, `INSERT INTO copy_use (copy_id, day_id, kit_id) SELECT ?, day_id, id FROM kit WHERE id = ?`, c.ID, k.ID); err != nil {
			return fmt.Errorf("noting the use of %s: %w", kc.Code, err)
		}
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "kit", Code: k.Code, Act: "handed over", Words: "to " + k.Artist, Actor: k.Artist})
	return err
}

// Unpack takes copies out of a kit that has not left yet, or all of them; an
// empty kit is undone. The copies are accepted ones again.
func (s *Service) Unpack(ctx context.Context, code string, only []string, reason string) (Kit, error) {
	reason = strings.TrimSpace(reason)
	if reason == "" {
		return Kit{}, problem.Invalid("missing", "reason", "Say why it is taken out.")
	}
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.onTheShelf(ctx, tx, code)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		left := 0
		for _, kc := range k.Copies {
			if len(only) > 0 && !slices.Contains(only, kc.Code) {
				left++
				continue
			}
			c, err := copies.Lock(ctx, tx, kc.Code)
			if err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `DELETE FROM kit_copy WHERE kit_id = ? AND copy_id = ?`, k.ID, c.ID); err != nil {
				return err
			}
			if err := copies.Back(ctx, tx, now, c, copies.Accepted, "out of "+code+", "+reason); err != nil {
				return err
			}
		}
		for i, want := range only {
			if !slices.ContainsFunc(k.Copies, func(kc KitCopy) bool { return kc.Code == want }) {
				return problem.Invalid("unknown_value", fmt.Sprintf("copies[%d]", i), "%s is not in %s.", want, code)
			}
		}
		if left == 0 {
			if _, err := tx.ExecContext(ctx, `UPDATE kit SET undone_at = ?, undone_by = ? WHERE id = ?`, now, who.ID, k.ID); err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `UPDATE artist_link SET withdrawn_at = ? WHERE kit_id = ? AND withdrawn_at IS NULL`, s.Real(), k.ID); err != nil {
				return err
			}
		}
		words := reason
		if len(only) > 0 {
			words = strings.Join(only, ", ") + ": " + reason
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "kit", Code: code, Act: "unpacked", Words: words})
		return err
	})
	if err != nil {
		return Kit{}, err
	}
	s.Live.Tell(ctx, "kits", code)
	s.Live.Tell(ctx, "copies", "")
	return s.Kit(ctx, code)
}

// onTheShelf reads a kit that can still be changed.
func (s *Service) onTheShelf(ctx context.Context, tx database.Tx, code string) (Kit, error) {
	if _, err := tx.ExecContext(ctx, `SELECT id FROM kit WHERE code = ? FOR UPDATE`, code); err != nil {
		return Kit{}, err
	}
	k, err := s.find(ctx, tx, `k.code = ?`, code)
	if err != nil {
		return k, err
	}
	if k.HandedAt != nil {
		return k, problem.Conflict("depends", "%s has left the shop: what is in it is with %s. Nothing was changed.", code, k.Artist)
	}
	return k, nil
}

// KitChange puts a kit's day, artist and note right.
type KitChange struct {
	DayID  uint64 `json:"day_id"`
	Artist string `json:"artist" maxLength:"120"`
	Note   string `json:"note,omitempty" maxLength:"500"`
}

// Change puts a kit right that has not left yet.
func (s *Service) Change(ctx context.Context, code string, in KitChange) (Kit, error) {
	in.Artist = strings.TrimSpace(in.Artist)
	if in.Artist == "" {
		return Kit{}, problem.Invalid("missing", "artist", "Who gets it?")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.onTheShelf(ctx, tx, code)
		if err != nil {
			return err
		}
		artist, err := people.FindContact(ctx, tx, in.Artist, people.MakeupArtist)
		if err != nil {
			return err
		}
		var known int
		if err := tx.GetContext(ctx, &known, `SELECT COUNT(*) FROM shooting_day WHERE id = ?`, in.DayID); err != nil || known == 0 {
			return errors.Join(err, problem.Invalid("unknown_value", "day_id", "Choose the shooting day."))
		}
		if _, err := tx.ExecContext(ctx, `UPDATE kit SET day_id = ?, artist_id = ?, note = ? WHERE id = ?`, in.DayID, artist, in.Note, k.ID); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "kit", Code: code, Act: "changed", Words: "was for " + k.Artist + ", " + k.Day.Format(time.DateOnly) + "; now for " + in.Artist})
		return err
	})
	if err != nil {
		return Kit{}, err
	}
	s.Live.Tell(ctx, "kits", code)
	return s.Kit(ctx, code)
}
