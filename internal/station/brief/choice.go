package brief

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/advise"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/wear"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// Conditions are those entries of the advice that can be tried otherwise,
// without touching the brief. Whatever is left out is as the brief says.
type Conditions struct {
	HeightMM  *float64 `json:"height_mm,omitempty" minimum:"0.1" maximum:"300"`
	WearHours *float64 `json:"wear_hours,omitempty" minimum:"0.1" maximum:"24"`
	HottestC  *float64 `json:"hottest_c,omitempty" minimum:"-30" maximum:"60"`
	Camera    *string  `json:"camera,omitempty" enum:"close,medium,far"`
	Water     *string  `json:"water,omitempty" enum:"none,splashed,rained on,under water"`
	Exertion  *string  `json:"exertion,omitempty" enum:"still,acting,walking,running"`
	Days      *int     `json:"days,omitempty" minimum:"0" maximum:"400"`
	LeadDays  *float64 `json:"lead_days,omitempty" minimum:"0" maximum:"400"`
	AreaCM2   *float64 `json:"area_cm2,omitempty" minimum:"0.5" maximum:"20000"`
}

// Choice is a method that somebody chose for a piece. Older ones are kept.
type Choice struct {
	Method  string    `db:"method" json:"method"`
	Advised string    `db:"advised" json:"advised" doc:"the method that led then"`
	Place   int       `db:"place" json:"place" doc:"its rank then"`
	Score   float64   `db:"score" json:"score"`
	Reason  string    `db:"reason" json:"reason" doc:"why, when it was not the one advised"`
	By      string    `db:"by_name" json:"by"`
	At      time.Time `db:"chosen_at" json:"at"`
}

// AdviceView is the advice for a piece with what was chosen.
type AdviceView struct {
	Asked   Asked           `json:"asked" doc:"the conditions that it was worked out for"`
	Methods []advise.Advice `json:"methods" doc:"best first; what is barred stands last"`
	Turns   []advise.Turn   `json:"turns" doc:"what would turn it round"`
	Choices []Choice        `json:"choices" doc:"newest first"`
	Trials  []Trial         `json:"trials" doc:"what was tried for the like, newest first"`
}

// Asked is what the advice was worked out for, as the screen shows it.
type Asked struct {
	Region    string  `json:"region"`
	MovesMuch bool    `json:"moves_much"`
	Beyond    int     `json:"beyond"`
	HeightMM  float64 `json:"height_mm"`
	AreaCM2   float64 `json:"area_cm2"`
	Camera    string  `json:"camera"`
	WearHours float64 `json:"wear_hours"`
	HottestC  float64 `json:"hottest_c"`
	HottestOn string  `json:"hottest_on"`
	Water     string  `json:"water"`
	Exertion  string  `json:"exertion"`
	Days      int     `json:"days"`
	Copies    int     `json:"copies"`
	LeadDays  float64 `json:"lead_days"`
	HasLead   bool    `json:"has_lead"`
}

// heightBy is the height at the centre in mm that an exaggeration begins with,
// from 0 as grown to 4 beyond anatomy, as long as neither brief nor section
// says another.
var heightBy = []float64{2, 3, 4, 7, 14}

// Advise ranks the methods for a piece, as its brief says or as tried.
func (s *Service) Advise(ctx context.Context, code string, tried Conditions) (AdviceView, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return AdviceView{}, err
	}
	c, err := s.adviceCase(ctx, p)
	if err != nil {
		return AdviceView{}, err
	}
	tried.over(&c)
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return AdviceView{}, err
	}
	room, _, err := s.Pieces.Air.Now(ctx, s.DB)
	if err != nil {
		return AdviceView{}, err
	}
	a := advise.New(materials, room)
	v := AdviceView{Methods: a.Rank(c), Turns: a.Turns(c), Asked: Asked{c.Region, c.MovesMuch, c.Beyond, c.HeightMM, c.AreaCM2, c.Camera, c.WearHours, c.HottestC, c.HottestOn, c.Water, c.Exertion, c.Days, c.Copies, c.LeadDays, c.HasLead}}
	if v.Choices, err = s.choices(ctx, p.ID); err != nil {
		return v, err
	}
	v.Trials, err = s.Trials(ctx, p.Region)
	return v, err
}

