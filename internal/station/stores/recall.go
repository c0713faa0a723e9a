package stores

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"yewmoor/internal/craft/trace"
	"yewmoor/internal/journal"
	"yewmoor/internal/paper"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Letter is what an artist is told whose kit has something of a recalled lot in it.
type Letter struct {
	Kit    string     `db:"kit" json:"kit"`
	Artist string     `db:"artist" json:"artist"`
	Day    time.Time  `db:"day" json:"day"`
	Handed bool       `db:"handed" json:"handed" doc:"it has left the shop"`
	Back   bool       `db:"back" json:"back" doc:"it was counted when it came back; it was worn with it all the same"`
	Copies string     `db:"copies" json:"copies" doc:"codes of its copies that have it in them, with commas between"`
	Shelf  bool       `db:"-" json:"shelf" doc:"the lot itself went along"`
	Told   *time.Time `db:"told_at" json:"told_at,omitempty" doc:"when they answered that they know"`
	Answer string     `db:"answer" json:"answer,omitempty"`
}

// Touched is one thing that has a recalled lot in it, and where it is now.
type Touched struct {
	Kind  string `json:"kind" enum:"mix,lot,copy,kit,mould"`
	Code  string `json:"code"`
	State string `json:"state"`
	Where string `json:"where" doc:"who has it, or where it stands"`
	// Contact: it only touched it, and has none of it inside.
	Contact bool `json:"contact"`
}

// Recall is a lot that was called back, with everything that it touched.
type Recall struct {
	Code    string     `db:"code" json:"code"`
	Lot     string     `db:"lot_code" json:"lot"`
	Name    string     `db:"name" json:"name"`
	Reason  string     `db:"reason" json:"reason"`
	At      time.Time  `db:"at" json:"at"`
	By      string     `db:"by_name" json:"by"`
	EndedAt *time.Time `db:"ended_at" json:"ended_at,omitempty"`
	Touched []Touched  `db:"-" json:"touched"`
	Letters []Letter   `db:"-" json:"letters"`
	Open    int        `db:"-" json:"open" doc:"letters without an answer"`
}

