package methods_test

import (
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/goodnessoffit"
	"widetally/core/shares"
)

// blockOf finds the first block of a kind.
func blockOf(t *testing.T, d document.Document, kind document.Place) document.Block {
	t.Helper()
	for _, b := range d.Blocks {
		if b.Kind == kind {
			return b
		}
	}
	t.Fatalf("no block %s", kind)
	return document.Block{}
}

var labels = []string{"Harbour", "Fenside", "Saltings"}

func readShares(t *testing.T, observed []int64, figures string, scale shares.Scale, c goodnessoffit.Claim) (document.Document, *infer.GoodnessOfFit) {
	t.Helper()
	var names []shares.Name
	var entries []shares.Entry
	for i, f := range strings.Fields(figures) {
		names = append(names, shares.Name{Label: labels[i]})
		entries = append(entries, shares.Entry{Name: labels[i], Figure: f})
	}
	c.Aligned = shares.Align(names, entries, scale, true)
	require.True(t, c.Aligned.Usable(), c.Aligned.Problems)
	r, err := infer.ComputeGoodnessOfFit(infer.GoodnessOfFitInput{Observed: observed, Shares: c.Aligned.Shares, Level: 0.05})
	require.NoError(t, err)
	c.Scale, c.Labels, c.Codes, c.Everyone = scale, labels[:len(names)], labels[:len(names)], max(c.Everyone, r.N)
	return c.Document(r), r
}

// Which sentence is said follows from two things alone: whether the shares are
// rejected, and which hypothesis the claim is.
func TestTheSentenceFollowsFromTheDecisionAndTheRole(t *testing.T) {
	t.Parallel()
	far, near := []int64{90, 5, 5}, []int64{50, 29, 21}
	for _, c := range []struct {
		observed []int64
		role     claim.Role
		mode     shares.Scale
		want     string
	}{
		{far, claim.ClaimIsNull, shares.Percents, "finding.goodness_of_fit.null.rejected"},
		{near, claim.ClaimIsNull, shares.Percents, "finding.goodness_of_fit.null.kept"},
		{far, claim.ClaimIsAlternative, shares.Percents, "finding.goodness_of_fit.alternative.rejected"},
		{near, claim.ClaimIsAlternative, shares.Percents, "finding.goodness_of_fit.alternative.kept"},
		{far, claim.ClaimIsNull, shares.Equal, "finding.goodness_of_fit.null.rejected_equal"},
		{[]int64{33, 34, 33}, claim.ClaimIsAlternative, shares.Equal, "finding.goodness_of_fit.alternative.kept_equal"},
	} {
		short, _ := readShares(t, c.observed, "50 30 20", c.mode, goodnessoffit.Claim{Role: c.role, Kind: claim.Register, Question: claim.Question{Short: "ward"}})
		assert.Equal(t, c.want+"_short", blockOf(t, short, document.Sentence).Said[0].ID)
		d, r := readShares(t, c.observed, "50 30 20", c.mode, goodnessoffit.Claim{Role: c.role, Kind: claim.Register})
		sentence := blockOf(t, d, document.Sentence).Said[0]
		assert.Equal(t, c.want, sentence.ID)
		assert.Equal(t, 0.05, sentence.Values["level"].Number)
		assert.Equal(t, r.Statistic, blockOf(t, d, document.WriteUp).Said[1].Values["statistic"].Number, "full precision travels to the words")
	}
}

func note(d document.Document, prefix string) *document.Note {
	for _, f := range d.Notes {
		if strings.HasPrefix(f.ID, "note."+prefix) {
			return &f
		}
	}
	return nil
}

