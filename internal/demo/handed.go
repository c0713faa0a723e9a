package demo

import (
	"bytes"

	"github.com/google/uuid"

	"yewmoor/internal/craft/outing"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/production"
	"yewmoor/internal/station/handover"
)

// handed tells of the kits: one half packed, one on its way with reports coming in, one that went to a camera test and
// came back; a morning for two artists; and whom to ring.
func (t *teller) handed() {
	t.at(1, 9, 9, 30)
	for _, c := range [][3]string{{"Maud Tarn", people.Workshop, "01632 960117"}, {"Jun Abbot", people.MakeupArtist, "01632 960142"}, {"Sel Quarry", people.MakeupArtist, "01632 960163"}} {
		if t.err == nil {
			_, err := t.s.People.SetPhone(t.who["maud"], c[0], c[1], c[2])
			t.try(err)
		}
	}
	t.onItsWay()
	t.halfPacked()
	t.cameBack()
}

// onItsWay is the kit of the quay: its artist has signed, asked and answered.
func (t *teller) onItsWay() {
	t.at(1, 9, 10, 0)
	t.morning("K-001", outing.Choices{ReadyMin: 8 * 60, Artists: []string{"Jun Abbot", "Sel Quarry"}, Lenses: "end", LensText: "Grey lenses, 14.2 mm, worn four hours at most, from the set's optician",
		Brow: "cancel_cover", Extra: []outing.Extra{{ID: "teeth", Text: "Stain the teeth", Minutes: 5, DryMin: 3, Mouth: true, After: "skin"}}, RoomC: 17})
	token := t.link("K-001")
	t.at(1, 9, 11, 20)
	if t.err == nil {
		_, err := t.s.Handover.Sign(t.ctx, token, "Jun Abbot")
		t.try(err)
	}
	t.told(token, handover.NewReport{Kind: "arrival", Copy: "BF-01-a", Words: "All there. One corner of the edge was folded; it lay flat again after an hour on the form."}, "")
	t.told(token, handover.NewReport{Kind: "colour", Copy: "BF-01-a", Light: "the bus, LED", Words: "A touch too green on the back of my hand in this light."}, "BF-01")
}

// halfPacked is the kit of the webs: some of it is in.
func (t *teller) halfPacked() {
	t.at(1, 9, 16, 40)
	t.pack("K-002", "guard:pins", 0)
	t.pack("K-002", "barrier:barrier-film", 1.2)
	if t.err == nil {
		_, err := t.s.Handover.DoItem(t.who["ivo"], "K-002", handover.ItemAct{Act: "missing", Item: "card:first-aid", Words: "being printed"})
		t.try(err)
	}
}

// cameBack is a cheek that was worn at a camera test on the quay.
func (t *teller) cameBack() {
	t.at(1, 9, 17, 0)
	pieces, err := piece.All(t.ctx, t.s.DB)
	t.try(err)
	if t.err != nil {
		return
	}
	days, err := t.s.Productions.AddDay(t.who["maud"], pieces[0].ProductionID, production.NewDay{Day: "2026-01-10", Place: "camera test, quayside", TempC: 6, RH: 0.8, Light: "daylight", Rain: true})
	t.try(err)
	if t.err != nil {
		return
	}
	k, err := t.s.Handover.Pack(t.who["maud"], handover.NewKit{DayID: days[0].ID, Artist: "Sel Quarry", Scene: "the quay steps", Note: "Comes back on Monday.", Copies: []string{"BF-03-b"}})
	t.try(err)
	for _, item := range []string{"adhesive:adhesive-acrylic", "remover:remover-ester", "tool:brushes"} {
		t.pack(k.Code, item, 0)
	}
	token := t.link(k.Code)
	t.at(1, 10, 6, 10)
	if t.err == nil {
		_, err = t.s.Handover.Sign(t.ctx, token, "Sel Quarry")
		t.try(err)
	}
	t.at(1, 10, 11, 15)
	t.told(token, handover.NewReport{Kind: "lifted", Copy: "BF-03-b", HourH: 3, Words: "Lifted at the mouth corner when he laughed; laid down again with a swab of glue."}, "BF-03")
	t.at(1, 10, 15, 0)
	t.told(token, handover.NewReport{Kind: "feedback", Copy: "BF-03-b", Edge: 4, Colour: 5, Hold: 3, WornH: 5.5, Words: "Came off clean with the ester."}, "")
	if t.err != nil {
		return
	}
	back, err := t.s.Handover.Kit(t.ctx, k.Code)
	t.try(err)
	t.at(1, 12, 8, 40)
	if t.err == nil {
		_, err = t.s.Handover.Answer(t.who["ivo"], back.Reports[1].ID, "We glue the corner twice from now on.")
		t.try(err)
		_, err = t.s.Handover.Return(t.who["ivo"], k.Code, handover.Returned{Copies: []handover.ReturnedCopy{{Code: "BF-03-b", Back: "again"}}, Items: []handover.ReturnedItem{{Item: "tool:brushes", Amount: 2}}})
		t.try(err)
	}
}

func (t *teller) morning(kit string, c outing.Choices) {
	if t.err == nil {
		_, err := t.s.Handover.Choose(t.who["maud"], kit, c, 0)
		t.try(err)
	}
}

func (t *teller) link(kit string) string {
	if t.err != nil {
		return ""
	}
	l, err := t.s.Handover.MakeLink(t.who["maud"], kit, 30)
	t.try(err)
	return l.Token
}

func (t *teller) pack(kit, item string, amount float64) {
	if t.err == nil {
		_, err := t.s.Handover.DoItem(t.who["maud"], kit, handover.ItemAct{Act: "pack", Item: item, Amount: amount})
		t.try(err)
	}
}

// told is a report of an artist, with a picture of a piece where one is named.
func (t *teller) told(token string, r handover.NewReport, pictured string) {
	if t.err != nil {
		return
	}
	r.Key = uuid.NewString()
	_, err := t.s.Handover.ReportBack(t.ctx, token, r)
	t.try(err)
	if pictured == "" || t.err != nil {
		return
	}
	raw, err := studied(pictured)
	t.try(err)
	_, err = t.s.Handover.AddPicture(t.ctx, token, r.Key, uuid.NewString(), bytes.NewReader(raw))
	t.try(err)
}
