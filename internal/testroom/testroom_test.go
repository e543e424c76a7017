package testroom

import (
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A process that was killed leaves a room in which others still work: both go when the next
// room is made, and no room of the living.
func TestWhatTheKilledLeaveGoes(t *testing.T) {
	if below := os.Getenv("TESTROOM_BELOW"); below != "" { // the process that is killed
		r, err := Open(below)
		require.NoError(t, err)
		require.NoError(t, exec.Command("tail", "-f", filepath.Join(r.Dir, "lock")).Start())
		require.NoError(t, syscall.Kill(os.Getpid(), syscall.SIGKILL))
	}
	below := filepath.Join(t.TempDir(), "a folder with blanks")
	living, err := Open(below)
	require.NoError(t, err)
	killed := exec.Command(os.Args[0], "-test.run", t.Name())
	killed.Env = append(os.Environ(), "TESTROOM_BELOW="+below)
	require.ErrorContains(t, killed.Run(), "killed")
	rooms, err := filepath.Glob(filepath.Join(below, "r-*"))
	require.NoError(t, err)
	require.Len(t, rooms, 2)
	dead := rooms[0]
	if dead == living.Dir {
		dead = rooms[1]
	}
	require.Len(t, within(dead), 1, "its process works on")

	next, err := Open(below)
	require.NoError(t, err)
	assert.Empty(t, within(dead))
	assert.NoDirExists(t, dead)
	assert.DirExists(t, living.Dir)
	require.NoError(t, living.Close())
	require.NoError(t, next.Close())
	assert.NoDirExists(t, living.Dir)
}
