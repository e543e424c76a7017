package service

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
)

// What was answered while rules were called otherwise stays answered.
func TestRulesAsTheyWereCalled(t *testing.T) {
	t.Parallel()
	before := `{"7":{"note.one_share.looked":"told","note.ordered.scores":"","note.ordered_groups.scores":"","note.missing_left_out":"x"}}`
	want := answeredNotes{7: {"note.one_proportion.looked": "told", "note.ordered_summary.scores": "", "note.ordered.scores": "", "note.missing_left_out": "x"}}
	for _, definition := range []string{before, `{"rules":2,"answered":{"7":{"note.one_proportion.looked":"told","note.ordered_summary.scores":"","note.ordered.scores":"","note.missing_left_out":"x"}}}`} {
		_, got, err := answeredOf([]study.Part{{Definition: definition}})
		require.NoError(t, err)
		assert.Equal(t, want, got)
	}
	_, none, err := answeredOf([]study.Part{{Definition: `{}`, Deleted: true}})
	require.NoError(t, err)
	assert.NotNil(t, none)
	_, _, err = answeredOf([]study.Part{{Definition: `[]`}})
	assert.Error(t, err)
}
