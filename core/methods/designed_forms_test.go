package methods_test

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/methods/battery"
	"widetally/core/methods/cochranq"
	"widetally/core/methods/crosstab"
	"widetally/core/methods/equivalence"
	"widetally/core/methods/frequencies"
	"widetally/core/methods/frequency"
	"widetally/core/methods/goodnessoffit"
	"widetally/core/methods/homogeneity"
	"widetally/core/methods/mantelhaenszel"
	"widetally/core/methods/multipleresponse"
	"widetally/core/methods/numericcomparison"
	"widetally/core/methods/oneproportion"
	"widetally/core/methods/ordered"
	"widetally/core/methods/orderedsummary"
	"widetally/core/methods/paired"
	"widetally/core/survey"
	"widetally/internal/i18n"
	"widetally/locales"
)

// village is a sample of 240 in 24 clusters of 4 strata with unequal weights, some answers lacking, and
// jackknife weights that leave out one cluster each.
func village(t *testing.T, change func(*analysis.Drawn)) analysis.Columns {
	t.Helper()
	r := rand.New(rand.NewPCG(7, 11))
	const n, clusters, strata = 240, 24, 4
	coded := func(name string, kind survey.Kind, answers int) survey.Source {
		q := survey.Question{Name: name, Wording: name + "?", Kind: kind}
		for i := range answers {
			q.Answers = append(q.Answers, survey.Answer{
				Slot: survey.Slot(i + 1), Code: fmt.Sprint(i + 1), Label: fmt.Sprintf("answer %d", i+1),
			})
		}
		return survey.Source{Question: q, Column: survey.Column{U8: make([]uint8, n)}}
	}
	first, second := coded("first", survey.Ordered, 4), coded("second", survey.Ordered, 4)
	second.Question.Answers = append(second.Question.Answers, survey.Answer{Label: "Blank", Missing: "no answer"})
	scored := coded("scored", survey.Ordered, 4)
	for i := range scored.Question.Answers {
		score := float64(i + 1)
		scored.Question.Answers[i].Score = &score
	}
	yes, again := coded("yes", survey.Single, 2), coded("again", survey.Single, 2)
	groups, layers, one := coded("groups", survey.Ordered, 3), coded("layers", survey.Single, 2), coded("one", survey.Single, 1)
	chosen := coded("chosen", survey.ChooseAll, 3)
	chosen.Column = survey.Column{Sets: make([]uint64, n)}
	two := coded("two", survey.ChooseAll, 2)
	two.Column = survey.Column{Sets: make([]uint64, n)}
	number := func(name string, kind survey.Kind) survey.Source {
		return survey.Source{
			Question: survey.Question{Name: name, Wording: name + "?", Kind: kind},
			Column:   survey.Column{F64: make([]float64, n)},
		}
	}
	x, y, w, same := number("x", survey.Continuous), number("y", survey.Continuous), number("w", survey.Weight), number("same", survey.Weight)
	minus := number("minus", survey.Continuous)
	score := number("score", survey.Continuous)
	h, u := survey.Column{Text: make([]string, n)}, survey.Column{Text: make([]string, n)}
	effect := make([]float64, clusters)
	for i := range effect {
		effect[i] = r.NormFloat64()
	}
	of := make([]int, n)
	for i := range n {
		c := r.IntN(clusters)
		if i < 2*clusters { // nobody is alone
			c = i % clusters
		}
		of[i] = c
		h.Text[i], u.Text[i] = fmt.Sprint("stratum ", c%strata), fmt.Sprint("cluster ", c)
		w.Column.F64[i], same.Column.F64[i] = 0.5+r.Float64()*2, 1
		level := func(k int, add float64) uint8 {
			at := 1 + int(math.Floor(float64(k)*(0.5+0.22*(effect[c]+r.NormFloat64()+add))))
			return uint8(min(max(at, 1), k))
		}
		groups.Column.U8[i], layers.Column.U8[i], one.Column.U8[i] = level(3, 0), uint8(1+r.IntN(2)), 1
		first.Column.U8[i] = level(4, 0.5*float64(groups.Column.U8[i])-1.5)
		second.Column.U8[i] = level(4, 0.3)
		yes.Column.U8[i], again.Column.U8[i] = level(2, 0), level(2, 0.4)
		set := uint64(0)
		for slot := 1; slot <= 3; slot++ {
			if r.Float64() < 0.3+0.1*float64(slot)+0.1*effect[c] {
				set |= 1 << slot
			}
		}
		chosen.Column.Sets[i] = set
		two.Column.Sets[i] = uint64(2-yes.Column.U8[i])<<1 | uint64(2-again.Column.U8[i])<<2
		x.Column.F64[i] = 50 + 10*effect[c] + 5*r.NormFloat64()
		y.Column.F64[i] = 20 + r.NormFloat64()
		score.Column.F64[i], scored.Column.U8[i] = float64(first.Column.U8[i]), first.Column.U8[i]
		if r.IntN(12) == 0 {
			second.Column.U8[i], y.Column.F64[i] = 0, math.NaN()
		}
	}
	sources := []survey.Source{
		first, second, scored, yes, again, groups, layers, one, chosen, two, x, y, w, same, score, minus,
		{Question: survey.Question{Name: "h", Kind: survey.Text}, Column: h},
		{Question: survey.Question{Name: "u", Kind: survey.Text}, Column: u},
	}
	inStratum := [strata]int{}
	for c := range clusters {
		inStratum[c%strata]++
	}
	for c := range clusters {
		left := number(fmt.Sprint("rw", c+1), survey.Weight)
		k := float64(inStratum[c%strata])
		for i := range n {
			switch {
			case of[i] == c:
			case of[i]%strata == c%strata:
				left.Column.F64[i] = w.Column.F64[i] * k / (k - 1)
			default:
				left.Column.F64[i] = w.Column.F64[i]
			}
		}
		sources = append(sources, left)
	}
	from, err := analysis.NewTable(sources, "")
	require.NoError(t, err)
	from.Design = &analysis.Drawn{Weight: "w", Strata: []analysis.Key{"h"}, Cluster: "u"}
	if change != nil {
		change(from.Design)
	}
	return from
}

