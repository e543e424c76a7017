package survey

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestTextsThatASpreadsheetWouldRun(t *testing.T) {
	t.Parallel()
	for in, want := range map[string]string{
		"": "", "Harbour": "Harbour", "=1+1": "'=1+1", "+cmd": "'+cmd", "-9": "-9", "-9.5": "-9.5", "-x": "'-x", "@a": "'@a", "\tx": "'\tx", "+4": "+4", "1=1": "1=1",
		"-1+1": "'-1+1", "-->": "'-->", "'": "'", "'tis": "'tis", "'=1": "''=1", "''-9": "'''-9", "'9": "'9",
	} {
		assert.Equal(t, want, Neutral(in))
		assert.Equal(t, in, Restored(want), "taken back")
	}
}

// Whatever the text is, it comes back.
func FuzzRestored(f *testing.F) {
	for _, s := range []string{"=1", "'=1", "''", "-9", "'-9", "\r"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) { assert.Equal(t, s, Restored(Neutral(s))) })
}
