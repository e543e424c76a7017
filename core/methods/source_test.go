package methods_test

import (
	"context"
	"encoding/json"
	"errors"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods"
	"widetally/core/methods/crosstab"
	"widetally/core/survey"
	"widetally/internal/sourcetest"
)

// Counts that somebody typed are a source like any other.
func TestTypedCountsAreASource(t *testing.T) {
	t.Parallel()
	var typed analysis.Typed
	require.NoError(t, json.Unmarshal([]byte(`{"questions":[
		{"key":"w","categories":[{"code":"Harbour"},{"code":"Fenside"},{"code":"Saltings"}]},
		{"key":"b","categories":[{"code":"yes"},{"code":"no"},{"code":"","missing":"no answer"}]},
		{"key":"a","categories":[{"code":"yes"},{"code":"no"},{"code":"","missing":"no answer"}]},
		{"key":"r","kind":"choose_all","categories":[{"code":"smell"},{"code":"time"},{"code":"","missing":"no answer"}],"counts":[4,4,2],"chosen":[0,4,2]},
		{"key":"y","kind":"continuous","values":[3,5,7,8,12],"valueCounts":[3,1,1,1,1]}],
		"crosstabs":[{"rows":"w","columns":"b","layers":"a","counts":[[[1,1,0],[1,1,0],[0,0,1]],[[1,1,0],[0,0,0],[0,0,0]],[[0,0,0],[0,1,0],[0,0,0]]]},
		{"rows":"b","columns":"a","counts":[[[2,1,0],[2,1,1],[1,0,0]]]}]}`), &typed))
	require.NoError(t, typed.Check())
	sourcetest.Run(t, sourcetest.Source{Source: typed, Ward: "w", Before: "b", After: "a", Reasons: "r", Years: "y", CountsOnly: true})
}

func TestTypedCountsThatCannotBe(t *testing.T) {
	t.Parallel()
	for body, code := range map[string]string{
		`{"questions":[{"key":""}]}`:                                           "typed.key",
		`{"questions":[{"key":"a"},{"key":"a"}]}`:                              "typed.key",
		`{"questions":[{"key":"a","categories":[{"code":"1"},{"code":"1"}]}]}`: "typed.same_code",
		`{"questions":[{"key":"a","categories":[{"code":"1","label":"own"},{"code":"2","label":"rent"},{"code":"3","label":"own"}]}]}`:                                "typed.same_name",
		`{"questions":[{"key":"a","categories":[{"code":"1"}],"counts":[1,2]}]}`:                                                                                      "typed.length",
		`{"questions":[{"key":"a","categories":[{"code":"1"}],"counts":[-1]}]}`:                                                                                       "compute.negative_count",
		`{"questions":[{"key":"a","categories":[{"code":"1"}],"counts":[9223372036854775807]}]}`:                                                                      "compute.count_too_large",
		`{"questions":[{"key":"a","categories":[{"code":"1"}],"counts":[1],"patterns":[{"chosen":["1"],"count":2}]}]}`:                                                "typed.twice",
		`{"questions":[{"key":"a","categories":[{"code":"1"}],"patterns":[{"chosen":["2"],"count":2}]}]}`:                                                             "typed.length",
		`{"questions":[{"key":"a","categories":[{"code":"1"}],"patterns":[{"chosen":["1"],"count":-2}]}]}`:                                                            "compute.negative_count",
		`{"questions":[{"key":"a","categories":[{"code":"1"}]}],"crosstabs":[{"rows":"a","columns":"b","counts":[[[1]]]}]}`:                                           "typed.key",
		`{"questions":[{"key":"a","categories":[{"code":"1"}]}],"crosstabs":[{"rows":"a","columns":"","counts":[[[1]]]}]}`:                                            "typed.key",
		`{"questions":[{"key":"a","categories":[{"code":"1"}]},{"key":"b","categories":[{"code":"1"}]}],"crosstabs":[{"rows":"a","columns":"b","counts":[[[1,2]]]}]}`: "typed.length",
	} {
		var typed analysis.Typed
		require.NoError(t, json.Unmarshal([]byte(body), &typed), body)
		var refused *analysis.SpecError
		require.ErrorAs(t, typed.Check(), &refused, body)
		assert.Equal(t, code, refused.Code, body)
	}
}

// registry holds every method.
var registry = methods.All()

