package i18n

import (
	"encoding/json"
	"errors"
	"fmt"
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
	"widetally/core/methods/crosstabs"
	"widetally/core/methods/frequency"
	"widetally/core/methods/numericcomparison"
	"widetally/core/methods/numericsummary"
	"widetally/core/methods/ordered"
	"widetally/core/methods/planning"
	"widetally/core/methods/simultaneousintervals"
	"widetally/core/shares"
	"widetally/core/survey"
)

func TestPValuesNeverReadZeroAndNeverCrossTheLevel(t *testing.T) {
	t.Parallel()
	cases := []struct {
		log10         float64
		level         float64
		prose, inFull string
	}{
		{math.Log10(0.344), 0.05, "0.344", "0.344"},
		{math.Log10(0.0209), 0.05, "0.0209", "0.0209"},
		{math.Log10(0.04996), 0.05, "0.04996", "0.04996"},
		{math.Log10(0.05000004), 0.05, "0.05000004", "0.05000004"},
		{math.Log10(0.1003), 0.1, "0.1003", "0.1003"},
		{math.Log10(0.000999), 0.05, "< 0.001", "9.99 × 10⁻⁴"},
		{-5.0002, 0.05, "< 0.001", "1.00 × 10⁻⁵"},
		{-531.85928271520400194, 0.05, "< 0.001", "1.38 × 10⁻⁵³²"},
		{0, 0.05, "> 0.999", "> 0.999"},
	}
	catalogue, err := Load("en")
	require.NoError(t, err)
	for _, c := range cases {
		p := math.Pow(10, c.log10)
		assert.Equal(t, c.prose, catalogue.P(p, c.log10, c.level))
		assert.Equal(t, c.inFull, catalogue.PExact(p, c.log10, c.level))
	}
}

func TestWrite(t *testing.T) {
	t.Parallel()
	c, err := Load("en")
	require.NoError(t, err)
	for want, v := range map[string]document.Value{
		"1,240": {Kind: document.Count, Number: 1240}, "−28.600": {Kind: document.Statistic, Number: -28.6}, "0.0": {Kind: document.Amount, Number: -0.01},
		"2.5\u00a0%": {Kind: document.Level, Number: 0.025}, "5\u00a0%": {Kind: document.Level, Number: 0.05}, "less than 0.01": {Kind: document.Effect, Number: 0.001},
		"−0.0265187": {Kind: document.Exact, Number: -0.02651871}, "1.5 × 10⁻⁷": {Kind: document.Exact, Number: 1.5e-7},
	} {
		assert.Equal(t, want, c.Write(v))
	}
}

// A journal has no zero before the point of what cannot be above 1, and the side of the level
// stays what it is.
func TestTheStyleOfAJournal(t *testing.T) {
	t.Parallel()
	c, err := Load("en")
	require.NoError(t, err)
	j := c.In(JournalStyle)
	for p, want := range map[float64]string{0.034: "= .034", 0.0496: "= .0496", 0.5: "= .500", 0.0001: "< .001", 0.9999: "> .999"} {
		assert.Equal(t, want, j.Write(document.Value{Kind: document.PEqual, Number: p, Log10: math.Log10(p), Level: 0.05}))
	}
	assert.Equal(t, "14.80", j.Write(document.Value{Kind: document.Statistic, Number: 14.8023}))
	assert.Equal(t, "14.802", c.Write(document.Value{Kind: document.Statistic, Number: 14.8023}), "the catalogue itself stays as it is")
}

func TestWordsFollowTheirNumber(t *testing.T) {
	t.Parallel()
	c, err := Load("en")
	require.NoError(t, err)
	for n, want := range map[string]string{"1": "1 question changed at once", "2": "2 questions changed at once", "0": "0 questions changed at once"} {
		assert.Equal(t, want, c.Text("history.bulk", map[string]string{"n": n}))
	}
}

