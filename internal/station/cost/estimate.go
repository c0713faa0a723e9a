package cost

import (
	"context"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/cost"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/shelf"
)

// Offer is what a piece is thought to cost and is offered for, with all that it rests on.
type Offer struct {
	Piece       string      `json:"piece"`
	Name        string      `json:"name"`
	Bar         string      `json:"bar" doc:"why nothing can be said yet"`
	Good        int         `json:"good" doc:"copies that are wanted, spares in them"`
	Casts       int         `json:"casts" doc:"that are begun so that enough are good"`
	Lines       []cost.Line `json:"lines"`
	Overhead    int64       `json:"overhead_minor"`
	Cost        int64       `json:"cost_minor"`
	Price       int64       `json:"price_minor"`
	Each        int64       `json:"each_minor" doc:"of one copy; they differ by one at most, and add up"`
	Spares      int64       `json:"spares_minor" doc:"what it costs that not every copy is good"`
	Days        []DayShare  `json:"days"`
	Assumptions []string    `json:"assumptions"`
	Currency    string      `json:"currency"`
	// Number, At and By are of an offer that was kept; 0 of what is worked out now.
	Number int        `json:"number"`
	At     *time.Time `json:"at,omitempty"`
	By     string     `json:"by"`

	job cost.Job
}

// DayShare is what falls on a shooting day.
type DayShare struct {
	Day    string `json:"day"`
	Place  string `json:"place"`
	Copies int    `json:"copies"`
	Minor  int64  `json:"minor"`
}

// Estimate works out what a piece would cost by its agreed section, with what was learned here and the terms in force.
func (s *Service) Estimate(ctx context.Context, code string) (Offer, error) {
	terms, err := s.Terms(ctx)
	if err != nil {
		return Offer{}, err
	}
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return Offer{}, err
	}
	return s.estimate(ctx, p, terms)
}

func (s *Service) estimate(ctx context.Context, p piece.Piece, terms TermsView) (Offer, error) {
	out := Offer{
		Piece:       p.Code,
		Name:        p.Name,
		Good:        p.CopiesWanted,
		Lines:       []cost.Line{},
		Days:        []DayShare{},
		Assumptions: []string{},
		Currency:    terms.Currency,
	}
	w, err := s.Work.WorkOf(ctx, p)
	if err != nil {
		return out, err
	}
	if w.Bar != "" {
		out.Bar = w.Bar
		return out, nil
	}
	if p.CopiesWanted < 1 {
		out.Bar = "no copies are wanted"
		return out, nil
	}
	begin, chance, err := s.Work.BeginFor(ctx, p, p.CopiesWanted)
	if err != nil {
		return out, err
	}
	out.Casts = begin
	if begin == 0 {
		out.Casts = p.CopiesWanted
		out.assume("every copy is taken for good: too little is known of its material here")
	} else {
		out.assume("%d are begun, so that %d are good in %.0f of 100", begin, p.CopiesWanted, 100*chance)
	}
	if err := s.materials(ctx, p, &out); err != nil {
		return out, err
	}
	if err := s.DB.SelectContext(ctx, &out.Days, `SELECT DATE_FORMAT(d.day, '%Y-%m-%d') AS day, d.place, pd.wanted AS copies FROM piece_day pd JOIN shooting_day d ON d.id = pd.day_id WHERE pd.piece_id = ? ORDER BY d.day, d.id`, p.ID); err != nil {
		return out, fmt.Errorf("reading the days: %w", err)
	}
	w.Pack.Minutes *= float64(max(1, len(out.Days)))
	out.labour(w, terms)
	if w.OvenH > 0 {
		out.job.Machine = append(
			out.job.Machine,
			cost.Machine{
				ID:           "oven",
				SlotsPerCast: 1,
				Slots:        int64(w.OvenTakes),
				Hours:        cost.About(w.OvenH),
				Rate:         cost.Of(terms.OvenMinor),
			},
		)
	}
	if err := s.fromBrief(ctx, p, &out, terms); err != nil {
		return out, err
	}
	out.job.Good, out.job.Casts = int64(out.Good), int64(out.Casts)
	out.job.OvertimeFactor = cost.About(terms.Factor)
	out.job.OverheadPct, out.job.MarginPct = cost.About(terms.Overhead), cost.About(terms.Margin)
	if terms.Default {
		out.assume("rates, overhead and margin are the program's own until a lead sets the shop's")
	}
	q, err := out.job.Quote()
	if err != nil {
		return out, err
	}
	out.Lines = append(out.Lines, q.Lines...)
	out.Overhead, out.Cost, out.Price, out.Spares = q.Overhead, q.Cost, q.Price, q.SpareShare
	out.Each = q.PerPiece[0]
	weights := make([]int64, len(out.Days))
	for i, d := range out.Days {
		weights[i] = int64(d.Copies)
	}
	for i, minor := range cost.Shares(q.Price, weights) {
		out.Days[i].Minor = minor
	}
	return out, nil
}

