package shoptest

import (
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/station/brief"
)

func (b *Bench) Section(who, code string) piece.SectionView {
	b.T.Helper()
	var v piece.SectionView
	b.As[who].Yes("GET", "/api/pieces/"+code+"/section", nil, &v)
	return v
}

func (b *Bench) Advice(who, code string, tried m) brief.AdviceView {
	b.T.Helper()
	var v brief.AdviceView
	b.As[who].Yes("POST", "/api/pieces/"+code+"/advice", tried, &v)
	return v
}

func IDs(s section.Section) []string {
	var out []string
	for _, l := range s.Layers {
		out = append(out, l.ID)
	}
	return out
}