// jackknifed tells the same design by its replicate weights.
func jackknifed(d *analysis.Drawn) {
	d.Strata, d.Cluster = nil, ""
	for c := range 24 {
		d.Replicates = append(d.Replicates, analysis.Key(fmt.Sprint("rw", c+1)))
	}
	d.Method, d.Factors, d.DF = design.GivenFactors, "0.8333333333333334", 20
}

func alone(d *analysis.Drawn) { *d = analysis.Drawn{Weight: "same"} }

func resultOf[T any](t *testing.T, from analysis.Columns, method, settings string, questions ...string) T {
	t.Helper()
	o, err := askDesigned(t, from, method, settings, questions...)
	require.NoError(t, err, method)
	require.NoError(t, o.Refusal, method)
	return o.Result.(T)
}

const (
	asTest    = `{"role":"null","level":0.05}`
	asShift   = `{"form":"shift","role":"null","level":0.05,"reading":"row"}`
	asTrend   = `{"form":"trend","role":"null","level":0.05,"reading":"row"}`
	asNear    = `{"success":["1"],"expected":"0.5","source":{},"margin":"8","role":"alternative","level":0.05}`
	asNearTwo = `{"success":["1"],"groups":{"first":"1","second":"2"},"margin":"30","role":"alternative","level":0.05}`
	asNearAll = `{"shares":{"scale":"equal","source":{}},"margin":"20","role":"alternative","level":0.05}`
	asOther   = `{"shares":{"scale":"counts","figures":[{"code":"1","figure":"%s"},{"code":"2","figure":"%s"}],"source":{"kind":"survey","title":"T"}},"role":"null","level":0.05,"effect":"1.5"}`
)