func (o *Offer) assume(format string, args ...any) {
	o.Assumptions = append(o.Assumptions, fmt.Sprintf(format, args...))
}

// materials adds what a copy takes: of what it is made of for every one that is begun, of what is put on afterwards for the good ones.
func (s *Service) materials(ctx context.Context, p piece.Piece, out *Offer) error {
	doc, _, number, err := piece.AgreedSection(ctx, s.DB, p)
	if err != nil {
		return err
	}
	shop, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return err
	}
	r, err := s.Pieces.ResultOf(ctx, s.DB, p, doc, shop)
	if err != nil {
		return err
	}
	after := map[string]bool{} // what only lies on a copy that was made
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		for _, slug := range l.Products() {
			if _, seen := after[slug]; !seen || l.Kind.IsAppliance() {
				after[slug] = !l.Kind.IsAppliance()
			}
		}
	})
	var ours []string
	for _, m := range r.Materials {
		row := cost.Material{Item: m.Name, Qty: cost.About(m.Grams), UnitCost: cost.About(0)}
		if m.Grams >= 0.001 {
			row.UnitCost = cost.Per(m.Minor, row.Qty)
		}
		if after[m.Slug] {
			out.job.MaterialPerPiece = append(out.job.MaterialPerPiece, row)
		} else {
			out.job.MaterialPerCast = append(out.job.MaterialPerCast, row)
		}
		if m.Default && m.Minor > 0 {
			ours = append(ours, m.Name)
		}
	}
	for _, part := range r.Cost {
		switch part.Part {
		case section.CostWaste:
			out.job.MaterialPerCast = append(
				out.job.MaterialPerCast,
				cost.Material{Item: "what stays in cups and is trimmed away", Qty: cost.Of(1), UnitCost: cost.Of(part.Minor)},
			)
		case section.CostMould:
			out.job.Tooling = cost.Tooling{Cost: part.Minor, Life: 1, Method: "amortise"}
		}
	}
	out.assume("made by version %d of its section", number)
	if len(ours) > 0 {
		out.assume("the shop has no price of its own for %s: the library's is taken", strings.Join(ours, ", "))
	}
	return nil
}

// labour adds the work of hands.
func (o *Offer) labour(w PieceWork, terms TermsView) {
	noted := 0
	add := func(step, per string, st StageWork) {
		noted += st.Noted
		if st.Minutes > 0 {
			o.job.Labour = append(
				o.job.Labour,
				cost.Labour{Step: step, Per: per, Minutes: cost.About(st.Minutes), People: 1, Rate: cost.Of(terms.RateMinor)},
			)
		}
	}
	for _, st := range w.Stages {
		add(st.Act, "cast", st)
	}
	add(w.Finish.Act, "piece", w.Finish)
	add(w.Check.Act, "cast", w.Check)
	add(w.Pack.Act, "job", w.Pack)
	if w.InMould {
		add(w.Mould.Act, "job", w.Mould)
	}
	if noted > 0 {
		o.assume("minutes are learned from %d times that such work was noted here", noted)
	} else {
		o.assume("minutes are the program's own: nobody noted such work here yet")
	}
}

// fromBrief adds what only the brief knows of: hours at the workshop that no room works out, and what is bought.
func (s *Service) fromBrief(ctx context.Context, p piece.Piece, out *Offer, terms TermsView) error {
	b, agreed, err := piece.AgreedBrief(ctx, s.DB, p.ID)
	if err != nil || !agreed {
		return err
	}
	chair := 0.0
	for _, st := range b.Steps {
		switch {
		case st.Where == "chair":
			chair += st.Hours
		case st.Part == "mould" || st.Part == "copies" || st.Hours == 0: // worked out from the section
		default:
			out.job.Labour = append(
				out.job.Labour,
				cost.Labour{
					Step:    st.Text,
					Per:     "job",
					Minutes: cost.About(st.Hours * 60),
					People:  1,
					Rate:    cost.Of(terms.RateMinor),
				},
			)
		}
	}
	if chair > 0 {
		out.assume("%.1f hours in the chair are the artist's, and not in it", chair)
	}
	for _, i := range b.Budget {
		if i.CostMinor > 0 && i.Origin == "bought" {
			out.job.Bought = append(out.job.Bought, cost.Bought{Item: i.Text, Cost: i.CostMinor})
		}
	}
	return nil
}

// MouldMaterial is what the moulds of a piece cost in material: their share of a copy, times the copies that are wanted.
func (s *Service) MouldMaterial(ctx context.Context, code string) (int64, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return 0, err
	}
	out := Offer{}
	if err := s.materials(ctx, p, &out); err != nil {
		return 0, err
	}
	return out.job.Tooling.Cost * int64(max(1, p.CopiesWanted)), nil
}
