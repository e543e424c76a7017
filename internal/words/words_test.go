package words

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/claim"
	"widetally/core/infer"
	"widetally/core/shares"
)

func TestPValuesNeverReadZeroAndNeverCrossTheLevel(t *testing.T) {
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
	for _, c := range cases {
		p := math.Pow(10, c.log10)
		assert.Equal(t, c.prose, P(p, c.log10, c.level))
		assert.Equal(t, c.inFull, PExact(p, c.log10, c.level))
	}
}

func TestWrite(t *testing.T) {
	c, err := Load("en")
	require.NoError(t, err)
	for want, v := range map[string]claim.Value{
		"1,240": {Kind: claim.Count, Number: 1240}, "−28.600": {Kind: claim.Statistic, Number: -28.6}, "0.0": {Kind: claim.Amount, Number: -0.01},
		"2.5\u00a0%": {Kind: claim.Level, Number: 0.025}, "5\u00a0%": {Kind: claim.Level, Number: 0.05}, "less than 0.01": {Kind: claim.Effect, Number: 0.001},
	} {
		assert.Equal(t, want, c.Write(v))
	}
}

func TestWordsFollowTheirNumber(t *testing.T) {
	c, err := Load("en")
	require.NoError(t, err)
	for n, want := range map[string]string{"1": "1 question changed at once", "2": "2 questions changed at once", "0": "0 questions changed at once"} {
		assert.Equal(t, want, c.Text("history.bulk", map[string]string{"n": n}))
	}
}

// Every sentence that the core can ask for exists and has all its values: no
// square bracket is left in any text, over every outcome, role, mode and source.
func TestEveryReadingHasItsWords(t *testing.T) {
	c, err := Load("en")
	require.NoError(t, err)
	names := []shares.Name{{Label: "Harbour"}, {Label: "Fenside"}, {Label: "Saltings"}}
	said := 0
	for _, observed := range [][]int64{{50, 50, 0}, {90, 8, 0}, {4, 3, 0}, {500, 900, 3}, {0, 900, 0}} {
		for _, mode := range shares.Modes {
			for _, figures := range [][3]string{{"50", "50", "0"}, {"48", "48", "3"}, {"0.5", "0.4", "0.1"}} {
				a := shares.Align(names, []shares.Entry{{Name: "Harbour", Figure: figures[0]}, {Name: "Fenside", Figure: figures[1]}, {Name: "Saltings", Figure: figures[2]}}, mode, true)
				require.True(t, a.Usable())
				r, err := infer.ComputeGoodnessOfFit(infer.GoodnessOfFitInput{Observed: observed, Shares: a.Shares, Level: 0.05})
				if err != nil {
					continue
				}
				for _, kind := range claim.ReferenceKinds {
					for _, role := range []claim.Role{claim.ClaimIsNull, claim.ClaimIsAlternative} {
						reading := claim.ReadGoodnessOfFit(r, claim.GoodnessOfFitContext{Units: "households", Question: "Ward?", Labels: []string{"Harbour", "Fenside", "Saltings"},
							Source: "the register", Kind: kind, Mode: mode, Role: role, Aligned: a, Everyone: r.N + 3, Weights: "w"})
						for _, f := range append(append(reading.Working, reading.Notes...), reading.Sentence, reading.Journal) {
							text := c.Say(f)
							assert.NotContains(t, text, "[", f.ID)
							said++
						}
						short := reading.Sentence
						short.ID += "_short"
						assert.NotContains(t, c.Say(short), "[")
						sentence := c.Say(reading.Sentence)
						assert.NotRegexp(t, `(?i)\baccept|\bprove|no significant`, sentence)
						supported := r.Reject && role == claim.ClaimIsAlternative
						assert.Equal(t, supported, strings.Contains(sentence, "evidence supports the claim"), sentence)
						assert.Equal(t, r.Reject && role == claim.ClaimIsNull, strings.Contains(sentence, "the claim is rejected"), sentence)
					}
				}
			}
		}
	}
	assert.Greater(t, said, 1000)
	for _, why := range []infer.Reason{infer.NoObservations, infer.OneAnswer, infer.NegativeCount, infer.CountTooLarge, infer.SharesLength, infer.NegativeShare,
		infer.SharesSum, infer.LevelRange, infer.ChosenButShareZero, infer.OneAnswerAfterZeros} {
		assert.True(t, c.Has("problem.gof."+string(why)), why)
	}
}
