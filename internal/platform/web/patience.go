package web

import (
	"errors"
	"io"
	"net/http"
	"os"
	"sync/atomic"
	"time"

	"github.com/gin-gonic/gin"

	"yewmoor/internal/platform/problem"
)

const (
	// stillFor is how long a sender may send nothing: a phone at the edge of the
	// shop's radio is that slow, a dead line is for ever.
	stillFor = 30 * time.Second
	// wholeWithin is how long sending may take in all.
	wholeWithin = 10 * time.Minute
	bodyKey     = "body"
)

// body is a request's body that is not waited for without end.
type body struct {
	io.ReadCloser
	line   *http.ResponseController
	until  time.Time
	broken atomic.Bool
}

// patience puts deadlines on reading what is sent, none on answering it.
func patience(c *gin.Context) {
	if c.Request.Body == nil || c.Request.Body == http.NoBody {
		return
	}
	b := &body{ReadCloser: c.Request.Body, line: http.NewResponseController(c.Writer), until: time.Now().Add(wholeWithin)}
	readFrom(c, b)
	c.Set(bodyKey, b)
}

// readFrom has a request's body read through another reader. The server's own
// request keeps the body it knows: only by that does it see that one was left
// unread, and closes the line instead of taking the rest for the next request.
func readFrom(c *gin.Context, body io.ReadCloser) {
	c.Request = c.Request.WithContext(c.Request.Context())
	c.Request.Body = body
}

func (b *body) Read(p []byte) (int, error) {
	deadline := time.Now().Add(stillFor)
	if deadline.After(b.until) {
		deadline = b.until
	}
	// Without a deadline of its own, as in tests without a line, it is read as it is.
	_ = b.line.SetReadDeadline(deadline)
	if b.broken.Load() {
		return 0, given()
	}
	n, err := b.ReadCloser.Read(p)
	switch {
	case errors.Is(err, os.ErrDeadlineExceeded):
		return n, given()
	case err != nil:
		// What follows is not for us to hurry.
		_ = b.line.SetReadDeadline(time.Time{})
	}
	return n, err
}

func given() error {
	return problem.New(http.StatusRequestTimeout, "too_slow", "", "The line stood still, and the rest did not arrive. What arrived of a large file is kept; send the rest.")
}

// BreakOff ends the reading of a request's body, from another one.
func BreakOff(c *gin.Context) func() {
	held, _ := c.Get(bodyKey)
	b, ok := held.(*body)
	if !ok {
		return func() {}
	}
	return func() {
		b.broken.Store(true)
		_ = b.line.SetReadDeadline(time.Unix(1, 0))
	}
}
