package httpapi

import (
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/service"
)

func names(list any) (out []string) {
	for _, q := range list.([]any) {
		out = append(out, q.(map[string]any)["name"].(string))
	}
	return out
}

// A page is asked for in windows: an outline of all, and those that are wanted.
func TestWindowsOfATopline(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	var file strings.Builder
	file.WriteString("a,b,c,d,e\n")
	for i := range 40 {
		fmt.Fprintf(&file, "x%d,%d.25,y,x,%d\n", i%2, i, i%3)
	}
	st := c.begin(file.String())
	whole := c.call("GET", st+"/topline", "", 200)
	all := []string{"a", "b", "c", "d", "e"}
	assert.Equal(t, all, names(whole["outline"]))
	assert.Equal(t, all, names(whole["questions"]))
	id := func(i int) any { return at(t, whole, fmt.Sprintf("outline.%d.id", i)) }
	for query, want := range map[string][]string{
		"many=2": {"a", "b"}, "from=4&many=9": {"d", "e"}, "from=9&many=3": nil, fmt.Sprintf("ids=%v,%v", id(4), id(1)): {"b", "e"}, "ids=999999": nil,
	} {
		page := c.call("GET", st+"/topline?"+query, "", 200)
		assert.Equal(t, want, names(page["questions"]), query)
		assert.Equal(t, all, names(page["outline"]), query)
		assert.Equal(t, want, names(c.call("GET", st+"/questions?"+query, "", 200)["questions"]), query)
	}
	for _, query := range []string{"many=0", "many=401", "many=x", "many=2&from=0", "ids=1,x", "ids=-1", "ids=" + strings.Repeat("1,", 400) + "1"} {
		assert.Equal(t, "window", c.call("GET", st+"/questions?"+query, "", 422)["code"], query)
	}
	// Which questions can join in what is told once for all that are alike.
	joins := whole["joins"].([]any)
	of := func(i int) []any {
		return joins[int(at(t, whole, fmt.Sprintf("outline.%d.joins", i)).(float64))].([]any)
	}
	assert.Contains(t, of(0), "crosstab")
	assert.NotContains(t, of(1), "crosstab")
	assert.Contains(t, of(1), "numeric-comparison")
	assert.Less(t, len(joins), 9)
}

// Tallies are ordered by the server; an order of their own stays. A column is taken as shown.
func TestOrdersAndColumns(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin("ward,mood\n" + strings.Repeat("Fenside,1\n", 1200) + strings.Repeat("Harbour,2\n", 30) + strings.Repeat("=1+1,3\n", 2))
	labels := func(query string, question int) (out []string) {
		for _, r := range at(t, c.call("GET", st+"/topline?"+query, "", 200), fmt.Sprintf("questions.%d.rows", question)).([]any) {
			out = append(out, r.(map[string]any)["label"].(string))
		}
		return out
	}
	assert.Equal(t, []string{"Fenside", "Harbour", "=1+1"}, labels("order=size", 0))
	assert.Equal(t, []string{"=1+1", "Fenside", "Harbour"}, labels("order=label", 0))
	mood := c.question(st, "mood")
	c.call("PATCH", fmt.Sprintf("%s/questions/%v", st, mood["id"]), `{"kind":"ordered"}`, 200, "If-Match", fmt.Sprintf(`"%v"`, mood["version"]))
	assert.Equal(t, []string{"1", "2", "3"}, labels("order=size", 1))
	assert.Equal(t, "frequency.order", c.call("GET", st+"/topline?order=sideways", "", 422)["code"])
	ward := fmt.Sprintf("%s/questions/%v/table?order=size", st, c.question(st, "ward")["id"])
	text := func(address string, status int) string {
		res := c.send("GET", "/api/v1"+address, "")
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Equal(t, status, res.StatusCode)
		return string(raw)
	}
	assert.Equal(t, "Count\n1,200\n30\n2\n1,232\n", text(ward+"&column=1", 200), "as shown, separators of thousands too")
	assert.Equal(t, "Answer\nFenside\nHarbour\n'=1+1\nTotal\n", text(ward+"&column=0", 200), "what a spreadsheet would run is neutralised")
	for _, column := range []string{"3", "-1", "x"} {
		assert.Contains(t, text(ward+"&column="+column, 422), "leaves.column")
	}
}

