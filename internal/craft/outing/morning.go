package outing

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/fit"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/section"
)

// Keep is what the wearer keeps to while something is done.
type Keep struct {
	Eyes   bool `json:"eyes_shut,omitempty"`
	Lips   bool `json:"lips_open,omitempty" doc:"a little open and dry; no talking, eating or drinking"`
	Still  bool `json:"still,omitempty"`
	Frown  bool `json:"stretch,omitempty" doc:"draws the skin taut when asked"`
	Ask    bool `json:"ask,omitempty" doc:"how it is, 0 to 10"`
	Breaks bool `json:"rest,omitempty"`
}

// Window is when a glued piece may be pressed on, counted in minutes from when the glue is on.
type Window struct {
	Adhesive string  `json:"adhesive"`
	State    string  `json:"state" enum:"wet,clear,tacky,dry"`
	FromMin  float64 `json:"from_min"`
	UntilMin float64 `json:"until_min" doc:"counted so that what was laid first still grips"`
	MoveS    float64 `json:"move_s"`
	PressS   float64 `json:"press_s"`
	// Warnings are the words of the window: humid, narrow, flammable.
	Warnings []string `json:"warnings"`
}

// Step is one activity of a morning in words.
type Step struct {
	ID      string   `json:"id"`
	Kind    string   `json:"kind" enum:"skin,guard,cover,barrier,stretch,build,glue,place,edge,colour,hair,shed,powder,lenses,finish,blood,rest,last,extra"`
	Text    string   `json:"text"`
	How     string   `json:"how"`
	Why     string   `json:"why"`
	Piece   string   `json:"piece"`
	Glue    string   `json:"glue,omitempty" doc:"id of the step whose glue this one presses on"`
	Minutes float64  `json:"minutes"`
	Window  *Window  `json:"window,omitempty"`
	Keep    Keep     `json:"keep"`
	Marks   []string `json:"marks" doc:"landmarks in the order in which they are brought together"`
	Twice   string   `json:"twice,omitempty" doc:"where a second coat goes"`
	Caution []string `json:"cautions"`
	// Start and Who follow from the plan: minute of the day, and names.
	Start float64  `json:"start_min"`
	Slack float64  `json:"slack_min"`
	Who   []string `json:"who"`
}

// Run is the run of a morning.
type Run struct {
	Steps []Step    `json:"steps" doc:"in the order of their starts"`
	Chair fit.Chair `json:"chair"`
	Ready float64   `json:"ready_min"`
	// Chance to be ready when it begins at the start that is shown.
	Begin  float64 `json:"begin_min" doc:"with the buffer that makes it nine in ten"`
	Call   float64 `json:"call_min" doc:"when the performer is wanted"`
	Chance float64 `json:"chance"`
	// After are the ids that each step waits for.
	After map[string][]string `json:"after"`
}

type builder struct {
	acts  []fit.Activity
	steps map[string]Step
	c     Choices
	d     Day
	shelf material.Shelf
	pace  map[string]float64
}

// takes is how many minutes a step takes here: somebody's own figure, or the usual one by what was learned.
func (b *builder) takes(s Step) float64 {
	minutes := s.Minutes
	if learned := b.pace[s.Kind]; learned > 0 {
		minutes *= learned
	}
	if own, said := b.c.Minutes[s.ID]; said {
		minutes = own
	}
	return math.Round(minutes*2) / 2
}

// add puts an activity into the morning, with the minutes that somebody said or that were learned.
func (b *builder) add(s Step, a fit.Activity) string {
	s.Minutes = b.takes(s)
	a.ID, a.Minutes = s.ID, s.Minutes
	a.Low, a.High = 0.8*a.Minutes, 1.5*a.Minutes
	a.After = slices.DeleteFunc(a.After, func(p fit.After) bool { return p.ID == "" || p.ID == s.ID })
	if s.Marks == nil {
		s.Marks = []string{}
	}
	if s.Caution == nil {
		s.Caution = []string{}
	}
	b.acts = append(b.acts, a)
	b.steps[s.ID] = s
	return s.ID
}

func after(ids ...string) []fit.After {
	out := make([]fit.After, len(ids))
	for i, id := range ids {
		out[i] = fit.After{ID: id}
	}
	return out
}

// atChair is an activity on the wearer by one pair of hands.
func atChair(zone string, first ...fit.After) fit.Activity {
	return fit.Activity{Hands: 1, Chair: true, Zone: zone, After: first}
}

