package today

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"unicode"
	"yewmoor/internal/copies"
)

// Hit is one thing that search found.
type Hit struct {
	Kind string `db:"kind" json:"kind"`
	Code string `db:"code" json:"code"`
	Text string `db:"text" json:"text"`
	Link string `db:"link" json:"link"`
}

const (
	pieceHit  = `'piece' AS kind, q.code, CONCAT(q.name, ', ', ch.name, IF(q.put_away_at IS NULL, '', ', put away')) AS text, CONCAT('/piece/', q.code) AS link FROM piece q JOIN ` + "`character`" + ` ch ON ch.id = q.character_id`
	lotHit    = `'lot' AS kind, l.code, CONCAT(m.name, ' ', l.part) AS text, CONCAT('/stores/', l.code) AS link FROM lot l JOIN material m ON m.id = l.material_id`
	formHit   = `'form' AS kind, f.code, CONCAT(f.material, ', ', f.region) AS text, CONCAT('/form/', f.code) AS link FROM form f`
	kitHit    = `'kit' AS kind, k.code, a.name AS text, CONCAT('/handover/', k.code) AS link FROM kit k JOIN contact a ON a.id = k.artist_id`
	wearerHit = `'performer' AS kind, p.name AS code, COALESCE((SELECT GROUP_CONCAT(ch.name) FROM ` + "`character`" + ` ch WHERE ch.performer_id = p.id), '') AS text,
		CONCAT('/brief/', (SELECT MIN(q.code) FROM piece q JOIN ` + "`character`" + ` c2 ON c2.id = q.character_id WHERE c2.performer_id = p.id)) AS link FROM performer p`
	actorHit = `'character' AS kind, ch.code, ch.name AS text, CONCAT('/brief?character=', ch.code) AS link FROM ` + "`character`" + ` ch`
)

// byCode looks a code up by its beginning: each arm is a range of the unique
// index on its code.
var byCode = []string{
	pieceHit + ` WHERE q.code LIKE ? ORDER BY q.code LIMIT 12`,
	`'copy' AS kind, c.code, REPLACE(c.state, '_', ' ') AS text, IF(` + copies.ToFinishSQL(
		"c",
	) + `, CONCAT('/finish/', c.code), CONCAT('/check/', c.code)) AS link FROM copy c WHERE c.code LIKE ? ORDER BY c.code LIMIT 12`,
	`'mix' AS kind, x.code, CONCAT(q.name, ', ', x.state) AS text, CONCAT('/mix/', x.code) AS link FROM mix x JOIN piece q ON q.id = x.piece_id WHERE x.code LIKE ? ORDER BY x.code LIMIT 8`,
	kitHit + ` WHERE k.code LIKE ? ORDER BY k.code LIMIT 8`,
	lotHit + ` WHERE l.code LIKE ? ORDER BY l.code LIMIT 8`,
	actorHit + ` WHERE ch.code LIKE ? ORDER BY ch.code LIMIT 8`,
	`'mould' AS kind, d.code, CONCAT(d.kind, ', ', d.material) AS text, CONCAT('/mould?mould=', REPLACE(d.code, '/', '%2F')) AS link FROM mould d WHERE d.code LIKE ? ORDER BY d.code LIMIT 8`,
	formHit + ` WHERE f.code LIKE ? ORDER BY f.code LIMIT 8`,
	`'run' AS kind, r.code, q.name AS text, CONCAT('/build?run=', r.code) AS link FROM run r JOIN piece q ON q.id = r.piece_id WHERE r.code LIKE ? ORDER BY r.code LIMIT 4`,
}

// inHand looks for words anywhere in the names of what is in hand and of the
// newest three hundred: few rows, by piece_put_away, lot_used_up and the ends of
// the primary keys. BIGINT UNSIGNED would not go below zero, hence the sign.
var inHand = []string{
	pieceHit + ` WHERE q.put_away_at IS NULL AND q.name LIKE ? ORDER BY q.id DESC LIMIT 12`,
	actorHit + ` WHERE ch.id > (SELECT CAST(MAX(id) AS SIGNED) - 300 FROM ` + "`character`" + `) AND ch.name LIKE ? ORDER BY ch.id DESC LIMIT 8`,
	wearerHit + ` WHERE p.id > (SELECT CAST(MAX(id) AS SIGNED) - 300 FROM performer) AND p.name LIKE ? ORDER BY p.id DESC LIMIT 8`,
	lotHit + ` WHERE l.used_up_at IS NULL AND m.name LIKE ? ORDER BY l.expires_on LIMIT 8`,
	kitHit + ` WHERE k.id > (SELECT CAST(MAX(id) AS SIGNED) - 300 FROM kit) AND a.name LIKE ? ORDER BY k.id DESC LIMIT 8`,
}

