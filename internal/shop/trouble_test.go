package shop

import (
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/platform/mariadb"
)

// line is a line to the database that the test can cut.
type line struct {
	mu       sync.Mutex
	to       string
	listener net.Listener
	open     []net.Conn
	cut      bool
}

// through puts a line in front of the database of dsn.
func through(t *testing.T, dsn string) (string, *line) {
	c, err := mysql.ParseDSN(dsn)
	require.NoError(t, err)
	l := &line{to: c.Addr}
	l.listener, err = net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { l.Cut(); _ = l.listener.Close() })
	go l.serve()
	c.Addr = l.listener.Addr().String()
	return c.FormatDSN(), l
}

func (l *line) serve() {
	for {
		in, err := l.listener.Accept()
		if err != nil {
			return
		}
		l.mu.Lock()
		out, err := net.Dial("tcp", l.to)
		if l.cut || err != nil {
			_ = in.Close()
			l.mu.Unlock()
			continue
		}
		l.open = append(l.open, in, out)
		l.mu.Unlock()
		for _, way := range [][2]net.Conn{{in, out}, {out, in}} {
			go func() {
				_, _ = io.Copy(way[0], way[1])
				_ = way[0].Close()
				_ = way[1].Close()
			}()
		}
	}
}

// Cut breaks what is open and refuses the rest.
func (l *line) Cut() {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.cut = true
	for _, c := range l.open {
		_ = c.Close()
	}
	l.open = nil
}

// Mend lets new connections through.
func (l *line) Mend() {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.cut = false
}

func TestTheDatabaseGoneForAWhile(t *testing.T) {
	dsn, line := through(t, dbtest.DSN(t))
	db, err := database.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	require.NoError(t, db.Migrate(t.Context()))
	b := newBenchOn(t, db, nil)
	b.stocked()
	v := b.weighed(b.begun())
	before := b.onHand("K-old", "A")
	line.Cut()
	body := map[string]any{"seq": v.Current, "key": key(), "typed": "9 g"}
	for _, login := range []string{"ivo", "nobody"} {
		no := b.as[login].no("POST", "/api/mixes/"+v.Code+"/weigh", body)
		if login == "ivo" {
			assert.Equal(t, "away", no.Code)
			assert.Equal(t, http.StatusServiceUnavailable, no.Status)
			assert.Contains(t, no.Detail, "Nothing of this was recorded")
		}
	}
	assert.Equal(t, http.StatusServiceUnavailable, b.as["nobody"].send("GET", "/readyz", nil, nil))
	assert.Equal(t, 200, b.as["nobody"].send("GET", "/healthz", nil, nil), "the server itself is well")
	line.Mend()
	b.as["ivo"].yes("POST", "/api/mixes/"+v.Code+"/weigh", body, nil)
	b.as["ivo"].yes("POST", "/api/mixes/"+v.Code+"/weigh", body, nil)
	assert.InDelta(t, before-9, b.onHand("K-old", "A"), 1e-9, "sent three times, drawn once")
}

// The line is cut at random moments while people write; what was answered
// with yes is there once, what was refused as away is not there.
func TestALineThatBreaksMidwayLosesNothingAnswered(t *testing.T) {
	dsn, line := through(t, dbtest.DSN(t))
	db, err := database.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	require.NoError(t, db.Migrate(t.Context()))
	b := newBenchOn(t, db, nil)
	code := b.begun()
	stop := make(chan struct{})
	var breaker sync.WaitGroup
	breaker.Add(1)
	go func() {
		defer breaker.Done()
		for {
			select {
			case <-stop:
				return
			case <-time.After(7 * time.Millisecond):
				line.Cut()
				time.Sleep(2 * time.Millisecond)
				line.Mend()
			}
		}
	}()
	said := map[string]string{}
	for i := range 120 {
		words := fmt.Sprintf("step %d", i)
		var r refused
		status := b.as["pip"].send("POST", "/api/pieces/"+code+"/notes", map[string]any{"words": words, "key": key()}, &r)
		if said[words] = r.Code; status == 200 {
			said[words] = "yes"
		}
	}
	close(stop)
	breaker.Wait()
	line.Mend()
	yes := 0
	for words, answer := range said {
		var n int
		require.NoError(t, b.s.DB.Get(&n, `SELECT COUNT(*) FROM journal WHERE words = ?`, words))
		switch answer {
		case "yes":
			yes++
			assert.Equal(t, 1, n, words)
		case "kept":
			assert.Equal(t, 1, n, words)
		case "away":
			assert.Zero(t, n, words)
		case "unsure":
			assert.LessOrEqual(t, n, 1, words)
		default:
			assert.Fail(t, "an answer nobody understands", "%s: %s", words, answer)
		}
	}
	assert.Positive(t, yes)
}

func TestAFullDatabaseKeepsWhatItHasAndSaysSo(t *testing.T) {
	dir := t.TempDir()
	ctx := context.Background()
	server, err := mariadb.Start(ctx, dir, append(mariadb.Throwaway, "--innodb-file-per-table=0", "--innodb-data-file-path=ibdata1:12M:autoextend:max:26M")...)
	require.NoError(t, err)
	defer func() { assert.NoError(t, server.Stop()) }()
	dsn, err := server.Create(ctx, "yewmoor_full")
	require.NoError(t, err)
	db, err := database.Open(ctx, dsn)
	require.NoError(t, err)
	defer db.Close()
	require.NoError(t, db.Migrate(ctx))
	b := newBenchOn(t, db, nil)
	code := b.begun()
	kept := 0
	var no refused
	for i := range 20_000 {
		body := map[string]any{"words": strings.Repeat("a long story ", 75) + fmt.Sprint(i), "key": key()}
		ctx := b.who["pip"]
		if err := b.s.Pieces.Note(ctx, code, body["words"].(string), body["key"].(string), 0); err != nil {
			no = b.as["pip"].no("POST", "/api/pieces/"+code+"/notes", body)
			break
		}
		kept++
	}
	assert.Equal(t, "full", no.Code)
	assert.Equal(t, http.StatusInsufficientStorage, no.Status)
	assert.Contains(t, no.Detail, "what was recorded before is kept")
	var n int
	require.NoError(t, db.Get(&n, `SELECT COUNT(*) FROM journal WHERE words LIKE 'a long story %'`))
	assert.Equal(t, kept, n)
	assert.Greater(t, kept, 100)
}