// Our own minutes, until a shop's mornings say better (docs/decisions/0029).
const (
	skinMin    = 4.0 // cleanse and wipe, beside what the area takes
	guardMin   = 3.0
	alignMin   = 2.0 // of each piece, beside pressing
	markMin    = 0.25
	lensMin    = 4.0
	restMin    = 10.0
	lastMin    = 6.0
	edgeSCM    = 1.5 // of a melted or blended rim
	shedMin    = 2.0
	lipsDryMin = 3.0
	leastMin   = 1.0
	mostActs   = 60
)

// Plan makes the run of a morning; pace are learned factors by kind. Refusals are the chair's, and those of an
// order that names what is not there.
func Plan(ctx context.Context, pieces []Piece, d Day, c Choices, pace map[string]float64, shelf material.Shelf) (Run, error) {
	b := &builder{steps: map[string]Step{}, c: c, d: d, shelf: shelf, pace: pace}
	if err := b.gather(ordered(pieces)); err != nil {
		return Run{}, err
	}
	if len(b.acts) > mostActs {
		return Run{}, refusal.New(refusal.OutOfRange, "pieces", "This morning has %d steps; up to %d can be planned at once. Make two kits of it.", len(b.acts), mostActs)
	}
	m := fit.Morning{ReadyMin: c.ReadyMin, Artists: max(1, len(c.Artists)), AtOnce: 2, Activities: b.acts}
	chair, err := fit.PlanChair(ctx, m)
	if err != nil {
		return Run{}, err
	}
	if slices.Contains(chair.Warnings, "break_due") && !slices.ContainsFunc(b.acts, func(a fit.Activity) bool { return a.Rest }) {
		// A break goes between gluing and colouring where the order that was chosen leaves room for one; else the
		// warning stands.
		without := slices.Clone(b.acts)
		if b.rest(); len(b.acts) <= mostActs {
			m.Activities = b.acts
			rested, err := fit.PlanChair(ctx, m)
			if err == nil {
				chair = rested
			} else {
				b.acts = without
			}
		}
	}
	out := Run{Chair: chair, Ready: c.ReadyMin, Begin: chair.Start90Min, Steps: make([]Step, 0, len(b.acts)), After: map[string][]string{}}
	out.Call = chair.CallMin + chair.Start90Min - chair.StartMin
	out.Chance = chair.Chance(c.ReadyMin, out.Begin)
	shift := chair.Start90Min - chair.StartMin
	for _, a := range b.acts {
		s := b.steps[a.ID]
		s.Start, s.Slack, s.Who = chair.Plan[a.ID]+shift, chair.SlackMin[a.ID], []string{}
		for _, h := range chair.Hands[a.ID] {
			if h < len(c.Artists) {
				s.Who = append(s.Who, c.Artists[h])
			}
		}
		out.Steps = append(out.Steps, s)
		out.After[a.ID] = []string{}
		for _, p := range a.After {
			out.After[a.ID] = append(out.After[a.ID], p.ID)
		}
	}
	slices.SortStableFunc(out.Steps, func(a, b Step) int { return cmp.Compare(a.Start, b.Start) })
	return out, nil
}

// gather makes the activities in the order of their reasons: skin, guard, cover, stretching, centre out, edges, colour,
// hair, powder, lenses, wet look, blood, a last look.
func (b *builder) gather(pieces []Piece) error {
	area := 0.0
	for _, p := range pieces {
		area += p.AreaCM2
	}
	skin := b.add(Step{ID: "skin", Kind: "skin", Text: "Clean and wipe the skin, pin the hair", How: "Mild cleanser, then a wipe of alcohol; not near the eyes, not on broken skin. Let it dry.",
		Why: "Nothing holds on fat and damp.", Minutes: skinMin + area/60}, atChair(""))
	ready := skin
	if b.c.Lenses == "start" {
		ready = b.add(b.lenses("before anything is glued near the eyes"), atChair("eyes", after(skin)...))
	}
	ready = b.guard(pieces, ready)
	ready = b.cover(ready)
	stretch := []string{}
	glued := ""
	var looks, shine []func()
	for _, p := range pieces {
		o := b.piece(p, ready, stretch, glued, pieces)
		if o.stretch != "" {
			stretch = append(stretch, o.stretch)
		}
		if b.c.Sides == "one" && o.placed != "" {
			glued = o.placed
		}
		looks, shine = append(looks, o.powder...), append(shine, o.shine...)
	}
	for _, do := range looks {
		do()
	}
	if b.c.Lenses == "end" {
		b.add(b.lenses("last, when nothing sheds any more"), atChair("eyes", after(b.lasts()...)...))
	}
	for _, do := range shine {
		do()
	}
	if err := b.extras(); err != nil {
		return err
	}
	b.add(Step{ID: "last", Kind: "last", Text: "Last looks, photographs from all sides", How: "In the light of the set; every rim, both lash corners, left against right.", Why: "What is seen now is mended in a minute.",
		Minutes: lastMin, Keep: Keep{Ask: true}}, atChair("", after(b.lasts()...)...))
	return b.reorder()
}