// CallBack recalls a lot: it may not be used any more, what was put by from it is
// held back, and everybody who has something of it gets a letter.
func (s *Service) CallBack(ctx context.Context, lot, reason string) (Recall, error) {
	reason = strings.TrimSpace(reason)
	if reason == "" {
		return Recall{}, problem.Invalid("missing", "reason", "Say why: what the supplier wrote, or what was seen.")
	}
	who, _ := accounts.From(ctx)
	reached, err := s.Trace(ctx, trace.Node{Kind: "lot", Code: lot}, trace.Forward)
	if err != nil {
		return Recall{}, err
	}
	var code string
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		parts, err := s.lots(ctx, tx, `WHERE l.code = ?`, lot)
		if err != nil {
			return err
		}
		if len(parts) == 0 {
			return problem.NotFound("lot", lot)
		}
		if err := tx.GetContext(ctx, &code, `SELECT code FROM recall WHERE lot_code = ? AND ended_at IS NULL`, lot); err == nil {
			return nil // called back already: the same recall
		} else if !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		number, err := database.NextNumber(ctx, tx, "recall")
		if err != nil {
			return err
		}
		code = fmt.Sprintf("C-%04d", number)
		now := s.Clock.Now()
		res, err := tx.ExecContext(ctx, `INSERT INTO recall (code, lot_code, reason, at, person_id) VALUES (?,?,?,?,?)`, code, lot, reason, now, who.ID)
		if err != nil {
			return fmt.Errorf("calling the lot back: %w", err)
		}
		id, err := res.LastInsertId()
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE lot SET status = 'recalled', status_reason = ? WHERE code = ?`, reason, lot); err != nil {
			return err
		}
		for _, made := range reached["lot"] {
			if _, err := tx.ExecContext(ctx, `UPDATE lot SET status = 'quarantine', status_reason = ? WHERE code = ? AND status = 'ok'`, "has recalled lot "+lot+" in it", made); err != nil {
				return err
			}
		}
		for _, kit := range reached["kit"] {
			if _, err := tx.ExecContext(ctx, `INSERT INTO recall_letter (recall_id, kit_id) SELECT ?, id FROM kit WHERE code = ?`, id, kit); err != nil {
				return err
			}
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "lot", Code: lot, Act: "recalled", Words: code + ": " + reason})
		return err
	})
	if err != nil {
		return Recall{}, err
	}
	s.Live.Tell(ctx, "lots", "")
	s.Live.Tell(ctx, "kits", "")
	return s.Recall(ctx, code)
}

// Unfit says which lots that went into a copy or a kit are recalled or held back, and
// why; "" for none.
func (s *Service) Unfit(ctx context.Context, kind, code string) (string, error) {
	reached, err := s.Trace(ctx, trace.Node{Kind: kind, Code: code}, trace.Backward)
	if err != nil || len(reached["lot"]) == 0 {
		return "", err
	}
	query, args, err := sqlx.In(`SELECT DISTINCT CONCAT('lot ', code, ' is ', IF(status = 'recalled', 'recalled', 'in quarantine'), IF(status_reason = '', '', CONCAT(', ', status_reason))) FROM lot WHERE code IN (?) AND status <> 'ok' ORDER BY 1`, reached["lot"])
	if err != nil {
		return "", err
	}
	var bad []string
	if err := s.DB.SelectContext(ctx, &bad, query, args...); err != nil {
		return "", fmt.Errorf("asking for recalled lots: %w", err)
	}
	return strings.Join(bad, "; "), nil
}

// Recalls are all of them, open ones first.
func (s *Service) Recalls(ctx context.Context) ([]Recall, error) {
	list := []Recall{}
	err := s.DB.SelectContext(ctx, &list, `SELECT c.code, c.lot_code, COALESCE((SELECT MIN(m.name) FROM lot l JOIN material m ON m.id = l.material_id WHERE l.code = c.lot_code), '') AS name, c.reason, c.at, p.name AS by_name, c.ended_at
		FROM recall c JOIN person p ON p.id = c.person_id ORDER BY c.ended_at IS NOT NULL, c.id DESC LIMIT 100`)
	if err != nil {
		return nil, fmt.Errorf("reading the recalls: %w", err)
	}
	for i := range list {
		list[i].Touched, list[i].Letters = []Touched{}, []Letter{}
		if err := s.DB.GetContext(ctx, &list[i].Open, `SELECT COUNT(*) FROM recall_letter l JOIN recall c ON c.id = l.recall_id WHERE c.code = ? AND l.told_at IS NULL`, list[i].Code); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// Recall is one of them with everything that the lot touched, traced anew: what was
// made of it since, if anything was, stands there too.
func (s *Service) Recall(ctx context.Context, code string) (Recall, error) {
	return s.recall(ctx, code, false)
}

// recall is it with what only touched the lot where contact is asked for.
func (s *Service) recall(ctx context.Context, code string, contact bool) (Recall, error) {
	var r Recall
	err := s.DB.GetContext(ctx, &r, `SELECT c.code, c.lot_code, COALESCE((SELECT MIN(m.name) FROM lot l JOIN material m ON m.id = l.material_id WHERE l.code = c.lot_code), '') AS name, c.reason, c.at, p.name AS by_name, c.ended_at
		FROM recall c JOIN person p ON p.id = c.person_id WHERE c.code = ?`, code)
	if errors.Is(err, sql.ErrNoRows) {
		return r, problem.NotFound("recall", code)
	}
	if err != nil {
		return r, err
	}
	r.Touched, r.Letters = []Touched{}, []Letter{}
	in, err := s.Trace(ctx, trace.Node{Kind: "lot", Code: r.Lot}, trace.Forward)
	if err != nil {
		return r, err
	}
	reached := in
	if contact {
		if reached, err = s.reached(ctx, trace.Node{Kind: "lot", Code: r.Lot}, trace.Forward, true); err != nil {
			return r, err
		}
	}
	if err := s.touched(ctx, &r, reached); err != nil {
		return r, err
	}
	for i := range r.Touched {
		r.Touched[i].Contact = !slices.Contains(in[r.Touched[i].Kind], r.Touched[i].Code)
	}
	return r, s.letters(ctx, &r, in)
}

// whereNow says of each kind of thing how it stands and who has it.
var whereNow = map[string]string{
	"mix":   `SELECT x.code, REPLACE(x.state, '_', ' ') AS state, COALESCE(CONCAT(q.code, ', ', q.name), 'for the shop') AS place FROM mix x LEFT JOIN piece q ON q.id = x.piece_id WHERE x.code IN (?) ORDER BY x.code`,
	"lot":   `SELECT l.code, l.status AS state, CONCAT(l.shelf, IF(l.used_up_at IS NULL, '', ', used up')) AS place FROM lot l WHERE l.code IN (?) GROUP BY l.code, l.status, l.shelf, l.used_up_at ORDER BY l.code`,
	"mould": `SELECT d.code, REPLACE(d.state, '_', ' ') AS state, d.place FROM mould d WHERE d.code IN (?) ORDER BY d.code`,
	"copy": `SELECT c.code, REPLACE(c.state, '_', ' ') AS state, COALESCE((SELECT CONCAT(k.code, ', ', a.name, IF(k.handed_at IS NULL, ', still here', '')) FROM kit_copy kc JOIN kit k ON k.id = kc.kit_id JOIN contact a ON a.id = k.artist_id WHERE kc.copy_id = c.id AND kc.back = '' ORDER BY k.id DESC LIMIT 1), 'in the shop') AS place
		FROM copy c WHERE c.code IN (?) ORDER BY c.code`,
	"kit": `SELECT k.code, IF(k.back_at IS NOT NULL, 'came back', IF(k.received_at IS NOT NULL, 'received', IF(k.handed_at IS NOT NULL, 'handed over', 'packed'))) AS state, CONCAT(a.name, ', ', DATE_FORMAT(d.day, '%Y-%m-%d')) AS place FROM kit k JOIN contact a ON a.id = k.artist_id JOIN shooting_day d ON d.id = k.day_id WHERE k.code IN (?) ORDER BY k.code`,
}

func (s *Service) touched(ctx context.Context, r *Recall, reached map[string][]string) error {
	for _, kind := range []string{"mix", "lot", "mould", "copy", "kit"} {
		if len(reached[kind]) == 0 {
			continue
		}
		var rows []struct{ Code, State, Place string }
		query, args, err := sqlx.In(whereNow[kind], reached[kind])
		if err != nil {
			return err
		}
		if err := s.DB.SelectContext(ctx, &rows, query, args...); err != nil {
			return fmt.Errorf("reading where it is: %w", err)
		}
		for _, row := range rows {
			r.Touched = append(r.Touched, Touched{Kind: kind, Code: row.Code, State: row.State, Where: row.Place})
		}
	}
	return nil
}

func (s *Service) letters(ctx context.Context, r *Recall, reached map[string][]string) error {
	err := s.DB.SelectContext(ctx, &r.Letters, `SELECT k.code AS kit, a.name AS artist, d.day, k.handed_at IS NOT NULL AS handed, k.back_at IS NOT NULL AS back, l.told_at, l.answer,
		COALESCE((SELECT GROUP_CONCAT(c.code ORDER BY c.code SEPARATOR ', ') FROM kit_copy kc JOIN copy c ON c.id = kc.copy_id WHERE kc.kit_id = k.id), '') AS copies
		FROM recall_letter l JOIN recall x ON x.id = l.recall_id JOIN kit k ON k.id = l.kit_id JOIN contact a ON a.id = k.artist_id JOIN shooting_day d ON d.id = k.day_id WHERE x.code = ? ORDER BY d.day, k.code`, r.Code)
	if err != nil {
		return fmt.Errorf("reading the letters: %w", err)
	}
	var packed []string // kits that the lot went into as it is
	if err := s.DB.SelectContext(ctx, &packed, `SELECT k.code FROM kit_lot kl JOIN kit k ON k.id = kl.kit_id JOIN lot l ON l.id = kl.lot_id WHERE l.code = ?`, r.Lot); err != nil {
		return err
	}
	for i := range r.Letters {
		l := &r.Letters[i]
		l.Shelf = slices.Contains(packed, l.Kit)
		var have []string
		for _, c := range strings.Split(l.Copies, ", ") {
			if slices.Contains(reached["copy"], c) {
				have = append(have, c)
			}
		}
		l.Copies = strings.Join(have, ", ")
		if l.Told == nil {
			r.Open++
		}
	}
	return nil
}

// Told notes that an artist knows, with what they answered.
func (s *Service) Told(ctx context.Context, code, kit, answer string) (Recall, error) {
	who, _ := accounts.From(ctx)
	answer = strings.TrimSpace(answer)
	if answer == "" {
		return Recall{}, problem.Invalid("missing", "answer", "What did they answer: not used, sent back, thrown away?")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		done, err := database.Changed(tx.ExecContext(ctx, `UPDATE recall_letter l JOIN recall c ON c.id = l.recall_id JOIN kit k ON k.id = l.kit_id SET l.told_at = ?, l.told_by = ?, l.answer = ? WHERE c.code = ? AND k.code = ?`, s.Clock.Now(), who.ID, answer, code, kit))
		if err != nil {
			return err
		}
		if !done {
			return problem.NotFound("letter", kit)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "kit", Code: kit, Act: "told of " + code, Words: answer})
		return err
	})
	if err != nil {
		return Recall{}, err
	}
	s.Live.Tell(ctx, "lots", "")
	return s.Recall(ctx, code)
}

// LetterOf is a recall as it stands with a kit.
type LetterOf struct {
	Recall string
	Lot    string
	What   string
	Reason string
	At     time.Time
	Copies string
}

// LettersOf are the open recalls of a kit that nobody answered for it. Indexes recall_letter_once and of the kit.
func (s *Service) LettersOf(ctx context.Context, db database.Reader, kit string) ([]LetterOf, error) {
	list := []LetterOf{}
	if err := db.SelectContext(ctx, &list, `SELECT c.code AS recall, c.lot_code AS lot, CONCAT(COALESCE((SELECT MIN(m.name) FROM lot l JOIN material m ON m.id = l.material_id WHERE l.code = c.lot_code), ''), ', lot ', c.lot_code) AS what, c.reason, c.at,
		COALESCE((SELECT GROUP_CONCAT(x.code ORDER BY x.code SEPARATOR ', ') FROM kit_copy kc JOIN copy x ON x.id = kc.copy_id WHERE kc.kit_id = k.id), '') AS copies
		FROM kit k JOIN recall_letter l ON l.kit_id = k.id JOIN recall c ON c.id = l.recall_id WHERE k.code = ? AND l.told_at IS NULL AND c.ended_at IS NULL ORDER BY c.id`, kit); err != nil {
		return nil, fmt.Errorf("reading the letters of a kit: %w", err)
	}
	// Of the kit's copies those that have it in them.
	for i := range list {
		reached, err := s.Trace(ctx, trace.Node{Kind: "lot", Code: list[i].Lot}, trace.Forward)
		if err != nil {
			return nil, err
		}
		var have []string
		for _, c := range strings.Split(list[i].Copies, ", ") {
			if slices.Contains(reached["copy"], c) {
				have = append(have, c)
			}
		}
		list[i].Copies = strings.Join(have, ", ")
	}
	return list, nil
}

// AnswerLetter notes inside an act what the artist of a kit answered, once: the first answer stands.
func (s *Service) AnswerLetter(ctx context.Context, tx database.Tx, recall, kit, answer string) error {
	done, err := database.Changed(tx.ExecContext(ctx, `UPDATE recall_letter l JOIN recall c ON c.id = l.recall_id JOIN kit k ON k.id = l.kit_id SET l.told_at = ?, l.answer = ? WHERE c.code = ? AND k.code = ? AND l.told_at IS NULL`, s.Clock.Now(), answer, recall, kit))
	if err != nil || !done {
		return err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "kit", Code: kit, Act: "told of " + recall, Words: answer})
	return err
}

// EndRecall closes a recall whose letters are all answered.
func (s *Service) EndRecall(ctx context.Context, code string) (Recall, error) {
	r, err := s.Recall(ctx, code)
	if err != nil {
		return r, err
	}
	if r.Open > 0 {
		return r, problem.Conflict("letters_open", "%d letters have no answer yet.", r.Open)
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE recall SET ended_at = ? WHERE code = ? AND ended_at IS NULL`, s.Clock.Now(), code); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "lot", Code: r.Lot, Act: "recall ended", Words: code})
		return err
	})
	if err != nil {
		return r, err
	}
	s.Live.Tell(ctx, "lots", "")
	return s.Recall(ctx, code)
}

