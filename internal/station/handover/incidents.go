package handover

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// Incident is skin that reacted: where, under what, from which lots. What it says is of somebody's health.
type Incident struct {
	ID        uint64          `db:"id" json:"id"`
	Performer string          `db:"performer" json:"performer"`
	Piece     string          `db:"piece" json:"piece"`
	Copy      string          `db:"copy_code" json:"copy"`
	Kit       string          `db:"kit" json:"kit"`
	Region    string          `db:"region" json:"region"`
	Redness   int             `db:"redness" json:"redness" doc:"0 none to 3 burning"`
	Words     string          `db:"words" json:"words"`
	OpenedAt  time.Time       `db:"opened_at" json:"opened_at"`
	ClosedAt  *time.Time      `db:"closed_at" json:"closed_at,omitempty"`
	ClosedBy  string          `db:"closed_by" json:"closed_by"`
	Closing   string          `db:"closing" json:"closing"`
	Stuff     []Suspect       `db:"-" json:"stuff" doc:"what lay there"`
	Pictures  []ReportPicture `db:"-" json:"pictures"`
	// Planned are pieces in work for this wearer that hold something of it.
	Planned []string `db:"-" json:"planned"`
}

// Suspect is a product that lay where skin reacted.
type Suspect struct {
	Incident uint64 `db:"incident_id" json:"-"`
	Slug     string `db:"slug" json:"slug"`
	Name     string `db:"name" json:"name"`
	Layer    string `db:"layer" json:"layer"`
	Lot      string `db:"lot" json:"lot"`
}

type newIncident struct {
	kit     Kit
	piece   piece.Piece
	number  int
	copyID  *uint64
	report  uint64
	region  string
	redness int
	words   string
}

