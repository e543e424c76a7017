package study

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A trail in which one entry is changed in any member, taken out, put in or moved is found at that entry; one
// that is whole can be gone on with from its seal.
func TestVerifyingATrail(t *testing.T) {
	t.Parallel()
	var trail []Entry
	seal := ""
	for i := range 6 {
		e := Entry{StudyID: 3, Number: uint64(i) + 1, At: time.UnixMilli(1_700_000_000_000 + int64(i)), Actor: "account-1", Name: "Ada", Via: ViaPage, Address: "192.0.2.1", What: "trail.left", Values: `{"file":"a.csv"}`}
		e.Seal = e.Sealed(seal)
		seal = e.Seal
		trail = append(trail, e)
	}
	got, err := Verify(trail, 3, 0, "")
	require.NoError(t, err)
	assert.Equal(t, seal, got)
	half, err := Verify(trail[:3], 3, 0, "")
	require.NoError(t, err)
	got, err = Verify(trail[3:], 3, 3, half)
	require.NoError(t, err)
	assert.Equal(t, seal, got)

	changed := func(f func(e *Entry)) []Entry {
		out := slices.Clone(trail)
		f(&out[2])
		return out
	}
	resealed := changed(func(e *Entry) { e.Name = "Bob"; e.Seal = e.Sealed(trail[1].Seal) })
	for name, k := range map[string]struct {
		trail   []Entry
		at      uint64
		lacking bool
	}{
		"actor":    {changed(func(e *Entry) { e.Actor = "account-2" }), 3, false},
		"name":     {changed(func(e *Entry) { e.Name = "Bob" }), 3, false},
		"time":     {changed(func(e *Entry) { e.At = e.At.Add(time.Millisecond) }), 3, false},
		"way":      {changed(func(e *Entry) { e.Via = ViaTerminal }), 3, false},
		"address":  {changed(func(e *Entry) { e.Address = "" }), 3, false},
		"what":     {changed(func(e *Entry) { e.What = "trail.looked" }), 3, false},
		"values":   {changed(func(e *Entry) { e.Values = `{"file":"b.csv"}` }), 3, false},
		"study":    {changed(func(e *Entry) { e.StudyID = 4 }), 3, true},
		"resealed": {resealed, 4, false},
		"out":      {slices.Delete(slices.Clone(trail), 2, 3), 3, true},
		"twice":    {slices.Insert(slices.Clone(trail), 2, trail[2]), 4, true},
		"moved":    {append([]Entry{trail[1], trail[0]}, trail[2:]...), 1, true},
	} {
		_, err := Verify(k.trail, 3, 0, "")
		assert.Equal(t, &BrokenError{3, k.at, k.lacking}, err, name)
	}
}