// lasts are the activities that nothing follows yet.
func (b *builder) lasts() []string {
	var out []string
	for _, a := range b.acts {
		followed := slices.ContainsFunc(b.acts, func(o fit.Activity) bool {
			return slices.ContainsFunc(o.After, func(p fit.After) bool { return p.ID == a.ID })
		})
		if !followed {
			out = append(out, a.ID)
		}
	}
	return out
}

func (b *builder) lenses(why string) Step {
	return Step{ID: "lenses", Kind: "lenses", Text: "Lenses in", How: cmp.Or(b.c.LensText, "Clean hands; the wearer puts them in, or somebody trained."), Why: why, Minutes: lensMin, Keep: Keep{Still: true},
		Caution: []string{"Never shared, never worn longer than their maker says. Sore or red: out at once."}}
}

func (b *builder) guard(pieces []Piece, first string) string {
	var names []string
	for _, p := range pieces {
		for _, h := range p.Hair {
			if h.How != "flatten" {
				names = append(names, cmp.Or(h.Text, "hair"))
			}
		}
	}
	slices.Sort(names)
	names = slices.Compact(names)
	if len(names) == 0 {
		return first
	}
	return b.add(Step{ID: "guard", Kind: "guard", Text: "Guard " + strings.Join(names, ", "), How: "Grease, a film or a cap over the hair; wipe the surplus off the bare skin round it.",
		Why: "Hair caught in glue or latex cannot be freed.", Minutes: guardMin, Keep: Keep{Still: true}}, atChair("hair", after(first)...))
}

func (b *builder) cover(first string) string {
	r, chosen := RoutineOf(b.c.Brow)
	if !chosen {
		return first
	}
	n := cmp.Or(b.c.Coats, r.Coats)
	per := r.LayMin + r.DryMin + r.PowderMin
	return b.add(Step{ID: "cover", Kind: "cover", Text: fmt.Sprintf("Hide the hair: %d coats", n), How: r.Text + ". Look at it from the side before the next coat; too few and hair pokes through.",
		Why: "What lies under a thin edge shows.", Minutes: float64(n)*per + r.CancelMin + r.CoverMin + r.LookMin, Keep: Keep{Eyes: true, Still: true}}, atChair("brow", after(first)...))
}

// laid is what a piece leaves for those that follow.
type laid struct {
	stretch, placed string
	powder, shine   []func()
}

