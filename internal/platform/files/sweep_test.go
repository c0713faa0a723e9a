package files

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// rows answers the two questions of a sweep.
type rows struct{ files, uploads []string }

func (r rows) GetContext(context.Context, any, string, ...any) error { return nil }

func (r rows) SelectContext(_ context.Context, dest any, query string, _ ...any) error {
	list := r.uploads
	if strings.Contains(query, "sha256") {
		list = r.files
	}
	*dest.(*[]string) = list
	return nil
}

func TestASweepTakesOldThingsThatNothingKnows(t *testing.T) {
	s := store(t)
	require.NoError(t, os.MkdirAll(s.Temp(), 0o700))
	now := time.Now()
	lay := func(p string, age time.Duration) string {
		require.NoError(t, os.MkdirAll(filepath.Dir(p), 0o700))
		require.NoError(t, os.WriteFile(p, []byte("x"), 0o600))
		require.NoError(t, os.Chtimes(p, now.Add(-age), now.Add(-age)))
		return p
	}
	known, unknown, fresh := strings.Repeat("a", 64), strings.Repeat("b", 64), strings.Repeat("c", 64)
	old, young := 25*time.Hour, 23*time.Hour
	stays := []string{
		lay(s.path(known), old), lay(s.path(fresh), young), lay(s.viewPath(known, 480), old),
		lay(filepath.Join(s.dir, "in-up-going"), old), lay(filepath.Join(s.dir, "in-1"), young), lay(filepath.Join(s.Temp(), "multipart-1"), young),
		lay(filepath.Join(s.dir, "a note of the shop.txt"), old), lay(filepath.Join(s.dir, "bb", "strange"), old),
	}
	goes := []string{
		lay(s.path(unknown), old), lay(s.viewPath(unknown, 480), old),
		lay(filepath.Join(s.dir, "in-up-left"), old), lay(filepath.Join(s.dir, "in-2"), old), lay(filepath.Join(s.Temp(), "multipart-2"), old),
	}
	out, err := s.Sweep(t.Context(), rows{[]string{known}, []string{"going"}}, now)
	require.NoError(t, err)
	assert.Equal(t, Swept{Temporary: 3, Unknown: 1, Views: 1}, out)
	for _, p := range stays {
		assert.FileExists(t, p)
	}
	for _, p := range goes {
		assert.NoFileExists(t, p)
	}
}

// A picture that lay unknown for long and is taken in again is new.
func TestWhatIsTakenInAgainIsNotSwept(t *testing.T) {
	s := store(t)
	p, err := s.Prepare(t.Context(), bytes.NewReader(picture(t, 20, 20)))
	require.NoError(t, err)
	long := time.Now().Add(-72 * time.Hour)
	require.NoError(t, os.Chtimes(s.path(p.SHA256()), long, long))
	_, err = s.Prepare(t.Context(), bytes.NewReader(picture(t, 20, 20)))
	require.NoError(t, err)
	_, err = s.Sweep(t.Context(), rows{}, time.Now())
	require.NoError(t, err)
	assert.FileExists(t, s.path(p.SHA256()))
}

func TestANameThatIsNoSumOpensNothing(t *testing.T) {
	s := store(t)
	for _, name := range []string{"", "a", "../etc/passwd", strings.Repeat("A", 64), strings.Repeat("a", 63) + "/"} {
		_, err := s.Open(name)
		require.ErrorIs(t, err, os.ErrNotExist, name)
		_, err = s.View(t.Context(), name, "image/png", 480)
		require.Error(t, err, name)
	}
}
