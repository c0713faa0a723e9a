package web

import (
	"encoding/json"
	"reflect"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestListsAreNeverNull(t *testing.T) {
	type inner struct{ Names []string }
	out := struct {
		A    []inner
		B    *inner
		C    inner
		None *inner
		Raw  json.RawMessage
		At   time.Time
	}{A: []inner{{}}, B: &inner{}, Raw: json.RawMessage(`1`)}
	noNilLists(reflect.ValueOf(&out).Elem())
	raw, err := json.Marshal(out)
	require.NoError(t, err)
	assert.JSONEq(t, `{"A":[{"Names":[]}],"B":{"Names":[]},"C":{"Names":[]},"None":null,"Raw":1,"At":"0001-01-01T00:00:00Z"}`, string(raw))
}