// WriteLetters draws a letter for every artist who has something of it.
func (s *Service) WriteLetters(ctx context.Context, w io.Writer, code string) error {
	r, err := s.Recall(ctx, code)
	if err != nil {
		return err
	}
	if len(r.Letters) == 0 {
		return problem.Conflict("no_letters", "Nothing of lot %s has left the shop: there is nobody to write to.", r.Lot)
	}
	var list []paper.Letter
	for _, l := range r.Letters {
		out := paper.Letter{To: l.Artist, Code: r.Code, Day: s.Clock.Now().Format("2 January 2006"), Kit: l.Kit, For: l.Day.Format("Monday 2 January 2006"), What: r.Name + ", lot " + r.Lot, Why: r.Reason}
		if l.Copies != "" {
			out.Has = append(out.Has, "Copies with it inside: "+l.Copies)
		}
		if l.Shelf {
			out.Has = append(out.Has, "The lot itself, packed with the kit.")
		}
		list = append(list, out)
	}
	return paper.WriteLetters(w, list)
}

// WriteLabels draws shelf labels for lots, several a sheet, each with the code that a
// phone or a scanner reads.
func (s *Service) WriteLabels(ctx context.Context, w io.Writer, codes []string) error {
	lots, err := s.lots(ctx, s.DB, `WHERE l.used_up_at IS NULL`)
	if err != nil {
		return err
	}
	var list []paper.Label
	for _, l := range lots {
		if len(codes) > 0 && !slices.Contains(codes, l.Code) {
			continue
		}
		label := paper.Label{Code: l.Name(), Title: l.MaterialName, Day: "use by " + l.ExpiresOn.Format(time.DateOnly), Link: s.PublicURL + "/stores/" + l.Code}
		if l.UseBy != nil {
			label.Day = "use by " + l.UseBy.Format("2006-01-02 15:04")
		}
		if l.Status != "ok" {
			label.Lines = append(label.Lines, "NOT TO BE USED: "+l.Status)
		}
		if l.Shelf != "" {
			label.Lines = append(label.Lines, l.Shelf)
		}
		list = append(list, label)
	}
	if len(list) == 0 {
		return problem.NotFound("lot", strings.Join(codes, ", "))
	}
	return paper.WriteShelfLabels(w, list)
}

// WriteCountList draws a list of the shelf to count by, with room for what is found.
func (s *Service) WriteCountList(ctx context.Context, w io.Writer) error {
	lots, err := s.lots(ctx, s.DB, `WHERE l.used_up_at IS NULL`)
	if err != nil {
		return err
	}
	slices.SortStableFunc(lots, func(a, b Lot) int { return strings.Compare(a.Shelf, b.Shelf) })
	var rows []paper.CountRow
	for _, l := range lots {
		rows = append(rows, paper.CountRow{Shelf: l.Shelf, Lot: l.Name(), Name: l.MaterialName, Books: l.OnHandG, UseBy: l.ExpiresOn.Format(time.DateOnly)})
	}
	return paper.WriteCountList(w, s.Clock.Now().Format("2 January 2006"), rows)
}
