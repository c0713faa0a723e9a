package web

import (
	"bytes"
	"encoding/json"
	"errors"
	"io"
	"log/slog"
	"net/http"
	"reflect"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/platform/problem"
)

// maxBody is the largest JSON body of an operation, in bytes.
const maxBody = 1 << 20

// refuse answers with a problem and ends the request.
func refuse(c *gin.Context, p *problem.Problem) {
	c.Header("Content-Type", p.ContentType(""))
	c.AbortWithStatusJSON(p.Status, p)
}

// clean refuses what no operation can use before any of them sees it: numbers
// that end in no number, texts that cannot be written. Everything that comes in
// later passes here too, so no operation has to think of it.
func clean(c *gin.Context) {
	for name, values := range c.Request.URL.Query() {
		for _, v := range values {
			if refusal.Control(v) {
				refuse(c, problem.Invalid(refusal.NotText, name, "There is a character in it that cannot be written. Type it again."))
				return
			}
		}
	}
	if c.Request.Body == nil || !strings.HasPrefix(c.GetHeader("Content-Type"), "application/json") {
		return
	}
	raw, err := io.ReadAll(io.LimitReader(c.Request.Body, maxBody+1))
	if err != nil {
		p := problem.New(http.StatusBadRequest, "broken", "", "The request did not arrive whole. Nothing was recorded; try again.")
		errors.As(err, &p)
		refuse(c, p)
		return
	}
	if len(raw) <= maxBody { // a longer one is refused by the operation's own limit
		if err := refusal.Unclean(raw); err != nil {
			refuse(c, problem.Invalid(err.Code, err.Field, "%s", err.Detail))
			return
		}
	}
	readFrom(c, struct {
		io.Reader
		io.Closer
	}{io.MultiReader(bytes.NewReader(raw), c.Request.Body), c.Request.Body})
}

// jsonFormat writes an answer only once it is whole: one with a number in it
// that is none is a 500 with a code, never a 200 with half a sentence.
var jsonFormat = huma.Format{
	Unmarshal: huma.DefaultJSONFormat.Unmarshal,
	Marshal: func(w io.Writer, v any) error {
		var whole bytes.Buffer
		err := huma.DefaultJSONFormat.Marshal(&whole, v)
		if err == nil {
			_, err = w.Write(whole.Bytes())
			return err
		}
		slog.Error("an answer cannot be written", "error", err)
		p := problem.New(http.StatusInternalServerError, "no_answer", "", "What was recorded is kept, but a figure of the answer came out as no number. Look at what was entered last.")
		if out, ok := w.(gin.ResponseWriter); ok && !out.Written() {
			out.Header().Set("Content-Type", p.ContentType(""))
			out.WriteHeader(p.Status)
		}
		return json.NewEncoder(w).Encode(p)
	},
}

// unworkable refuses a number of the address that is none: "NaN" reads as one.
// Those of a body are refused by clean already.
func unworkable(in reflect.Value) *problem.Problem {
	for i := range in.NumField() {
		f := in.Type().Field(i)
		if f.Anonymous && f.Type.Kind() == reflect.Struct {
			if p := unworkable(in.Field(i)); p != nil {
				return p
			}
		}
		name := f.Tag.Get("query")
		if x := in.Field(i); name != "" && x.Kind() == reflect.Float64 && !refusal.Workable(x.Float()) {
			return problem.Invalid(refusal.OutOfRange, name, "This number is too large or too small to work with.")
		}
	}
	return nil
}