func TestNotesSayWhatIsAssumedAndWhatWasNoticed(t *testing.T) {
	t.Parallel()
	cases := []struct {
		name     string
		observed []int64
		figures  string
		mode     shares.Scale
		context  goodnessoffit.Claim
		want     []string
		caution  []string
		absent   []string
	}{
		{"a register, nothing unusual", []int64{50, 29, 21}, "50 30 20", shares.Percents, goodnessoffit.Claim{Kind: claim.Register},
			[]string{"shares.matched", "reference.register", "furthest.", "conditions.good", "goodness_of_fit.not_proving"}, nil, []string{"missing_left_out", "goodness_of_fit.size"}},
		{"shares off their total", []int64{50, 29, 21}, "50 30 18", shares.Percents, goodnessoffit.Claim{Kind: shares.Report},
			[]string{"shares.rescaled", "reference.report"}, []string{"shares.rescaled"}, nil},
		{"last year's survey is a sample", []int64{50, 29, 21}, "50 30 20", shares.Percents, goodnessoffit.Claim{Kind: claim.Survey},
			[]string{"reference.survey"}, []string{"reference.survey"}, nil},
		{"another group's counts are a sample, whatever they are called", []int64{50, 29, 21}, "51 30 20", shares.Counts, goodnessoffit.Claim{Kind: shares.Report},
			[]string{"reference.sample", "shares.divided"}, []string{"reference.sample"}, []string{"reference.report"}},
		{"counts of a survey are those of a sample", []int64{50, 29, 21}, "5100 3000 2000", shares.Counts, goodnessoffit.Claim{Kind: claim.Survey}, []string{"reference.sample"}, nil, []string{"reference.register"}},
		{"counts of a register are a full count", []int64{50, 29, 21}, "5100 3000 2000", shares.Counts, goodnessoffit.Claim{Kind: claim.Register}, []string{"reference.register"}, nil, []string{"reference.sample"}},
		{"off by rounding", []int64{50, 29, 21}, "50.3 29.3 20.3", shares.Percents, goodnessoffit.Claim{Kind: claim.Register}, []string{"shares.rounded"}, nil, []string{"shares.rescaled"}},
		{"weights are not used", []int64{50, 29, 21}, "50 30 20", shares.Percents, goodnessoffit.Claim{Kind: claim.Register, About: claim.About{Weights: "w"}}, []string{"conditions.unweighted"}, []string{"conditions.unweighted"}, nil},
		{"thin but equal", []int64{3, 5, 4}, "1 1 1", shares.Equal, goodnessoffit.Claim{}, []string{"conditions.equal", "goodness_of_fit.not_proving.large"}, nil, []string{"conditions.poor"}},
		{"a tiny departure of very many", []int64{50_900_000, 29_100_000, 20_000_000}, "50 30 20", shares.Percents, goodnessoffit.Claim{Kind: claim.Register}, []string{"goodness_of_fit.size.tiny"}, nil, nil},
		{"equal shares come from no register", []int64{50, 29, 21}, "1 1 1", shares.Equal, goodnessoffit.Claim{Kind: claim.Register}, []string{"reference.theory", "shares.equal", "goodness_of_fit.size"}, nil, []string{"reference.register"}},
		{"missing answers are counted", []int64{50, 29, 21}, "50 30 20", shares.Percents, goodnessoffit.Claim{Kind: claim.Register, About: claim.About{Everyone: 110}}, []string{"missing_left_out"}, nil, nil},
		{"one thin cell of three breaks the rule", []int64{50, 48, 2}, "50 47 3", shares.Percents, goodnessoffit.Claim{Kind: claim.Register}, []string{"conditions.poor"}, []string{"conditions.poor"}, []string{"conditions.good"}},
		{"an answer that cannot be given", []int64{50, 50, 0}, "50 50 0", shares.Percents, goodnessoffit.Claim{Kind: claim.Register}, []string{"zero_share_left_out", "furthest.none"}, nil, nil},
		{"one answer stands out, the whole is kept", []int64{26, 42, 32}, "1 1 1", shares.Equal, goodnessoffit.Claim{}, []string{"goodness_of_fit.not_proving"}, nil, []string{"goodness_of_fit.none_stands"}},
		{"rejected", []int64{90, 5, 5}, "50 30 20", shares.Percents, goodnessoffit.Claim{Kind: claim.Register}, []string{"goodness_of_fit.size", "furthest.more_stands"}, nil, []string{"goodness_of_fit.not_proving"}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			c.context.Role = claim.ClaimIsNull
			reading, _ := readShares(t, c.observed, c.figures, c.mode, c.context)
			for _, id := range c.want {
				assert.NotNil(t, note(reading, id), id)
			}
			for _, id := range c.caution {
				assert.True(t, note(reading, id).Caution, id)
			}
			for _, id := range c.absent {
				assert.Nil(t, note(reading, id), id)
			}
		})
	}
}