func read(t *testing.T, raw string) analysis.Spec {
	t.Helper()
	s, err := registry.Spec([]byte(raw))
	require.NoError(t, err, raw)
	return s
}

// A spec has one form: what is read is written again as it was, and a change of its
// settings is read by the same strict rules.
func TestASpecHasOneForm(t *testing.T) {
	t.Parallel()
	for _, raw := range []string{
		`{"method":"goodness-of-fit","version":1,"questions":["7"],"subgroup":"3","settings":{"shares":{"scale":"ratio","figures":[{"code":"a","figure":"1/3"},{"code":"","figure":"2"}],"source":{"kind":"theory","title":"x"}},"role":"alternative","level":0.01}}`,
		`{"method":"one-proportion","version":1,"questions":["7"],"settings":{"success":["a"],"claimed":"62 %","direction":"less","role":"null","level":0.05,"source":{}}}`,
		`{"method":"crosstab","version":1,"questions":["7","8"],"settings":{"reading":"column","show":["expected"],"test":{"role":"null","level":0.05,"exact":true}}}`,
		`{"method":"simultaneous-intervals","version":1,"questions":["7"],"settings":{"confidence":0.99}}`,
		`{"method":"planning/margin","version":1,"questions":[],"settings":{"confidence":"0.95","find":"n","margin":"4 %","share":"0.5"}}`,
	} {
		s := read(t, raw)
		again, err := json.Marshal(s)
		require.NoError(t, err)
		assert.JSONEq(t, raw, string(again))
		assert.Equal(t, s, read(t, string(again)))
	}
	s := read(t, `{"method":"crosstab","version":1,"questions":["7","8"],"settings":{}}`)
	assert.False(t, s.Settings.Tests())
	s, err := s.Patched([]byte(`{"test":{"role":"null","level":"2,5 %"}}`))
	require.NoError(t, err)
	assert.True(t, s.Settings.Tests())
	assert.Equal(t, 0.025, s.Settings.SignificanceLevel())
	_, err = s.Patched([]byte(`{"test":{"rôle":1}}`))
	assert.Error(t, err)
	_, err = s.Patched([]byte(`[1]`))
	assert.Error(t, err)
}

// A level is read as a person means it; a JSON number is what it is.
func TestLevelsAsWritten(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]float64{`0.05`: 0.05, `5`: 5, `"5"`: 0.05, `"5 %"`: 0.05, `"0.05"`: 0.05, `"2,5\u00a0%"`: 0.025, `"0.1 %"`: 0.001, `"1"`: 0.01, `"95"`: 0.95} {
		var l analysis.Level
		require.NoError(t, json.Unmarshal([]byte(text), &l), text)
		assert.Equal(t, want, float64(l), text)
	}
	for _, text := range []string{`""`, `"five"`, `"NaN"`, `"5 % %"`, `true`} {
		var l analysis.Level
		assert.Error(t, json.Unmarshal([]byte(text), &l), text)
	}
}

var wording = "A caddy?"

var caddy = analysis.Typed{Units: "households", Questions: []analysis.TypedQuestion{{Key: "q", Wording: &wording, Short: "caddy use",
	Categories: []analysis.TypedCategory{{Code: "y", Label: "Yes"}, {Code: "s", Label: "Sometimes"}, {Code: "n", Label: "No"}, {Code: "", Missing: "no answer"}}, Counts: []int64{700, 34, 506, 12}}}}

func asked(t *testing.T, from analysis.Source, s analysis.Spec) (*analysis.Outcome, document.Document) {
	t.Helper()
	counted, err := analysis.Count(t.Context(), s, from)
	require.NoError(t, err)
	o, err := analysis.Run(analysis.Work{Context: t.Context(), Steps: 1_000_000, Replicates: 1000}, s, counted)
	require.NoError(t, err)
	require.NoError(t, o.Refusal)
	return o, o.Document(claim.About{Units: document.Text("households")})
}

func factsOf(d document.Document) map[string]document.Message {
	out := map[string]document.Message{}
	for _, b := range d.Blocks {
		for _, f := range b.Facts {
			out[f.Key] = f.Value
		}
	}
	return out
}

