package handover

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/fit"
	"yewmoor/internal/craft/outing"
	"yewmoor/internal/craft/wear"
	"yewmoor/internal/journal"
	"yewmoor/internal/people"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Maps draws the wearer's map of a piece with its landmarks numbered; wired to the brief.
type Maps interface {
	WritePlaced(ctx context.Context, w io.Writer, piece string, landmarks []string) error
}

// ArtistView is all that an artist's link shows: one kit, no more; nothing of other performers, and of health only what
// must not be used.
type ArtistView struct {
	Kit        string          `json:"kit"`
	Production string          `json:"production"`
	Artist     string          `json:"artist"`
	Wearer     string          `json:"wearer"`
	Scene      string          `json:"scene"`
	Day        time.Time       `json:"day"`
	Days       []KitDay        `json:"days"`
	Place      string          `json:"place"`
	Note       string          `json:"note"`
	Call       []Ring          `json:"call" doc:"whom to ring"`
	Stop       []string        `json:"stop" doc:"how the wearer says stop"`
	Cautions   []string        `json:"cautions"`
	Recalls    []KitLetter     `json:"recalls" doc:"called back, and not answered yet"`
	Copies     []CopySheet     `json:"copies"`
	Items      []ArtistItem    `json:"items"`
	Parcels    []outing.Parcel `json:"parcels"`
	Run        outing.Run      `json:"run"`
	Live       outing.Live     `json:"live"`
	Bar        string          `json:"bar" doc:"why there is no run of the morning"`
	Told       []outing.Told   `json:"told"`
	AskMin     int             `json:"ask_min"`
	Wear       outing.Lasting  `json:"wear"`
	Off        outing.Evening  `json:"off"`
	Pictures   []TargetPicture `json:"pictures"`
	ReceivedAt *time.Time      `json:"received_at,omitempty"`
	SignedName string          `json:"signed_name"`
	BackAt     *time.Time      `json:"back_at,omitempty"`
	Reports    []Report        `json:"reports"`
	ExpiresAt  time.Time       `json:"expires_at"`
	AskedAt    time.Time       `json:"asked_at" doc:"when this was answered; by the server's clock"`
	Today      bool            `json:"today" doc:"the morning is today's"`
	NowMin     float64         `json:"now_min" doc:"minute of the kit's day by the shop's clock"`
	Mark       string          `json:"mark" doc:"changes whenever anything here does but the time"`
}

// Ring is somebody to ring.
type Ring struct {
	Name  string `db:"name" json:"name"`
	Phone string `db:"phone" json:"phone"`
	What  string `db:"what" json:"what"`
}

// ArtistItem is a thing of the kit as its artist sees it.
type ArtistItem struct {
	Kind    string  `json:"kind"`
	Name    string  `json:"name"`
	Amount  float64 `json:"amount"`
	Unit    string  `json:"unit"`
	Lot     string  `json:"lot"`
	Packed  bool    `json:"packed"`
	Missing string  `json:"missing"`
	Why     string  `json:"why"`
}

// TargetPicture is what it is to look like.
type TargetPicture struct {
	SHA256  string `db:"sha256" json:"sha256"`
	Piece   string `db:"piece" json:"piece"`
	View    string `db:"view" json:"view"`
	Caption string `db:"caption" json:"caption"`
}

// link is an artist's link as it is asked.
type link struct {
	ID        uint64
	ExpiresAt time.Time `db:"expires_at"`
}

// Artist reads the page behind a link, and notes that it asked.
func (s *Service) Artist(ctx context.Context, token string) (ArtistView, error) {
	k, err := s.byToken(ctx, s.DB, token)
	if err != nil {
		return ArtistView{}, err
	}
	l, err := s.asked(ctx, token)
	if err != nil {
		return ArtistView{}, err
	}
	sheet, err := s.Sheet(ctx, k)
	if err != nil {
		return ArtistView{}, err
	}
	d, err := s.dayOf(ctx, s.DB, k)
	if err != nil {
		return ArtistView{}, err
	}
	v := ArtistView{Kit: k.Code, Production: k.Production, Artist: k.Artist, Wearer: d.wearer(), Scene: k.Scene, Day: k.Day, Days: k.Days, Place: k.Place, Note: k.Note, Copies: sheet.Copies, Cautions: sheet.Cautions,
		Stop: wear.Signals, ReceivedAt: k.ReceivedAt, SignedName: k.SignedName, BackAt: k.BackAt, Reports: k.Reports, ExpiresAt: l.ExpiresAt, Items: []ArtistItem{}, Parcels: outing.Parcels(d.pieces, d.ages, d.air, d.shelf)}
	items, err := s.items(ctx, s.DB, d)
	if err != nil {
		return v, err
	}
	for _, it := range items {
		if it.Dropped != "" {
			continue
		}
		a := ArtistItem{Kind: it.Kind, Name: it.Name, Amount: it.Need, Unit: it.Unit, Lot: it.Lot, Packed: it.PackedAt != nil, Missing: it.Missing, Why: it.Why}
		if it.Packed != nil {
			a.Amount = *it.Packed
		}
		v.Items = append(v.Items, a)
	}
	c, err := s.chair(ctx, s.DB, d)
	if err != nil {
		return v, err
	}
	v.Run, v.Live, v.Bar, v.Told, v.AskMin, v.Wear, v.Off, v.NowMin, v.Today = c.Run, c.Live, c.Bar, c.Told, c.AskMin, c.Wear, c.Off, c.NowMin, c.Today
	if v.Recalls, err = s.Lots.KitLetters(ctx, s.DB, k.Code); err != nil {
		return v, err
	}
	if v.Call, err = s.ring(ctx, s.DB); err != nil {
		return v, err
	}
	if v.Pictures, err = s.targets(ctx, s.DB, k); err != nil {
		return v, err
	}
	v.Mark = v.mark()
	v.AskedAt = s.Real().UTC()
	return v, nil
}

