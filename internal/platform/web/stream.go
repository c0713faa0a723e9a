package web

import (
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"yewmoor/internal/platform/accounts"
)

// Stream sends values of ch to the browser as server-sent events named event
// until the browser goes or ch closes. A comment every 20 s keeps the line up.
func Stream[T any](c *gin.Context, event string, ch <-chan T) error {
	h := c.Writer.Header()
	h.Set("Content-Type", "text/event-stream")
	h.Set("Cache-Control", "no-cache")
	h.Set("X-Accel-Buffering", "no")
	c.Status(http.StatusOK)
	_, _ = fmt.Fprint(c.Writer, ": open\n\n")
	c.Writer.Flush()
	beat := time.NewTicker(20 * time.Second)
	defer beat.Stop()
	// It ends with the sign-in that it was opened on.
	ctx, stop := accounts.UntilEnded(c.Request.Context())
	defer stop()
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-beat.C:
			if _, err := fmt.Fprint(c.Writer, ": still here\n\n"); err != nil {
				return nil
			}
		case v, ok := <-ch:
			if !ok {
				return nil
			}
			raw, err := json.Marshal(v)
			if err != nil {
				return err
			}
			if _, err := fmt.Fprintf(c.Writer, "event: %s\ndata: %s\n\n", event, raw); err != nil {
				return nil
			}
		}
		c.Writer.Flush()
	}
}
