package handover

import (
	"context"
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
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// NewKit is a kit as it is packed.
type NewKit struct {
	DayID     uint64   `json:"day_id"`
	MoreDays  []uint64 `json:"more_days,omitempty" maxItems:"30" doc:"further days that it is for"`
	Artist    string   `json:"artist" maxLength:"120"`
	Performer string   `json:"performer,omitempty" maxLength:"120" doc:"whose kit it is; empty takes the wearer of its copies where that is one"`
	Scene     string   `json:"scene,omitempty" maxLength:"120"`
	Note      string   `json:"note,omitempty" maxLength:"500"`
	Copies    []string `json:"copies" maxItems:"60" doc:"none where it is begun for a performer and filled later"`
}

// Pack makes a kit of accepted copies.
func (s *Service) Pack(ctx context.Context, in NewKit) (Kit, error) {
	in.Artist = strings.TrimSpace(in.Artist)
	switch {
	case in.Artist == "":
		return Kit{}, problem.Invalid("missing", "artist", "Who gets it?")
	case len(in.Copies) == 0 && strings.TrimSpace(in.Performer) == "":
		return Kit{}, problem.Invalid("missing", "copies", "Choose at least one accepted copy, or say whose kit is begun.")
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
		if err := s.days(ctx, tx, uint64(kit), append([]uint64{in.DayID}, in.MoreDays...)); err != nil {
			return err
		}
		if name := strings.TrimSpace(in.Performer); name != "" {
			known, err := database.Changed(tx.ExecContext(ctx, `UPDATE kit SET performer_id = (SELECT id FROM performer WHERE name = ?), scene = ? WHERE id = ? AND EXISTS (SELECT 1 FROM performer WHERE name = ?)`, name, in.Scene, kit, name))
			if err != nil {
				return err
			}
			if !known {
				return problem.Invalid("unknown_value", "performer", "No performer of the name %s is known.", name)
			}
		} else if in.Scene != "" {
			if _, err := tx.ExecContext(ctx, `UPDATE kit SET scene = ? WHERE id = ?`, in.Scene, kit); err != nil {
				return err
			}
		}
		for i, c := range in.Copies {
			if err := s.packCopy(ctx, tx, uint64(kit), contact{artist, in.Artist}, code, c, fmt.Sprintf("copies[%d]", i), now); err != nil {
				return err
			}
		}
		if err := s.whose(ctx, tx, uint64(kit)); err != nil {
			return err
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

// days are the shooting days that a kit is for.
func (s *Service) days(ctx context.Context, tx database.Tx, kit uint64, ids []uint64) error {
	if _, err := tx.ExecContext(ctx, `DELETE FROM kit_day WHERE kit_id = ?`, kit); err != nil {
		return err
	}
	for i, id := range ids {
		known, err := database.Changed(tx.ExecContext(ctx, `INSERT IGNORE INTO kit_day (kit_id, day_id) SELECT ?, id FROM shooting_day WHERE id = ?`, kit, id))
		if err != nil {
			return fmt.Errorf("writing the days of the kit: %w", err)
		}
		if !known && i > 0 && !slices.Contains(ids[:i], id) {
			return problem.Invalid("unknown_value", fmt.Sprintf("more_days[%d]", i-1), "Choose shooting days.")
		}
	}
	return nil
}

// whose says of a kit whose copies are all of one wearer that it is theirs.
func (s *Service) whose(ctx context.Context, tx database.Tx, kit uint64) error {
	_, err := tx.ExecContext(ctx, "UPDATE kit SET performer_id = (SELECT IF(COUNT(DISTINCT ch.performer_id) = 1 AND SUM(ch.performer_id IS NULL) = 0, MAX(ch.performer_id), NULL) FROM kit_copy kc JOIN copy c ON c.id = kc.copy_id JOIN piece q ON q.id = c.piece_id JOIN `character` ch ON ch.id = q.character_id WHERE kc.kit_id = ?) WHERE id = ? AND performer_id IS NULL", kit, kit)
	return err
}

// Add packs further copies into a kit that has not left yet.
func (s *Service) Add(ctx context.Context, code string, list []string) (Kit, error) {
	if len(list) == 0 {
		return Kit{}, problem.Invalid("missing", "copies", "Choose at least one accepted copy.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.onTheShelf(ctx, tx, code)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		for i, c := range list {
			if err := s.packCopy(ctx, tx, k.ID, contact{k.ArtistID, k.Artist}, code, c, fmt.Sprintf("copies[%d]", i), now); err != nil {
				return err
			}
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "kit", Code: code, Act: "packed", Words: strings.Join(list, ", ")})
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

// AskAgain asks the rule book about a product that is filled off for a packed kit, as
// the rules stand now: the wearers of its copies, whoever fills it, and the artist.
func (s *Service) AskAgain(ctx context.Context, tx database.Tx, kit, slug string) error {
	var in []struct {
		Piece  string
		Number int
	}
	if err := tx.SelectContext(ctx, &in, `SELECT DISTINCT q.code AS piece, COALESCE(c.section_number, 0) AS number
		FROM kit k JOIN kit_copy kc ON kc.kit_id = k.id JOIN copy c ON c.id = kc.copy_id JOIN piece q ON q.id = c.piece_id WHERE k.code = ?`, kit); err != nil {
		return fmt.Errorf("reading what the kit holds: %w", err)
	}
	about := journal.Entry{At: s.Clock.Now(), Kind: "kit", Code: kit}
	for _, c := range in {
		p, err := piece.Find(ctx, tx, c.Piece)
		if err != nil {
			return err
		}
		of := about
		of.Piece = p.ID
		if err := s.Pieces.AskRules(ctx, tx, p, c.Number, of); err != nil {
			return err
		}
		if err := s.Pieces.AskStuff(ctx, tx, p, c.Number, of, slug); err != nil {
			return err
		}
	}
	var artist struct {
		ID   uint64
		Name string
	}
	if err := tx.GetContext(ctx, &artist, `SELECT a.id, a.name FROM kit k JOIN contact a ON a.id = k.artist_id WHERE k.code = ?`,
		kit); err != nil {
		return fmt.Errorf("reading the kit's artist: %w", err)
	}
	open, err := s.Pieces.Hands(ctx, tx, people.Owner{Kind: "contact", ID: artist.ID}, artist.Name, slug)
	if err != nil {
		return err
	}
	return piece.Meet(ctx, tx, about, open...)
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
	if why, err := s.Lots.Unfit(ctx, "copy", code); err != nil {
		return err
	} else if why != "" {
		return problem.Invalid("recalled", field, "%s stays here: %s.", code, why)
	}
	p, err := piece.Find(ctx, tx, c.Piece)
	if err != nil {
		return err
	}
	var other string
	if err := tx.GetContext(ctx, &other, `SELECT COALESCE((SELECT pf.name FROM kit k JOIN performer pf ON pf.id = k.performer_id WHERE k.id = ? AND k.performer_id <> COALESCE(?, 0)), '')`, kit, p.PerformerID); err != nil {
		return err
	}
	if other != "" {
		return problem.Invalid("contradiction", field, "%s is not worn by %s, whose kit this is.", code, other)
	}
	// What leaves the shop goes on a wearer: the rules are asked as they stand now.
	about := journal.Entry{At: now, Piece: p.ID, Kind: "kit", Code: kitCode}
	if err := s.Pieces.AskRules(ctx, tx, p, c.SectionNumber, about); err != nil {
		return err
	}
	list, err := s.Colours.ForTheDay(ctx, tx, p.Code)
	if err != nil {
		return err
	}
	var colours []string
	for _, t := range list {
		if !slices.Contains(colours, t.Slug) {
			colours = append(colours, t.Slug)
		}
	}
	if err := s.Pieces.AskStuff(ctx, tx, p, c.SectionNumber, about, colours...); err != nil {
		return err
	}
	if err := s.artistMeets(ctx, tx, kit, p, c.SectionNumber, artist, about, colours); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO kit_copy (kit_id, copy_id) VALUES (?,?) ON DUPLICATE KEY UPDATE back = '', back_at = NULL, back_words = ''`, kit, c.ID); err != nil {
		return err
	}
	return copies.Move(ctx, tx, now, c, copies.Step{To: copies.Packed, Words: "into " + kitCode})
}