// One of the units is one of them, whatever they are; what is too small for its digits is less,
// with one sign.
func TestOneOfThem(t *testing.T) {
	t.Parallel()
	c, err := Load("en")
	require.NoError(t, err)
	say := func(n int64, units document.Value) string {
		return c.Say(document.Say("read.layer", document.Values{"layer": document.Text("x"), "n": document.N(n), "units": units}))
	}
	for units, one := range map[string]string{"respondents": "respondent", "households": "household", "people": "person", "adults in Fernmouth": "adult in Fernmouth", "council homes": "council home", "sheep": "sheep"} {
		assert.Equal(t, "x · 1 "+one, say(1, document.Text(units)))
		assert.Equal(t, "x · 2 "+units, say(2, document.Text(units)))
	}
	within := document.Say("claim.in_subgroup", document.Values{"units": document.Text("households"), "subgroup": document.Text("renters")})
	assert.Contains(t, say(1, document.Value{Kind: document.Said, Message: &within}), "1 household ")
	size := func(w float64) string {
		return c.Say(document.Say("finding.goodness_of_fit.journal", document.Values{"df": document.N(1), "n": document.N(9), "statistic": document.Of(document.Statistic, 1), "p": document.Of(document.PEqual, 0.3), "w": document.Of(document.Effect, w)}))
	}
	assert.Contains(t, size(0.0001), "w\u00a0<\u00a00.01")
	assert.Contains(t, size(0.21), "w\u00a0=\u00a00.21")
}

// said collects every message of a document.
func said(d document.Document) (out []document.Message) {
	for _, b := range d.Blocks {
		out = append(out, b.Said...)
		for _, f := range b.Facts {
			out = append(out, f.Name, f.Value)
		}
		if c := b.Choices; c != nil {
			out = append(out, c.Label)
			for _, o := range c.Options {
				out = append(out, o.Label)
			}
			for _, e := range c.Entries {
				out = append(out, e.Label)
			}
		}
		if t := b.Table; t != nil {
			out = append(append(out, t.Caption, t.Stub), t.Columns...)
			if t.Strips != nil {
				out = append(out, *t.Strips)
			}
			for _, r := range t.Rows {
				out = append(out, r.Name)
				for _, cell := range r.Cells {
					if cell.Said.ID != "" {
						out = append(out, cell.Said)
					}
					for _, f := range cell.Figures {
						out = append(out, document.Say("value", document.Values{"value": f.Value}))
					}
				}
			}
		}
		if p := b.Chart; p != nil {
			out = append(out, p.Alt, p.Axis)
			if p.Title.ID != "" {
				out = append(out, p.Title)
			}
			if plot := p.Plot; plot != nil {
				out = append(append(out, plot.Legend...), plot.Rows...)
				for _, m := range []document.Message{plot.Up, plot.Tick} {
					if m.ID != "" {
						out = append(out, m)
					}
				}
				for _, n := range plot.Names {
					out = append(out, n.Label)
				}
				for _, b := range plot.Bars {
					if b.Label.ID != "" {
						out = append(out, b.Label)
					}
				}
			}
			if p.Curve != nil {
				out = append(out, p.Curve.Label)
			}
		}
	}
	for _, n := range d.Notes {
		out = append(out, n.Message)
		if n.Remedy != nil {
			out = append(out, n.Remedy.Label)
		}
	}
	if d.Outcome != nil {
		out = append(out, d.Outcome.Text)
	}
	return out
}

// Every sentence that the core can ask for exists and has all its values, over every
// outcome and setting of every method that is asked of questions: no square bracket is left
// in any text. None accepts or proves; a finding supports a claim only where the claim is
// the alternative and the null is rejected, and rejects it only where it is the null.
func TestEveryDocumentHasItsWords(t *testing.T) {
	t.Parallel()
	c, err := Load("en")
	require.NoError(t, err)
	specs := allSpecs(t)
	texts := 0
	for round, counts := range [][][]int64{{{50, 50, 0}, {10, 40, 3}}, {{90, 8, 0}, {1, 2, 1}}, {{4, 3, 0}, {0, 0, 0}}, {{500, 900, 3}, {900, 20, 5}}, {{0, 900, 0}, {0, 30, 0}}, {{30, 20, 0}, {10, 25, 0}}, {{0, 0, 0}, {0, 0, 0}}} {
		from := typed(counts)
		for _, s := range specs {
			if round > 0 && (s.Method == "numeric-summary" || len(s.Questions) == 0) {
				continue // its numbers are the same each time
			}
			var source analysis.Source = from
			if len(s.Questions) > 0 && (s.Questions[0] == "set" || s.Questions[0] == "age") {
				source = columns(t, round)
			}
			counted, err := analysis.Count(t.Context(), s, source)
			require.NoError(t, err, s)
			o, err := analysis.Run(analysis.Work{Context: t.Context(), Steps: 1000, Replicates: 100}, s, counted)
			require.NoError(t, err)
			about := claim.About{Units: document.Text("households"), Weights: "w"}
			statement := s.Settings.Statement(counted.Questions, about)
			if statement.ID != "" {
				assert.NotContains(t, c.Say(statement), "[", statement.ID)
			}
			var refused *infer.InputError
			if errors.As(o.Refusal, &refused) {
				assert.True(t, c.Has("problem.analysis."+string(refused.Reason)) || c.Has("problem.compute."+string(refused.Reason)), refused.Reason)
				continue
			}
			d := o.Document(about)
			for _, m := range said(d) {
				text := c.Say(m)
				assert.NotContains(t, text, "[", m.ID)
				assert.NotRegexp(t, `(?i)\baccept|\bproves\b|no significant`, text)
				texts++
			}
			if !s.Settings.Tests() {
				assert.Nil(t, d.Outcome)
				continue
			}
			for _, b := range d.Blocks {
				if b.Kind != document.Sentence || !strings.HasPrefix(b.Said[0].ID, "finding.") {
					continue
				}
				finding, rejected, isNull := c.Say(b.Said[0]), strings.Contains(b.Said[0].ID, "rejected"), strings.Contains(b.Said[0].ID, ".null.")
				assert.Equal(t, rejected && !isNull, strings.Contains(finding, "evidence supports the claim"), finding)
				assert.Equal(t, rejected && isNull, strings.Contains(finding, "the claim is rejected"), finding)
			}
		}
	}
	assert.Greater(t, texts, 10_000)
}

