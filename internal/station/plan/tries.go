package plan

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/plan"
	"yewmoor/internal/craft/runup"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// NewTry is a change that somebody wants to see beside the plan.
type NewTry struct {
	Kind   string     `json:"kind" enum:"hands,extra,mould,night,oven,racks,later,made_as,texture,spares" doc:"one more pair of hands; everybody in on a day; a second mould; the oven at night; a second oven; more room on the racks; a day later; made by another house method; half the texture; as many begun as it takes to be sure of enough good ones"`
	Piece  string     `json:"piece,omitempty" maxLength:"24" doc:"of a mould, or made another way"`
	Day    *time.Time `json:"day,omitempty" doc:"of hands that come for one day, or of the day on which everybody is in"`
	DayID  uint64     `json:"day_id,omitempty" doc:"the shooting day that is later"`
	Days   int        `json:"days,omitempty" minimum:"0" maximum:"30" doc:"by so many days"`
	Method string     `json:"method,omitempty" maxLength:"40"`
	Sure   float64    `json:"sure,omitempty" minimum:"0" maximum:"0.99" doc:"of spares: how sure it is to be that enough are good"`
}

// mostTries bounds how many stand beside each other.
const mostTries = 8

// KeepTry writes a change down that is to be seen beside the plan.
func (s *Service) KeepTry(ctx context.Context, in NewTry) ([]Mend, error) {
	w, err := s.work(ctx)
	if err != nil {
		return nil, err
	}
	if w.p == nil {
		return nil, problem.Conflict("no_plan", "There is no plan to change.")
	}
	if _, err := s.tryOf(ctx, w, in); err != nil {
		return nil, err
	}
	doc, err := json.Marshal(in)
	if err != nil {
		return nil, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		if err := oneAtATime(ctx, tx); err != nil {
			return err
		}
		var open []struct{ Doc string }
		if err := tx.SelectContext(ctx, &open, `SELECT doc FROM plan_try WHERE back_at IS NULL FOR UPDATE`); err != nil {
			return err
		}
		for _, o := range open {
			var had NewTry
			if json.Unmarshal([]byte(o.Doc), &had) == nil && same(had, in) {
				return nil // it stands there already
			}
		}
		if len(open) >= mostTries {
			return problem.Conflict("too_many", "%d changes stand beside the plan already. Drop one first.", mostTries)
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO plan_try (doc, by_id, at) VALUES (?,?,?)`, string(doc), who.ID, s.Clock.Now())
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "tries", "")
	return s.Tries(ctx)
}

func same(a, b NewTry) bool {
	x, _ := json.Marshal(a)
	y, _ := json.Marshal(b)
	return string(x) == string(y)
}

// DropTry takes one away.
func (s *Service) DropTry(ctx context.Context, id uint64) ([]Mend, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		done, err := database.Changed(
			tx.ExecContext(ctx, `UPDATE plan_try SET back_at = ? WHERE id = ? AND back_at IS NULL`, s.Clock.Now(), id),
		)
		if err == nil && !done {
			return problem.NotFound("change", fmt.Sprint(id))
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "tries", "")
	return s.Tries(ctx)
}

// Tries plans the changes that are kept, each beside the plan as it is now. Index plan_try_open.
func (s *Service) Tries(ctx context.Context) ([]Mend, error) {
	w, err := s.work(ctx)
	if err != nil {
		return nil, err
	}
	var rows []struct {
		ID   uint64
		Doc  string
		Name string
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT t.id, t.doc, p.name FROM plan_try t JOIN person p ON p.id = t.by_id WHERE t.back_at IS NULL ORDER BY t.id`); err != nil {
		return nil, fmt.Errorf("reading the changes: %w", err)
	}
	list := []tried{}
	for _, r := range rows {
		var in NewTry
		if err := json.Unmarshal([]byte(r.Doc), &in); err != nil {
			return nil, err
		}
		t, err := s.tryOf(ctx, w, in)
		if err != nil || w.p == nil {
			// What it was about is over: it says so, and may be dropped.
			bar := "there is no plan"
			if err != nil {
				bar = err.Error()
			}
			list = append(
				list,
				tried{
					Mend: Mend{
						ID:   r.ID,
						By:   r.Name,
						Text: in.Kind + " " + in.Piece,
						Bar:  bar,
						Late: []string{},
						Days: []MendDay{},
					},
				},
			)
			continue
		}
		var on any = t.change
		if t.shop != nil {
			on, _ = t.shop.Instance()
		}
		one, err := s.kept.Get([]any{w.in, on, w.spreads()}, func() (tried, error) {
			all, err := s.tryAll(ctx, w, []try{t})
			if err != nil {
				return tried{}, err
			}
			return all[0], nil
		})
		if err != nil {
			return nil, err
		}
		one.ID, one.By = r.ID, r.Name
		list = append(list, one)
	}
	return s.priced(ctx, w, list, false)
}

// tryOf is a change as it is planned.
func (s *Service) tryOf(ctx context.Context, w worked, in NewTry) (try, error) {
	shop := w.f.shop
	shopDay := func(at *time.Time) (int, error) {
		if at == nil {
			return 0, problem.Invalid("missing", "day", "On which day?")
		}
		d := int(at.Truncate(24*time.Hour).Sub(w.f.origin) / (24 * time.Hour))
		if d < 0 || d*daySlots >= shop.Horizon {
			return 0, problem.Invalid("out_of_range", "day", "A day from today on that the plan reaches.")
		}
		return d, nil
	}
	switch in.Kind {
	case "hands":
		if in.Day == nil {
			if len(shop.People) == 0 {
				return try{}, problem.Conflict("nobody", "Nobody works here yet.")
			}
			return try{
				Mend:   Mend{Text: "one more pair of hands, every day"},
				change: &plan.Change{Type: "add_person", Like: shop.People[len(shop.People)-1].ID},
			}, nil
		}
		d, err := shopDay(in.Day)
		if err != nil {
			return try{}, err
		}
		hours := plan.Interval{max(shop.Now, d*daySlots+openFrom/slotMin), d*daySlots + openTo/slotMin}
		if hours[0] >= hours[1] {
			return try{}, problem.Invalid("out_of_range", "day", "That day is over.")
		}
		shop.People = append(slices.Clone(shop.People), runup.Person{ID: "one more", Regular: []plan.Interval{hours}})
		return try{Mend: Mend{Text: "one more pair of hands on " + in.Day.Format("Monday 2 January")}, shop: &shop}, nil
	case "extra":
		d, err := shopDay(in.Day)
		if err != nil {
			return try{}, err
		}
		at := in.Day.Truncate(24 * time.Hour)
		return try{
			Mend: Mend{
				Text:  "everybody in on " + at.Format("Monday 2 January"),
				Carry: &Change{Hours: &NewHourChange{Kind: "extra", Day: at, From: openFrom, To: openTo}},
			},
			change: &plan.Change{
				Type: "overtime",
				From: max(shop.Now, d*daySlots+openFrom/slotMin),
				To:   d*daySlots + openTo/slotMin,
			},
		}, nil
	case "mould":
		if err := w.checkFurther(in.Piece); err != nil {
			return try{}, err
		}
		return w.secondMould(in.Piece), nil
	case "texture":
		shop.NewMoulds = slices.Clone(shop.NewMoulds)
		i := slices.IndexFunc(shop.NewMoulds, func(m runup.NewMould) bool { return m.Piece == in.Piece && m.ClayMin > 0 })
		if i < 0 {
			return try{}, problem.Invalid(
				"unknown_value",
				"piece",
				"No texture of %s is still to be sculpted.",
				cmp.Or(in.Piece, "it"),
			)
		}
		shop.NewMoulds[i].ClayMin /= 2
		return try{Mend: Mend{Text: "half the texture on " + in.Piece, Link: "/sculpt/" + in.Piece}, shop: &shop}, nil
	case "night":
		return w.nightOven(), nil
	case "oven":
		second := shop.Ovens[0]
		second.Code += " 2"
		shop.Ovens = append(slices.Clone(shop.Ovens), second)
		return try{Mend: Mend{Text: "a second oven like " + shop.Ovens[0].Code}, shop: &shop}, nil
	case "racks":
		if shop.Racks == 0 {
			return try{}, problem.Invalid(
				"missing",
				"kind",
				"Nobody said how much the racks take: say it at the places in Build first.",
			)
		}
		return w.biggerRacks(), nil
	case "spares":
		if err := checkSure(in.Sure); err != nil {
			return try{}, err
		}
		f, err := s.facts(ctx, ahead{sure: &in.Sure})
		if err != nil {
			return try{}, err
		}
		t := try{Mend: Mend{Text: "each copy taken for good", Carry: &Change{Sure: &in.Sure}}, shop: &f.shop}
		if in.Sure > 0 {
			t.Text = fmt.Sprintf("as many begun as it takes to have enough in %.0f of 100", 100*in.Sure)
		}
		for job, n := range f.spare {
			t.stuff += f.made[w.pieceOf(job)].result.Minor * int64(n)
		}
		for job, n := range w.f.spare {
			t.stuff -= w.f.made[w.pieceOf(job)].result.Minor * int64(n)
		}
		return t, nil
	case "later":
		later := Later{DayID: in.DayID, Days: in.Days}
		place, err := w.checkLater(later)
		if err != nil {
			return try{}, err
		}
		f := w.f
		f.shop.Jobs, f.days = slices.Clone(shop.Jobs), maps.Clone(f.days)
		f.shift(later)
		return try{
			Mend: Mend{Text: fmt.Sprintf("the %s %s later", place, plural(in.Days, "day")), Carry: &Change{Later: &later}},
			shop: &f.shop,
		}, nil
	}
	return s.madeAs(ctx, w, in)
}

func plural(n int, what string) string {
	if n == 1 {
		return "a " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// madeAs is the shop in which a piece is made by another house method from the next session on: it is planned anew, and may be worse.
func (s *Service) madeAs(ctx context.Context, w worked, in NewTry) (try, error) {
	p, err := piece.Find(ctx, s.DB, in.Piece)
	if err != nil {
		return try{}, problem.Invalid("unknown_value", "piece", "There is no such piece.")
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return try{}, err
	}
	now, _, number, err := piece.AgreedSection(ctx, s.DB, p)
	if err != nil {
		return try{}, err
	}
	if number == 0 {
		return try{}, problem.Invalid("missing", "piece", "The section of %s is not agreed.", in.Piece)
	}
	room, _, err := s.air(ctx)
	if err != nil {
		return try{}, err
	}
	was, err := s.Pieces.ResultIn(ctx, s.DB, p, now, materials, room)
	if err != nil {
		return try{}, err
	}
	doc, known := section.House(in.Method, was.Body.AreaCM2, was.CentreMM, materials)
	if !known {
		return try{}, problem.Invalid("unknown_value", "method", "There is no house method of this name.")
	}
	r, err := s.Pieces.ResultIn(ctx, s.DB, p, doc, materials, room)
	if err != nil {
		return try{}, err
	}
	of := pieceWork{
		family:  r.Family,
		learned: w.f.learned,
		names:   materials,
		way:     making.Of(doc, materials),
		stages:  making.Stages(doc, materials, r),
		result:  r,
	}
	shop := w.f.shop
	shop.Sessions = slices.Clone(shop.Sessions)
	changed := 0
	var moulds []string // those that there are, where it is cast; a new one else
	for _, x := range shop.Sessions {
		if x.Piece == in.Piece && len(x.Moulds) > 0 {
			moulds = x.Moulds
		}
	}
	for i, x := range shop.Sessions {
		if x.Piece != in.Piece || x.Open {
			continue
		}
		changed += x.Copies
		shop.Sessions[i].Stages = of.session(of.stages, x.Copies)
		shop.Sessions[i].Moulds = nil
		if of.way.InMould() {
			if moulds == nil {
				moulds = []string{in.Piece + "/new"}
				shop.NewMoulds = append(
					slices.Clone(shop.NewMoulds),
					runup.NewMould{
						Code:     moulds[0],
						Piece:    in.Piece,
						Job:      x.Job,
						HandsMin: cmp.Or(w.f.moulds[in.Piece], float64(usualMouldMin)),
						ShapeMin: w.f.shape[in.Piece],
						ClayMin:  w.f.clay[in.Piece],
						DryMin:   s.MouldDries.Minutes(),
					},
				)
			}
			shop.Sessions[i].Moulds = moulds
		}
	}
	if changed == 0 {
		return try{}, problem.Invalid("unknown_value", "piece", "No session of %s is still to begin.", in.Piece)
	}
	hands, waits := finishing(r)
	shop.FinishMin, shop.FinishWait = with(shop.FinishMin, in.Piece, hands), with(shop.FinishWait, in.Piece, waits)
	name := in.Method
	for _, m := range section.Methods {
		if m.Slug == in.Method {
			name = m.Name
		}
	}
	return try{
		Mend:  Mend{Text: fmt.Sprintf("%s made as %s", in.Piece, name), Link: "/piece/" + in.Piece},
		shop:  &shop,
		stuff: (r.Minor - was.Minor) * int64(changed),
	}, nil
}

// with is a map with one entry changed; the one that it is made from is left alone.
func with(m map[string]float64, key string, x float64) map[string]float64 {
	out := map[string]float64{key: x}
	for k, v := range m {
		if k != key {
			out[k] = v
		}
	}
	return out
}

// Carried is what carrying a change out came to.
type Carried struct {
	RunUp RunUp  `json:"run_up"`
	Moved []Move `json:"moved" doc:"what is elsewhere now than before the change, by person"`
}

// Change is what carrying a change of the plan out writes down: one of them.
type Change struct {
	Hours *NewHourChange `json:"hours,omitempty" doc:"somebody is away, the shop is open beside its hours, or the ovens run alone"`
	Sure  *float64       `json:"sure,omitempty" minimum:"0" maximum:"0.99" doc:"how sure it is to be that enough are good"`
	Mould string         `json:"mould,omitempty" maxLength:"24" doc:"the piece that gets a further mould"`
	Later *Later         `json:"later,omitempty"`
}

// Later is a shooting day that is so many days later; what others decide is for a lead to write down.
type Later struct {
	DayID uint64 `json:"day_id"`
	Days  int    `json:"days" minimum:"1" maximum:"30"`
}

// shift moves what is due for a day.
func (f *facts) shift(l Later) {
	for i, j := range f.shop.Jobs {
		if d := f.days[j.ID]; d.ID == l.DayID {
			f.shop.Jobs[i].Due += l.Days * daySlots
			d.Day, d.Due = d.Day.AddDate(0, 0, l.Days), d.Due.AddDate(0, 0, l.Days)
			f.days[j.ID] = d
		}
	}
}

// checkLater names a day that is to be later.
func (w worked) checkLater(l Later) (string, error) {
	if l.Days < 1 {
		return "", problem.Invalid("missing", "days", "By how many days?")
	}
	for _, d := range w.f.days {
		if d.ID == l.DayID {
			return d.Place + " of " + d.Day.Format("2 January"), nil
		}
	}
	return "", problem.Invalid("unknown_value", "day_id", "Nothing is to be done for that day.")
}

// Carry carries a change out as one act: it is written down, the plan is made anew and put in force, and what moved for whom is told.
func (s *Service) Carry(ctx context.Context, in Change) (Carried, error) {
	before, err := s.work(ctx)
	if err != nil {
		return Carried{}, err
	}
	if before.p == nil {
		return Carried{}, problem.Conflict("no_plan", "There is no plan to change.")
	}
	// The plan with it is made first: both are written together, or neither.
	a, err := s.ahead(ctx, before, in)
	if err != nil {
		return Carried{}, err
	}
	from := before.p
	if in.Hours == nil {
		from = nil // there is other work to do, or another day for it: it is planned anew
	}
	after, err := s.workOutFrom(ctx, from, a)
	if err != nil {
		return Carried{}, err
	}
	if after.p == nil {
		return Carried{}, problem.Conflict("no_plan", "With it there is no plan: %s Nothing was recorded.", after.view.Bar)
	}
	moved := RunUp{Moved: []Move{}}
	steps := map[string]plan.Placed{}
	for _, st := range after.p.Steps {
		steps[st.ID] = st
	}
	moved.moves(after.f, before.asBaseline(), steps, after.labels)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		if err := s.unchanged(ctx, tx, before); err != nil {
			return err
		}
		if err := s.write(ctx, tx, in); err != nil {
			return err
		}
		return s.putInForce(ctx, tx, after, fmt.Sprintf("carried out; %d steps moved", len(moved.Moved)))
	})
	if err != nil {
		return Carried{}, err
	}
	s.Live.Tell(ctx, "plan", "")
	if in.Later != nil {
		s.Live.Tell(ctx, "days", "")
	}
	r, err := s.RunUp(ctx)
	return Carried{r, moved.Moved}, err
}

// ahead is a change that is not written down yet, checked.
func (s *Service) ahead(ctx context.Context, w worked, in Change) (ahead, error) {
	who, _ := accounts.From(ctx)
	switch given := []bool{in.Hours != nil, in.Sure != nil, in.Mould != "", in.Later != nil}; {
	case len(slices.DeleteFunc(given, func(is bool) bool { return !is })) != 1:
		return ahead{}, problem.Invalid("missing", "hours", "Which change is carried out? One of them.")
	case in.Sure != nil:
		return ahead{sure: in.Sure}, checkSure(*in.Sure)
	case in.Mould != "":
		return ahead{mould: in.Mould}, w.checkFurther(in.Mould)
	case in.Later != nil:
		if who.Role != accounts.Lead {
			return ahead{}, problem.New(http.StatusForbidden, "lead", "later", "When a day is shot is for a lead to write down.")
		}
		_, err := w.checkLater(*in.Later)
		return ahead{later: in.Later}, err
	}
	if err := s.checkHours(ctx, in.Hours); err != nil {
		return ahead{}, err
	}
	h := *in.Hours
	if h.Kind == "night" {
		return ahead{alone: true}, nil
	}
	return ahead{
		hours: []HourChange{
			{Kind: h.Kind, Person: strings.TrimSpace(h.Person), Day: h.Day.Truncate(24 * time.Hour), From: h.From, To: h.To},
		},
	}, nil
}

// write writes a change down that was checked.
func (s *Service) write(ctx context.Context, tx database.Tx, in Change) error {
	switch {
	case in.Sure != nil:
		return s.writeSure(ctx, tx, *in.Sure)
	case in.Mould != "":
		return s.writeFurther(ctx, tx, in.Mould)
	case in.Later != nil:
		return s.Shooting.Later(ctx, tx, in.Later.DayID, in.Later.Days)
	}
	return s.writeHours(ctx, tx, *in.Hours)
}