// What two methods say of the same thing is the same: each form is held against another way to it.
func TestDesignedFormsAgree(t *testing.T) {
	t.Parallel()
	for name, change := range map[string]func(*analysis.Drawn){"linearised": nil, "replicates": jackknifed, "simple": alone} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			from := village(t, change)
			shares := func(question string) *design.Shares {
				return resultOf[*frequency.Estimate](t, from, "frequency", asFrequency, question).Shares
			}
			near := func(want, got float64) { t.Helper(); assert.InEpsilon(t, want, got, 1e-9) }

			// Two answers given twice: the difference of two shares, here of choose-all items.
			moved := resultOf[*paired.Estimate](t, from, "paired", asTest, "yes", "again")
			items := resultOf[*cochranq.Estimate](t, from, "cochran-q", asTest, "two")
			near(*moved.Two.T**moved.Two.T, *items.Test.SecondF)
			near(*items.Test.SecondF, *items.Test.F) // of one difference Wald’s F is the same
			near(shares("yes").Share[0], items.Share[0])
			near(shares("again").SE(0), items.One(1).Uncertainty(0.95).StandardError)

			// More answers: those who gave both, and the moves add up to nothing.
			four := resultOf[*paired.Estimate](t, from, "paired", asTest, "first", "second")
			assert.Equal(t, shares("second").N, four.N)
			assert.InDelta(t, 0, four.Moved[0]+four.Moved[1]+four.Moved[2]+four.Moved[3], 1e-14)
			assert.Equal(t, 3, four.Test.DF)

			// A choose-all question item by item; a battery, several questions and one by one.
			responses := resultOf[*multipleresponse.Estimate](t, from, "multiple-response", `{}`, "two")
			near(items.Share[0]+items.Share[1], responses.Chosen.Value)
			rows := resultOf[*battery.Estimate](t, from, "battery", `{}`, "first", "second")
			near(shares("second").Share[2], rows.Shares[1][2])
			near(shares("second").Share[2]+shares("second").Share[3], *rows.TopTwo[1])
			each := resultOf[frequencies.Estimate](t, from, "frequencies", `{"order":"asked"}`, "first", "second")
			near(shares("second").SE(1), each[1].SE(1))

			// The mean score of ordered answers, and that of the numbers that they stand for.
			summary := resultOf[*orderedsummary.Estimate](t, from, "ordered-summary", `{}`, "scored")
			described := resultOf[*analysis.EstimatedNumber](t, from, "numeric-summary", `{}`, "score")
			several := resultOf[[]*numericcomparison.Estimate](t, from, "numeric-comparison", `{"show":["mean"]}`, "score", "y")
			near(described.Variance, several[0].Variance)
			assert.Less(t, several[1].N, several[0].N)
			near(described.Variance, summary.Mean.Variance)
			assert.Equal(t, described.Quartiles[1].Quantile, float64(summary.At[1].Answer+1))
			assert.Equal(t, *described.Quartiles[1].Lower, float64(summary.At[1].Lower+1))

			// A shift between two groups is the difference of their mean ranks.
			shift := resultOf[*ordered.Estimate](t, from, "ordered", asShift, "first", "layers")
			se := math.Sqrt(shift.Covariance[0][0] + shift.Covariance[1][1] - 2*shift.Covariance[0][1])
			f := (shift.Value[0] - shift.Value[1]) / se
			near(f*f, *shift.Shift.SecondF)
			within := shares("layers").Share // over all, ranks have their mean in the middle
			near(0.5, within[0]*shift.Value[0]+within[1]*shift.Value[1])

			// Layers of one answer are the table; of two they have its degrees of freedom twice.
			table := resultOf[*crosstab.Estimate](t, from, "crosstab", asCrosstab, "first", "groups")
			layered := resultOf[*mantelhaenszel.Estimate](t, from, "mantel-haenszel", `{"reading":"row"}`, "first", "groups", "one")
			near(*table.Test.SecondF, *layered.Joint.SecondF)
			near(table.Test.SecondFP.Value, layered.Joint.SecondFP.Value)
			if table.Test.W != nil { // else its covariance cannot be inverted
				near(*table.Test.W, *layered.Joint.W)
			}
			in := resultOf[*mantelhaenszel.Estimate](t, from, "mantel-haenszel", `{"reading":"row"}`, "first", "groups", "layers")
			assert.Equal(t, 2*table.Test.DF, in.Joint.DF)
			assert.Equal(t, table.Cells.N, in.Layers[0].Cells.N+in.Layers[1].Cells.N)

			// Being near enough is two tests of one share.
			departure := resultOf[*equivalence.Departure](t, from, "equivalence/share", asNear, "yes")
			edge := strings.NewReplacer("3/4", "0.58", `"yes"`, `"1"`).Replace(asOneShare)
			one := resultOf[*oneproportion.Estimate](t, from, "one-proportion", edge, "yes")
			near(one.Tests.Linear.Less.Value, departure.Above.Less.Value)
			apart := resultOf[*equivalence.Departure](t, from, "equivalence/two-shares", asNearTwo, "yes", "layers")
			assert.InDelta(t, apart.First-apart.Second, apart.Estimate, 1e-14)
			all := resultOf[*equivalence.Departures](t, from, "equivalence/distribution", asNearAll, "yes")
			near(all.Of[0].SE, all.Of[1].SE)

			// Another sample that is so large that nothing of it is uncertain is a claimed share.
			other := resultOf[*homogeneity.Estimate](t, from, "homogeneity",
				fmt.Sprintf(asOther, "600000000000", "400000000000"), "yes")
			fit := resultOf[*goodnessoffit.Estimate](t, from, "goodness-of-fit",
				`{"shares":{"scale":"ratio","figures":[{"code":"1","figure":"6"},{"code":"2","figure":"4"}],"source":{"kind":"theory","title":"T"}},"role":"null","level":0.05}`, "yes")
			assert.InEpsilon(t, *fit.Test.SecondF, *other.Test.SecondF, 1e-6)
			trend := resultOf[*ordered.Estimate](t, from, "ordered", asTrend, "first", "groups")
			assert.Greater(t, *trend.Trend.T, 2.0)
		})
	}
}

