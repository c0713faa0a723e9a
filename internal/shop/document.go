package shop

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"testing/fstest"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/device"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/mix"
)

// AccessTable is who may call what, as Markdown: the operations of the API and
// the plain handlers, one a line.
func AccessTable() ([]byte, error) {
	s := bare()
	e, api, err := s.routes(fstest.MapFS{})
	if err != nil {
		return nil, err
	}
	type line struct{ path, method, what, who string }
	var lines []line
	add := func(method, path, what string, access web.Access) {
		lines = append(lines, line{path, method, what, access.Table()})
	}
	for path, item := range api.OpenAPI().Paths {
		for method, op := range map[string]*huma.Operation{"GET": item.Get, "POST": item.Post, "PUT": item.Put, "DELETE": item.Delete} {
			if op != nil {
				add(method, path, op.Summary, web.AccessOf(op))
			}
		}
	}
	for _, p := range e.Plains {
		add(p.Method, p.Path, p.Summary, p.Access)
	}
	slices.SortFunc(lines, func(a, b line) int {
		return cmp.Or(cmp.Compare(a.path, b.path), cmp.Compare(a.method, b.method))
	})
	var out bytes.Buffer
	out.WriteString("# Who may\n\nWritten by `yewmoor access` from the code; `make api` renews it. Without a session only the lines with *anybody* answer;\nthose under `/api/artist` ask for a link that is neither withdrawn nor run out, and show its kit only.\n\n")
	out.WriteString("| operation | what | lead | fabricator | apprentice | anybody |\n|---|---|:-:|:-:|:-:|:-:|\n")
	for _, l := range lines {
		fmt.Fprintf(&out, "| `%s %s` | %s | %s |\n", l.method, l.path, l.what, l.who)
	}
	return out.Bytes(), nil
}

// bare is a shop without a database, enough to register operations.
func bare() *Shop {
	return &Shop{Accounts: &accounts.Service{}, Pieces: &piece.Service{},
		Mix:   &mix.Service{Scale: device.NewSimulatedScale(1, time.Now)},
		Build: &build.Service{Air: &build.Air{Sensor: device.NewSimulatedRoom(1)}}}
}

// Document is the OpenAPI document. Registering operations touches no
// database, so none is needed.
func Document() ([]byte, error) {
	_, api, err := bare().routes(fstest.MapFS{})
	if err != nil {
		return nil, err
	}
	raw, err := json.Marshal(api.OpenAPI())
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err = json.Indent(&out, raw, "", "  ")
	out.WriteByte('\n')
	return out.Bytes(), err
}
