package demo

import (
	"time"

	"github.com/google/uuid"

	"yewmoor/internal/station/cost"
	"yewmoor/internal/station/plan"
	"yewmoor/internal/work"
)

// worked tells what hands were at in the week before, what time is charged at, the offer for the cheeks, and what else is to be done
// beside the pieces. Friday afternoon of Ivo's stands open: nobody noted it.
func (t *teller) worked() {
	for _, w := range []struct {
		who           string
		day           int
		from, to      [2]int
		act, code     string
		title, piece  string
		copies        int
		word          string
		interruptedBy bool
	}{
		{"ivo", 5, [2]int{9, 5}, [2]int{9, 50}, "pour", "BF-03", "Pour of the second cheek", "BF-03", 2, "", false},
		{"ivo", 5, [2]int{10, 0}, [2]int{10, 40}, "open", "BF-03", "Open BF-03-a", "BF-03", 1, "slow at the ear rim", false},
		{"ivo", 5, [2]int{13, 0}, [2]int{14, 35}, work.Finish, "BF-01-a", "Finish BF-01-a", "BF-01", 1, "two bubbles filled", false},
		{"ivo", 6, [2]int{9, 0}, [2]int{11, 50}, work.Finish, "BF-03-a", "Finish BF-03-a", "BF-03", 1, "the courier, and the drain", true},
		{"ivo", 6, [2]int{13, 10}, [2]int{14, 5}, work.Finish, "BF-03-b", "Finish BF-03-b", "BF-03", 1, "", false},
		{"ivo", 7, [2]int{9, 0}, [2]int{9, 55}, "slush", "GC-01", "Slush of the beak-nose", "GC-01", 1, "", false},
		{"ivo", 8, [2]int{9, 0}, [2]int{9, 35}, "pour", "PK-01", "Pour of PK-01", "PK-01", 1, "", false},
		{"ivo", 8, [2]int{10, 0}, [2]int{10, 50}, work.Finish, "BF-01-b", "Edges of BF-01-b", "BF-01", 1, "", false},
		{"ivo", 9, [2]int{9, 0}, [2]int{12, 30}, work.Other, "", "Vents and filters of the spray booth", "", 1, "", false},
		{"pip", 5, [2]int{9, 0}, [2]int{9, 45}, "film", "NM-01-L", "Films of the salt-cracked hands", "NM-01-L", 2, "", false},
		{"pip", 6, [2]int{9, 0}, [2]int{9, 40}, "lift", "NM-01-L", "Lift NM-01-L", "NM-01-L", 1, "", false},
		{"pip", 8, [2]int{9, 0}, [2]int{9, 30}, "melt", "FT-02-R", "Melt for the webs", "FT-02-R", 1, "", false},
		{"pip", 9, [2]int{13, 0}, [2]int{16, 55}, work.Other, "", "Count of the pigments", "", 1, "", false},
		{"maud", 7, [2]int{9, 0}, [2]int{9, 25}, work.Check, "BF-01-a", "Check BF-01-a", "BF-01", 1, "", false},
		{"maud", 8, [2]int{11, 0}, [2]int{11, 20}, work.Check, "BF-03-a", "Check BF-03-a", "BF-03", 1, "", false},
		{"maud", 9, [2]int{9, 0}, [2]int{9, 45}, work.Pack, "K-001", "Pack for the quay", "BF-01", 1, "", false},
	} {
		at := func(clock [2]int) time.Time { return time.Date(2026, 1, w.day, clock[0], clock[1], 0, 0, time.UTC) }
		began, ended := at(w.from), at(w.to)
		t.at(1, w.day, 17, 0)
		if t.err != nil {
			return
		}
		span, err := t.s.Worked.Begin(t.who[w.who], work.NewSpan{Act: w.act, Code: w.code, Title: w.title, Piece: w.piece, Units: w.copies, Began: &began, Ended: &ended, Note: w.word, Key: uuid.NewString()})
		t.try(err)
		if err == nil && w.interruptedBy {
			_, err = t.s.Worked.Stop(t.who[w.who], span.ID, work.End{Interrupted: true, Note: w.word})
			t.try(err)
		}
	}
	t.at(1, 9, 17, 10)
	if t.err == nil {
		_, err := t.s.Cost.SetTerms(t.who["maud"], cost.Terms{Currency: "£", RateMinor: 2800, Rates: []cost.Rate{{Person: "Maud Tarn", Minor: 3800}, {Person: "Ivo Brack", Minor: 3000}, {Person: "Pip Sallow", Minor: 1600}}, Factor: 1.5, Overhead: 18, Margin: 22, OvenMinor: 180})
		t.try(err)
	}
	t.at(1, 9, 17, 15)
	if t.err == nil {
		_, err := t.s.Cost.Keep(t.who["maud"], "BF-03")
		t.try(err)
	}
	t.at(1, 12, 8, 40)
	from := Start.AddDate(0, 0, 1)
	for _, o := range []plan.NewOtherWork{{Text: "Fire drill, and where the eye wash stands", Minutes: 45, Person: "Pip Sallow"}, {Text: "Take the silicone in", Minutes: 30, From: &from}} {
		if t.err == nil {
			_, err := t.s.Plan.AddOther(t.who["maud"], o)
			t.try(err)
		}
	}
	if t.err == nil {
		_, err := t.s.Plan.KeepTry(t.who["ivo"], plan.NewTry{Kind: "hands"})
		t.try(err)
	}
}
