package web

import (
	"bytes"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"slices"

	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/turns"
)

// Uploaded hands the field “file” of a form on to take, and answers with what
// came of it. A form without one, or with one above maxBytes, is refused at that
// field.
func Uploaded(c *gin.Context, maxBytes int64, take func(multipart.File) (any, error)) error {
	readFrom(c, http.MaxBytesReader(c.Writer, c.Request.Body, maxBytes+1<<20))
	upload, err := c.FormFile("file")
	if err != nil {
		return problem.Invalid("missing", "file", "Take or choose a picture of at most %d MB.", maxBytes>>20)
	}
	// The form is kept by this copy of the request only: nobody else sweeps what
	// of it lies on the disk.
	defer c.Request.MultipartForm.RemoveAll()
	for name, values := range c.Request.MultipartForm.Value {
		if slices.ContainsFunc(values, refusal.Control) {
			return problem.Invalid(refusal.NotText, name, "There is a character in it that cannot be written. Type it again.")
		}
	}
	body, err := upload.Open()
	if err != nil {
		return err
	}
	defer body.Close()
	out, err := take(body)
	if err == nil {
		c.JSON(http.StatusOK, out)
	}
	return err
}

// papers are drawn a few at a time: each is whole in memory before it is sent.
var papers = turns.New("a page to print", 2, 32)

// PDF answers with what draw writes, to be shown rather than saved. Nothing is
// sent of a document that could not be drawn to its end.
func PDF(c *gin.Context, name string, draw func(io.Writer) error) error {
	done, err := papers.Take(c.Request.Context())
	if err != nil {
		return err
	}
	defer done()
	var buf bytes.Buffer
	if err := draw(&buf); err != nil {
		return err
	}
	c.Header("Content-Disposition", fmt.Sprintf("inline; filename=%q", name))
	c.Data(http.StatusOK, "application/pdf", buf.Bytes())
	return nil
}

// Saved answers with a file to keep, of what write writes: nothing is sent of one that could not be written to its end.
func Saved(c *gin.Context, name, kind string, write func(io.Writer) error) error {
	var buf bytes.Buffer
	if err := write(&buf); err != nil {
		return err
	}
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name))
	c.Data(http.StatusOK, kind, buf.Bytes())
	return nil
}

// The kinds of what is saved.
const (
	CSV      = "text/csv; charset=utf-8"
	Calendar = "text/calendar; charset=utf-8"
)
