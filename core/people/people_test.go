package people

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/core/study"
)

// A wider role may all that a narrower one may, and something more; nobody may nothing.
func TestRolesAreNested(t *testing.T) {
	all := []study.Access{study.ToSee, study.ToSeeAnswers, study.ToAsk, study.ToChange, study.ToOwn}
	before := len(all) + 1
	for i, r := range Roles {
		n := 0
		for _, to := range all {
			if r.May(to) {
				n++
				assert.Equal(t, r, Wider(r, Nobody))
				for _, wider := range Roles[:i] {
					assert.True(t, wider.May(to), "%s may what %s may", wider, r)
					assert.Equal(t, wider, Wider(r, wider))
				}
			}
		}
		assert.Less(t, n, before)
		assert.Positive(t, n)
		before = n
		assert.False(t, Nobody.May(all[i]))
		assert.False(t, Role("king").May(all[i]))
	}
}

func TestEmails(t *testing.T) {
	for text, want := range map[string]string{" Ada@Tally.Example ": "ada@tally.example", "a@b": "a@b", "a": "", "@b": "", "a@": "", "a@b@c": "", "a b@c": "", "a@b\r\nBcc: x": "", strings.Repeat("a", 200) + "@b": ""} {
		got, ok := Email(text)
		assert.Equal(t, want != "", ok, text)
		if ok {
			assert.Equal(t, want, got)
		}
	}
	n, ok := AccountOf(ActorID(17))
	assert.True(t, ok)
	assert.EqualValues(t, 17, n)
	_, ok = AccountOf(study.ThisComputer)
	assert.False(t, ok)
}
