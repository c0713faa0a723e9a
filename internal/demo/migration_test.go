package demo_test

import (
	"compress/gzip"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/trace"
	"yewmoor/internal/demo"
	"yewmoor/internal/device"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/check"
)

// older is a shop on the database of an older version with the demo in it, as
// mariadb-dump wrote it, brought forward.
func older(t *testing.T, dump string) (*shop.Shop, *clock.Fixed) {
	t.Helper()
	dsn := dbtest.DSN(t)
	c, err := database.ParseDSN(dsn)
	require.NoError(t, err)
	f, err := os.Open(filepath.Join("testdata", dump))
	require.NoError(t, err)
	defer f.Close()
	sql, err := gzip.NewReader(f)
	require.NoError(t, err)
	host, port, _ := strings.Cut(c.Addr, ":")
	client := exec.CommandContext(t.Context(), "mariadb", "--protocol=tcp", "--host="+host, "--port="+port, "--user="+c.User, "--default-character-set=utf8mb4", c.DBName)
	client.Env = append(os.Environ(), "MYSQL_PWD="+c.Passwd)
	client.Stdin = sql
	out, err := client.CombinedOutput()
	require.NoError(t, err, string(out))
	db, err := database.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	before, err := db.Version(t.Context())
	require.NoError(t, err)
	require.NoError(t, db.Migrate(t.Context()))
	after, err := db.Version(t.Context())
	require.NoError(t, err)
	require.Greater(t, after, before)
	at := clock.NewFixed(demo.Start)
	s, err := shop.New(t.Context(), shop.Config{PublicURL: "http://yewmoor.test", FilesDir: filepath.Join(t.TempDir(), "files"), Demo: true}, db, at, device.NewSimulatedScale(7, time.Now), device.NewSimulatedRoom(3))
	require.NoError(t, err)
	return s, at
}

// An older shop goes forward with everything that was in it: documents, drafts,
// runs with their mixes, copies in every state, coats that still dry, readings,
// kits and where every gram went; and its work goes on.
func TestAnOlderShopGoesForward(t *testing.T) {
	s, at := older(t, "schema-7.sql.gz")
	ivo := accounts.With(t.Context(), who(t, s, "ivo"))
	maud := accounts.With(t.Context(), who(t, s, "maud"))

	// Documents: agreed versions, drafts with their steps, and who signed.
	p, err := piece.Find(t.Context(), s.DB, "BF-03")
	require.NoError(t, err)
	assert.Equal(t, 2, p.SectionNumber)
	assert.Equal(t, 1, p.BriefNumber)
	v, err := s.Pieces.Section(ivo, "BF-03")
	require.NoError(t, err)
	assert.True(t, v.State.Drafted, "Ivo's draft is still his")
	assert.Equal(t, 5.0, v.Doc.Layers[4].CentreMM)
	_, err = s.Pieces.WalkSection(ivo, "FT-01", -1)
	assert.Error(t, err, "one step has none before it")

	// Runs, copies and the version that each was made on.
	runs, err := s.Build.Runs(t.Context(), "BF-03")
	require.NoError(t, err)
	require.Len(t, runs, 3)
	state := map[string]copies.State{}
	var all []struct {
		Code    string
		State   copies.State
		Section int
	}
	require.NoError(t, s.DB.Select(&all, `SELECT code, state, COALESCE(section_number, 0) AS section FROM copy`))
	for _, c := range all {
		state[c.Code] = c.State
		assert.Positive(t, c.Section, c.Code)
	}
	assert.Equal(t, map[string]copies.State{"BF-01-a": copies.HandedOver, "BF-03-a": copies.Scrapped, "BF-03-b": copies.Accepted, "BF-03-c": copies.Made, "BF-03-d": copies.Making,
		"PK-01-a": copies.Made, "PK-01-b": copies.Making, "GC-01-a": copies.Making, "NM-01-L-a": copies.Making}, state)
	for _, r := range runs {
		assert.Len(t, r.Mixes, 1, r.Code)
		assert.Equal(t, "body", r.Mixes[0].Role)
	}

	// What was weighed is still found from both ends.
	into, err := s.Stores.Trace(t.Context(), trace.Node{Kind: "copy", Code: "BF-03-b"}, trace.Backward)
	require.NoError(t, err)
	assert.Contains(t, into["lot"], "24-117")
	kit, err := s.Handover.Kit(t.Context(), "K-001")
	require.NoError(t, err)
	assert.Equal(t, "Jun Abbot", kit.Artist)

	// The latex coat that dries goes on: it is lifted, finished and judged.
	at.Set(demo.Start.Add(8 * time.Hour))
	shelf, err := s.Build.Shelf(t.Context())
	require.NoError(t, err)
	lifted := false
	for _, pot := range shelf {
		if pot.Piece == "NM-01-L" {
			_, err := s.Build.TakeOut(ivo, pot.ID, build.Out{})
			require.NoError(t, err)
			lifted = true
		}
	}
	require.True(t, lifted)
	c, err := copies.Find(t.Context(), s.DB, "NM-01-L-a")
	require.NoError(t, err)
	assert.Equal(t, copies.Made, c.State)
	// The next copy and the next run have numbers of their own.
	r, err := s.Build.Begin(maud, build.NewRun{Piece: "NM-01-L", Copies: 1, Key: "8f3d5f9e-0b7a-4a3e-9a51-0f6f1d4f7a10"})
	require.NoError(t, err)
	assert.Equal(t, "R-0009", r.Code)
	assert.Equal(t, "NM-01-L-b", r.Copies[0].Code)

	// A half-finished copy still has its list, and its colour reading.
	var reading int
	require.NoError(t, s.DB.Get(&reading, `SELECT COUNT(*) FROM finish_tick t JOIN reading g ON g.id = t.reading_id AND g.subject = 'copy' AND g.subject_id = t.copy_id`))
	assert.Equal(t, 3, reading)
	outcome, err := s.Check.Judge(maud, "PK-01-a", check.NewVerdict{Verdict: "repair", Reason: "seam at the ear"})
	require.NoError(t, err)
	assert.Equal(t, copies.Repair, outcome.State)
}
