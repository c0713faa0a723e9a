// Package brief is the first place of the round: who wears a piece, where, how
// long, in what weather and light, how near the camera, and what must stay
// free. It puts brief, wearer and look together on the wearer's map and says
// what follows. The brief's versions themselves stand in package piece, since
// every later room reads them.
package brief

import (
	"context"
	"encoding/json"
	"net/http"
	"slices"
	"strings"

	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/wear"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/device"
	"yewmoor/internal/document"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/kept"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/production"
)

// Service does the use cases of the brief.
type Service struct {
	DB          *database.DB
	Clock       clock.Clock
	Live        *live.Hub
	Pieces      *piece.Service
	People      *people.Service
	Productions *production.Service
	Files       *files.Store
	Forecast    device.Forecast
	Reader      device.ColourReader
	// Clay says what the texture plan's ticked steps really took.
	Clay Clay
	maps kept.Answers[wearmap.Result]
}

// Clay tells what is known of the hours at the clay; wired to the sculpting
// room.
type Clay interface {
	// PlannedHours are those of the whole plan, 0 without one, and what was timed of it.
	PlannedHours(ctx context.Context, p piece.Piece) (planned, spent float64, err error)
}

// View is a brief as one person sees it, with all that follows from it.
type View struct {
	Doc   piece.Brief    `json:"doc"`
	State document.State `json:"state"`
	// Map is what follows from what is drawn; Wear from how it is worn.
	Map  wearmap.Result `json:"map"`
	Wear wear.Plan      `json:"wear"`
	// Others, LookMarks and WearerMarks stand on the same map.
	Others      []wearmap.Drawn      `json:"others" doc:"the other pieces of the look"`
	LookMarks   []wearmap.Mark       `json:"look_marks"`
	WearerMarks []wearmap.Mark       `json:"wearer_marks"`
	Look        string               `json:"look" doc:"which look is shown; empty when the character has none"`
	Stamps      map[string]string    `json:"stamps" doc:"which form each sheet of the map is drawn from"`
	Seen        map[string]Seen      `json:"seen" doc:"features that somebody saw on the piece, by id"`
	Actuals     []Actual             `json:"actuals"`
	Signed      []document.Signature `json:"signed" doc:"what a lead signed when it was agreed"`
}

// View reads a brief. look names the look whose other pieces are shown; empty
// takes the first that the piece belongs to.
func (s *Service) View(ctx context.Context, code, look string) (View, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return View{}, err
	}
	v := View{}
	if v.Doc, v.State, err = s.Pieces.ReadBrief(ctx, s.DB, p); err != nil {
		return v, err
	}
	if err := s.follow(ctx, s.DB, p, look, &v); err != nil {
		return v, err
	}
	if v.Seen, err = s.seen(ctx, s.DB, p.ID); err != nil {
		return v, err
	}
	if v.Actuals, err = s.actuals(ctx, p.ID); err != nil {
		return v, err
	}
	versions, err := s.Pieces.BriefVersions(ctx, code)
	if err == nil && len(versions) > 0 {
		v.Signed = versions[0].Signed
	}
	return v, err
}

func (s *Service) follow(ctx context.Context, db database.Reader, p piece.Piece, look string, v *View) error {
	measures, err := people.Measures(ctx, db, p.PerformerID)
	if err != nil {
		return err
	}
	v.Stamps = people.Stamps(measures)
	if v.WearerMarks, _, err = s.wearerMarks(ctx, db, p.PerformerID); err != nil {
		return err
	}
	looks, err := s.looksOf(ctx, db, p.CharacterCode)
	if err != nil {
		return err
	}
	v.LookMarks = []wearmap.Mark{}
	i := slices.IndexFunc(looks, func(l Look) bool { return l.Name == look })
	if i < 0 && look != "" {
		return problem.NotFound("look", look)
	}
	if i < 0 {
		i = slices.IndexFunc(looks, func(l Look) bool { return slices.Contains(l.Pieces, p.Code) })
	}
	var among []string
	if i >= 0 {
		v.Look, v.LookMarks, among = looks[i].Name, looks[i].Marks, looks[i].Pieces
	}
	if v.Others, err = s.others(ctx, db, p, among); err != nil {
		return err
	}
	sheets, err := s.People.SheetsOf(ctx, db, p.PerformerID)
	if err != nil {
		return err
	}
	scene := wearmap.Scene{Pieces: append([]wearmap.Drawn{{Code: p.Code, Name: p.Name, Marks: v.Doc.Marks}}, v.Others...), Look: v.LookMarks, Wearer: v.WearerMarks, Free: v.Doc.KeepFree}
	if v.Map, err = s.mapOf(scene, v.Stamps, sheets); err != nil {
		return err
	}
	v.Wear, err = s.wear(ctx, db, p, v.Doc, v.Map)
	return err
}