// What is selected for the report is one edit, which undo takes back, and goes with its study.
func TestSelectingForTheReport(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin("ward,caddy\n" + strings.Repeat("Harbour,yes\nFenside,no\n", 10))
	ward, caddy := c.question(st, "ward"), c.question(st, "caddy")
	stated := c.call("POST", st+"/analyses", fmt.Sprintf(`{"run":false,"spec":{"method":"crosstab","version":1,"questions":["%v","%v"],"settings":{"reading":"row","picture":"bars"}}}`, caddy["id"], ward["id"]), 201)
	analysis := fmt.Sprint(stated["analysisId"])
	piece := fmt.Sprintf("%s/report/questions/%v", st, ward["id"])
	selected := func() [2]any {
		page := c.call("GET", st+"/topline", "", 200)
		return [2]any{at(t, page, "questions.0.selected"), at(t, page, "questions.1.analyses.0.selected")}
	}
	c.call("PUT", piece, "", 204)
	c.call("PUT", piece, "", 204) // twice is once
	c.call("PUT", st+"/report/analyses/"+analysis, "", 204)
	assert.Equal(t, [2]any{true, true}, selected())
	undo := at(t, c.call("GET", st+"/topline", "", 200), "undo.id")
	c.call("POST", st+"/undo", fmt.Sprintf(`{"editId":%v}`, undo), 200)
	assert.Equal(t, [2]any{true, false}, selected())
	c.call("DELETE", piece, "", 204)
	assert.Equal(t, [2]any{false, false}, selected())
	c.call("PUT", st+"/report/questions/999999", "", 404)
	c.call("PUT", st+"/report/analyses/999999", "", 404)

	// A picture that leaves says whom it is about, from where and when; as data, too.
	chart := c.call("GET", st+"/analyses/"+analysis+"/charts/1?form=json", "", 200)
	notes := fmt.Sprint(chart["notes"])
	assert.Contains(t, notes, "All 20 households answered both “caddy” and “ward”")
	assert.Contains(t, notes, "Fernmouth, unweighted, 20")
}

// The respondents of a cell become a subgroup, once; what is no answer is refused.
func TestSubgroupOfAnswers(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin("ward,caddy\n" + strings.Repeat("Harbour,yes\nFenside,no\nFenside,\n", 10))
	ward, caddy := c.question(st, "ward")["id"], c.question(st, "caddy")["id"]
	ask := func(who string, status int) map[string]any {
		return c.call("POST", st+"/subgroups/answers", `{"who":[`+who+`]}`, status)
	}
	cell := fmt.Sprintf(`{"question":%v,"code":"Fenside"},{"question":%v,"code":"no"}`, ward, caddy)
	made := ask(cell, 200)["id"]
	assert.Equal(t, made, ask(cell, 200)["id"], "the same cell is the same subgroup")
	answered := ask(fmt.Sprintf(`{"question":%v,"code":""}`, caddy), 200)["id"]
	assert.NotEqual(t, made, answered)
	page := c.call("GET", fmt.Sprintf("%s/topline?of=%v", st, made), "", 200)
	assert.Equal(t, 10.0, at(t, page, "questions.0.answered"))
	assert.Equal(t, []any{"ward: Fenside, caddy: no", "answered caddy"}, []any{at(t, page, "subgroups.0.name"), at(t, page, "subgroups.1.name")})
	assert.Equal(t, []any{10.0, 20.0}, []any{at(t, page, "subgroups.0.n"), at(t, page, "subgroups.1.n")})
	assert.Equal(t, "spec.category", ask(fmt.Sprintf(`{"question":%v,"code":"Atlantis"}`, ward), 422)["code"])
	assert.Equal(t, "condition.empty", ask("", 422)["code"])
	ask(`{"question":999999,"code":"x"}`, 404)
}
