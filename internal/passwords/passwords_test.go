package passwords

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhatAPasswordHasToBe(t *testing.T) {
	for password, want := range map[string]Fault{
		"": Short, "eleven long": Short, strings.Repeat("x y", 43): Long,
		"password1234": Common, "aaaaaaaaaaaaaaaa": Common, "abcdefghijkl": Common, "qwertyuiop12": Common,
		"quarry lantern seven herons": "", "t4%Zq!m9Lw2&": "", "Straße über dem Fluss": "",
	} {
		assert.Equal(t, want, Check(password, "Ada", "ada@tally.example"), password)
	}
}

// A hash is that of one password alone, and never the same twice.
func TestHashes(t *testing.T) {
	first, err := Hash("quarry lantern seven herons")
	require.NoError(t, err)
	second, err := Hash("quarry lantern seven herons")
	require.NoError(t, err)
	assert.NotEqual(t, first, second)
	for password, want := range map[string]bool{"quarry lantern seven herons": true, "quarry lantern seven heron": false, "": false} {
		same, err := Same(password, first)
		require.NoError(t, err)
		assert.Equal(t, want, same, password)
	}
	_, err = Same("x", "no hash")
	assert.Error(t, err)
}
