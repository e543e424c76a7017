package httpapi

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/service"
)

// One rule holds wherever something leaves: the report, a table, a book, a picture, and for readers the page itself;
// what is withheld is a sign with its reason, and cannot be had by subtraction.
func TestOneRuleWhereverSomethingLeaves(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	var file strings.Builder
	file.WriteString("ward,use,age\n")
	for ward, n := range map[string][2]int{"Harbour": {41, 22}, "Fenside": {36, 3}, "Saltings": {27, 19}} {
		for i := range n[0] {
			fmt.Fprintf(&file, "%s,yes,%d\n", ward, 20+i%40)
		}
		for i := range n[1] {
			fmt.Fprintf(&file, "%s,no,%d\n", ward, 30+i%40)
		}
	}
	file.WriteString("Oldgate,yes,91\nOldgate,yes,92\n")
	st := c.begin(file.String())
	ward, use := c.question(st, "ward")["id"], c.question(st, "use")["id"]
	c.call("POST", st+"/analyses", fmt.Sprintf(`{"spec":{"method":"crosstab","version":1,"questions":["%v","%v"],"settings":{}}}`, ward, use), 201)
	analysis := c.analyses(st, "ward")[0]["id"]
	rule := func(body string, version int) object {
		return c.call("PUT", st+"/disclosure", body, 200, "If-Match", fmt.Sprintf("%q", fmt.Sprint(version)))
	}
	table := func() string {
		return c.text("GET", fmt.Sprintf("%s/questions/%v/table?form=csv", st, ward), "")
	}
	crosstab := func() string { return c.text("GET", fmt.Sprintf("%s/analyses/%v/tables/1?form=csv", st, analysis), "") }
	assert.Contains(t, table(), "Oldgate,2,")
	assert.Contains(t, crosstab(), "3")
	c.call("PUT", fmt.Sprintf("%s/report/analyses/%v", st, analysis), "", 204)
	c.call("PUT", fmt.Sprintf("%s/report/questions/%v", st, ward), "", 204)

	assert.Equal(t, "disclosure.rounding", c.call("PUT", st+"/disclosure", `{"rounding":4}`, 422, "If-Match", `"1"`)["code"])
	said := rule(`{"fewest":5,"least":10}`, 1)
	assert.Len(t, said["said"], 2)
	assert.Equal(t, "http.stale", c.call("PUT", st+"/disclosure", `{}`, 412, "If-Match", `"1"`)["code"])

	tally := table()
	assert.Contains(t, tally, "Oldgate,–,–")
	assert.Equal(t, 2, strings.Count(tally, ",–,–"), "another answer is withheld with it: %s", tally)
	assert.Contains(t, tally, "not told, since the count is below 5", "and so is why")
	cross := crosstab()
	assert.GreaterOrEqual(t, strings.Count(cross, "–"), 4, cross)
	made := fmt.Sprint(c.call("GET", st+"/report", "", 200)["made"])
	assert.Contains(t, made, "Some counts are below 5")
	assert.NotContains(t, made, "χ²", "a statistic and all counts but one tell that one")

	// Rounded, every count is a multiple, and percents are made of these.
	rule(`{"rounding":10}`, 2)
	assert.Contains(t, table(), "Harbour,60,")
	assert.Contains(t, c.text("GET", st+"/report/file?form=figures", ""), ",60,")

	// Readers see no more on the page than may leave.
	rule(`{"fewest":5}`, 3)
	var number uint64
	_, err := fmt.Sscanf(st, "/studies/%d", &number)
	require.NoError(t, err)
	v, err := c.cases.Toplines.Question(t.Context(), number, uint64(ward.(float64)), nil)
	require.NoError(t, err)
	assert.Len(t, v.Frequency.Rows, 4)
	seen := v.Leaving()
	assert.Len(t, seen.Frequency.Rows, 2)
	assert.Len(t, seen.Withheld, 2)
	assert.Nil(t, seen.Analyses[0].Document.Outcome)
	c.step(st, "undo", 200)
	assert.Contains(t, table(), "Harbour,60,", "undo brings the rule before back")
}