// piece adds the steps of one piece: what its own order of work does at the chair.
func (b *builder) piece(p Piece, ready string, stretch []string, glued string, all []Piece) laid {
	out := laid{}
	last := ready
	seat := p.seat()
	first := append(after(ready), after(stretch...)...)
	if glued != "" {
		first = append(first, fit.After{ID: glued})
	}
	for _, other := range all { // what it lies over is there before it
		if other.Code != p.Code && slices.Contains(p.Doc.LiesOver, other.Code) {
			for _, kind := range []string{"edge", "place"} {
				if _, there := b.steps[kind+" "+other.Code]; there {
					first = append(first, fit.After{ID: kind + " " + other.Code})
					break
				}
			}
		}
	}
	link := func() []fit.After {
		if last == ready {
			return first
		}
		return after(last)
	}
	minutes := func(s section.Step) float64 { return math.Max(leastMin, s.HandsS/60) }
	n := map[string]int{}
	id := func(kind string) string {
		n[kind]++
		if n[kind] > 1 {
			return fmt.Sprintf("%s%d %s", kind, n[kind], p.Code)
		}
		return kind + " " + p.Code
	}
	steps := gathered(p.Result.Steps)
	for i, s := range steps {
		step := Step{Text: p.Code + ": " + s.Text, How: s.Text, Why: s.Why, Piece: p.Code, Minutes: minutes(s), Caution: s.Cautions}
		switch s.Act {
		case "prepare":
			continue // all skin is prepared at once
		case "barrier":
			step.ID, step.Kind, step.Text = id("barrier"), "barrier", "Barrier film under "+p.Code
			last = b.add(step, atChair(seat, link()...))
		case "adhesive":
			last = b.glue(p, step, id("glue"), link())
		case "place":
			last = b.place(p, last, id("place"))
			out.placed = last
		case "edge":
			step.ID, step.Kind, step.Text = id("edge"), "edge", "Run out the edge of "+p.Code
			step.Minutes = math.Max(step.Minutes, p.RimCM*edgeSCM/60)
			step.Keep = Keep{Eyes: p.NearEye, Still: true}
			last = b.add(step, atChair(seat, link()...))
		case "stretch-stipple", "stipple":
			step.ID, step.Kind = id("stretch"), "stretch"
			step.Text, step.Keep = "Stretch and stipple "+p.Code, Keep{Frown: true, Eyes: p.NearEye, Lips: p.mouth()}
			step.Minutes += s.WaitS / 60
			last = b.add(step, atChair(seat, link()...))
			if p.stretched() {
				out.stretch = last
			}
		case "colour on the face", "colour under":
			step.ID, step.Kind, step.Text = id("colour"), "colour", "Colour "+p.Code
			step.Minutes += s.WaitS / 60
			step.Keep.Lips = p.mouth()
			if p.NearEye {
				step.Caution = append(slices.Clone(step.Caution), "On the rim of the eye only cosmetics that are sold for it.")
			}
			last = b.add(step, atChair(seat, link()...))
			if p.mouth() {
				b.steps[last] = b.dryLips(b.steps[last])
			}
		case "hair on the face":
			step.ID, step.Kind, step.Text = id("hair"), "hair", "Lay the hair of "+p.Code
			last = b.add(step, atChair(seat, link()...))
		case "powder":
			if !ending(steps[i:]) { // it sets what more is built on
				step.ID, step.Kind, step.Text = id("powder"), "powder", "Powder "+p.Code
				last = b.add(step, atChair(seat, link()...))
				continue
			}
			at, key := last, id("powder")
			out.powder = append(out.powder, func() { b.powder(p, step, key, at, seat) })
		case "wet look", "blood":
			at, key, kind := last, id(map[string]string{"wet look": "finish", "blood": "blood"}[s.Act]), map[string]string{"wet look": "finish", "blood": "blood"}[s.Act]
			step.Text = map[string]string{"wet look": "Wet look on ", "blood": "Blood on "}[s.Act] + p.Code
			out.shine = append(out.shine, func() {
				step.ID, step.Kind = key, kind
				b.add(step, atChair(seat, append(after(at), after(b.lasts()...)...)...))
			})
		default:
			step.ID, step.Kind, step.Text = id("build"), "build", p.Code+": "+s.Text
			step.Minutes += s.WaitS / 60
			step.Keep = Keep{Eyes: p.NearEye, Lips: p.mouth()}
			last = b.add(step, atChair(seat, link()...))
		}
	}
	return out
}

// ending says whether nothing is built or coloured any more.
func ending(steps []section.Step) bool {
	return !slices.ContainsFunc(steps, func(s section.Step) bool { return s.Act != "powder" && s.Act != "wet look" && s.Act != "blood" })
}

// dryLips says that lips stay open until what is on them is dry.
func (b *builder) dryLips(s Step) Step {
	s.How += fmt.Sprintf(" Lips stay open until it is dry, about %.0f min.", lipsDryMin)
	return s
}

// gathered puts steps of one act that follow each other into one.
func gathered(steps []section.Step) []section.Step {
	var out []section.Step
	for _, s := range steps {
		if s.Where != "chair" {
			continue
		}
		if n := len(out) - 1; n >= 0 && out[n].Act == s.Act {
			out[n].HandsS, out[n].WaitS = out[n].HandsS+s.HandsS, out[n].WaitS+s.WaitS
			out[n].Text += " " + s.Text
			out[n].Layers = append(slices.Clone(out[n].Layers), s.Layers...)
			for _, c := range s.Cautions {
				if !slices.Contains(out[n].Cautions, c) {
					out[n].Cautions = append(slices.Clone(out[n].Cautions), c)
				}
			}
			continue
		}
		out = append(out, s)
	}
	return out
}