// open writes an incident down: every product of the section that touches skin counts, and what the kit takes it off with.
func (s *Service) open(ctx context.Context, tx database.Tx, in newIncident) error {
	if in.piece.PerformerID == nil {
		return problem.Invalid("unknown_value", "copy", "Nobody is written down as the wearer of %s. Ring the workshop.", in.piece.Code)
	}
	doc, _, _, err := piece.SectionAt(ctx, tx, in.piece, in.number)
	if err != nil {
		return err
	}
	materials, err := shelf.Load(ctx, tx)
	if err != nil {
		return err
	}
	redness := in.redness
	if redness == 0 {
		redness = 1
	}
	region := in.region
	if region == "" {
		region = strings.TrimRight(in.piece.Region+" "+in.piece.Side, " ")
	}
	res, err := tx.ExecContext(ctx, `INSERT INTO incident (performer_id, piece_id, copy_id, kit_id, report_id, region, redness, words, opened_at) VALUES (?,?,?,NULLIF(?,0),NULLIF(?,0),?,?,?,?)`,
		*in.piece.PerformerID, in.piece.ID, in.copyID, in.kit.ID, in.report, region, redness, in.words, s.Clock.Now())
	if err != nil {
		return fmt.Errorf("writing down that skin reacted: %w", err)
	}
	id, err := res.LastInsertId()
	if err != nil {
		return err
	}
	layers := map[string]string{}
	var slugs []string
	add := func(slug, layer string) {
		if _, had := layers[slug]; !had && slug != "" {
			layers[slug] = layer
			slugs = append(slugs, slug)
		}
	}
	for _, slug := range rules.OnSkin(doc) {
		add(slug, "")
	}
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		if _, on := layers[l.Material]; on && layers[l.Material] == "" {
			layers[l.Material] = l.ID
		}
		if l.Kind == section.Adhesive {
			add(materials[l.Material].Remover, l.ID)
		}
	})
	var run uint64
	if in.copyID != nil {
		if err := tx.GetContext(ctx, &run, `SELECT run_id FROM copy WHERE id = ?`, *in.copyID); err != nil {
			return err
		}
	}
	for _, slug := range slugs {
		var a about
		if err := s.lotOf(ctx, tx, in.kit, run, slug, &a); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT IGNORE INTO incident_material (incident_id, material_id, layer, lot_id) SELECT ?, id, ?, ? FROM material WHERE slug = ?`, id, layers[slug], a.lotID, slug); err != nil {
			return fmt.Errorf("writing down what lay there: %w", err)
		}
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: in.piece.ID, Kind: "incident", Code: fmt.Sprint(id), Act: "incident opened"})
	return err
}

const incidentColumns = `i.id, p.name AS performer, q.code AS piece, COALESCE(c.code, '') AS copy_code, COALESCE(k.code, '') AS kit, i.region, i.redness, i.words, i.opened_at, i.closed_at, COALESCE(w.name, '') AS closed_by, i.closing
	FROM incident i JOIN performer p ON p.id = i.performer_id JOIN piece q ON q.id = i.piece_id LEFT JOIN copy c ON c.id = i.copy_id LEFT JOIN kit k ON k.id = i.kit_id LEFT JOIN person w ON w.id = i.closed_by`

// SeeIncidents is Incidents for somebody who looks: that it was seen is recorded.
func (s *Service) SeeIncidents(ctx context.Context) ([]Incident, error) {
	list, err := s.Incidents(ctx)
	if err != nil || len(list) == 0 {
		return list, err
	}
	return list, s.DB.InTx(ctx, func(tx database.Tx) error {
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "incident", Code: "all", Act: "incidents looked at"})
		return err
	})
}

// Incidents lists what skin reacted to, the open ones first.
func (s *Service) Incidents(ctx context.Context) ([]Incident, error) {
	list := []Incident{}
	if err := s.DB.SelectContext(ctx, &list, `SELECT `+incidentColumns+` ORDER BY i.closed_at IS NOT NULL, i.id DESC LIMIT 200`); err != nil {
		return nil, fmt.Errorf("reading the incidents: %w", err)
	}
	var stuff []Suspect
	if err := s.DB.SelectContext(ctx, &stuff, `SELECT im.incident_id, m.slug, m.name, im.layer, COALESCE(CONCAT(l.code, IF(l.part = '', '', CONCAT(' ', l.part))), '') AS lot
		FROM incident_material im JOIN material m ON m.id = im.material_id LEFT JOIN lot l ON l.id = im.lot_id ORDER BY m.name`); err != nil {
		return nil, err
	}
	var pictures []ReportPicture
	if err := s.DB.SelectContext(ctx, &pictures, `SELECT i.id AS report_id, f.sha256, x.idem_key FROM incident i JOIN report_picture x ON x.report_id = i.report_id JOIN file f ON f.id = x.file_id ORDER BY x.id`); err != nil {
		return nil, err
	}
	for n := range list {
		i := &list[n]
		i.Stuff, i.Pictures, i.Planned = []Suspect{}, []ReportPicture{}, []string{}
		for _, x := range stuff {
			if x.Incident == i.ID {
				i.Stuff = append(i.Stuff, x)
			}
		}
		for _, x := range pictures {
			if x.Report == i.ID {
				i.Pictures = append(i.Pictures, x)
			}
		}
		if i.ClosedAt == nil {
			if err := s.planned(ctx, i); err != nil {
				return nil, err
			}
		}
	}
	return list, nil
}

// planned are the pieces in work of an incident's wearer whose agreed sections hold something of it.
func (s *Service) planned(ctx context.Context, i *Incident) error {
	list, err := piece.All(ctx, s.DB)
	if err != nil {
		return err
	}
	for _, p := range list {
		if p.Performer == nil || *p.Performer != i.Performer || p.SectionNumber == 0 {
			continue
		}
		doc, _, _, err := piece.AgreedSection(ctx, s.DB, p)
		if err != nil {
			return err
		}
		has := false
		doc.All(func(_ section.Cut, _ int, l section.Layer) {
			for _, x := range i.Stuff {
				has = has || l.Material == x.Slug
			}
		})
		if has {
			i.Planned = append(i.Planned, p.Code)
		}
	}
	return nil
}

// Close closes an incident by a named person; it clears nothing.
func (s *Service) Close(ctx context.Context, id uint64, words string) ([]Incident, error) {
	words = strings.TrimSpace(words)
	if words == "" {
		return nil, problem.Invalid("missing", "words", "Who was asked, and what follows?")
	}
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		row := struct {
			At    sql.NullTime
			Piece uint64
		}{}
		if err := tx.GetContext(ctx, &row, `SELECT closed_at AS at, piece_id AS piece FROM incident WHERE id = ? FOR UPDATE`, id); errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("incident", fmt.Sprint(id))
		} else if err != nil {
			return err
		}
		if row.At.Valid {
			return problem.Conflict("closed", "It was closed already. Nothing was overwritten.")
		}
		if _, err := tx.ExecContext(ctx, `UPDATE incident SET closed_at = ?, closed_by = ?, closing = ? WHERE id = ?`, s.Clock.Now(), who.ID, words, id); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: row.Piece, Kind: "incident", Code: fmt.Sprint(id), Act: "incident closed"})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "kits", "")
	return s.Incidents(ctx)
}

// Erase removes an incident for good, with its pictures: it is of somebody's health.
func (s *Service) Erase(ctx context.Context, id uint64) ([]Incident, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		var pieceID uint64
		if err := tx.GetContext(ctx, &pieceID, `SELECT piece_id FROM incident WHERE id = ? FOR UPDATE`, id); errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("incident", fmt.Sprint(id))
		} else if err != nil {
			return err
		}
		var files []uint64
		if err := tx.SelectContext(ctx, &files, `SELECT x.file_id FROM report_picture x JOIN incident i ON i.report_id = x.report_id WHERE i.id = ?`, id); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE x FROM report_picture x JOIN incident i ON i.report_id = x.report_id WHERE i.id = ?`, id); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM incident WHERE id = ?`, id); err != nil {
			return err
		}
		for _, f := range files { // what nothing else shows is swept from the disk
			if _, err := tx.ExecContext(ctx, `DELETE IGNORE FROM file WHERE id = ?`, f); err != nil {
				return err
			}
		}
		if err := database.ForgetAnswers(ctx, tx); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: pieceID, Kind: "incident", Code: fmt.Sprint(id), Act: "incident erased"})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "kits", "")
	s.Live.Tell(ctx, "section", "")
	return s.Incidents(ctx)
}