func ref[T any](x T) *T { return &x }

var twice = []analysis.TypedCategory{{Code: "1", Label: "good"}, {Code: "2", Label: "fair"}, {Code: "3", Label: "poor"}}

var scores = []float64{-1, 2.5}

var four = append(append([]analysis.TypedCategory{}, twice...), analysis.TypedCategory{Code: "4", Label: "bad"})

// typed are two questions of three and two answers crossed, and what is left of them.
func typed(counts [][]int64) analysis.Typed {
	return analysis.Typed{Questions: []analysis.TypedQuestion{
		{Key: "ward", Wording: ref("Which ward?"), Categories: []analysis.TypedCategory{{Code: "1", Label: "Harbour"}, {Code: "2", Label: "Fenside"}, {Code: "3", Label: "Saltings"}}},
		{Key: "caddy", Wording: ref("A caddy?"), Short: "caddy use", Categories: []analysis.TypedCategory{{Code: "y", Label: "yes"}, {Code: "n", Label: "no"}, {Code: "", Missing: "no answer"}}},
		{Key: "size", Kind: survey.Discrete, Values: []float64{1, 2, 3, 5}, ValueCounts: []int64{400, 900, 30, 1}},
		{Key: "years", Kind: survey.Continuous, Values: many()},
		{Key: "one", Kind: survey.Continuous, Values: []float64{2.5}},
		{Key: "even", Kind: survey.Ordered, Categories: classes(0, 10, 20, 30), Counts: []int64{4, 0, 9}},
		{Key: "uneven", Kind: survey.Ordered, Categories: classes(0, 10, 20, 65), Counts: []int64{4, 1, 9}},
		{Key: "reasons", Kind: survey.ChooseAll, Categories: twice, Counts: []int64{70, 20, 0}, Chosen: []int64{10, 70, 10}},
		{Key: "nothing", Kind: survey.ChooseAll, Categories: twice, Counts: []int64{0, 0, 0}, Chosen: []int64{10}},
		{Key: "third", Kind: survey.Ordered, Categories: twice, Counts: []int64{0, 0, 0}},
		{Key: "ward2", Kind: survey.Ordered, Categories: four, Counts: []int64{10, 20, 30, 40}}, {Key: "ward3", Kind: survey.Ordered, Categories: four, Counts: []int64{0, 0, 9, 1}},
		{Key: "turned", Kind: survey.Ordered, Categories: []analysis.TypedCategory{four[3], four[2], four[1], four[0]}, Counts: []int64{1, 2, 3, 4}},
		{Key: "scored", Kind: survey.Ordered, Categories: []analysis.TypedCategory{{Code: "1", Score: &scores[0]}, {Code: "2", Score: &scores[1]}}, Counts: []int64{6, 6}},
		{Key: "mood", Kind: survey.Ordered, Categories: twice}, {Key: "wave2", Short: "wave", Kind: survey.Ordered, Categories: twice}, {Key: "pair", Kind: survey.Ordered, Categories: twice[:2]},
		{Key: "wave", Categories: twice[:2]},
		{Key: "before", Categories: twice[:2]}, {Key: "after", Categories: twice[:2]},
		{Key: "first", Short: "mood", Categories: twice}, {Key: "later", Short: "mood later", Categories: twice},
	}, Crosstabs: []analysis.TypedCrosstab{{Rows: "caddy", Columns: "ward", Counts: [][][]int64{append(counts, []int64{0, 1, 2})}},
		{Rows: "caddy", Columns: "ward", Layers: "wave", Counts: [][][]int64{append(counts, []int64{0, 1, 2}), {{4, 0, 1}, {9, 0, 0}, {0, 0, 0}}}},
		{Rows: "after", Columns: "before", Layers: "wave", Counts: [][][]int64{{counts[0][:2], counts[1][:2]}, {{7, 3}, {2, 8}}}},
		{Rows: "after", Columns: "before", Counts: [][][]int64{{counts[0][:2], counts[1][:2]}}},
		{Rows: "wave2", Columns: "mood", Counts: [][][]int64{append(counts, []int64{counts[1][2], counts[0][0] / 2, 4})}}, {Rows: "pair", Columns: "mood", Counts: [][][]int64{counts}},
		{Rows: "later", Columns: "first", Counts: [][][]int64{append(counts, []int64{counts[1][2], counts[0][0] / 2, 4})}}}}
}

