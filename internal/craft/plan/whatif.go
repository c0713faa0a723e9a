package plan

import (
	"fmt"
	"slices"
)

// Change is a relaxation of an instance (section 9).
type Change struct {
	Type      string   `json:"type"` // add_person, add_mould, capacity, overtime, due
	Like      string   `json:"like,omitempty"`
	Resource  string   `json:"resource,omitempty"`
	Job       string   `json:"job,omitempty"`
	Add       int      `json:"add,omitempty"`
	From      int      `json:"from,omitempty"`
	To        int      `json:"to,omitempty"`
	Calendars []string `json:"calendars,omitempty"`
}

// With is the instance after a change; the one that it is made from is left alone.
func (in *Instance) With(c Change) (*Instance, *Error) {
	out := *in
	none := func() *Error {
		return invalid(ERef, []string{c.Like + c.Resource + c.Job}, "There is no %q to change.", c.Like+c.Resource+c.Job)
	}
	switch c.Type {
	case "add_person":
		i := slices.IndexFunc(in.People, func(p Person) bool { return p.ID == c.Like })
		if i < 0 {
			return nil, none()
		}
		p := in.People[i]
		p.ID = unused(c.Like, func(id string) bool { return slices.ContainsFunc(in.People, func(o Person) bool { return o.ID == id }) })
		out.People = append(slices.Clone(in.People), p)
		out.Steps = slices.Clone(in.Steps)
		for k, s := range out.Steps {
			if slices.Contains(s.People, c.Like) {
				out.Steps[k].People = append(slices.Clone(s.People), p.ID)
			}
		}
	case "add_mould":
		i := slices.IndexFunc(in.Resources, func(r Resource) bool { return r.ID == c.Like })
		if i < 0 {
			return nil, none()
		}
		r := in.Resources[i]
		r.ID = unused(c.Like, func(id string) bool {
			return slices.ContainsFunc(in.Resources, func(o Resource) bool { return o.ID == id })
		})
		r.Used, r.Down = 0, nil
		out.Resources = append(slices.Clone(in.Resources), r)
		out.Holds, out.Steps = slices.Clone(in.Holds), slices.Clone(in.Steps)
		for k, h := range out.Holds {
			if slices.Contains(h.choices(), c.Like) {
				out.Holds[k].AnyOf, out.Holds[k].Resource = append(slices.Clone(h.choices()), r.ID), ""
			}
		}
		for k, s := range out.Steps {
			out.Steps[k].Uses = slices.Clone(s.Uses)
			for n, u := range s.Uses {
				if list := (Hold{Resource: u.Resource, AnyOf: u.AnyOf}).choices(); slices.Contains(list, c.Like) {
					out.Steps[k].Uses[n].AnyOf, out.Steps[k].Uses[n].Resource = append(slices.Clone(list), r.ID), ""
				}
			}
		}
	case "capacity":
		i := slices.IndexFunc(in.Resources, func(r Resource) bool { return r.ID == c.Resource })
		if i < 0 {
			return nil, none()
		}
		out.Resources = slices.Clone(in.Resources)
		out.Resources[i].Capacity += c.Add
	case "overtime":
		out.Calendars = slices.Clone(in.Calendars)
		for k, cal := range out.Calendars {
			if len(c.Calendars) > 0 && !slices.Contains(c.Calendars, cal.ID) {
				continue
			}
			out.Calendars[k].Overtime = beside(cal, c.From, c.To)
		}
	case "due":
		i := slices.IndexFunc(in.Jobs, func(j Job) bool { return j.ID == c.Job })
		if i < 0 || in.Jobs[i].Due == nil {
			return nil, none()
		}
		out.Jobs = slices.Clone(in.Jobs)
		due := *in.Jobs[i].Due + c.Add
		out.Jobs[i].Due = &due
	default:
		return nil, invalid(EFormat, []string{c.Type}, "There is no change of the name %q.", c.Type)
	}
	return &out, nil
}

// beside adds the slots of [from, to) that a calendar has not yet to its overtime.
func beside(c Calendar, from, to int) []Interval {
	n := max(to, 1)
	for _, list := range [][]Interval{c.Regular, c.Overtime} {
		for _, v := range list {
			n = max(n, v[1])
		}
	}
	regular, over := filled(c.Regular, n), filled(c.Overtime, n)
	for t := max(from, 0); t < to; t++ {
		over[t] = !regular[t]
	}
	var out []Interval
	for t := 0; t < n; t++ {
		if !over[t] {
			continue
		}
		begin := t
		for t < n && over[t] {
			t++
		}
		out = append(out, Interval{begin, t})
	}
	return out
}

func unused(like string, taken func(string) bool) string {
	for n := 2; ; n++ {
		if id := fmt.Sprintf("%s (%d)", like, n); !taken(id) {
			return id
		}
	}
}

// WhatIf plans an instance after a change, from the plan as it stands: the answer is never worse.
func WhatIf(in *Instance, now *Plan, c Change, opt Options) (*Instance, *Plan, error) {
	changed, bad := in.With(c)
	if bad != nil {
		return nil, nil, bad
	}
	opt.From = now
	p, err := Solve(changed, opt)
	return changed, p, err
}
