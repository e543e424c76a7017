package httpapi

import (
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type threads struct {
	Threads []struct {
		ID, Question, Analysis uint64
		Author, Text, Resolved string
		Mine                   bool
		Answers                []struct {
			ID           uint64
			Author, Text string
		}
	}
}

// Whoever sees a study writes into its margin under their own name; an answer opens again what was settled; one takes away what one
// wrote oneself, an owner anything, with its answers; what is written touches neither the line of undo nor what is counted.
func TestRemarks(t *testing.T) {
	t.Parallel()
	c := team(t)
	ada, bob := c.joined("ada@tally.example", false), c.joined("bob@tally.example", false)
	path := c.owned(ada)
	require.Equal(t, 200, status(c.as(ada, "PUT", path+"/members", `{"email":"bob@tally.example","role":"reader"}`)))
	ask := func(cookie, method, at, in string, want int) (out threads) {
		t.Helper()
		resp := c.as(cookie, method, path+at, in)
		raw, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		require.Equal(t, want, resp.StatusCode, "%s %s: %.200s", method, at, raw)
		_ = json.Unmarshal(raw, &out) // a problem has no threads
		return out
	}
	for in, want := range map[string]int{
		`{"question":2,"text":" "}`: 422, `{"question":2,"text":"` + strings.Repeat("a", 2001) + `"}`: 422, `{"question":999,"text":"x"}`: 404,
		`{"question":2,"analysis":9999,"text":"x"}`: 404, `{"to":77,"text":"x"}`: 404, `{"question":2,"text":"a\u0000b"}`: 422,
	} {
		ask(ada, "POST", "/remarks", in, want)
	}
	first := ask(bob, "POST", "/remarks", `{"question":2,"text":"<b>Why</b> this order?"}`, 201).Threads[0]
	assert.Equal(t, "bob@tally.example", first.Author)
	assert.True(t, first.Mine)
	at := fmt.Sprintf("/remarks/%d", first.ID)
	ask(ada, "PUT", at, `{"resolved":true}`, 200)
	assert.Equal(t, "ada@tally.example", ask(bob, "GET", "/remarks", "", 200).Threads[0].Resolved)
	answered := ask(ada, "POST", "/remarks", fmt.Sprintf(`{"to":%d,"text":"As it was asked."}`, first.ID), 201).Threads[0]
	assert.Empty(t, answered.Resolved, "opened again")
	require.Len(t, answered.Answers, 1)
	assert.False(t, answered.Mine)
	reply := fmt.Sprintf("/remarks/%d", answered.Answers[0].ID)
	ask(bob, "PUT", reply, `{"resolved":true}`, 422)
	ask(bob, "POST", "/remarks", fmt.Sprintf(`{"to":%d,"text":"x"}`, answered.Answers[0].ID), 422)
	ask(bob, "DELETE", reply, "", 403)
	ask(c.joined("eve@tally.example", false), "GET", "/remarks", "", 403)
	ask(c.token(bob, "see", 0, 1), "POST", "/remarks", `{"question":2,"text":"x"}`, 403)
	assert.Len(t, ask(c.token(bob, "see", 0, 1), "GET", "/remarks", "", 200).Threads, 1)
	assert.Equal(t, "remark beside tenure opened again", strings.Replace(c.trailOf(ada, path+"/trail?what=trail.remark").Entries[0].Text, "written", "opened again", 1))
	assert.Empty(t, ask(ada, "DELETE", at, "", 200).Threads, "with its answers")
	assert.Len(t, c.trailOf(ada, path+"/trail?what=trail.remark").Entries, 4)
}
