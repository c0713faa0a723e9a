package piece

import (
	"context"
	"fmt"
	"time"

	"yewmoor/internal/craft/rules"
	"yewmoor/internal/people"
)

// OnSkin tells what lay on a performer's skin on the days that are over: what
// the copies that were handed over for them laid there, by the section that each
// was made on.
func (s *Service) OnSkin(ctx context.Context, performer uint64) ([]people.Wearing, error) {
	var worn []struct {
		Piece  string
		Number int
		Day    time.Time
	}
	if err := s.DB.SelectContext(ctx, &worn, "SELECT DISTINCT q.code AS piece, COALESCE(c.section_number, 0) AS number, d.day FROM copy_use u JOIN copy c ON c.id = u.copy_id JOIN piece q ON q.id = c.piece_id JOIN `character` ch ON ch.id = q.character_id JOIN shooting_day d ON d.id = u.day_id WHERE ch.performer_id = ? AND d.day <= ?", performer, s.Clock.Now()); err != nil {
		return nil, fmt.Errorf("reading what was worn: %w", err)
	}
	list := []people.Wearing{}
	for _, w := range worn {
		p, err := Find(ctx, s.DB, w.Piece)
		if err != nil {
			return nil, err
		}
		doc, _, _, err := SectionAt(ctx, s.DB, p, w.Number)
		if err != nil {
			return nil, err
		}
		list = append(list, people.Wearing{Day: w.Day, Materials: rules.OnSkin(doc)})
	}
	return list, nil
}