// 734 of 1,240 against 62 %, less: z = (734 − 768.8)/√(1240·0.62·0.38) = −2.036014,
// and the lower tail of it 0.0208745; the exact binomial tail, summed in fractions, is
// 0.0227409. Two answers count together;
// who did not answer is left out.
func TestOneShareOfSeveralAnswers(t *testing.T) {
	t.Parallel()
	for _, claimed := range []string{"62 %", "62%", "0.62", "31/50", "62"} {
		o, d := asked(t, caddy, read(t, `{"method":"one-proportion","version":1,"questions":["q"],"settings":{"success":["y","s"],"claimed":"`+claimed+`","direction":"less","role":"null","level":0.05}}`))
		r := o.Result.(*infer.Proportion)
		assert.Equal(t, []int64{734, 1240}, []int64{r.Successes, r.N}, claimed)
		assert.InDelta(t, -2.036014, r.Z, 5e-7)
		facts := factsOf(d)
		assert.InDelta(t, 0.0208745, facts["p"].Values["value"].Number, 1e-7)
		assert.InDelta(t, 0.0227, facts["exact"].Values["value"].Number, 5e-5)
		assert.InDelta(t, -1.644854, facts["critical"].Values["value"].Number, 1e-6)
		assert.NotContains(t, facts, "looked_greater", "only the stated direction is shown")
	}
	_, d := asked(t, caddy, read(t, `{"method":"one-proportion","version":1,"questions":["q"],"settings":{"success":["y","s"],"claimed":"62 %","direction":"different","role":"null","level":0.05,"looked":["less"]}}`))
	facts := factsOf(d)
	assert.InDelta(t, 2*0.0208745, facts["p"].Values["value"].Number, 2e-7, "the tail is doubled")
	assert.Contains(t, facts, "looked_less")
	looked := false
	for _, n := range d.Notes {
		looked = looked || n.ID == "note.one_proportion.looked" && n.Caution
	}
	assert.True(t, looked, "what was looked at besides is noted")
}

// With three answers at 95 % B is the square of z at 1 − 0.05/6, z = √2·erfinv(1 − 0.05/3);
// who did not answer is left out. The quadratic is solved here in its plain form.
func TestIntervalsThatHoldTogether(t *testing.T) {
	t.Parallel()
	spec := read(t, `{"method":"simultaneous-intervals","version":1,"questions":["q"],"settings":{"confidence":0.95}}`)
	o, d := asked(t, caddy, spec)
	z := math.Sqrt2 * math.Erfinv(1-0.05/3)
	b, n := z*z, 1240.0
	var table *document.Table
	for _, block := range d.Blocks {
		if block.Table != nil {
			table = block.Table
		}
	}
	for i, x := range []float64{700, 34, 506} {
		root := math.Sqrt(b * (b + 4*x*(n-x)/n))
		shown := table.Rows[i].Cells[2].Figures[0].Value
		assert.InDelta(t, 100*(b+2*x-root)/(2*(n+b)), shown.Number, 1e-10)
		assert.InDelta(t, 100*(b+2*x+root)/(2*(n+b)), shown.Upper, 1e-10)
	}
	assert.Nil(t, d.Outcome, "nothing is decided")
	assert.Equal(t, int64(1240), o.Result.(*infer.Simultaneous).N)

	few := analysis.Typed{Questions: []analysis.TypedQuestion{{Key: "q", Categories: []analysis.TypedCategory{{Code: "y"}, {Code: "n"}}, Counts: []int64{3, 40}}}}
	_, d = asked(t, few, spec)
	cautioned := false
	for _, note := range d.Notes {
		cautioned = cautioned || note.ID == "note.simultaneous_intervals.poor" && note.Caution
	}
	assert.True(t, cautioned, "a count below 5 is said")
	assert.Equal(t, "simultaneous_intervals.confidence", read(t, `{"method":"simultaneous-intervals","version":1,"questions":["q"],"settings":{"confidence":1}}`).Settings.Check(nil)[0].Code)
}

func TestClaimedSharesThatAreNone(t *testing.T) {
	t.Parallel()
	for claimed, code := range map[string]string{"": "share.empty", "x": "share.not_a_share", "1": "share.one", "0": "share.range", "100 %": "share.range", "-3 %": "share.not_a_share", "1,500": "share.comma", "150": "share.range"} {
		s := read(t, `{"method":"one-proportion","version":1,"questions":["q"],"settings":{"success":["y"],"claimed":"`+claimed+`","direction":"less","role":"null"}}`)
		q, err := caddy.Question(t.Context(), "q")
		require.NoError(t, err)
		problems := s.Settings.Check([]survey.Question{q})
		require.Len(t, problems, 1, claimed)
		assert.Equal(t, code, problems[0].Code, claimed)
		assert.Equal(t, "/settings/claimed", problems[0].Pointer)
	}
}

