package e2e

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/dbtest"
)

// A real installation begins with nothing: the first lead is made on the
// command line, and the empty rooms say what to do first.
func TestARealInstallationBeginsEmpty(t *testing.T) {
	t.Parallel()
	file := binary(t)
	dsn := "YEWMOOR_DSN=" + dbtest.DSN(t)
	add := exec.Command(file, "person", "wren", "Wren Tallis")
	add.Env = append(os.Environ(), dsn, "YEWMOOR_LOG=error")
	add.Stdin = strings.NewReader("too short\n")
	out, err := add.CombinedOutput()
	require.Error(t, err)
	assert.Contains(t, string(out), "at least 12 characters")
	add = exec.Command(file, "person", "wren", "Wren Tallis")
	add.Env = append(os.Environ(), dsn, "YEWMOOR_LOG=error")
	add.Stdin = strings.NewReader("a moor in the mist\n")
	out, err = add.CombinedOutput()
	require.NoError(t, err, string(out))
	assert.Contains(t, string(out), "Wren Tallis may now sign in as wren, lead.")

	files := filepath.Join(t.TempDir(), "files")
	srv := start(t, file, []string{dsn}, "serve", "--files", files)
	s := open(t, runFor(t, 5*time.Minute), srv.base)
	s.goTo("/")
	s.fill("Name", "wren")
	s.fill("Password", "a guess")
	s.click("Come in")
	s.sees("Name and password do not go together")
	s.fill("Password", "a moor in the mist")
	s.click("Come in")
	s.sees("Nothing waits for a hand")
	s.sees("What you pour stands here")
	for key, teaches := range map[string]string{"2": "No form is registered yet", "4": "No mould yet", "5": "A sheet for a piece needs its agreed section", "6": "Nothing is curing", "9": "Nothing waits", "0": "No accepted copy waits", "1": "Every piece begins here"} {
		s.key(key)
		s.sees(teaches)
	}
	s.goTo("/stores")
	s.sees("The shelves are empty")
	s.fill("Lot code", "26-001")
	s.click("Take it in")
	s.sees("Choose the day")
	s.choose("Use by", time.Now().AddDate(1, 0, 0).Format(time.DateOnly))
	s.fill("Part A", "1 kg")
	s.fill("Part B", "2.2 lb")
	s.click("Take it in")
	s.sees("997.9 g")

	s.goTo("/brief/new")
	s.fill("Production", "The Tallow Court")
	s.fill("Character, its code", "cb")
	s.fill("Character, its name", "the chandler's boy")
	s.fill("What the piece is called", "Drips of tallow")
	s.choose("Where it is worn", "forearm")
	s.choose("One of a pair?", "L")
	s.click("Begin the piece")
	s.sees("CB-01-L")
	s.leaf("Worn")
	s.sees("No shooting day is known yet")
	s.leaf("Wearer")
	s.sees("Nobody is named yet")
	s.click("Agree the brief")
	s.sees("Nothing in the rule book speaks against this build-up")

	s.goTo("/record")
	s.sees("account made")
	s.sees("the command line")

	// A backup while it runs, and back into an empty place.
	archive := filepath.Join(t.TempDir(), "yewmoor.backup")
	say := func(dsn string, args ...string) string {
		cmd := exec.Command(file, args...)
		cmd.Env = append(os.Environ(), dsn, "YEWMOOR_LOG=error")
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, string(out))
		return string(out)
	}
	assert.Contains(t, say(dsn, "backup", "--files", files, archive), "was read back")
	other, moved := "YEWMOOR_DSN="+dbtest.DSN(t), filepath.Join(t.TempDir(), "files")
	assert.Contains(t, say(other, "restore", "--files", moved, archive), "Restored what stood there")
	again := start(t, file, []string{other}, "serve", "--files", moved)
	s.base = again.base
	s.goTo("/brief/CB-01-L")
	s.sees("Come in") // a restore ends every sign-in
	s.fill("Name", "wren")
	s.fill("Password", "a moor in the mist")
	s.click("Come in")
	s.sees("Drips of tallow")
}
