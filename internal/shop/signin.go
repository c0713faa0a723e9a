package shop

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/device"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

type clockView struct {
	Now      time.Time `json:"now"`
	Settable bool      `json:"settable" doc:"true in the demo"`
}

type signedIn struct {
	Person *accounts.Person `json:"person,omitempty"`
	Demo   bool             `json:"demo"`
	// Devices are those that are there; what is not is typed.
	Devices []string `json:"devices" enum:"scale,room,probe,reader,forecast"`
}

func (s *Shop) registerSignIn(api huma.API) {
	web.Get(api, "/api/me", "Who is signed in", web.Everyone, func(ctx context.Context, _ *struct{}) (signedIn, error) {
		out := signedIn{Demo: s.Config.Demo, Devices: s.devices()}
		if p, ok := accounts.From(ctx); ok {
			out.Person = &p
		}
		return out, nil
	})
	web.Get(api, "/api/sign-in/people", "The demo people; empty in a real installation", web.Everyone, func(ctx context.Context, _ *struct{}) ([]accounts.Person, error) {
		if !s.Config.Demo {
			return []accounts.Person{}, nil
		}
		return s.Accounts.People(ctx)
	})
	huma.Register(api, huma.Operation{OperationID: "sign-in", Method: http.MethodPost, Path: "/api/sign-in", Summary: "Sign in", Tags: []string{"sign-in"}, Metadata: web.Open, Errors: []int{401, 422}}, func(ctx context.Context, in *struct {
		Body struct {
			Login    string `json:"login" maxLength:"64"`
			Password string `json:"password,omitempty" maxLength:"200"`
		}
	}) (*cookieAnswer, error) {
		p, c, err := s.Accounts.SignIn(ctx, in.Body.Login, in.Body.Password)
		if err != nil {
			return nil, problem.From(err)
		}
		return &cookieAnswer{SetCookie: c, Body: signedIn{Person: &p, Demo: s.Config.Demo, Devices: s.devices()}}, nil
	})
	huma.Register(api, huma.Operation{OperationID: "sign-out", Method: http.MethodPost, Path: "/api/sign-out", Summary: "Sign out", Tags: []string{"sign-in"}, Metadata: web.Open}, func(ctx context.Context, _ *struct{}) (*cookieAnswer, error) {
		c, err := s.Accounts.SignOut(ctx)
		return &cookieAnswer{SetCookie: []http.Cookie{c}, Body: signedIn{Demo: s.Config.Demo, Devices: s.devices()}}, err
	})
	web.Get(api, "/api/people", "Who may sign in", web.Makers, func(ctx context.Context, _ *struct{}) ([]accounts.Person, error) { return s.Accounts.People(ctx) })
	web.Delete(api, "/api/people/{id}", "Close an account", web.Leads, func(ctx context.Context, in *web.ByID) ([]accounts.Person, error) {
		left, err := s.Accounts.Close(ctx, in.ID)
		if err == nil {
			s.Live.Tell(ctx, "sign-in", "")
		}
		return left, err
	})
	web.Post(api, "/api/people", "Make an account, or open a closed one again with a new password", web.Leads, func(ctx context.Context, in *struct {
		Body struct {
			Login    string        `json:"login" minLength:"1" maxLength:"64"`
			Name     string        `json:"name" minLength:"1" maxLength:"120"`
			Role     accounts.Role `json:"role" enum:"lead,fabricator,apprentice"`
			Password string        `json:"password" maxLength:"200"`
		}
	}) ([]accounts.Person, error) {
		b := in.Body
		if _, err := s.Accounts.AddOrReopen(ctx, b.Login, b.Name, b.Role, b.Password); err != nil {
			return nil, err
		}
		s.Live.Tell(ctx, "sign-in", "")
		return s.Accounts.People(ctx)
	})
	web.Put(api, "/api/me/password", "Change one's own password", web.Makers, func(ctx context.Context, in *struct {
		Body struct {
			Old      string `json:"old" maxLength:"200"`
			Password string `json:"password" maxLength:"200"`
		}
	}) (web.Done, error) {
		err := s.Accounts.ChangePassword(ctx, in.Body.Old, in.Body.Password)
		if err == nil {
			s.Live.Tell(ctx, "sign-in", "")
		}
		return web.Done{OK: err == nil}, err
	})
	web.Get(api, "/api/sign-ins", "What is signed in: a lead sees everybody's, others their own", web.Makers, func(ctx context.Context, _ *struct{}) ([]accounts.SignedIn, error) {
		return s.Accounts.SignIns(ctx)
	})
	web.Delete(api, "/api/sign-ins/{id}", "End a sign-in at once: one's own, or anybody's for a lead", web.Makers, func(ctx context.Context, in *web.ByID) ([]accounts.SignedIn, error) {
		left, err := s.Accounts.EndSignIn(ctx, in.ID)
		if err == nil {
			s.Live.Tell(ctx, "sign-in", "")
		}
		return left, err
	})
	web.Get(api, "/api/clock", "The bench time", web.Everyone, func(context.Context, *struct{}) (clockView, error) {
		return clockView{s.Clock.Now(), s.Config.Demo}, nil
	})
	web.Post(api, "/api/clock/forward", "Let time pass in the demo", web.Makers, func(ctx context.Context, in *struct {
		Body struct {
			Seconds float64 `json:"seconds" minimum:"0" maximum:"604800"`
		}
	}) (clockView, error) {
		bench, ok := s.Clock.(*clock.Bench)
		if !ok || !s.Config.Demo {
			return clockView{}, problem.Conflict("real_clock", "Here the clock is the real one.")
		}
		bench.Forward(time.Duration(in.Body.Seconds * float64(time.Second)))
		if err := errors.Join(s.KeepClock(ctx), s.Build.Air.CatchUp(ctx)); err != nil {
			return clockView{}, err
		}
		s.Live.Tell(ctx, "clock", "")
		return clockView{s.Clock.Now(), true}, nil
	})
}

// devices are those that this shop has.
func (s *Shop) devices() []string {
	out := []string{}
	for _, d := range []struct {
		name string
		none bool
	}{
		{"scale", s.Mix.Scale == device.Scale(device.NoScale{})}, {"room", s.Build.Air.Sensor == device.RoomSensor(device.NoRoom{})},
		{"probe", s.Build.Air.Probe == device.PlaceProbe(device.NoProbe{})},
		{"reader", s.Brief.Reader == device.ColourReader(device.NoReader{})}, {"forecast", s.Brief.Forecast == device.Forecast(device.NoForecast{})},
	} {
		if !d.none {
			out = append(out, d.name)
		}
	}
	return out
}

type cookieAnswer struct {
	SetCookie []http.Cookie `header:"Set-Cookie"`
	Body      signedIn
}