// 10, 20, 30 and 20, 25, 15 against each other, by hand: expected 15, 22.5, 22.5 in both
// rows, X² = 2·(25/15 + 6.25/22.5 + 56.25/22.5) = 8.8889, df 2, p = e^(−X²/2) = 0.011744,
// V = √(X²/120) = 0.27217.
var grid = analysis.Typed{Questions: []analysis.TypedQuestion{
	{Key: "ward", Short: "ward", Categories: []analysis.TypedCategory{{Code: "H"}, {Code: "F"}}},
	{Key: "use", Short: "use", Categories: []analysis.TypedCategory{{Code: "often"}, {Code: "some"}, {Code: "never"}, {Code: "empty"}, {Code: "", Missing: "none"}}},
}, Crosstabs: []analysis.TypedCrosstab{{Rows: "ward", Columns: "use", Counts: [][][]int64{{{10, 20, 30, 0, 3}, {20, 25, 15, 0, 0}}}}}}

func TestTwoQuestionsCrossed(t *testing.T) {
	t.Parallel()
	o, d := asked(t, grid, read(t, `{"method":"crosstab","version":1,"questions":["use","ward"],"settings":{"test":{"role":"null","level":0.05}}}`))
	r := o.Result.(crosstab.Answer).Independence
	assert.InDelta(t, 80.0/9, r.Statistic, 1e-12)
	assert.Equal(t, 2, r.DF, "an answer that nobody chose takes no part in the test")
	facts := factsOf(d)
	assert.InDelta(t, 0.011743628457021, facts["p"].Values["value"].Number, 1e-14)
	assert.InDelta(t, 0.272165526975909, facts["v"].Values["value"].Number, 1e-14)
	var table *document.Table
	for _, b := range d.Blocks {
		if b.Table != nil && table == nil {
			table = b.Table
		}
	}
	require.NotNil(t, table)
	assert.Len(t, table.Columns, 5, "but keeps its column, beside that of all")
	figure := func(row, column int, role document.Role) float64 {
		for _, f := range table.Rows[row].Cells[column].Figures {
			if f.Role == role {
				return f.Value.Number
			}
		}
		t.Fatalf("no %s in %d, %d", role, row, column)
		return 0
	}
	assert.InDelta(t, 100.0/6, figure(0, 0, document.RowPercent), 1e-12)
	assert.InDelta(t, 100.0/3, figure(0, 0, document.ColumnPercent), 1e-12)
	assert.InDelta(t, 15, figure(0, 0, document.Expected), 1e-12)
	assert.Equal(t, 120.0, figure(2, 4, document.Observed))
	// The answer that sets the wards furthest apart is never: 50 % against 25 %.
	var reading document.Message
	for _, b := range d.Blocks {
		if b.Kind == document.Sentence {
			reading = b.Said[0]
		}
	}
	assert.Equal(t, "read.groups", reading.ID)
	assert.Equal(t, []any{"never", 50.0, 25.0}, []any{reading.Values["answer"].Text, reading.Values["percent"].Number, reading.Values["percent2"].Number})

	described, d := asked(t, grid, read(t, `{"method":"crosstab","version":1,"questions":["use","ward"],"settings":{"swapped":true,"reading":"count"}}`))
	assert.Nil(t, d.Outcome, "a table that is only described decides nothing")
	assert.Nil(t, described.Refusal)
	for _, b := range d.Blocks {
		if b.Table != nil {
			assert.Len(t, b.Table.Rows, 5, "rows and columns are exchanged")
			for _, row := range b.Table.Rows {
				for _, cell := range row.Cells {
					assert.Empty(t, cell.Mark, "and nothing stands out")
				}
			}
		}
	}
}