// Delete-one-cluster weights give what linearisation does, nearly, for every form.
func TestReplicatesNearLinearisation(t *testing.T) {
	t.Parallel()
	figures := func(from analysis.Columns) map[string]float64 {
		trend := resultOf[*ordered.Estimate](t, from, "ordered", asTrend, "first", "groups")
		moved := resultOf[*paired.Estimate](t, from, "paired", asTest, "first", "second")
		joint := resultOf[*mantelhaenszel.Estimate](t, from, "mantel-haenszel", `{"reading":"row"}`, "yes", "again", "layers")
		responses := resultOf[*multipleresponse.Estimate](t, from, "multiple-response", `{}`, "chosen")
		mean := resultOf[*analysis.EstimatedNumber](t, from, "numeric-summary", `{}`, "x")
		return map[string]float64{
			"slope": trend.Slope.SE(), "moved": moved.SE[1], "effect": joint.Joint.MeanDesignEffect, "chosen": responses.Chosen.SE(),
			"mean": mean.SE(), "median": mean.Quartiles[1].CDFStandardError,
		}
	}
	want, got := figures(village(t, nil)), figures(village(t, jackknifed))
	for name, x := range want {
		assert.InEpsilon(t, x, got[name], 0.1, name)
	}
}

// Every form says all its sentences, with their values, in tables as wide as their heads; a design of
// any kind has its words.
func TestDesignedFormsAreSaid(t *testing.T) {
	t.Parallel()
	words, err := i18n.Load(locales.First)
	require.NoError(t, err)
	for name, change := range map[string]func(*analysis.Drawn){"drawn": nil, "replicates": jackknifed} {
		for _, c := range []struct {
			method, settings string
			questions        []string
			said             string
		}{
			{"paired", asTest, []string{"yes", "again"}, "moved most: an estimated"},
			{"paired", asTest, []string{"first", "second"}, "Bhapkar"},
			{"ordered", asShift, []string{"first", "groups"}, "stand highest with"},
			{"ordered", asTrend, []string{"first", "groups"}, "rises with"},
			{"ordered-summary", `{}`, []string{"second"}, "or one after it (median)"},
			{"multiple-response", `{}`, []string{"chosen"}, "more than any other (95 % interval"},
			{"multiple-response-by-group", `{"reading":"column","picture":"bars"}`, []string{"chosen", "groups"}, "respondents, an estimated"},
			{"frequencies", `{"order":"asked"}`, []string{"first", "second"}, "the largest share"},
			{"crosstabs", `{"reading":"column"}`, []string{"groups", "first", "second"}, "Read down: each figure is the estimated percent"},
			{"battery", `{}`, []string{"first", "second"}, "estimated most often for"},
			{"mantel-haenszel", `{"reading":"row","test":{"role":"null","level":0.05}}`, []string{"yes", "again", "layers"}, "Null: in no layer"},
			{"equivalence/share", asNear, []string{"yes"}, "percentage points from 50"},
			{"equivalence/two-shares", asNearTwo, []string{"yes", "layers"}, "the 90 % interval of the difference"},
			{"equivalence/distribution", asNearAll, []string{"yes"}, "its estimated share lies"},
			{"simultaneous-intervals", `{"confidence":0.95}`, []string{"first"}, "Bonferroni"},
			{"cochran-q", asTest, []string{"chosen"}, "Wald’s test"},
			{"numeric-comparison", `{"show":["mean","median"]}`, []string{"x", "y"}, "smallest and largest are those of the respondents"},
			{"numeric-by-group", `{"show":["mean","median"]}`, []string{"x", "groups"}, "is highest with"},
			{"homogeneity", fmt.Sprintf(asOther, "120", "90"), []string{"yes"}, "the design effect that was stated, 1.5"},
		} {
			o, err := askDesigned(t, village(t, change), c.method, c.settings, c.questions...)
			require.NoError(t, err, c.method)
			require.NoError(t, o.Refusal, c.method)
			text := textOf(t, words, o.Document(claim.About{Units: document.Text("households")}))
			assert.Contains(t, text, c.said, "%s, %s", c.method, name)
			assert.NotContains(t, text, "[", c.method)
			assert.NotContains(t, text, "{", c.method)
			if name == "replicates" {
				assert.Contains(t, text, "24 replicate weights (with given factors)", c.method)
			}
		}
	}
}