func (t Conditions) over(c *advise.Case) {
	set := func(to *float64, from *float64) {
		if from != nil {
			*to = *from
		}
	}
	set(&c.HeightMM, t.HeightMM)
	set(&c.WearHours, t.WearHours)
	set(&c.AreaCM2, t.AreaCM2)
	if t.HottestC != nil {
		c.HottestC, c.HottestOn = *t.HottestC, "a day as tried"
	}
	for to, from := range map[*string]*string{&c.Camera: t.Camera, &c.Water: t.Water, &c.Exertion: t.Exertion} {
		if from != nil {
			*to = *from
		}
	}
	if t.Days != nil {
		c.Days = *t.Days
	}
	if t.LeadDays != nil {
		c.LeadDays, c.HasLead = *t.LeadDays, true
	}
}

// adviceCase gathers what the advice looks at.
func (s *Service) adviceCase(ctx context.Context, p piece.Piece) (advise.Case, error) {
	around, err := s.Around(ctx, s.DB, p)
	if err != nil {
		return advise.Case{}, err
	}
	b := around.Brief
	here, _ := region.Find(p.Region)
	c := advise.Case{Region: here.Text, MovesMuch: here.MovesMuch, Camera: b.Camera, AreaCM2: b.AreaCM2, WearHours: b.WearHours, Water: wear.Wetter(b.Water, around.Days), Exertion: b.Exertion, Days: len(around.Days), Copies: p.CopiesWanted, BudgetMin: b.LimitMinor, HottestC: 21}
	if around.Map.CM2 > 0 {
		c.AreaCM2 = math.Round(10*around.Map.CM2) / 10
	}
	if c.AreaCM2 == 0 {
		c.AreaCM2 = here.AreaCM2
	}
	for i, d := range around.Days {
		if i == 0 || d.TempC > c.HottestC {
			c.HottestC, c.HottestOn, c.RadiantWM2 = d.TempC, d.Name, rules.Radiant(d.Sun, d.Lamps)
		}
	}
	for _, e := range b.Exaggeration {
		c.Beyond = max(c.Beyond, e.Level)
	}
	c.HeightMM = b.HeightMM
	if c.HeightMM == 0 {
		c.HeightMM = heightBy[min(c.Beyond, len(heightBy)-1)]
	}
	c.NearEyes = len(around.Map.KeepOut) > 0
	for _, h := range around.Map.Hair {
		c.HairUnder = c.HairUnder || h.By == "" && h.How != "shaved" && h.How != "keep free"
	}
	days, err := s.Productions.Days(ctx, s.DB, p.ProductionID)
	if err != nil {
		return c, err
	}
	ids, err := s.Pieces.DaysOf(ctx, s.DB, p.ID)
	if err != nil {
		return c, err
	}
	today := clock.DayNumber(s.Clock.Now())
	for _, d := range days {
		if left := float64(clock.DayNumber(d.Day) - today); slices.Contains(ids, d.ID) && left >= 0 && (!c.HasLead || left < c.LeadDays) {
			c.LeadDays, c.HasLead = left, true
		}
	}
	if err := s.adviceWearer(ctx, p, around, &c); err != nil {
		return c, err
	}
	return c, s.adviceShop(ctx, p, &c)
}