// The whole and its parts are asked differently; whenever their answers differ a note says so.
func TestDisagreementOfWholeAndPartsIsAlwaysExplained(t *testing.T) {
	t.Parallel()
	seen := map[string]bool{}
	for a := int64(10); a <= 60; a++ {
		for b := int64(10); b <= 90-a; b++ {
			reading, r := readShares(t, []int64{a, b, 100 - a - b}, "1 1 1", shares.Equal, goodnessoffit.Claim{Role: claim.ClaimIsNull})
			stands := false
			for _, row := range r.Rows {
				stands = stands || row.Significant
			}
			assert.Equal(t, !r.Reject && stands, note(reading, "goodness_of_fit.one_stands") != nil)
			assert.Equal(t, r.Reject && !stands, note(reading, "goodness_of_fit.none_stands") != nil)
			seen["one"] = seen["one"] || !r.Reject && stands
			seen["none"] = seen["none"] || r.Reject && !stands
		}
	}
	assert.True(t, seen["one"] && seen["none"], "both kinds of disagreement occur")
}

// Where Cochran's rule fails the sentence itself says so, with what a test says that does
// not rest on the chi-square distribution.
func TestDoubtIsPartOfTheSentence(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		name     string
		observed []int64
		figures  string
		way      infer.ExactWay
		want     string
	}{
		{"no thin cell", []int64{50, 30, 20}, "50 30 20", infer.ExactOnly, ""},
		{"nobody looked", []int64{8, 1, 3}, "50 47 3", "", "alone"},
		{"both reject", []int64{8, 1, 3}, "50 47 3", infer.ExactOnly, "exact_agrees"},
		{"only the chi-square test rejects", []int64{5, 15, 0}, "50 47 3", infer.ExactOnly, "exact_differs"},
		{"simulated", []int64{8, 1, 3}, "50 47 3", infer.SimulatedOnly, "simulated_agrees"},
	} {
		t.Run(c.name, func(t *testing.T) {
			context := goodnessoffit.Claim{Role: claim.ClaimIsNull, Kind: claim.Target}
			if c.way != "" {
				_, r := readShares(t, c.observed, c.figures, shares.Percents, context)
				shared := make([]*big.Rat, len(r.Rows))
				for i, f := range strings.Fields(c.figures) {
					figure, _ := shares.ParseFigure(f, shares.Ratio)
					shared[i] = figure.Mul(figure, big.NewRat(1, 100))
				}
				e, err := infer.ComputeExactGoodnessOfFit(t.Context(), infer.GoodnessOfFitInput{Observed: c.observed, Shares: shared, Level: 0.05}, infer.ExactOptions{Way: c.way, Replicates: 20_000, Seed: 1})
				require.NoError(t, err)
				context.Exact = e
			}
			reading, _ := readShares(t, c.observed, c.figures, shares.Percents, context)
			if c.want == "" {
				assert.Len(t, blockOf(t, reading, document.Sentence).Said, 1)
				return
			}
			assert.Equal(t, "finding.doubt."+c.want, blockOf(t, reading, document.Sentence).Said[1].ID)
		})
	}
}

func TestTheWorkingHoldsEveryAnswerAndEveryStep(t *testing.T) {
	t.Parallel()
	reading, r := readShares(t, []int64{90, 5, 5}, "50 30 20", shares.Percents, goodnessoffit.Claim{Role: claim.ClaimIsNull})
	var ids []string
	sum := 0.0
	for _, f := range blockOf(t, reading, document.Working).Said {
		ids = append(ids, strings.TrimPrefix(f.ID, "working.goodness_of_fit."))
		if f.ID == "working.goodness_of_fit.row" {
			sum += f.Values["contribution"].Number
		}
	}
	assert.Equal(t, []string{"row", "row", "row", "statistic", "df", "p", "reject", "effect", "likelihood"}, ids)
	assert.InEpsilon(t, r.Statistic, sum, 1e-14)
}
