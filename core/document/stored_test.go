package document

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is kept of a message comes back, also what was kept when values were texts alone.
func TestStoredValues(t *testing.T) {
	t.Parallel()
	claim := Say("use.claim", Values{"n": N(3)})
	for raw, want := range map[string]Values{
		`{}`:                      {},
		`{"file":"a.csv","n":12}`: {"file": Text("a.csv"), "n": N(12)},
		`{"what":{"say":"use.claim","values":{"n":3}}}`: {"what": {Kind: Said, Message: &claim}},
		`{"what":"claim 3","empty":""}`:                 {"what": Text("claim 3"), "empty": Text("")},
	} {
		got, err := ReadValues([]byte(raw))
		require.NoError(t, err)
		assert.Equal(t, want, got)
		again, err := StoreValues(got)
		require.NoError(t, err)
		assert.JSONEq(t, raw, string(again))
	}
	for _, raw := range []string{`[]`, `{"a":1.5}`, `{"a":null,"b":[1]}`, `{"a":{"say":""}}`} {
		_, err := ReadValues([]byte(raw))
		assert.Error(t, err, raw)
	}
	_, err := StoreValues(Values{"p": Of(Percent, 5)})
	assert.Error(t, err)
}