// Whether a result is the one that was read first follows from what it depends on, and
// nothing else; inputs of claims from before specs compare with those of now.
func TestInputsTellWhatDiffers(t *testing.T) {
	t.Parallel()
	raw := `{"method":"goodness-of-fit","version":1,"questions":["q"],"settings":{"shares":{"scale":"ratio","figures":[{"code":"y","figure":"2"},{"code":"s","figure":"1"},{"code":"n","figure":"1"}],"source":{"kind":"theory","title":"x"}},"role":"null","level":0.05}}`
	inputs := func(raw string, from analysis.Typed, subgroup, counts string) analysis.Inputs {
		s := read(t, raw)
		counted, err := analysis.Count(t.Context(), s, from)
		require.NoError(t, err)
		in, err := analysis.InputsOf(s, counted, subgroup, counts)
		require.NoError(t, err)
		return in
	}
	first := inputs(raw, caddy, "", "")
	old := `{"observed":{"y":700,"s":34,"n":506},"missing":12,"claim":"[\"null\",0.05,\"ratio\",false,null,{\"y\":\"2\",\"s\":\"1\",\"n\":\"1\"}]","coding":{"":{"missing":"no answer"}},"subgroup":"","counts":""}`
	was, err := registry.ReadInputs(old, read(t, raw))
	require.NoError(t, err)
	assert.Equal(t, first.Observed, was.Observed)
	assert.Empty(t, first.Since(was), "a claim that was stated before specs were is the same claim")
	another := caddy
	another.Questions = []analysis.TypedQuestion{caddy.Questions[0]}
	another.Questions[0].Counts = []int64{701, 33, 506, 12}
	recoded := another
	recoded.Questions = []analysis.TypedQuestion{another.Questions[0]}
	recoded.Questions[0].Categories = append([]analysis.TypedCategory{}, caddy.Questions[0].Categories...)
	recoded.Questions[0].Categories[3].Missing = "refused"
	change := func(from, to string) string {
		return strings.Replace(raw, from, to, 1)
	}
	for name, x := range map[string]struct {
		now  analysis.Inputs
		want []analysis.Difference
	}{
		"where the shares come from": {inputs(change(`"title":"x"`, `"title":"y"`), caddy, "", ""), nil},
		"the level":                  {inputs(change("0.05", "0.01"), caddy, "", ""), []analysis.Difference{analysis.ClaimDiffers}},
		"the answers":                {inputs(raw, another, "", ""), []analysis.Difference{analysis.AnswersDiffer}},
		"the coding":                 {inputs(raw, recoded, "", ""), []analysis.Difference{analysis.CodingDiffers}},
		"subgroup and counts":        {inputs(raw, another, "x", "n"), []analysis.Difference{analysis.SubgroupDiffers, analysis.CountsDiffer}},
	} {
		assert.Equal(t, x.want, x.now.Since(first), name)
	}
	a, err := analysis.Digest(read(t, raw), count(t, raw, caddy))
	require.NoError(t, err)
	b, err := analysis.Digest(read(t, raw), count(t, raw, another))
	require.NoError(t, err)
	assert.NotEqual(t, a, b, "other counts are another result")
}

// What was changed in a spec is told member by member.
func TestChangesAreToldMemberByMember(t *testing.T) {
	t.Parallel()
	before := read(t, `{"method":"goodness-of-fit","version":1,"questions":["q"],"settings":{"shares":{"scale":"ratio","figures":[{"code":"y","figure":"2"},{"code":"n","figure":"1"}],"source":{"kind":"theory","title":"x"}},"role":"null","level":0.05}}`)
	after := read(t, `{"method":"goodness-of-fit","version":1,"questions":["q"],"subgroup":"4","settings":{"shares":{"scale":"ratio","figures":[{"code":"n","figure":"1"},{"code":"y","figure":"3"}],"source":{"kind":"theory","title":"x"}},"role":"null","level":0.1}}`)
	got, err := analysis.Changes(before, after)
	require.NoError(t, err)
	for i := range got {
		got[i].At = ""
	}
	assert.ElementsMatch(t, []analysis.Change{{Field: "level", Old: "0.05", New: "0.1"}, {Field: "figure", Code: "y", Old: "2", New: "3"}, {Field: "subgroup", Old: "", New: "4"}}, got)
	same, err := analysis.Changes(before, before)
	require.NoError(t, err)
	assert.Empty(t, same)
}

func count(t *testing.T, raw string, from analysis.Source) *analysis.Counted {
	t.Helper()
	c, err := analysis.Count(t.Context(), read(t, raw), from)
	require.NoError(t, err)
	return c
}