// What replicate weights and populations cannot be is refused with its reason.
func TestReplicatesAndPopulationsRefused(t *testing.T) {
	t.Parallel()
	for code, change := range map[string]func(*analysis.Drawn){
		"design.either":                func(d *analysis.Drawn) { jackknifed(d); d.Cluster = "u" },
		"design.method":                func(d *analysis.Drawn) { jackknifed(d); d.Method = design.JackknifeStrata },
		"design.replicates":            func(d *analysis.Drawn) { jackknifed(d); d.Replicates = d.Replicates[:1] },
		"design.df":                    func(d *analysis.Drawn) { jackknifed(d); d.DF = -1 },
		"design.factors_needed":        func(d *analysis.Drawn) { jackknifed(d); d.Factors = "1 2" },
		"design.fay_out_of_range":      func(d *analysis.Drawn) { jackknifed(d); d.Method, d.Fay = design.FayHalves, "1" },
		"design.fraction_out_of_range": func(d *analysis.Drawn) { jackknifed(d); d.Method, d.Fraction = design.JackknifeOne, "140 %" },
		"design.missing_weight":        func(d *analysis.Drawn) { jackknifed(d); d.Replicates[3] = "y" },
		"design.two_populations":       func(d *analysis.Drawn) { d.Population = "x" },
		"design.no_population":         func(d *analysis.Drawn) { d.Population = "minus" },
		"design.population_too_small":  func(d *analysis.Drawn) { d.Population = "same" },
	} {
		_, err := askDesigned(t, village(t, change), "frequency", asFrequency, "first")
		var refused *analysis.SpecError
		require.True(t, errors.As(err, &refused), "%s: %v", code, err)
		assert.Equal(t, code, refused.Code)
	}
	_, err := askDesigned(t, village(t, nil), "homogeneity", strings.Replace(fmt.Sprintf(asOther, "1", "2"), "1.5", "", 1), "yes")
	var refused *analysis.SpecError
	require.True(t, errors.As(err, &refused), "%v", err)
	assert.Equal(t, "homogeneity.effect_needed", refused.Code)
}
