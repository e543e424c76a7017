package methods_test

import (
	"context"
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
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/methods/crosstab"
	"widetally/core/methods/frequency"
	"widetally/core/methods/goodnessoffit"
	"widetally/core/methods/onemean"
	"widetally/core/methods/oneproportion"
	"widetally/core/survey"
	"widetally/internal/i18n"
	"widetally/locales"
)

// byHand is the example that docs/methods.md works by hand, with a further question; its answers are
// yes and no, in that order.
func byHand(t *testing.T, change func(*analysis.Drawn)) analysis.Columns {
	t.Helper()
	yesNo := func(name string, slots ...uint8) survey.Source {
		return survey.Source{
			Question: survey.Question{Name: name, Wording: name + "?", Kind: survey.Single, Answers: []survey.Answer{
				{Slot: 1, Code: "yes", Label: "Yes"}, {Slot: 2, Code: "no", Label: "No"},
			}},
			Column: survey.Column{U8: slots},
		}
	}
	text := func(name string, entries ...string) survey.Source {
		return survey.Source{
			Question: survey.Question{Name: name, Kind: survey.Text},
			Column:   survey.Column{Text: entries},
		}
	}
	from, err := analysis.NewTable([]survey.Source{
		yesNo("q", 1, 2, 1, 2, 1, 2), yesNo("other", 1, 1, 2, 2, 1, 2), yesNo("none", 0, 0, 0, 0, 0, 0),
		{
			Question: survey.Question{Name: "x", Wording: "x?", Kind: survey.Continuous},
			Column:   survey.Column{F64: []float64{3, 5, 4, 8, 6, 7}},
		},
		{
			Question: survey.Question{Name: "w", Kind: survey.Weight},
			Column:   survey.Column{F64: []float64{1, 1, 2, 1, 1, 2}},
		},
		{
			Question: survey.Question{Name: "lacking", Kind: survey.Weight},
			Column:   survey.Column{F64: []float64{1, 1, math.NaN(), 1, 1, 2}},
		},
		text(
			"h",
			"A",
			"A",
			"A",
			"B",
			"B",
			"B",
		), text("alone", "A", "A", "A", "A", "A", "C"), text("u", "1", "1", "2", "1", "2", "2"),
	}, "")
	require.NoError(t, err)
	from.Design = &analysis.Drawn{Weight: "w", Strata: []analysis.Key{"h"}, Cluster: "u"}
	if change != nil {
		change(from.Design)
	}
	return from
}

func askDesigned(
	t *testing.T,
	from analysis.Columns,
	method, settings string,
	questions ...string,
) (*analysis.Outcome, error) {
	t.Helper()
	raw, err := json.Marshal(questions)
	require.NoError(t, err)
	spec, err := registry.Spec(
		fmt.Appendf(nil, `{"method":%q,"version":1,"questions":%s,"settings":%s}`, method, raw, settings),
	)
	require.NoError(t, err)
	counted, err := analysis.Count(context.Background(), spec, from)
	if err != nil {
		return nil, err
	}
	return analysis.Run(analysis.Work{Context: t.Context(), Steps: analysis.UsualSteps, Replicates: 10}, spec, counted)
}

const (
	asFrequency = `{"picture":"upright","height":"share","order":"asked","intervals":"none"}`
	asFit       = `{"shares":{"scale":"ratio","figures":[{"code":"yes","figure":"3"},{"code":"no","figure":"1"}],"source":{"kind":"theory","title":"T"}},"role":"null","level":0.05}`
	asOneShare  = `{"success":["yes"],"claimed":"3/4","direction":"different","role":"null","level":0.05,"source":{}}`
	asTwo       = `{"success":["yes"],"groups":{"first":"yes","second":"no"},"direction":"different","role":"null","level":0.05}`
	asOneMean   = `{"claimed":"4","direction":"greater","role":"alternative","level":0.05,"source":{}}`
	asMeans     = `{"direction":"less","role":"alternative","level":0.05}`
	asSummary   = `{}`
	asCrosstab  = `{"reading":"row","test":{"role":"null","level":0.05}}`
)

