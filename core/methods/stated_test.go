package methods_test

import (
	"math"
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/equivalence"
	"widetally/core/methods/means"
	"widetally/core/methods/onemean"
	"widetally/core/methods/oneproportion"
	"widetally/core/methods/twoproportions"
)

// verdicts reads the ways to decide, in one line or a table: what each says, by its id.
func verdicts(t *testing.T, d document.Document) map[string]string {
	t.Helper()
	out := map[string]string{}
	for _, b := range d.Blocks {
		if b.Kind == document.Agreement {
			for _, way := range b.Said[0].Values["ways"].List {
				out[strings.TrimPrefix(way.Message.Values["way"].Message.ID, "way.")] = b.Said[0].Values["outcome"].Message.ID
			}
		}
		if b.Table == nil || b.Table.Caption.ID != "caption.decisions" {
			continue
		}
		for _, r := range b.Table.Rows {
			name := r.Name
			if inner, decides := name.Values["way"]; decides {
				name = *inner.Message
			}
			out[strings.TrimPrefix(name.ID, "way.")] = r.Cells[2].Figures[0].Value.Message.ID
		}
	}
	require.NotEmpty(t, out)
	return out
}

// Whatever the numbers, a p-value, its statistic and the interval that belongs to it come to the
// same; the finding says what they say, and the direction asks on its own side.
func TestTheWaysToDecideAgree(t *testing.T) {
	t.Parallel()
	random := rand.New(rand.NewPCG(7, 12))
	level := 0.05
	for range 400 {
		direction, role := claim.Directions[random.IntN(3)], claim.Roles[random.IntN(2)]
		stated := claim.Stated{Direction: direction, Role: role, Level: level}

		n := int64(20 + random.IntN(400))
		x, claimed := random.Int64N(n+1), float64(1+random.IntN(98))/100
		one, err := infer.ComputeProportion(infer.ProportionInput{Successes: x, N: n, Claimed: claimed, Confidence: 1 - level})
		require.NoError(t, err)
		d := oneproportion.Claim{Success: []string{"yes"}, Claimed: big.NewRat(int64(math.Round(claimed*100)), 100), Direction: direction, Role: role, Level: level}.Document(one)
		said := verdicts(t, d)
		assert.Equal(t, said["z_p"], said["z"], "%d of %d by %v, %s", x, n, claimed, direction)
		for id, verdict := range said {
			if strings.HasPrefix(id, "wilson") {
				assert.Equal(t, said["z_p"], verdict, "%s: %d of %d by %v, %s", id, x, n, claimed, direction)
			}
		}
		if serves := one.ExpectedYes >= 5 && one.ExpectedNo >= 5; serves {
			assert.Equal(t, said["z_p"], d.Outcome.Text.ID)
		} else {
			assert.Equal(t, said["binomial"], d.Outcome.Text.ID)
		}
		assert.Equal(t, strings.HasSuffix(d.Outcome.Text.ID, "rejected"), d.Outcome.Rejected)

		sample := infer.Sample{N: n, Mean: random.NormFloat64(), SD: 0.1 + random.Float64()}
		against := random.NormFloat64() / 5
		mean, err := infer.ComputeMeans(infer.MeansInput{First: sample, Claimed: against, Confidence: 1 - level})
		require.NoError(t, err)
		d = onemean.Claim{Stated: stated, Claimed: against}.Document(mean)
		for id, verdict := range verdicts(t, d) {
			assert.Equal(t, d.Outcome.Text.ID, verdict, "%s: %v against %v, %s", id, sample, against, direction)
		}
		wrongSide := direction == claim.Less && sample.Mean > against || direction == claim.Greater && sample.Mean < against
		assert.False(t, wrongSide && d.Outcome.Rejected, "nothing on the other side rejects")

		second := infer.Sample{N: int64(5 + random.IntN(50)), Mean: sample.Mean + random.NormFloat64()/3, SD: 0.1 + random.Float64()}
		compared, err := infer.ComputeMeans(infer.MeansInput{First: sample, Second: &second, Confidence: 1 - level})
		require.NoError(t, err)
		d = means.Claim{Stated: stated, First: "a", Second: "b"}.Document(compared, nil)
		for id, verdict := range verdicts(t, d) {
			assert.Equal(t, d.Outcome.Text.ID, verdict, "%s: %v and %v, %s", id, sample, second, direction)
		}

		m := int64(20 + random.IntN(300))
		two, err := infer.ComputeTwoProportions(infer.TwoProportionsInput{Successes1: min(x, n-1), N1: n, Successes2: random.Int64N(m) + 1, N2: m, Confidence: 1 - level})
		require.NoError(t, err)
		if two.Z == nil {
			continue
		}
		d = twoproportions.Claim{Stated: stated, Success: []string{"yes"}, First: "a", Second: "b"}.Document(two)
		said = verdicts(t, d)
		assert.Equal(t, said["z_p"], said["z"])
		decides := "fisher"
		if two.Conditions[0].Met {
			decides = "z_p"
		}
		assert.Equal(t, said[decides], d.Outcome.Text.ID)

		margin := float64(1+random.IntN(20)) / 100
		near, err := infer.ComputeShareEquivalence(x, n, claimed, margin, level)
		require.NoError(t, err)
		d = equivalence.Claim{Stated: claim.Stated{Role: role, Level: level}, Success: []string{"yes"}, Expected: big.NewRat(int64(math.Round(claimed*100)), 100), Margin: big.NewRat(int64(math.Round(margin*100)), 100)}.Document(near, nil)
		said = verdicts(t, d)
		assert.Equal(t, said["near_p"], said["near_interval"], "%d of %d within %v of %v", x, n, margin, claimed)
		if math.Abs(near.Estimate) >= margin {
			assert.False(t, near.Equivalent, "what lies outside the margin is not shown to lie within")
		}
	}
}

// The smallest departure that is named is one that the test finds four times in five: a sample
// that lies there has its power, by simulation of the score test.
func TestTheSmallestDepartureIsFoundFourTimesInFive(t *testing.T) {
	t.Parallel()
	random := rand.New(rand.NewPCG(3, 4))
	for _, direction := range claim.Directions {
		r, err := infer.ComputeProportion(infer.ProportionInput{Successes: 200, N: 400, Claimed: 0.5, Confidence: 0.95})
		require.NoError(t, err)
		d := oneproportion.Claim{Success: []string{"yes"}, Claimed: big.NewRat(1, 2), Direction: direction, Role: claim.ClaimIsNull, Level: 0.05}.Document(r)
		var points float64
		for _, n := range d.Notes {
			if n.ID == "note.one_proportion.detectable" {
				points = n.Values["points"].Number
			}
		}
		require.Positive(t, points, direction)
		truth := 0.5 + points/100
		if direction == claim.Less {
			truth = 0.5 - points/100
		}
		found, rounds := 0, 4000
		for range rounds {
			x := int64(0)
			for range 400 {
				if random.Float64() < truth {
					x++
				}
			}
			one, err := infer.ComputeProportion(infer.ProportionInput{Successes: x, N: 400, Claimed: 0.5, Confidence: 0.95})
			require.NoError(t, err)
			if claim.TailOf(one.Score, direction).AtMost(0.05) {
				found++
			}
		}
		assert.InDelta(t, 0.8, float64(found)/float64(rounds), 0.035, direction)
	}
}