func (s *Service) adviceWearer(ctx context.Context, p piece.Piece, around piece.Surroundings, c *advise.Case) error {
	w, err := s.Pieces.LoadWearer(ctx, s.DB, p)
	if err != nil {
		return err
	}
	c.Facts, c.List = w.Facts, w.List
	if w.LimitG == 0 {
		return nil
	}
	others := 0.0
	for _, code := range around.Look {
		q, err := piece.Find(ctx, s.DB, code)
		if err != nil {
			return err
		}
		doc, _, n, err := piece.AgreedSection(ctx, s.DB, q)
		if err != nil {
			return err
		}
		if n > 0 {
			materials, err := shelf.Load(ctx, s.DB)
			if err != nil {
				return err
			}
			r, err := s.Pieces.ResultOf(ctx, s.DB, q, doc, materials)
			if err != nil {
				return err
			}
			others += r.WornG
		}
	}
	c.CarryG = math.Max(1, w.LimitG-others)
	return nil
}

func (s *Service) adviceShop(ctx context.Context, p piece.Piece, c *advise.Case) error {
	list, err := s.Equipment(ctx)
	if err != nil {
		return err
	}
	for _, e := range list {
		if e.Has {
			c.Has = append(c.Has, e.Name)
		}
	}
	var best struct{ Lead, Fabricator bool }
	if err := s.DB.GetContext(ctx, &best, `SELECT COALESCE(MAX(role = 'lead'), 0) AS lead, COALESCE(MAX(role = 'fabricator'), 0) AS fabricator FROM person`); err != nil {
		return err
	}
	c.Skill = 1
	if best.Fabricator {
		c.Skill = 2
	}
	if best.Lead {
		c.Skill = 3
	}
	c.Tried, err = s.triedFor(ctx, p)
	return err
}

func (s *Service) choices(ctx context.Context, id uint64) ([]Choice, error) {
	list := []Choice{}
	err := s.DB.SelectContext(ctx, &list, `SELECT c.method, c.advised, c.place, c.score, c.reason, p.name AS by_name, c.chosen_at FROM method_choice c JOIN person p ON p.id = c.chosen_by WHERE c.piece_id = ? ORDER BY c.id DESC LIMIT 30`, id)
	return list, err
}

// Choose keeps the method that a person takes. Against the advice it wants a
// reason; what a stop holds back wants a lead; what is never cannot be chosen.
func (s *Service) Choose(ctx context.Context, code, method, reason string) (AdviceView, error) {
	reason = strings.TrimSpace(reason)
	v, err := s.Advise(ctx, code, Conditions{})
	if err != nil {
		return v, err
	}
	i := slices.IndexFunc(v.Methods, func(a advise.Advice) bool { return a.Slug == method })
	if i < 0 {
		return v, problem.Invalid("unknown_value", "method", "There is no method “%.40s”.", method)
	}
	m, who := v.Methods[i], accountsOf(ctx)
	for _, bar := range m.Bars {
		if bar.Severity == string(rules.Never) {
			return v, problem.Invalid("never", "method", "%s %s cannot be chosen, with whatever reason.", bar.Text, m.Name)
		}
		if who.Role != accounts.Lead {
			return v, problem.Invalid("held_back", "method", "%s A lead may choose it with a reason.", bar.Text)
		}
	}
	if m.Rank > 1 && reason == "" {
		return v, problem.Invalid("missing", "reason", "The advice is %s. Say why it is to be %s.", v.Methods[0].Name, m.Name)
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `INSERT INTO method_choice (piece_id, method, advised, place, score, reason, chosen_by, chosen_at) VALUES (?,?,?,?,?,?,?,?)`, p.ID, method, v.Methods[0].Slug, m.Rank, m.Score, reason, who.ID, now); err != nil {
			return fmt.Errorf("keeping the choice: %w", err)
		}
		words := m.Name
		if reason != "" {
			words += ": " + reason
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "piece", Code: code, Act: "method chosen", Words: words})
		return err
	})
	if err != nil {
		return v, err
	}
	s.Live.Tell(ctx, "brief", code)
	return s.Advise(ctx, code, Conditions{})
}

func accountsOf(ctx context.Context) accounts.Person {
	who, _ := accounts.From(ctx)
	return who
}