// Each method with a form for designed samples gives the figures that were worked by hand.
func TestDesignedByHand(t *testing.T) {
	t.Parallel()
	from := byHand(t, nil)
	o, err := askDesigned(t, from, "frequency", asFrequency, "q")
	require.NoError(t, err)
	e := o.Result.(*frequency.Estimate)
	assert.InDelta(t, 0.5, e.Shares.Share[0], 1e-15)
	assert.InDelta(t, 0.125, e.Of[0].StandardError, 1e-15)
	assert.InDelta(t, 0.111579284623, e.Of[0].Beta.Lower, 1e-11)
	assert.InDelta(t, 16, *e.Of[0].EffectiveN, 1e-11)

	o, err = askDesigned(t, from, "goodness-of-fit", asFit, "q")
	require.NoError(t, err)
	fit := o.Result.(*goodnessoffit.Estimate)
	assert.InDelta(t, 4, *fit.Test.SecondF, 1e-12)
	assert.InDelta(t, 0.183503419072, fit.Test.SecondFP.Value, 1e-11)

	o, err = askDesigned(t, from, "one-proportion", asOneShare, "q")
	require.NoError(t, err)
	one := o.Result.(*oneproportion.Estimate)
	assert.InDelta(t, -2, *one.Tests.Linear.T, 1e-12)
	assert.InDelta(t, 0.183503419072, one.Tests.Linear.TwoSided.Value, 1e-11)

	// The mean is 44/8; with z = w(y − 5.5)/8 the PSUs have −3/8, −3/8, 2.5/8 and 3.5/8.
	o, err = askDesigned(t, from, "one-mean", asOneMean, "x")
	require.NoError(t, err)
	mean := o.Result.(*onemean.Estimate)
	assert.InDelta(t, 5.5, mean.Mean.Mean, 1e-15)
	assert.InDelta(t, 2*2*(0.5/8)*(0.5/8), mean.Variance, 1e-15)

	o, err = askDesigned(t, from, "crosstab", asCrosstab, "q", "other")
	require.NoError(t, err)
	table := o.Result.(*crosstab.Estimate)
	assert.Equal(t, []int64{2, 1, 1, 2}, table.Cells.Count) // other down, q across
	assert.InDelta(t, 2.0/8, table.Shares.Share[0], 1e-15)
	require.NotNil(t, table.Test)
}

// Without a design nothing changes, and a spec may count respondents all the same.
func TestADesignIsInForceOrNot(t *testing.T) {
	t.Parallel()
	from := byHand(t, nil)
	from.Design = nil
	o, err := askDesigned(t, from, "frequency", asFrequency, "q")
	require.NoError(t, err)
	assert.Nil(t, o.Counted.Cells)
	spec, err := registry.Spec(
		[]byte(`{"method":"frequency","version":1,"questions":["q"],"unweighted":true,"settings":` + asFrequency + `}`),
	)
	require.NoError(t, err)
	counted, err := analysis.Count(t.Context(), spec, byHand(t, nil))
	require.NoError(t, err)
	assert.Nil(t, counted.Cells)
	plain, err := analysis.InputsOf(spec, counted, "", "")
	require.NoError(t, err)
	spec.Unweighted = false
	counted, err = analysis.Count(t.Context(), spec, byHand(t, nil))
	require.NoError(t, err)
	estimated, err := analysis.InputsOf(spec, counted, "", "")
	require.NoError(t, err)
	assert.Contains(t, estimated.Since(plain), analysis.DesignDiffers)
}