// columns are respondents with a set, an age and a ward: many, few, in one ward alone, or
// nobody in any.
func columns(t *testing.T, round int) analysis.Columns {
	t.Helper()
	answers := []survey.Answer{{Slot: 0, Missing: "no answer"}, {Slot: 1, Code: "1", Label: "one"}, {Slot: 2, Code: "2", Label: "two"}, {Slot: 3, Code: "3", Label: "three"}}
	rows := []int{400, 9, 40, 1, 60, 2, 3}[round]
	var set survey.Column
	var age, ward survey.Column
	for i := range rows {
		set.Sets = append(set.Sets, []uint64{2, 6, 1, 0}[i%4])
		age.F64 = append(age.F64, float64(20+i%7*i%60+i%2*8))
		at := uint8(1 + i%2)
		if round == 2 {
			at = 1
		}
		if round == 6 {
			at = 0
		}
		ward.U8 = append(ward.U8, at)
	}
	c, err := analysis.NewTable([]survey.Source{{Question: survey.Question{Name: "set", Wording: "Which?", Kind: survey.ChooseAll, Answers: answers}, Column: set},
		{Question: survey.Question{Name: "age", Short: "age", Kind: survey.Continuous}, Column: age}, {Question: survey.Question{Name: "ward", Short: "ward", Kind: survey.Single, Answers: answers}, Column: ward}, {Question: survey.Question{Name: "two", Short: "half", Kind: survey.Single, Answers: answers[:3]}, Column: ward},
		{Question: survey.Question{Name: "turned", Short: "half, turned", Kind: survey.Single, Answers: []survey.Answer{answers[0], answers[2], answers[1]}}, Column: ward}}, "")
	require.NoError(t, err)
	return c
}

// many are more different numbers than there are dots, each once, and one far away.
func many() (out []float64) {
	for i := range 90 {
		out = append(out, float64(i)/3)
	}
	return append(out, 400)
}

func classes(limits ...float64) (out []analysis.TypedCategory) {
	for i := 1; i < len(limits); i++ {
		out = append(out, analysis.TypedCategory{Code: fmt.Sprint(i), From: &limits[i-1], To: &limits[i]})
	}
	return out
}