// window is when a glue of a piece grips, in the state in which it is fitted; nil where its kind is not known, or
// nothing dries in this air.
func (b *builder) window(p Piece, g Glue) *Window {
	state := cmp.Or(b.c.Fit[p.Code], g.Layer.Fit, g.Kind.States[0])
	if !slices.Contains(g.Kind.States, state) {
		state = g.Kind.States[0]
	}
	w, err := fit.WindowOf(fit.Coat{Adhesive: g.Kind.ID, State: state, RoomC: b.d.RoomC, RH: b.d.RoomRH, Air: cmp.Or(b.d.Air, "still"), CoatMM: g.Kind.CoatMM})
	if err != nil {
		return nil
	}
	return &Window{Adhesive: g.Product.Name, State: state, FromMin: w.Earliest / 60, UntilMin: w.Latest / 60, MoveS: w.MoveS, PressS: w.PressS, Warnings: w.Warnings}
}

func (b *builder) glue(p Piece, s Step, id string, first []fit.After) string {
	s.ID, s.Kind, s.Text = id, "glue", "Glue for "+p.Code
	if glues := p.Glues(b.shelf); len(glues) > 0 {
		s.Window = b.window(p, glues[0])
		s.Text = glues[0].Product.Name + " for " + p.Code
		if s.Window != nil {
			// The clock begins when the last of it is on; what was laid first still has to grip.
			s.Window.UntilMin = math.Max(s.Window.FromMin, s.Window.UntilMin-b.takes(s))
		}
	}
	s.Keep = Keep{Eyes: p.NearEye, Lips: p.mouth()}
	switch spread := p.spread(Glue{}); {
	case p.mouth():
		s.Twice = "two coats all over: the mouth moves it"
	case spread.DoubleCM2 > 0:
		s.Twice = "two coats on the quarter that stretches most, and one round the rim more"
	default:
		s.Twice = "one coat, and one round the rim more; none on the brow or by the eye"
	}
	return b.add(s, atChair(p.seat(), first...))
}

func (b *builder) place(p Piece, glue, id string) string {
	s := Step{ID: id, Kind: "place", Text: "Place " + p.Code + ", " + p.Name, Piece: p.Code, Glue: glue, Keep: Keep{Eyes: p.NearEye, Lips: p.mouth(), Still: true},
		Why: "The middle first, then outward: what is lined up there cannot wander.", How: "Openings first, then from the middle outward, eyes last. Press with a flat hand, do not rub. Lift a corner with a fingernail: it must not come."}
	glued := b.steps[glue]
	s.Minutes = alignMin + markMin*float64(len(p.Marks))
	if glues := p.Glues(b.shelf); len(glues) > 0 {
		s.Minutes += fit.NeedOf(p.spread(glues[0])).PressMin
	}
	for _, mark := range fit.PlaceOrder(p.Marks, nil).Order {
		s.Marks = append(s.Marks, cmp.Or(p.Names[mark], mark))
	}
	link := fit.After{ID: glue}
	if w := glued.Window; w != nil {
		s.Window = w
		until := math.Max(w.FromMin, w.UntilMin)
		link.WaitMin, link.Within = w.FromMin, &until
	}
	return b.add(s, atChair(p.seat(), link))
}

// powder sheds: what is finished is guarded before it where anything glitters, and looked at again after.
func (b *builder) powder(p Piece, s Step, id, last, seat string) {
	s.ID, s.Kind, s.Text = id, "powder", "Powder "+p.Code
	first := after(last)
	for _, a := range b.acts { // colour and hair of the others lie before any powder
		if k := b.steps[a.ID].Kind; k == "colour" || k == "hair" {
			first = append(first, fit.After{ID: a.ID})
		}
	}
	if glitter := b.glitter(p); glitter != "" {
		if _, there := b.steps["shed"]; !there {
			b.add(Step{ID: "shed", Kind: "shed", Text: "Guard what is finished, then clean up after", How: "Tissue over lashes, lips and finished colour before " + glitter + " and powder; brush off after. Look at both lash corners again: they lift.",
				Why: "Loose powder catches glitter, and lashes turn white.", Minutes: shedMin, Keep: Keep{Eyes: true}}, atChair("", first...))
		}
		first = after("shed")
	}
	s.Keep = Keep{Eyes: p.NearEye, Lips: p.mouth()}
	b.add(s, atChair(seat, first...))
}

func (b *builder) glitter(p Piece) (name string) {
	p.Doc.All(func(_ section.Cut, _ int, l section.Layer) {
		if product := b.shelf[l.Material]; product.Family == material.Glitter {
			name = product.Name
		}
	})
	return name
}