// others are the pieces that are worn with this one: those of the look, or of
// the character when it has none. Their newest word counts, also one's draft.
func (s *Service) others(ctx context.Context, db database.Reader, p piece.Piece, among []string) ([]wearmap.Drawn, error) {
	list := []wearmap.Drawn{}
	pieces, err := piece.OfCharacter(ctx, db, p.CharacterCode)
	if err != nil {
		return nil, err
	}
	for _, o := range pieces {
		if o.Code == p.Code || among != nil && !slices.Contains(among, o.Code) {
			continue
		}
		doc, _, err := s.Pieces.ReadBrief(ctx, db, o)
		if err != nil {
			return nil, err
		}
		list = append(list, wearmap.Drawn{Code: o.Code, Name: o.Name, Marks: doc.Marks})
	}
	return list, nil
}

func (s *Service) wear(ctx context.Context, db database.Reader, p piece.Piece, doc piece.Brief, m wearmap.Result) (wear.Plan, error) {
	c := wear.Conditions{Hours: doc.WearHours, Camera: doc.Camera, Backdrop: doc.Backdrop, Exertion: doc.Exertion, WayOut: doc.WayOut, Limits: map[string]float64{}}
	var err error
	if c.Days, err = s.daysOf(ctx, db, p); err != nil {
		return wear.Plan{}, err
	}
	if p.PerformerID != nil {
		limits, err := people.Limits(ctx, db, *p.PerformerID)
		if err != nil {
			return wear.Plan{}, err
		}
		for _, l := range limits {
			c.Limits[l.Kind] = 0
			if l.Amount != nil {
				c.Limits[l.Kind] = *l.Amount
			}
		}
	}
	plan := wear.Work(c, m)
	if p.PerformerID == nil {
		return plan, nil
	}
	minor, err := s.People.Minor(ctx, db, *p.PerformerID, p.Region)
	if err != nil {
		return plan, err
	}
	for _, f := range rules.Minority(rules.Wearer{Minor: minor}, doc.WearHours) {
		plan.Findings = append(plan.Findings, wearmap.Finding{ID: f.ID, Severity: string(f.Severity), Reason: f.Reason, Remedy: f.Remedy})
	}
	return plan, nil
}

// daysOf are the days on which a piece is worn, with their air.
func (s *Service) daysOf(ctx context.Context, db database.Reader, p piece.Piece) ([]wear.Day, error) {
	days, err := s.Productions.Days(ctx, db, p.ProductionID)
	if err != nil {
		return nil, err
	}
	ids, err := s.Pieces.DaysOf(ctx, db, p.ID)
	if err != nil {
		return nil, err
	}
	var out []wear.Day
	for _, d := range days {
		if slices.Contains(ids, d.ID) {
			out = append(out, wear.Day{Name: d.Day.Format("2 Jan") + ", " + d.Place, TempC: d.TempC, RH: d.RH, Sun: d.Sun, Rain: d.Rain, Lamps: d.Light == "tungsten"})
		}
	}
	return out, nil
}

// Save writes the person's next draft step and says what follows.
func (s *Service) Save(ctx context.Context, code, look string, doc piece.Brief, base, step int) (View, error) {
	if err := s.Pieces.SaveBrief(ctx, code, doc, base, step); err != nil {
		return View{}, err
	}
	return s.View(ctx, code, look)
}

// Agree makes the draft a version. What the map never allows holds it back for
// good; a stop wants a lead's signed reason. Both are judged inside the act, on
// what is then agreed.
func (s *Service) Agree(ctx context.Context, code, look string, signed []document.Signature) (View, error) {
	who, _ := accounts.From(ctx)
	for i := range signed {
		signed[i].By = who.Name
	}
	err := s.Pieces.AgreeBrief(ctx, code, func(tx database.Tx, p piece.Piece, doc piece.Brief) ([]document.Signature, error) {
		v := View{Doc: doc}
		if err := s.follow(ctx, tx, p, look, &v); err != nil {
			return nil, err
		}
		return signed, held(who, v, signed)
	})
	if err != nil {
		return View{}, err
	}
	return s.View(ctx, code, look)
}

// held says what holds a brief back from being agreed; nil when nothing does.
func held(who accounts.Person, v View, signed []document.Signature) error {
	var open []wearmap.Finding
	for _, f := range slices.Concat(v.Map.Findings, v.Wear.Findings) {
		isSigned := who.Role == accounts.Lead && slices.ContainsFunc(signed, func(g document.Signature) bool { return g.ID == f.ID && strings.TrimSpace(g.Reason) != "" })
		if f.Severity == "never" || f.Severity == "stop" && !isSigned {
			open = append(open, f)
		}
	}
	if len(open) == 0 {
		return nil
	}
	words := open[0].ID + ": " + open[0].Reason + " " + open[0].Remedy
	if open[0].Severity == "stop" {
		words += " Or a lead goes on with a signed reason."
	}
	held := problem.New(http.StatusUnprocessableEntity, "held_back", "signed", "%s The draft is kept.", words)
	held.Data = open
	return held
}

func marksOf(raw string) ([]wearmap.Mark, error) {
	marks := []wearmap.Mark{}
	return marks, json.Unmarshal([]byte(raw), &marks)
}