// mark is a digest of what the view says, without its clocks.
func (v ArtistView) mark() string {
	v.NowMin, v.Live = 0, outing.Live{Steps: v.Live.Steps}
	raw, err := json.Marshal(v)
	if err != nil {
		return ""
	}
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(sum[:8])
}

// asked notes that a page of a link asked: who was not reached since a recall is seen by it.
func (s *Service) asked(ctx context.Context, token string) (link, error) {
	hash := sha256.Sum256([]byte(token))
	var l link
	if err := s.DB.GetContext(ctx, &l, `SELECT id, expires_at FROM artist_link WHERE token_hash = ?`, hash[:]); err != nil {
		return l, err
	}
	_, err := s.DB.ExecContext(ctx, `UPDATE artist_link SET asked_at = ? WHERE id = ?`, s.Real().UTC(), l.ID)
	return l, err
}

// Heard is the little that a page asks for every few seconds.
type Heard struct {
	Recalls []KitLetter `json:"recalls"`
	Answers int         `json:"answers" doc:"reports that were answered"`
	Ticks   int         `json:"ticks" doc:"of the morning"`
	AskedAt time.Time   `json:"asked_at"`
}

// Hear answers a page that asks whether there is anything new: a recall is there with the next word.
func (s *Service) Hear(ctx context.Context, token string) (Heard, error) {
	k, err := s.tokenKit(ctx, token)
	if err != nil {
		return Heard{}, err
	}
	if _, err := s.asked(ctx, token); err != nil {
		return Heard{}, err
	}
	out := Heard{AskedAt: s.Real().UTC()}
	if out.Recalls, err = s.Lots.KitLetters(ctx, s.DB, k.Code); err != nil {
		return out, err
	}
	err = s.DB.QueryRowxContext(ctx, `SELECT (SELECT COUNT(*) FROM artist_report WHERE kit_id = ? AND answered_at IS NOT NULL), (SELECT COUNT(*) FROM chair_tick WHERE kit_id = ?)`, k.ID, k.ID).Scan(&out.Answers, &out.Ticks)
	return out, err
}

// ring is whom an artist rings: the workshop's own entries in the address book that have a number.
func (s *Service) ring(ctx context.Context, db database.Reader) ([]Ring, error) {
	list := []Ring{}
	err := db.SelectContext(ctx, &list, `SELECT name, phone, what FROM contact WHERE what = ? AND phone <> '' ORDER BY id`, people.Workshop)
	return list, err
}

// targets are what it is to look like: the copies' own pictures, and the references of their briefs.
func (s *Service) targets(ctx context.Context, db database.Reader, k Kit) ([]TargetPicture, error) {
	list := []TargetPicture{}
	err := db.SelectContext(ctx, &list, `SELECT DISTINCT f.sha256, q.code AS piece, x.view, CONCAT(c.code, IF(x.note = '', '', CONCAT(', ', x.note))) AS caption FROM kit_copy kc JOIN copy c ON c.id = kc.copy_id JOIN piece q ON q.id = c.piece_id JOIN copy_picture x ON x.copy_id = c.id JOIN file f ON f.id = x.file_id WHERE kc.kit_id = ?
		UNION SELECT DISTINCT f.sha256, q.code, x.view, x.caption FROM kit_copy kc JOIN copy c ON c.id = kc.copy_id JOIN piece q ON q.id = c.piece_id JOIN reference_picture x ON x.piece_id = q.id JOIN file f ON f.id = x.file_id WHERE kc.kit_id = ? LIMIT 24`, k.ID, k.ID)
	return list, err
}

