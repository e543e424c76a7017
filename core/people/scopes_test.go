package people

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/core/study"
)

// A script within a scope, in one study or in all, has the access of the scope and none beyond; none owns. Whoever looks by a link
// sees the one study of it.
func TestScopesBound(t *testing.T) {
	t.Parallel()
	all := []study.Access{study.ToSee, study.ToSeeAnswers, study.ToAsk, study.ToChange, study.ToOwn}
	for i, scope := range TokenScopes {
		for j, to := range all {
			everywhere, one := &study.Scope{May: scope.May()}, &study.Scope{Study: 7, May: scope.May()}
			assert.Equal(t, j <= i, everywhere.Lets(7, to), "%s %s", scope, to)
			assert.Equal(t, j <= i, one.Lets(7, to), "%s %s", scope, to)
			assert.False(t, one.Lets(8, to), "%s %s", scope, to)
		}
	}
	assert.Empty(t, TokenScope("own").May())
	assert.False(t, (&study.Scope{}).Lets(7, study.ToSee))
	var themselves *study.Scope
	assert.True(t, themselves.Lets(7, study.ToOwn), "who acts themselves is bound by their role alone")

	visitor := Link{Hash: "0123456789abcdef", StudyID: 7}.Actor()
	for _, to := range all {
		assert.Equal(t, to == study.ToSee, visitor.Token.Lets(7, to))
		assert.False(t, visitor.Token.Lets(8, to))
	}
	assert.Equal(t, study.ViaLink, visitor.Via)
	assert.NotContains(t, visitor.ID, "0123456789abcdef", "the hash is not told whole")
}
