package methods_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/methods/frequency"
	"widetally/core/methods/planning"
	"widetally/internal/i18n"
	"widetally/locales"
)

// What is only a way to show estimates changes what is shown and no figure: sums of weights, the share of
// who did not answer, cumulative shares, other intervals, and a picture with intervals.
func TestEstimatesAsTheyAreWanted(t *testing.T) {
	t.Parallel()
	words, err := i18n.Load(locales.First)
	require.NoError(t, err)
	from := village(t, nil)
	shown := func(method, settings string, questions ...string) (string, document.Document, *analysis.Outcome) {
		o, err := askDesigned(t, from, method, settings, questions...)
		require.NoError(t, err)
		doc := o.Document(claim.About{Units: document.Text("households")})
		return textOf(t, words, doc), doc, o
	}
	with := func(more string) string { return strings.Replace(asFrequency, "}", more+"}", 1) }
	plain, _, o := shown("frequency", asFrequency, "second")
	e := o.Result.(*frequency.Estimate)
	assert.Contains(t, plain, "Cumulative, estimated, %")
	assert.Contains(t, plain, "No answer, of all asked")
	assert.NotContains(t, plain, "Sum of weights")
	assert.InDelta(t, 1-o.Counted.Cells.Sum/o.Counted.Whole.Sum, e.Missing, 1e-15)
	assert.Greater(t, e.Missing, 0.02)
	weighted, doc, _ := shown("frequency", with(`,"weighted":true`), "second")
	assert.Contains(t, weighted, "Sum of weights\nIts standard error\nScaled to n")
	table := doc.Blocks[len(doc.Blocks)-1]
	for _, b := range doc.Blocks {
		if b.Table != nil {
			table = b
		}
	}
	rows := table.Table.Rows
	for j := range e.Shares.Share {
		cells := rows[j].Cells
		assert.InDelta(t, e.Shares.Total[j], cells[len(cells)-3].Figures[0].Value.Number, 1e-9)
		assert.InDelta(t, float64(e.Shares.N)*e.Shares.Share[j], cells[len(cells)-1].Figures[0].Value.Number, 1e-9)
	}
	for kind, says := range map[string]string{"logit": "t intervals of the logit", "wilson": "Wilson’s with the effective number", "linear": "hold too seldom"} {
		other, _, o := shown("frequency", with(fmt.Sprintf(`,"kind":%q`, kind)), "second")
		assert.Contains(t, other, says)
		assert.Equal(t, e.Shares.Share, o.Result.(*frequency.Estimate).Shares.Share)
		assert.NotEqual(t, plain, other)
	}
	_, doc, _ = shown("crosstab", `{"reading":"row","picture":"bars"}`, "yes", "groups")
	var picture *document.Picture
	for _, b := range doc.Blocks {
		if b.Chart != nil {
			picture = b.Chart
		}
	}
	require.NotNil(t, picture)
	assert.Len(t, picture.Plot.Bars, 6)
	assert.Len(t, picture.Plot.Lines, 6, "an interval on each")
	for i, line := range picture.Plot.Lines {
		assert.Less(t, line.Points[0].Y, picture.Plot.Bars[i].Height)
		assert.Greater(t, line.Points[1].Y, picture.Plot.Bars[i].Height)
	}
}

// What weakens an estimate stands in its margin, once and where it holds.
func TestNotesOfADesign(t *testing.T) {
	t.Parallel()
	base := design.Base{N: 200, PSUs: 40, Strata: 4, DF: 36, BasePSUs: 40, BaseStrata: 4, Weight: design.Weight{Sum: 400}}
	effect := 3.5
	for name, c := range map[string]struct {
		change func(*claim.Sampled)
		effect *float64
		want   []string
	}{
		"all well":      {func(*claim.Sampled) {}, nil, nil},
		"few df":        {func(s *claim.Sampled) { s.Base.DF = 5 }, nil, []string{"note.designed.few_df"}},
		"few clusters":  {func(s *claim.Sampled) { s.Base.BasePSUs = 10 }, nil, []string{"note.designed.few_clusters"}},
		"no clusters":   {func(s *claim.Sampled) { s.Base.BasePSUs, s.Cluster = 10, "" }, nil, nil},
		"heavy":         {func(s *claim.Sampled) { s.Largest = 0.05 }, nil, []string{"note.designed.heavy"}},
		"unweighted":    {func(s *claim.Sampled) { s.Largest, s.Weight = 0.05, "" }, nil, nil},
		"whole numbers": {func(s *claim.Sampled) { s.Base.WholeWeights = true }, nil, []string{"note.designed.frequencies"}},
		"large effect":  {func(*claim.Sampled) {}, &effect, []string{"note.designed.effect"}},
		"some missing":  {func(s *claim.Sampled) { s.Base.N = 190 }, nil, []string{"note.missing_left_out"}},
	} {
		by := claim.Sampled{Weight: "w", Cluster: "u", Base: base, Largest: 0.01}
		c.change(&by)
		var notes claim.NotesOf
		by.Notes(&notes, claim.About{Units: document.Text("homes"), Everyone: 200}, c.effect)
		var got []string
		for _, n := range notes {
			got = append(got, n.Message.ID)
		}
		assert.Equal(t, c.want, got, name)
	}
}