// allSpecs asks every method in every way.
func allSpecs(t *testing.T) (out []analysis.Spec) {
	t.Helper()
	add := func(method string, questions string, settings string, values ...any) {
		raw := fmt.Sprintf(`{"method":%q,"version":1,"questions":%s,"settings":%s}`, method, questions, fmt.Sprintf(settings, values...))
		s, err := methods.All().Spec([]byte(raw))
		require.NoError(t, err, raw)
		out = append(out, s)
	}
	for _, confidence := range simultaneousintervals.Confidences {
		add("simultaneous-intervals", `["ward"]`, `{"confidence":%g}`, confidence)
	}
	const frame = `"frame":{"title":"Wards","across":"ward","up":"how many","values":true,"size":"large"}`
	for _, order := range claim.Orders {
		for _, picture := range frequency.BarsPictures {
			add("frequency", `["ward"]`, `{"picture":%q,"height":"share","order":%q}`, picture, order)
			add("frequency", `["caddy"]`, `{"picture":%q,"height":"count","order":%q,`+frame+`}`, picture, order)
		}
		add("frequency", `["ward2"]`, `{"picture":"upright","height":"count","order":%q}`, order)
		add("frequencies", `["ward","ward2","third","caddy"]`, `{"order":%q}`, order)
	}
	for _, method := range frequency.Togethers {
		add("frequency", `["ward2"]`, `{"picture":"upright","height":"share","order":"asked","intervals":%q}`, method)
	}
	for _, reading := range crosstabs.CrossingsReadings {
		add("crosstabs", `["ward","caddy"]`, `{"reading":%q}`, reading)
		add("multiple-response-by-group", `["set","ward"]`, `{"reading":%q,"picture":"bars",`+frame+`}`, reading)
		add("multiple-response-by-group", `["set","ward"]`, `{"reading":%q}`, reading)
	}
	every, err := json.Marshal(numericcomparison.Statistics)
	require.NoError(t, err)
	add("numeric-comparison", `["size","years","one"]`, `{"show":%s}`, every)
	add("numeric-by-group", `["age","ward"]`, `{"show":%s,`+frame+`}`, every)
	add("numeric-by-group", `["age","ward"]`, `{"show":[]}`)
	add("what-differs", `["ward","caddy"]`, `{"level":0.05}`)
	add("trend", `["mood","wave2"]`, `{"success":[],"level":0.05}`)
	add("trend", `["mood","wave2"]`, `{"success":["1"],"level":0.01,"break":"3","why":"a new wording"}`)
	add("dissimilarity", `["mood","wave2"]`, `{"confidence":0.95}`)
	add("dissimilarity", `["ward","caddy"]`, `{"confidence":0.9}`)
	for _, question := range []string{"ward2", "ward3", "third", "scored"} {
		add("ordered-summary", fmt.Sprintf("[%q]", question), `{}`)
	}
	for _, cut := range []string{`"number":4`, `"number":"3","start":"-1,5"`, `"limits":"0 2 3"`, `"limits":[1,3,5]`, `"width":"2,5"`, `"start":900`} {
		add("numeric-summary", `["size"]`, `%s`, `{"picture":"histogram","height":"count","parts":5,`+cut+`}`)
	}
	add("crosstab", `["ward","caddy"]`, `{"reading":"row","missing":true,"picture":"bars",`+frame+`}`)
	add("crosstab", `["ward","caddy"]`, `{"reading":"count","missing":true,"swapped":true,"hideEmpty":true,"picture":"mosaic",`+frame+`}`)
	add("battery", `["first","third","later"]`, `{}`)
	add("battery", `["ward2","turned"]`, `{}`)
	add("battery", `["ward2","ward3"]`, `{}`)
	add("multiple-response", `["reasons"]`, `{}`)
	add("multiple-response", `["nothing"]`, `{}`)
	for _, reading := range crosstab.Readings {
		add("mantel-haenszel", `["ward","caddy","wave"]`, `{"reading":%q}`, reading)
		add("mantel-haenszel", `["before","after","wave"]`, `{"reading":%q,"swapped":true}`, reading)
	}
	for _, drawing := range numericsummary.Drawings {
		for _, height := range claim.Heights {
			for _, more := range []string{``, `,"width":2,"normal":true`, `,"width":1e-9`, `,"start":0.5,"width":1`} {
				for _, question := range []string{"size", "years", "one", "even", "uneven"} {
					add("numeric-summary", fmt.Sprintf("[%q]", question), `{"picture":%q,"height":%q,"parts":5`+more+`}`, drawing, height)
				}
			}
		}
	}
	for _, find := range planning.Finds {
		for _, direction := range claim.Directions {
			add("planning/one-proportion", `[]`, `{"find":%q,"claimed":"62 %%","true":%q,"n":400,"power":"80 %%","direction":%q,"level":0.05}`, find, map[claim.Direction]string{claim.Greater: "70 %"}[direction]+map[claim.Direction]string{claim.Less: "0.55", claim.Different: "0.55"}[direction], direction)
		}
		add("planning/two-proportions", `[]`, `{"find":%q,"share1":"60 %%","share2":"0.5","n1":60,"n2":50,"power":"0.9","level":0.05}`, find)
		add("planning/chi-square", `[]`, `{"find":%q,"df":3,"w":"0,2","n":200,"power":"80 %%","level":0.05}`, find)
	}
	for _, population := range []string{``, `,"population":5000`} {
		add("planning/margin", `[]`, "%s", `{"find":"n","share":"50 %","margin":"3","confidence":"0.95"`+population+`}`)
		add("planning/margin", `[]`, "%s", `{"find":"departure","share":"20 %","n":400,"confidence":"0.99"`+population+`}`)
	}
	for _, name := range []string{`"normal"`, `"student_t","df":4`, `"chi_square","df":1`, `"chi_square","df":6`, `"f","df":3,"df2":40`, `"binomial","n":30,"share":"40 %"`, `"binomial","n":3000,"share":"40 %"`} {
		add("distribution", `[]`, "%s", `{"name":`+name+`,"find":"tails","x":2}`)
		add("distribution", `[]`, "%s", `{"name":`+name+`,"find":"lower","tail":"0.05"}`)
		add("distribution", `[]`, "%s", `{"name":`+name+`,"find":"upper","tail":"5 %"}`)
	}
	for _, result := range []string{`"kind":"chi_square","statistic":"12.40","df":3,"p":"0.006"`, `"kind":"chi_square","statistic":"12.40","df":3,"p":"0.012","n":100`, `"kind":"z","statistic":"2.10","p":"0.018","sided":"2"`, `"kind":"t","statistic":"2.10","df":12,"p":"0.029","sided":"2"`, `"kind":"z","statistic":"2.10","p":"1.3","sided":"1"`,
		`"kind":"chi_square","statistic":"4.17","p":"0.041","df":1,"counts":"18 32","shares":"equal"`, `"kind":"chi_square","statistic":"9","df":4,"p":"0.1","n":100,"counts":"18 32 / 20 30"`, `"kind":"chi_square","statistic":"40","df":1,"p":"0.000"`,
		`"kind":"chi_square","statistic":"8.00","p":"0.018","counts":"30 50 20","shares":"1:1:1","effect":"0.20","effectName":"v"`, `"kind":"chi_square","statistic":"9.0","df":4,"p":"0.061","n":100,"effect":"0.09","effectName":"w"`, `"kind":"chi_square","statistic":"9.0","df":4,"p":"0.061","n":100,"effect":"0.21","effectName":"w"`, `"kind":"chi_square","statistic":"9.0","df":4,"p":"0.061","n":100,"effect":"0.30","effectName":"c"`, `"kind":"chi_square","statistic":"9.0","df":4,"p":"0.061","n":100,"effect":"0.29","effectName":"v"`} {
		add("printed-result", `[]`, "%s", `{`+result+`}`)
	}
	for _, role := range claim.Roles {
		for _, direction := range claim.Directions {
			add("two-proportions", `["ward","caddy"]`, `{"success":["1"],"groups":{"first":"y","second":"n"},"direction":%q,"role":%q,"looked":["less","greater"]}`, direction, role)
			add("two-proportions", `["mood","wave2"]`, `{"success":["1","2"],"groups":{"first":"3","second":"1"},"direction":%q,"role":%q}`, direction, role)
			for _, claimed := range []string{`1.9`, `"1,5"`, `2.5,"sigma":"0,5"`, `1.74,"sigma":0.5`} {
				add("one-mean", `["size"]`, `{"claimed":`+claimed+`,"direction":%q,"role":%q,"looked":["less","greater","different"]}`, direction, role)
			}
			add("one-mean", `["age"]`, `{"claimed":30,"direction":%q,"role":%q}`, direction, role)
			add("means", `["age","turned"]`, `{"direction":%q,"role":%q,"level":0.05,"show":["mean"]}`, direction, role)
			add("means", `["age","two"]`, `{"direction":%q,"role":%q,"level":0.05,"show":["mean"],"looked":["less","greater"]}`, direction, role)
		}
		for _, margin := range []string{"1", "15", "60"} {
			add("equivalence/share", `["ward"]`, `{"success":["1"],"expected":"50 %%","margin":%q,"role":%q}`, margin, role)
			add("equivalence/share", `["ward"]`, `{"success":["1"],"expected":"0.02","margin":%q,"role":%q}`, margin, role)
			add("equivalence/two-shares", `["ward","caddy"]`, `{"success":["1"],"groups":{"first":"y","second":"n"},"margin":%q,"role":%q}`, margin, role)
			add("equivalence/distribution", `["ward"]`, `{"shares":{"scale":"equal","source":{}},"margin":%q,"role":%q}`, margin, role)
			add("equivalence/distribution", `["ward"]`, `{"shares":{"scale":"percents","figures":[{"code":"1","figure":"40"},{"code":"2","figure":"59"},{"code":"3","figure":"1"}],"source":{"kind":"register","title":"the register"}},"margin":%q,"role":%q}`, margin, role)
		}
		for _, figures := range []string{`[{"code":"1","figure":"90"},{"code":"2","figure":"100"},{"code":"3","figure":"2"}]`, `[{"code":"1","figure":"0"},{"code":"2","figure":"1000"},{"code":"3","figure":"50"}]`} {
			add("homogeneity", `["ward"]`, `{"shares":{"scale":"counts","figures":`+figures+`,"source":{"kind":"survey","title":"last year’s survey"}},"role":%q}`, role)
		}
		add("mantel-haenszel", `["before","after","wave"]`, `{"reading":"row","test":{"role":%q,"level":0.05}}`, role)
		add("cochran-q", `["set"]`, `{"role":%q,"level":0.05}`, role)
		for _, form := range ordered.OrderedForms {
			add("ordered", `["mood","wave2"]`, `{"form":%q,"role":%q,"level":0.05,"reading":"row"}`, form, role)
			add("ordered", `["mood","pair"]`, `{"form":%q,"role":%q,"level":0.05,"reading":"column"}`, form, role)
		}
		add("paired", `["before","after"]`, `{"role":%q,"level":0.05}`, role)
		add("paired", `["first","later"]`, `{"role":%q,"level":"1 %%"}`, role)
		for _, scale := range shares.Scales {
			for _, kind := range claim.ReferenceKinds {
				add("goodness-of-fit", `["ward"]`, `{"role":%q,"picture":"ticks",`+frame+`,"shares":{"scale":"equal","source":{}}}`, role)
				for _, figures := range [][3]string{{"50", "50", "0"}, {"48", "48", "3"}, {"0.5", "0.4", "0.1"}} {
					list := fmt.Sprintf(`[{"code":"1","figure":%q},{"code":"2","figure":%q},{"code":"3","figure":%q}]`, figures[0], figures[1], figures[2])
					add("goodness-of-fit", `["ward"]`, `{"role":%q,"shares":{"scale":%q,"rescale":true,"figures":%s,"source":{"kind":%q,"title":"the register"}}}`, role, scale, list, kind)
				}
			}
		}
		for _, direction := range claim.Directions {
			for _, claimed := range []string{"62 %", "50 %", "1/3", "0.001", "99.9999 %"} {
				add("one-proportion", `["ward"]`, `{"role":%q,"direction":%q,"claimed":%q,"success":["1","3"],"looked":["less","greater","different"]}`, role, direction, claimed)
			}
		}
		for _, reading := range crosstab.Readings {
			add("crosstab", `["ward","caddy"]`, `{"reading":%q,"show":["expected","difference","pearson","adjusted","contribution"],"test":{"role":%q,"level":"5 %%","exact":true}}`, reading, role)
			add("crosstab", `["caddy","ward"]`, `{"reading":%q,"swapped":true}`, reading)
		}
		for _, picture := range []string{"bars", "mosaic"} {
			add("crosstab", `["caddy","ward"]`, `{"reading":"column","hideEmpty":true,"picture":%q}`, picture)
		}
		add("crosstab", `["caddy","ward"]`, `{"reading":"row","show":["expected"],"test":{"role":%q,"level":0.05}}`, role)
	}
	return out
}

// What can be asked of a question is found by its names in the trade, and says what it is for in a line.
func TestEveryActIsFoundByItsNames(t *testing.T) {
	c, err := Load("en")
	require.NoError(t, err)
	for _, m := range methods.All().All() {
		if m.Asked == nil || len(m.Asked.Questions) == 0 {
			continue
		}
		at := "ui.ask." + m.Asked.Texts
		for _, text := range []string{".act", ".for", ".terms"} {
			assert.True(t, c.Has(at+text), at+text)
		}
		assert.LessOrEqual(t, len([]rune(c.Text(at+".for", nil))), 72, at)
		assert.NotContains(t, strings.ToLower(c.Text(at+".terms", nil)), ",", "words stand apart by spaces")
	}
}
