// Package house holds the check that keeps every room in its place: which
// package may import which. See docs/architecture.md.
package house

import (
	"encoding/json"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const root = "yewmoor/internal/"

// allowed says what a floor of the house may import of the others. A station
// never imports another: shop wires them.
//
// The spine of nouns stands between the platform and the rooms: documents and
// people know no piece, copies know no section, and only the piece knows them
// all.
var allowed = map[string][]string{
	"craft":      {"craft"},
	"platform":   {"platform", "craft/refusal"},
	"journal":    {"platform"},
	"device":     {"craft"},
	"paper":      {"craft"},
	"round":      {"platform"},
	"shelf":      {"craft", "platform"},
	"document":   {"journal", "platform"},
	"production": {"journal", "platform"},
	"recipes":    {"shelf", "document", "journal", "craft", "platform"},
	"people":     {"shelf", "journal", "craft", "platform"},
	"copies":     {"round", "journal", "craft/making", "craft/finish/work", "platform"},
	"work":       {"journal", "craft", "platform"},
	"piece":      {"round", "shelf", "document", "production", "people", "copies", "journal", "craft", "paper", "platform"},
	"station":    {"piece", "work", "recipes", "round", "shelf", "document", "production", "people", "copies", "journal", "craft", "device", "paper", "platform"},
}

// free may import anything: they put the house together.
var free = []string{"shop", "demo", "house"}

// craftOutside is all that the heart may use from outside this module.
var craftOutside = []string{"gonum.org/v1/gonum"}

type pkg struct {
	ImportPath string
	Imports    []string
	Standard   bool
}

func list(t *testing.T) []pkg {
	out, err := exec.Command("go", "list", "-json=ImportPath,Imports", "yewmoor/...").Output()
	require.NoError(t, err)
	var all []pkg
	for dec := json.NewDecoder(strings.NewReader(string(out))); dec.More(); {
		var p pkg
		require.NoError(t, dec.Decode(&p))
		all = append(all, p)
	}
	return all
}

func floor(path string) string { return strings.SplitN(strings.TrimPrefix(path, root), "/", 2)[0] }

func TestTheImportDirectionsHold(t *testing.T) {
	packages := list(t)
	require.Greater(t, len(packages), 30)
	for _, p := range packages {
		if !strings.HasPrefix(p.ImportPath, root) {
			continue
		}
		from := floor(p.ImportPath)
		rules, known := allowed[from]
		if !known {
			assert.Contains(t, free, from, "%s stands on no known floor", p.ImportPath)
			continue
		}
		for _, imported := range p.Imports {
			if wrong := judge(p.ImportPath, from, imported, rules); wrong != "" {
				t.Errorf("%s imports %s: %s", p.ImportPath, imported, wrong)
			}
		}
	}
}

func judge(path, from, imported string, rules []string) string {
	if !strings.HasPrefix(imported, "yewmoor/") {
		isOutside := strings.Contains(strings.SplitN(imported, "/", 2)[0], ".")
		if from == "craft" && isOutside && !strings.HasPrefix(imported, craftOutside[0]) {
			return "the craft uses the standard library and gonum only"
		}
		return forbiddenInCraft(from, imported)
	}
	to := strings.TrimPrefix(imported, root)
	for _, r := range rules {
		if to == r || strings.HasPrefix(to, r+"/") {
			return ""
		}
	}
	if from == "station" && floor(imported) == "station" {
		return "stations never import each other; declare an interface and let shop wire it"
	}
	return "this way no import points"
}

// forbiddenInCraft keeps clock, I/O, SQL, HTTP and logging out of the heart.
func forbiddenInCraft(from, imported string) string {
	if from != "craft" {
		return ""
	}
	for _, no := range []string{"time", "os", "net", "net/http", "database/sql", "log", "log/slog", "io/fs", "math/rand", "math/rand/v2"} {
		if imported == no {
			return "the craft has no clock, no I/O and no chance"
		}
	}
	return ""
}

// The check itself must be able to fail.
func TestTheCheckFindsWrongImports(t *testing.T) {
	assert.NotEmpty(t, judge(root+"craft/mix", "craft", root+"piece", allowed["craft"]))
	assert.NotEmpty(t, judge(root+"craft/mix", "craft", "time", allowed["craft"]))
	assert.NotEmpty(t, judge(root+"craft/mix", "craft", "github.com/x/y", allowed["craft"]))
	assert.NotEmpty(t, judge(root+"station/mix", "station", root+"station/build", allowed["station"]))
	assert.NotEmpty(t, judge(root+"platform/web", "platform", root+"piece", allowed["platform"]))
	assert.NotEmpty(t, judge(root+"document", "document", root+"piece", allowed["document"]))
	assert.NotEmpty(t, judge(root+"people", "people", root+"copies", allowed["people"]))
	assert.NotEmpty(t, judge(root+"copies", "copies", root+"craft/section", allowed["copies"]))
	assert.Empty(t, judge(root+"station/mix", "station", root+"craft/mix", allowed["station"]))
}

var uiImport = regexp.MustCompile(`from "((?:\.\./)+)([a-z]+)(?:/([a-z]+))?`)

// The interface has the same order: a room reaches into no other room, and what
// rooms share reaches into none.
func TestNoRoomOfTheInterfaceReachesIntoAnother(t *testing.T) {
	src := filepath.Join("..", "..", "ui", "src")
	seen := 0
	require.NoError(t, filepath.WalkDir(src, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".ts") && !strings.HasSuffix(path, ".tsx") {
			return err
		}
		from, err := filepath.Rel(src, path)
		if err != nil {
			return err
		}
		raw, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		at := strings.Split(filepath.ToSlash(from), "/")
		for _, m := range uiImport.FindAllStringSubmatch(string(raw), -1) {
			to := strings.Split(filepath.ToSlash(filepath.Clean(filepath.Join(filepath.Dir(from), m[1]+m[2], m[3]))), "/")
			seen++
			switch {
			case to[0] == "stations" && at[0] == "stations" && len(to) > 1 && to[1] != at[1]:
				t.Errorf("%s reaches into the room %s; what both need stands in app, parts or piece", from, to[1])
			case to[0] == "stations" && at[0] != "stations" && from != "app/App.tsx":
				t.Errorf("%s is shared by rooms and reaches into one", from)
			case to[0] == "piece" && at[0] == "parts":
				t.Errorf("%s draws, and knows no piece page", from)
			}
		}
		return nil
	}))
	assert.Greater(t, seen, 300, "imports are read at all")
}