// A variance is parted by strata, those that add most first and the rest together; they add up.
func TestAVarianceByStrata(t *testing.T) {
	t.Parallel()
	words, err := i18n.Load(locales.First)
	require.NoError(t, err)
	const strata, rows = 30, 240
	s, err := design.New(design.Columns{Rows: rows, Strata: func() (of []int) {
		for i := range rows {
			of = append(of, i%strata)
		}
		return of
	}()})
	require.NoError(t, err)
	cells, err := s.Cells(2, func(row int) int { return row * row / 7 % 2 })
	require.NoError(t, err)
	by := claim.Sampled{}
	said := by.ByStratum(cells, document.Say("working.designed.of_difference", nil), cells.ShareSlope(1))
	require.Len(t, said, 1+20+1)
	sum := said[21].Values["rest"].Number
	before := said[1].Values["variance"].Number
	for _, m := range said[1:21] {
		v := m.Values["variance"].Number
		assert.LessOrEqual(t, v, before)
		before, sum = v, sum+v
	}
	assert.InEpsilon(t, cells.Shares().Covariance[1][1], sum, 1e-9)
	assert.Contains(t, words.Say(said[21]), "the other 10 strata together")
	one, err := design.Counted([]int64{3, 4}, 2)
	require.NoError(t, err)
	assert.Nil(t, by.ByStratum(one, document.Message{}, one.ShareSlope(0)), "one stratum is all of it")
}

// A plan says what its design effect does, and what cannot be a design is a problem of its blank.
func TestPlansSayTheirDesign(t *testing.T) {
	t.Parallel()
	words, err := i18n.Load(locales.First)
	require.NoError(t, err)
	plan := func(more string) (analysis.Spec, error) {
		raw, err := json.Marshal(json.RawMessage(`{"find":"n","share":"50 %","margin":"3","confidence":"0.95"` + more + `}`))
		require.NoError(t, err)
		return registry.Spec([]byte(`{"method":"planning/margin","version":1,"questions":[],"settings":` + string(raw) + `}`))
	}
	said := func(more string) string {
		spec, err := plan(more)
		require.NoError(t, err)
		o, err := analysis.Run(analysis.Work{Context: t.Context()}, spec, &analysis.Counted{})
		require.NoError(t, err)
		require.NoError(t, o.Refusal)
		return textOf(t, words, o.Document(claim.About{}))
	}
	assert.NotContains(t, said(""), "Design effect")
	assert.Contains(t, said(`,"effect":"2"`), "Design effect: 2.00")
	assert.Contains(t, said(`,"cluster":"11","icc":"0.1"`), "Design effect: 2.00")
	assert.Contains(t, said(`,"effect":"2"`), "2,135")
	for more, code := range map[string]string{
		`,"effect":"0"`: "plan.effect", `,"effect":"2","cluster":"3"`: "plan.either_effect", `,"cluster":"3"`: "plan.cluster_and_icc",
		`,"cluster":"0.5","icc":"0.1"`: "plan.cluster", `,"cluster":"3","icc":"2"`: "plan.icc",
	} {
		spec, err := plan(more)
		require.NoError(t, err)
		problems := spec.Settings.(*planning.MarginSettings).Check(nil)
		require.Len(t, problems, 1, more)
		assert.Equal(t, code, problems[0].Code)
	}
}