// A context that ends stops an exact test that is under way.
func TestRunsStop(t *testing.T) {
	t.Parallel()
	ctx, stop := context.WithCancel(t.Context())
	stop()
	s := read(t, `{"method":"crosstab","version":1,"questions":["use","ward"],"settings":{"test":{"role":"null","level":0.05,"exact":true}}}`)
	big := grid
	big.Crosstabs = []analysis.TypedCrosstab{{Rows: "ward", Columns: "use", Counts: [][][]int64{{{1000, 2000, 3000, 10, 3}, {2000, 2500, 1500, 20, 0}}}}}
	counted, err := analysis.Count(t.Context(), s, big)
	require.NoError(t, err)
	_, err = analysis.Run(analysis.Work{Context: ctx}, s, counted)
	assert.True(t, errors.Is(err, context.Canceled), err)
}

// asking is two questions with the same answers, the second down and the first across as a
// source counts them for a spec that names the first one first.
func asking(square [][]int64) analysis.Typed {
	categories := []analysis.TypedCategory{{Code: "1", Label: "good"}, {Code: "2", Label: "fair"}, {Code: "3", Label: "poor"}}[:len(square)]
	turned := make([][]int64, len(square))
	for i := range square {
		for j := range square {
			turned[i] = append(turned[i], square[j][i])
		}
	}
	return analysis.Typed{Questions: []analysis.TypedQuestion{{Key: "a", Categories: categories}, {Key: "b", Categories: categories}},
		Crosstabs: []analysis.TypedCrosstab{{Rows: "b", Columns: "a", Counts: [][][]int64{turned}}}}
}

// Two answers, 30 one way and 12 the other: χ² = 18²/42; with 10 and 2 the exact test
// decides, 2·(1 + 12 + 66)/2¹². Three answers by Stuart's formula, solved in fractions.
func TestTheSameRespondentsAskedTwice(t *testing.T) {
	t.Parallel()
	spec := read(t, `{"method":"paired","version":1,"questions":["a","b"],"settings":{"role":"null","level":0.05}}`)
	for _, c := range []struct {
		square       [][]int64
		statistic, p float64
		df           int
		finding      string
	}{
		{[][]int64{{50, 30}, {12, 40}}, 18 * 18 / 42.0, 0.005478553242547366, 1, "finding.paired.null.rejected"},
		{[][]int64{{50, 10}, {2, 40}}, 64 / 12.0, 158 / 4096.0, 1, "finding.paired.null.rejected"},
		{[][]int64{{50, 9}, {2, 40}}, 49 / 11.0, 2 * (1 + 11 + 55) / 2048.0, 1, "finding.paired.null.kept"},
		{[][]int64{{20, 10, 5}, {3, 30, 15}, {4, 5, 40}}, 5.267504488330341, 0.07180851302380499, 2, "finding.paired.null.kept"},
	} {
		o, d := asked(t, asking(c.square), spec)
		r := o.Result.(*infer.Agreement)
		assert.Equal(t, c.square, r.Table, "the first question down")
		assert.Equal(t, c.df, r.Margins.DF)
		assert.InDelta(t, c.statistic, r.Margins.Statistic, 1e-12)
		assert.InDelta(t, c.p, d.Outcome.P.Number, 1e-12)
		for _, b := range d.Blocks {
			if b.Kind == document.Sentence {
				assert.Equal(t, c.finding, b.Said[0].ID)
			}
		}
	}
	counted, err := analysis.Count(t.Context(), spec, asking([][]int64{{5, 0}, {0, 5}}))
	require.NoError(t, err)
	o, err := analysis.Run(analysis.Work{Context: t.Context()}, spec, counted)
	require.NoError(t, err)
	var refused *infer.InputError
	require.ErrorAs(t, o.Refusal, &refused)
	assert.Equal(t, infer.NobodyChanged, refused.Reason)

	other := asking([][]int64{{1, 2}, {3, 4}})
	other.Questions[1].Categories = []analysis.TypedCategory{{Code: "1", Label: "Monday"}, {Code: "2", Label: "Tuesday"}}
	_, err = analysis.Count(t.Context(), spec, other)
	var wrong *analysis.SpecError
	require.ErrorAs(t, err, &wrong)
	assert.Equal(t, "paired.labels", wrong.Code)
}
