package dbtest

import (
	"os"
	"testing"
)

// FastDir makes a folder for a test's throwaway data, in memory where the
// machine has a place for that: databases of tests are made and dropped all the
// time, and nobody needs them to survive. It is gone when the test ends.
func FastDir(t testing.TB) string {
	t.Helper()
	dir, err := fastDir()
	if err != nil {
		t.Fatalf("making a folder: %v", err)
	}
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	return dir
}

// memory is where Linux keeps files in memory.
const memory = "/dev/shm"

func fastDir() (string, error) {
	if dir, err := os.MkdirTemp(memory, "yewmoor-test-"); err == nil {
		return dir, nil
	}
	return os.MkdirTemp("", "yewmoor-test-")
}
