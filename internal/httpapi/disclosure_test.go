package httpapi

import (
	"archive/zip"
	"encoding/csv"
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

// A file for others has no identifiers, its numbers in bands, its rows in another order, and no combination of answers
// to the key questions that fewer share than was said, other spellings and withheld answers counted as they leave.
func TestAFileForOthers(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	var file strings.Builder
	file.WriteString("ident,ward,sex,income,tenure\n")
	for i := range 90 {
		fmt.Fprintf(&file, "R%03d,%s,%s,%d.5,%s\n", i, []string{"Harbour", "Fenside", "Saltings"}[i%3], []string{"f", "m"}[i/3%2], 900+37*i, []string{"rents", "owns"}[i%2])
	}
	file.WriteString("R090,Oldgate,f,9000.5,rents\nR091,Oldgate,m,9100.5,rents\nR092,Oldgate,m,9200.5,squats\n")
	st := c.begin(file.String())
	of := func(names ...string) (out string) {
		for i, name := range names {
			if i > 0 {
				out += ","
			}
			out += fmt.Sprint(c.question(st, name)["id"])
		}
		return out
	}
	ask := func(questions, keys string, least int) string {
		return fmt.Sprintf("/microdata%%s?questions=%s&keys=%s&least=%d&bands=4", questions, keys, least)
	}
	for _, k := range []struct {
		questions, keys string
		least           int
		code            string
	}{
		{of("ident", "ward"), "", 5, "microdata.kind"},
		{of("ward", "ward"), "", 5, "microdata.kind"},
		{"", "", 5, "microdata.questions"},
		{"x", "", 5, "microdata.questions"},
		{of("ward"), "", 1, "microdata.least"},
		{of("ward"), of("ward"), 200, "microdata.few"},
	} {
		assert.Equal(t, k.code, c.call("GET", st+fmt.Sprintf(ask(k.questions, k.keys, k.least), ""), "", 422)["code"])
	}
	of4 := ask(of("ward", "sex", "income", "tenure"), of("ward", "sex"), 4)
	found := c.call("GET", st+fmt.Sprintf(of4, ""), "", 200)
	// Three wards of 15 women and 15 men each; of Oldgate one woman and two men.
	for member, want := range map[string]float64{"respondents": 93, "combinations": 8, "smallest": 1, "alone": 1, "few": 3, "withheld": 18} {
		assert.Equal(t, want, found[member], member) // three of themselves are too few, so the next rarer 15 are without, too
	}
	assert.Equal(t, []any{"Oldgate", "f"}, found["rare"].([]any)[0].(object)["answers"])
	assert.Contains(t, fmt.Sprint(found["rareAnswers"]), "squats")

	raw := c.text("GET", st+fmt.Sprintf(of4, "/file"), "")
	z, err := zip.NewReader(strings.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	f, err := z.Open("answers.csv")
	require.NoError(t, err)
	rows, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"ward", "sex", "income", "tenure"}, rows[0])
	shared, incomes, tenures := map[string]int{}, map[string]int{}, []string{}
	for _, row := range rows[1:] {
		shared[row[0]+"|"+row[1]]++
		incomes[row[2]]++
		tenures = append(tenures, row[3])
	}
	assert.Len(t, rows, 94)
	assert.Equal(t, 18, shared["|"])
	for combination, n := range shared {
		assert.GreaterOrEqual(t, n, 4, combination)
	}
	assert.Len(t, incomes, 4, "%v", incomes)
	assert.NotRegexp(t, `R0\d\d|Oldgate\b.*,9\d00`, fmt.Sprint(rows))
	assert.NotContains(t, strings.Join(tenures, " "), strings.Repeat("rents owns ", 40), "an order of chance")
}

// The rare ends of a number leave together, in tables, on the page of readers and at the terminal's recipes.
func TestTheEndsOfANumberLeaveTogether(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	var file strings.Builder
	file.WriteString("people\n")
	for i, n := range []int{2, 1, 30, 40, 3, 1, 2} {
		file.WriteString(strings.Repeat(fmt.Sprintf("%d\n", i+1), n))
	}
	st, _ := c.bring("people.csv", file.String(), nil, `[{"name":"people","kind":"discrete"}]`)
	people := c.question(st, "people")["id"]
	said := c.call("PUT", st+"/disclosure", `{"fewest":5,"codeEnds":true}`, 200, "If-Match", `"1"`)
	assert.Contains(t, fmt.Sprint(said["said"]), "are told together where fewer than 5 gave one")
	table := c.text("GET", fmt.Sprintf("%s/questions/%v/table?form=csv", st, people), "")
	for _, want := range []string{"≤\u00a03,33,", "4,40,", "≥\u00a05,6,"} {
		assert.Contains(t, table, want)
	}
	assert.NotContains(t, table, "–,–")
	var study uint64
	_, err := fmt.Sscanf(st, "/studies/%d", &study)
	require.NoError(t, err)
	v, err := c.cases.Toplines.Question(t.Context(), study, uint64(people.(float64)), nil)
	require.NoError(t, err)
	seen := v.Leaving()
	assert.Len(t, seen.Frequency.Rows, 3)
	assert.Len(t, v.Frequency.Rows, 7, "who may see answers sees them all")
	a, _ := seen.Answer(seen.Frequency.Rows[2].Slot)
	assert.Equal(t, "≥\u00a05", a.Label)
	run := c.run(c.recipeOf(st), []byte(file.String()))
	raw, err := run.JSON()
	require.NoError(t, err)
	assert.Contains(t, string(raw), `"label": "≥`+"\u00a0"+`5"`)
}
