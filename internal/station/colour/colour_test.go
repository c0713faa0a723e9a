package colour_test

import (
	"testing"

	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

func TestFormsMouldsAndColours(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	b.As["ivo"].Yes("POST", "/api/forms", m{"performer": "Oren Thale", "region": "face", "material": "hard stone", "made_on": "2026-01-05", "place": "rack 2"}, nil)
	b.As["ivo"].Because("no texture on this one").Yes("POST", "/api/pieces/"+code+"/moulds", m{"kind": "two-part block", "material": "hard stone", "core": "F-001", "made_on": "2026-01-06", "state": "wet"}, nil)
	var moulds []struct{ Code, State, Core string }
	b.As["pip"].Yes("POST", "/api/moulds/state", m{"code": code + "/M1", "state": "dry"}, nil)
	b.As["pip"].Yes("GET", "/api/moulds", nil, &moulds)
	require.Len(t, moulds, 1)
	assert.Equal(t, []string{code + "/M1", "dry", "F-001"}, []string{moulds[0].Code, moulds[0].State, moulds[0].Core})
	var forms []struct{ Code, Performer, Moulds string }
	b.As["pip"].Yes("GET", "/api/forms", nil, &forms)
	assert.Equal(t, code+"/M1", forms[0].Moulds, "a form knows what it is the core of")

	path := "/api/pieces/" + code + "/touch-ups"
	touch := m{"name": "cheek red", "material": "paint-alcohol", "place": "rims", "l": 42, "a": 24, "b": 19}
	b.As["ivo"].Yes("PUT", path, touch, nil)
	b.As["ivo"].Yes("PUT", path, shoptest.With(touch, "l", 45), nil)
	var kept []struct {
		Name string
		L    float64
	}
	b.As["pip"].Yes("GET", path, nil, &kept)
	require.Len(t, kept, 1, "one colour of one name")
	assert.InDelta(t, 45, kept[0].L, 1e-9)
	b.As["ivo"].Yes("DELETE", path+"/cheek%20red", nil, &kept)
	assert.Empty(t, kept)
}
