package web

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
)

// ChangesHeader names, in the answer to an act, what the act told of:
// "section/BF-03,pieces". It is empty when nothing was recorded, and left out
// when something was recorded that nobody told of, so that whoever reads it
// reads everything again rather than showing what is stale.
const ChangesHeader = "Changes"

// namesChanges puts ChangesHeader on the answers to acts.
func namesChanges(c *gin.Context) {
	if c.Request.Method == http.MethodGet || c.Request.Method == http.MethodHead {
		return
	}
	ctx, kept := database.Watching(c.Request.Context())
	ctx, heard := live.Hearing(ctx)
	c.Request = c.Request.WithContext(ctx)
	c.Writer = &naming{c.Writer, func() (string, bool) {
		words := heard.String()
		return words, words != "" || !kept()
	}}
}

// naming is a writer that sets the header at the last moment.
type naming struct {
	gin.ResponseWriter
	changes func() (words string, known bool)
}

// Unwrap lets the line's deadlines be reached.
func (w *naming) Unwrap() http.ResponseWriter { return w.ResponseWriter }

func (w *naming) name() {
	if !w.Written() {
		if words, known := w.changes(); known {
			w.Header().Set(ChangesHeader, words)
		}
	}
}

func (w *naming) WriteHeaderNow() {
	w.name()
	w.ResponseWriter.WriteHeaderNow()
}

func (w *naming) Write(body []byte) (int, error) {
	w.name()
	return w.ResponseWriter.Write(body)
}

func (w *naming) WriteString(body string) (int, error) {
	w.name()
	return w.ResponseWriter.WriteString(body)
}