func (b *builder) extras() error {
	for i, x := range b.c.Extra {
		first := after("skin")
		if x.After != "" {
			if _, known := b.steps[x.After]; !known {
				return refusal.New(refusal.UnknownValue, fmt.Sprintf("extra[%d].after", i), "This morning has no step %s.", x.After)
			}
			first = after(x.After)
		}
		if _, twice := b.steps[x.ID]; twice || x.ID == "" {
			return refusal.New(refusal.Contradiction, fmt.Sprintf("extra[%d].id", i), "Each step needs a name of its own.")
		}
		s := Step{ID: x.ID, Kind: "extra", Text: x.Text, Minutes: x.Minutes + x.DryMin, Why: "added for this morning"}
		if x.Mouth {
			s.Keep.Lips = true
			s.How = fmt.Sprintf("Lips stay open until it is dry, %.0f min.", x.DryMin)
		}
		b.add(s, atChair("", first...))
	}
	return nil
}

// reorder adds what somebody wants before something else, and says it with the step.
func (b *builder) reorder() error {
	for i, o := range b.c.Order {
		at := slices.IndexFunc(b.acts, func(a fit.Activity) bool { return a.ID == o.Next })
		if _, known := b.steps[o.First]; !known || at < 0 {
			continue // of a piece that is no longer in this kit
		}
		if o.First == o.Next {
			return refusal.New(refusal.Contradiction, fmt.Sprintf("order[%d]", i), "A step cannot come before itself.")
		}
		b.acts[at].After = append(b.acts[at].After, fit.After{ID: o.First})
		if o.Why != "" {
			s := b.steps[o.Next]
			s.Why = strings.TrimSpace(s.Why + " After " + strings.ToLower(b.steps[o.First].Text[:1]) + b.steps[o.First].Text[1:] + ": " + o.Why + ".")
			b.steps[o.Next] = s
		}
	}
	return nil
}

// rest puts a break of the wearer between gluing and colouring.
func (b *builder) rest() {
	var before []string
	for _, a := range b.acts {
		if k := b.steps[a.ID].Kind; k == "edge" || k == "place" || k == "barrier" || k == "stretch" || k == "build" {
			before = append(before, a.ID)
		}
	}
	b.add(Step{ID: "rest", Kind: "rest", Text: "A break for the wearer", How: "Stand up, walk, drink through a straw, look at the mirror.", Why: "Nobody sits longer than two hours at a stretch.", Minutes: restMin,
		Keep: Keep{Breaks: true, Ask: true}}, fit.Activity{Chair: true, Rest: true, After: after(before...)})
	for i, a := range b.acts {
		if k := b.steps[a.ID].Kind; k == "colour" || k == "hair" || k == "powder" || k == "last" || k == "finish" || k == "blood" || k == "lenses" && b.c.Lenses == "end" {
			b.acts[i].After = append(slices.Clone(a.After), fit.After{ID: "rest"})
		}
	}
}

// Told is what the wearer is told, and from when to when.
type Told struct {
	Text  string  `json:"text"`
	From  float64 `json:"from_min"`
	Until float64 `json:"until_min"`
}

// Tell gathers for the wearer's card when eyes are shut and when lips stay open, and when they are asked.
func (r Run) Tell() []Told {
	out := []Told{}
	for _, of := range []struct {
		text string
		is   func(Keep) bool
	}{{"Eyes shut and relaxed", func(k Keep) bool { return k.Eyes }}, {"Lips a little open and dry: no talking, eating or drinking", func(k Keep) bool { return k.Lips }},
		{"Draw the skin taut when asked", func(k Keep) bool { return k.Frown }}, {"A break: stand up and drink", func(k Keep) bool { return k.Breaks }}} {
		var spans [][2]float64
		for _, s := range r.Steps {
			if !of.is(s.Keep) {
				continue
			}
			if n := len(spans) - 1; n >= 0 && s.Start <= spans[n][1]+0.5 {
				spans[n][1] = math.Max(spans[n][1], s.Start+s.Minutes)
				continue
			}
			spans = append(spans, [2]float64{s.Start, s.Start + s.Minutes})
		}
		for _, span := range spans {
			out = append(out, Told{of.text, span[0], span[1]})
		}
	}
	slices.SortStableFunc(out, func(a, b Told) int { return cmp.Compare(a.From, b.From) })
	return out
}

// Clock is a minute of the day as a clock shows it; those below zero are the evening before.
func Clock(minute float64) string {
	m := int(math.Floor(minute + 1e-6))
	m = ((m % 1440) + 1440) % 1440
	return fmt.Sprintf("%02d:%02d", m/60, m%60)
}
