package infer

import "math/big"

// Homogeneity is the comparison of observed counts with published ones that come from
// a sample themselves.
type Homogeneity struct {
	// Known takes the published shares as known without error, which they are not: it
	// shows what overlooking their sampling would claim. Nil with WhyNotKnown where an
	// answer that somebody gave has no published count.
	Known       *GoodnessOfFit
	WhyNotKnown Reason
	// Test asks whether both samples come from populations with the same shares;
	// it is the one to report. Row 0 is the observed sample, row 1 the published one.
	Test *Independence
	// Exact is the test that does not rest on the chi-square distribution, or its simulation;
	// nil where it was not carried out.
	Exact *ExactTest
	// Kept is Homogeneity's statistic divided by Known's, the share of the apparent
	// evidence that remains: about M/(n + M) for n respondents and M published.
	Kept *float64
	// KeptExpected is M/(n + M).
	KeptExpected float64
}

// ComputeHomogeneity compares observed counts with published counts of a sample, by
// the chi-square test of homogeneity (Pearson 1911, On the probability that two
// independent distributions of frequency are really samples from the same population),
// beside the test of goodness of fit. Errors are those of ComputeIndependence.
func ComputeHomogeneity(observed, published []int64, level float64) (*Homogeneity, error) {
	if len(observed) != len(published) {
		return nil, &InputError{"against a sample", SharesLength, -1}
	}
	both, err := ComputeIndependence([][]int64{observed, published}, level)
	if err != nil {
		return nil, err
	}
	n, m := both.RowTotals[0], both.RowTotals[1]
	r := &Homogeneity{Test: both, KeptExpected: float64(m) / (float64(n) + float64(m))}
	in := GoodnessOfFitInput{Observed: observed, Level: level}
	for _, p := range published {
		in.Shares = append(in.Shares, big.NewRat(p, m))
	}
	known, err := ComputeGoodnessOfFit(in)
	if e, ok := err.(*InputError); ok {
		r.WhyNotKnown = e.Reason
		return r, nil
	}
	r.Known = known
	if known.Statistic > 0 {
		kept := both.Statistic / known.Statistic
		r.Kept = &kept
	}
	return r, nil
}