// Sign records the artist's receipt; the first signature stands.
func (s *Service) Sign(ctx context.Context, token, name string) (ArtistView, error) {
	name = strings.TrimSpace(name)
	if name == "" {
		return ArtistView{}, problem.Invalid("missing", "name", "Sign with your name.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.byToken(ctx, tx, token)
		if err != nil {
			return err
		}
		if err := s.leave(ctx, tx, k); err != nil {
			return err
		}
		now := s.Clock.Now()
		first, err := database.Changed(tx.ExecContext(ctx, `UPDATE kit SET received_at = ?, signed_name = ? WHERE id = ? AND received_at IS NULL`, now, name, k.ID))
		if err != nil || !first {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "kit", Code: k.Code, Act: "received", Words: "signed by " + name, Actor: name})
		return err
	})
	if err != nil {
		return ArtistView{}, err
	}
	s.Live.Tell(ctx, "kits", "")
	s.Live.Tell(ctx, "copies", "")
	return s.Artist(ctx, token)
}

// TickByLink notes a step of the morning by the artist's link.
func (s *Service) TickByLink(ctx context.Context, token string, in Tick) (ArtistView, error) {
	if err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.byToken(ctx, tx, token)
		if err != nil {
			return err
		}
		return s.tick(ctx, tx, k, in)
	}); err != nil {
		return ArtistView{}, err
	}
	s.Live.Tell(ctx, "kits", "")
	return s.Artist(ctx, token)
}

// AnswerRecall notes that the artist knows of a recall, with what they did.
func (s *Service) AnswerRecall(ctx context.Context, token, recall, words string) (ArtistView, error) {
	words = strings.TrimSpace(words)
	if words == "" {
		return ArtistView{}, problem.Invalid("missing", "words", "Say what you did: not used, taken off, thrown away.")
	}
	if err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.byToken(ctx, tx, token)
		if err != nil {
			return err
		}
		return s.Lots.AnswerLetter(ctx, tx, recall, k.Code, words)
	}); err != nil {
		return ArtistView{}, err
	}
	s.Live.Tell(ctx, "lots", "")
	s.Live.Tell(ctx, "kits", "")
	return s.Artist(ctx, token)
}

// WriteMap draws the map of one of the kit's pieces with its landmarks in the order in which they are brought together.
func (s *Service) WriteMap(ctx context.Context, w io.Writer, k Kit, code string) error {
	d, err := s.dayOf(ctx, s.DB, k)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(d.pieces, func(p outing.Piece) bool { return p.Code == code })
	if i < 0 {
		return problem.NotFound("piece", code)
	}
	order := []string{}
	if len(d.pieces[i].Marks) > 0 {
		order = fit.PlaceOrder(d.pieces[i].Marks, nil).Order
	}
	return s.Maps.WritePlaced(ctx, w, code, order)
}

// NotReached are kits with a recall that nobody answered, whose page has not asked since.
type NotReached struct {
	Kit     string     `db:"kit" json:"kit"`
	Artist  string     `db:"artist" json:"artist"`
	Phone   string     `db:"phone" json:"phone"`
	Recall  string     `db:"recall" json:"recall"`
	Since   time.Time  `db:"since" json:"since" doc:"when it was called back"`
	AskedAt *time.Time `db:"asked_at" json:"asked_at,omitempty" doc:"when a page of the kit asked last; none for never"`
	Reached bool       `db:"reached" json:"reached" doc:"a page showed it since; nobody answered yet"`
}

// Reached says of every open recall's kits who saw it and who is to be rung. Pages ask by real time, recalls stand by the bench clock:
// a letter keeps the real time of its writing.
func (s *Service) Reached(ctx context.Context) ([]NotReached, error) {
	list := []NotReached{}
	err := s.DB.SelectContext(ctx, &list, `SELECT k.code AS kit, a.name AS artist, a.phone, c.code AS recall, c.at AS since, x.asked_at, COALESCE(x.asked_at >= l.written_at, FALSE) AS reached
		FROM recall_letter l JOIN recall c ON c.id = l.recall_id JOIN kit k ON k.id = l.kit_id JOIN contact a ON a.id = k.artist_id
		LEFT JOIN (SELECT kit_id, MAX(asked_at) AS asked_at FROM artist_link GROUP BY kit_id) x ON x.kit_id = k.id
		WHERE l.told_at IS NULL AND c.ended_at IS NULL AND k.handed_at IS NOT NULL AND k.undone_at IS NULL ORDER BY reached, c.id, k.code`)
	if err != nil {
		return nil, fmt.Errorf("reading who was reached: %w", err)
	}
	return list, nil
}
