package files

import (
	"os"
	"path/filepath"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// fullDisk takes a file's name and no byte of it: /dev/full answers every
// write as a disk without room does.
type fullDisk struct {
	*os.File
	name string
}

func (f fullDisk) Name() string { return f.name }

func TestAFullDiskLeavesNothingHalfWritten(t *testing.T) {
	s, err := NewStore(t.TempDir())
	require.NoError(t, err)
	s.make = func(dir string) (temporary, error) {
		f, err := os.OpenFile("/dev/full", os.O_WRONLY, 0)
		return fullDisk{f, filepath.Join(dir, "in-1")}, err
	}
	name := "abcdef"
	err = s.write(name, []byte("a picture"))
	assert.ErrorIs(t, err, syscall.ENOSPC)
	_, err = s.Open(name)
	assert.ErrorIs(t, err, os.ErrNotExist)
}

func TestAStoredFileIsWholeAndStoredOnce(t *testing.T) {
	s, err := NewStore(t.TempDir())
	require.NoError(t, err)
	for range 2 {
		require.NoError(t, s.write("abcdef", []byte("a picture")))
	}
	f, err := s.Open("abcdef")
	require.NoError(t, err)
	defer f.Close()
	info, err := f.Stat()
	require.NoError(t, err)
	assert.EqualValues(t, 9, info.Size())
	left, err := filepath.Glob(filepath.Join(s.dir, "in-*"))
	require.NoError(t, err)
	assert.Empty(t, left, "nothing temporary stays")
}
