package web

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"log/slog"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// KeyHeader carries the key of an act, a UUID. One that is sent again with its
// key, because no answer came, is answered as the first time and not done
// again.
const KeyHeader = "Idempotency-Key"

// largestAnswer is the longest answer that is kept for whoever asks again, in
// bytes; without one the screen is read anew.
const largestAnswer = 1 << 20

// once makes every act that comes with a key count once.
func once(db *database.DB) gin.HandlerFunc {
	return func(c *gin.Context) {
		id := c.GetHeader(KeyHeader)
		// Signing in and out answer with a cookie, which no kept answer carries.
		if id == "" || c.Request.Method == http.MethodGet || c.Request.Method == http.MethodHead || strings.HasPrefix(c.Request.URL.Path, "/api/sign-") {
			return
		}
		if _, err := uuid.Parse(id); err != nil || len(id) != 36 {
			refuse(c, problem.Invalid("invalid", "", "The request has no proper key; reload the page and try again."))
			return
		}
		ctx := c.Request.Context()
		who, _ := accounts.From(ctx)
		// A hash, since the address of an artist's page is its key.
		address := sha256.Sum256([]byte(c.Request.URL.Path))
		key := database.Key{ID: strings.ToLower(id), Person: who.ID, What: c.Request.Method + " " + hex.EncodeToString(address[:])}
		answer, found, err := db.Answered(ctx, key)
		switch {
		case err != nil:
			slog.ErrorContext(ctx, "looking a key up", "error", err)
			refuse(c, problem.Away())
			return
		case found && answer != nil:
			c.Data(http.StatusOK, "application/json", answer)
			c.Abort()
			return
		case found:
			refuse(c, database.Done())
			return
		}
		ctx, kept := database.Watching(ctx)
		c.Request = c.Request.WithContext(database.WithKey(ctx, key))
		heard := &hearing{ResponseWriter: c.Writer}
		c.Writer = heard
		c.Next()
		// A fresh link to a kit is seen once, and nowhere written down.
		if kept() && c.Writer.Status() == http.StatusOK && heard.body.Len() <= largestAnswer && !strings.HasSuffix(c.FullPath(), "/links") {
			if err := db.KeepAnswer(context.WithoutCancel(ctx), key, heard.body.Bytes()); err != nil {
				slog.WarnContext(ctx, "keeping an answer", "error", err)
			}
		}
	}
}

// hearing is a writer that remembers what was written, up to largestAnswer and
// a byte.
type hearing struct {
	gin.ResponseWriter
	body bytes.Buffer
}

// Unwrap lets the line's deadlines be reached.
func (w *hearing) Unwrap() http.ResponseWriter { return w.ResponseWriter }

func (w *hearing) Write(b []byte) (int, error) {
	w.body.Write(b[:min(len(b), largestAnswer+1-w.body.Len())])
	return w.ResponseWriter.Write(b)
}

func (w *hearing) WriteString(s string) (int, error) { return w.Write([]byte(s)) }