// putAway looks for the beginnings of words in the names of what is older, by
// the FULLTEXT indexes piece_words, character_words and performer_words; it is
// asked only when little else was found.
var putAway = []string{
	pieceHit + ` WHERE q.put_away_at IS NOT NULL AND MATCH (q.name) AGAINST (? IN BOOLEAN MODE) ORDER BY q.id DESC LIMIT 12`,
	actorHit + ` WHERE MATCH (ch.name) AGAINST (? IN BOOLEAN MODE) ORDER BY ch.id DESC LIMIT 8`,
	wearerHit + ` WHERE MATCH (p.name) AGAINST (? IN BOOLEAN MODE) ORDER BY p.id DESC LIMIT 8`,
}

// enough hits make the search of what is put away needless.
const enough = 12

var order = []string{"piece", "copy", "mix", "kit", "lot", "performer", "character", "mould", "form", "run"}

// most is how many hits a person looks through.
const most = 30

// shortest text that is looked for in names.
const shortest = 2

// Find searches by the beginning of a code, by words anywhere in the names of
// what is in hand, and by the beginnings of words in what is put away; exact
// codes first.
func (s *Service) Find(ctx context.Context, text string) ([]Hit, error) {
	text = strings.TrimSpace(text)
	hits := []Hit{}
	if text == "" {
		return hits, nil
	}
	plain := strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(text)
	var arms []string
	var args []any
	with := func(list []string, arg string) {
		for _, arm := range list {
			arms, args = append(arms, "(SELECT "+arm+")"), append(args, arg)
		}
	}
	ask := func() error {
		var more []Hit
		query := `SELECT kind, code, text, link FROM (` + strings.Join(arms, " UNION ALL ") + `) found WHERE link IS NOT NULL`
		if err := s.DB.SelectContext(ctx, &more, query, args...); err != nil {
			return fmt.Errorf("searching: %w", err)
		}
		hits, arms, args = append(hits, more...), nil, nil
		return nil
	}
	with(byCode, plain+"%")
	if len([]rune(text)) >= shortest {
		with(inHand, "%"+plain+"%")
	}
	if err := ask(); err != nil {
		return nil, err
	}
	if words := beginnings(text); words != "" && len(hits) < enough {
		with(putAway, words)
		if err := ask(); err != nil {
			return nil, err
		}
	}
	rank := func(h Hit) int {
		switch {
		case strings.EqualFold(h.Code, text):
			return 0
		case strings.HasPrefix(strings.ToLower(h.Code), strings.ToLower(text)):
			return 1
		}
		return 2
	}
	slices.SortStableFunc(hits, func(a, b Hit) int {
		return cmp.Or(
			cmp.Compare(rank(a), rank(b)),
			cmp.Compare(slices.Index(order, a.Kind), slices.Index(order, b.Kind)),
			cmp.Compare(a.Code, b.Code),
		)
	})
	hits = slices.CompactFunc(hits, func(a, b Hit) bool { return a == b })
	hits = hits[:min(len(hits), most)]
	for _, place := range places {
		if strings.Contains(strings.ToLower(place.Text), strings.ToLower(text)) {
			hits = append(hits, place)
		}
	}
	return hits, nil
}

// left out of word search: MariaDB does not index these.
var stopWords = strings.Fields(
	"about an are as at be by com de en for from how in is it la of on or that the this to was what when where who will with und www",
)

// beginnings are the words of a text as the database's word search takes them:
// all of them, each by its beginning. Words under three letters are left out.
func beginnings(text string) string {
	var out []string
	for _, w := range strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		if len([]rune(w)) >= 3 && !slices.Contains(stopWords, w) {
			out = append(out, "+"+w+"*")
		}
	}
	return strings.Join(out, " ")
}

var places = []Hit{
	{
		"place",
		"",
		"Today",
		"/",
	}, {"place", "1", "Brief", "/brief"}, {"place", "2", "Form", "/form"}, {"place", "3", "Sculpt", "/sculpt"}, {"place", "4", "Mould", "/mould"},
	{
		"place",
		"5",
		"Mix",
		"/mix",
	}, {"place", "6", "Build", "/build"}, {"place", "7", "Colour", "/colour"}, {"place", "8", "Finish", "/finish"}, {"place", "9", "Check", "/check"},
	{
		"place",
		"0",
		"Hand over",
		"/handover",
	}, {"place", "", "Plan", "/plan"}, {"place", "", "Stores", "/stores"}, {"place", "", "Record", "/record"},
}