// What a design cannot be, or a method cannot do by it, is refused with its reason and its row.
func TestDesignsRefused(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		method, settings string
		questions        []string
		change           func(*analysis.Drawn)
		code             string
	}{
		{"ordered-summary", `{}`, []string{"q"}, nil, "claim.kind"},
		{"dissimilarity", `{"confidence":0.95}`, []string{"q", "other"}, nil, "design.no_form"},
		{"frequency", asFrequency, []string{"none"}, nil, "compute.no_observations"},
		{"frequency", asFrequency, []string{"q"}, func(d *analysis.Drawn) { d.Weight = "lacking" }, "design.missing_weight"},
		{"frequency", asFrequency, []string{"q"}, func(d *analysis.Drawn) { d.Weight = "u" }, "design.question"},
		{"frequency", asFrequency, []string{"q"}, func(d *analysis.Drawn) { d.Strata = []analysis.Key{"alone"} }, "design.single_psu_named"},
		{"frequency", asFrequency, []string{"q"}, func(d *analysis.Drawn) { d.Fraction = "140 %" }, "design.fraction_out_of_range"},
		{"frequency", asFrequency, []string{"q"}, func(d *analysis.Drawn) { d.SinglePSU = "drop" }, "design.single"},
	} {
		_, err := askDesigned(t, byHand(t, c.change), c.method, c.settings, c.questions...)
		var refused *analysis.SpecError
		require.True(t, errors.As(err, &refused), "%s: %v", c.code, err)
		assert.Equal(t, c.code, refused.Code)
	}
	var refused *analysis.SpecError
	_, err := askDesigned(t, byHand(t, func(d *analysis.Drawn) { d.Weight = "lacking" }), "frequency", asFrequency, "q")
	require.True(t, errors.As(err, &refused))
	assert.Equal(t, document.N(3), refused.Values["row"])
}

// Every message of the documents has its text and its values.
func TestDesignedDocumentsAreSaid(t *testing.T) {
	t.Parallel()
	words, err := i18n.Load(locales.First)
	require.NoError(t, err)
	for _, c := range []struct {
		method, settings string
		questions        []string
		change           func(*analysis.Drawn)
		said             string
	}{
		{"frequency", asFrequency, []string{"q"}, nil, "An estimated 50.0 % of the households"},
		{"frequency", asFrequency, []string{"q"}, func(d *analysis.Drawn) { d.Cluster, d.Strata, d.SinglePSU = "", nil, design.ZeroSingle }, "An estimated 50.0 %"},
		{"goodness-of-fit", asFit, []string{"q"}, nil, "Not enough evidence"},
		{"one-proportion", asOneShare, []string{"q"}, nil, "Not enough evidence"},
		{"one-proportion", strings.Replace(asOneShare, "3/4", "4 %", 1), []string{"q"}, nil, "At the 5 % level"},
		{"crosstab", asCrosstab, []string{"q", "other"}, nil, "Not enough evidence"},
		{"two-proportions", asTwo, []string{"q", "other"}, nil, "An estimated 66.7 % of the households with “Yes”"},
		{"one-mean", asOneMean, []string{"x"}, nil, "The estimated mean of “x?” among the households is 5.50 (95 % interval"},
		{"means", asMeans, []string{"x", "other"}, nil, "lower in the first"},
		{"numeric-summary", asSummary, []string{"x"}, nil, "that this sample stands for is 5.50 (95 % interval"},
		{"crosstab", `{"reading":"total"}`, []string{"q", "other"}, nil, "most common combination"},
	} {
		o, err := askDesigned(t, byHand(t, c.change), c.method, c.settings, c.questions...)
		require.NoError(t, err)
		require.NoError(t, o.Refusal)
		doc := o.Document(claim.About{Units: document.Text("households")})
		text := textOf(t, words, doc)
		assert.Contains(t, text, c.said)
		assert.NotContains(t, text, "[")
		assert.NotContains(t, text, "{")
	}
}

// textOf is all that a document says, in tables whose rows are as long as their heads.
func textOf(t *testing.T, words *i18n.Catalogue, doc document.Document) string {
	t.Helper()
	var all []string
	say := func(m document.Message) {
		if m.ID != "" {
			all = append(all, words.Say(m))
		}
	}
	for _, b := range doc.Blocks {
		for _, m := range b.Said {
			say(m)
		}
		for _, f := range b.Facts {
			all = append(all, words.Say(f.Name)+": "+words.Say(f.Value))
		}
		if b.Table == nil {
			continue
		}
		for _, m := range b.Table.Columns {
			say(m)
		}
		say(b.Table.Caption)
		for _, row := range b.Table.Rows {
			say(row.Name)
			if !row.Head {
				assert.Len(t, row.Cells, len(b.Table.Columns))
			}
			for _, cell := range row.Cells {
				say(cell.Said)
			}
		}
	}
	for _, n := range doc.Notes {
		say(n.Message)
	}
	return strings.ReplaceAll(strings.Join(all, "\n"), "\u00a0", " ")
}
