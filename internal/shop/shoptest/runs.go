package shoptest

import (
	"fmt"
	"time"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/shelf"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/stores"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// By begins a piece that is made by a house method, its section agreed.
func (b *Bench) By(method, character, region string, mm float64) string {
	b.T.Helper()
	ctx := b.Who["maud"]
	p, err := b.S.Pieces.Create(ctx, piece.NewPiece{Production: "The Tallow Court", CharacterCode: character, CharacterName: "of " + method, Performer: "Wearer " + character, Name: method, Region: region, CopiesWanted: 2})
	require.NoError(b.T, err)
	require.NoError(b.T, b.S.Pieces.SaveBrief(ctx, p.Code, piece.Brief{Camera: "medium", AreaCM2: 30, KeepFree: []string{}, Features: []piece.Feature{}}, 0, 0))
	require.NoError(b.T, b.S.Pieces.AgreeBrief(ctx, p.Code, nil))
	materials, err := shelf.Load(ctx, b.S.DB)
	require.NoError(b.T, err)
	p, err = piece.Find(ctx, b.S.DB, p.Code)
	require.NoError(b.T, err)
	doc, known := section.House(method, 30, mm, materials)
	require.True(b.T, known)
	for _, slug := range []string{"adhesive-acrylic", "adhesive-gum", "adhesive-silicone", "latex-balloon", "latex-slush", "latex-paste", "foam-latex", "gelatin-animal", "gelatin-plant", "wax-soft", "paste-flour", "silicone-direct", "barrier-film", "paint-cream", "paint-alcohol", "remover-ester", "remover-oil", "sealer-plastic"} {
		if _, here := materials[slug]; here {
			_, err := b.S.People.RecordPatch(ctx, *p.PerformerID, people.NewPatch{Material: slug, Result: "clear", TestedOn: "2026-01-05", ReadOn: "2026-01-07", ExpiresOn: "2026-06-05"})
			require.NoError(b.T, err)
		}
	}
	v, err := b.S.Pieces.SaveSection(ctx, p.Code, doc, 0, 0)
	require.NoError(b.T, err)
	var signed []map[string]string
	for _, f := range v.Findings {
		if f.Severity == "stop" {
			signed = append(signed, map[string]string{"id": f.ID, "at": f.At(), "reason": "only a test"})
		}
	}
	b.As["maud"].Yes("POST", "/api/pieces/"+p.Code+"/section/agree", m{"signed": signed}, nil)
	return p.Code
}

// Everything takes in a lot of every product in one part.
func (b *Bench) Everything() {
	b.T.Helper()
	materials, err := shelf.Load(b.T.Context(), b.S.DB)
	require.NoError(b.T, err)
	for slug, p := range materials {
		if p.Tap {
			continue
		}
		l := stores.NewLot{Material: slug, Code: "L-" + slug, Amount: "2000 g", ExpiresOn: "2026-09-01"}
		if p.Ratio != nil {
			l.Amount, l.AmountA, l.AmountB = "", "2000 g", "2000 g"
		}
		if len(l.Code) > 32 {
			l.Code = l.Code[:32]
		}
		_, err := b.S.Stores.Receive(b.Who["maud"], l)
		require.NoError(b.T, err, slug)
	}
}

func (b *Bench) Begin(code string, copies int) build.Run {
	b.T.Helper()
	var r build.Run
	b.As["ivo"].Yes("POST", "/api/runs", m{"piece": code, "copies": copies, "place": "bench 2", "key": Key()}, &r)
	return r
}

// Run reads a session anew.
func (b *Bench) Run(code string) (r build.Run) {
	b.T.Helper()
	b.As["ivo"].Yes("GET", "/api/runs/"+code, nil, &r)
	return r
}

// Done says that a stage is done, and that what it holds for was looked at.
func (b *Bench) Done(who, code string, seq int, body m) (r build.Run) {
	b.T.Helper()
	body["checked"] = true
	b.As[who].Yes("POST", fmt.Sprintf("/api/runs/%s/stages/%d", code, seq), body, &r)
	return r
}

// Through carries a session to its end, letting as much time pass as each stage
// needs.
func (b *Bench) Through(r build.Run) build.Run {
	b.T.Helper()
	for range 200 {
		if r.EndedAt != nil {
			return r
		}
		if r.Next == 0 { // only waiting is left
			for _, st := range r.Stages {
				if st.PotID != nil {
					b.Clock.Set(b.Clock.Now().Add(48 * time.Hour))
					b.As["ivo"].Yes("POST", fmt.Sprintf("/api/pots/%d/out", *st.PotID), m{}, nil)
				}
			}
			r = b.Run(r.Code)
			continue
		}
		if r.HeldBack != "" {
			b.Clock.Set(b.Clock.Now().Add(time.Duration(r.LeftS+1) * time.Second))
			r = b.Run(r.Code)
			assert.Empty(b.T, r.HeldBack, "once it has waited it goes on")
		}
		r = b.Done("ivo", r.Code, r.Next, m{})
	}
	b.T.Fatal("the session does not end")
	return r
}
