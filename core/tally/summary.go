package tally

import (
	"math"

	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/survey"
)

// Summary is the full description of numbers given with how often each was.
type Summary struct {
	N                 int64
	Sum, Mean, Median float64
	Smallest, Largest float64
	Range             float64
	Modes             []float64 // the commonest numbers, all of them
	Variance, SD      *float64  // divisor n − 1; nil for n < 2
	StandardError     *float64  // of the mean, SD/√n
	Confidence        float64
	MeanInterval      *infer.Interval // Student's t with n − 1 degrees of freedom
	// Skewness is m₃/m₂^(3/2) with the central moments over n (Fisher's g₁); nil where the
	// numbers do not vary.
	Skewness *float64
	// MedianInterval holds the population's median with at least the confidence, whatever the
	// shape: from the k-th number to the k-th from the end, k by the binomial distribution
	// (Thompson 1936, On confidence ranges for the median). Nil where n is too small for it.
	MedianInterval *infer.Interval
	Percents       []float64 // asked for, 0–100
	// The percentiles interpolate at position 1 + (n−1)p, and at (n+1)p held within
	// 1 … n (Hyndman and Fan 1996, Sample quantiles in statistical packages, definitions 7
	// and 6).
	PercentilesAtNMinus1, PercentilesAtNPlus1 []float64
	Rows                                      []SummaryRow
}

// SummaryRow is one number.
type SummaryRow struct {
	Value                  float64
	Count, CumulativeCount int64
	Share, CumulativeShare float64 // 0–1
}

// MaxValues bounds the different numbers of a summary.
const MaxValues = 1_000_000

// NumbersInput is numbers with how often each was given.
type NumbersInput struct {
	Values []float64
	// Counts has the length of Values; nil counts each once.
	Counts     []int64
	Percents   []float64
	Confidence float64
}

// Reasons of this file.
const (
	CountsLength infer.Reason = "counts_length"
	PercentRange infer.Reason = "percent_range"
	ClassesOrder infer.Reason = "classes_order"
)

// SummariseNumbers describes numbers. Values may come in any order and more than once.
// Errors, all *infer.InputError: lengths that differ, none counted, a value not finite or
// beyond ±1e100, counts or percents out of range, a confidence outside (0, 1).
func SummariseNumbers(in NumbersInput) (*Summary, error) {
	fail := func(why infer.Reason, at int) error {
		return &infer.InputError{Method: "numeric summary", Reason: why, Index: at}
	}
	switch {
	case len(in.Counts) > 0 && len(in.Counts) != len(in.Values):
		return nil, fail(CountsLength, -1)
	case len(in.Values) > MaxValues:
		return nil, fail(infer.TooMany, -1)
	case !(in.Confidence > 0 && in.Confidence < 1):
		return nil, fail(infer.LevelRange, -1)
	}
	for i, p := range in.Percents {
		if !(p >= 0 && p <= 100) {
			return nil, fail(PercentRange, i)
		}
	}
	var v []survey.Value
	s := &Summary{Confidence: in.Confidence, Percents: in.Percents}
	for i, x := range in.Values {
		times := int64(1)
		if len(in.Counts) > 0 {
			times = in.Counts[i]
		}
		switch {
		case !(math.Abs(x) <= 1e100):
			return nil, fail(infer.NotFinite, i)
		case times < 0:
			return nil, fail(infer.NegativeCount, i)
		case times > infer.MaxCount || s.N > infer.MaxCount-times:
			return nil, fail(infer.CountTooLarge, i)
		case times > 0:
			v = append(v, survey.Value{Number: x, Times: times})
			s.N += times
		}
	}
	if s.N == 0 {
		return nil, fail(infer.NoObservations, -1)
	}
	v = survey.Merged(v)
	l := listOf(v)
	s.rows(v)
	s.Smallest, s.Largest = v[0].Number, v[len(v)-1].Number
	s.Range = s.Largest - s.Smallest
	m := measure(v, s.N)
	s.Sum, s.Mean, s.Variance = m.sum, m.mean, m.variance
	s.Median = l.quantile7(0.5)
	s.Skewness = skewness(v, s.N, s.Mean)
	if k := prob.BinomialLowerQuantile((1-in.Confidence)/2, s.N, 0.5); k >= 0 {
		s.MedianInterval = &infer.Interval{Lower: l.at(k), Upper: l.at(s.N - 1 - k)}
	}
	for _, p := range in.Percents {
		s.PercentilesAtNMinus1 = append(s.PercentilesAtNMinus1, l.quantile7(p/100))
		s.PercentilesAtNPlus1 = append(s.PercentilesAtNPlus1, l.quantile6(p/100))
	}
	if s.Variance != nil {
		sd := math.Sqrt(*s.Variance)
		se := sd / math.Sqrt(float64(s.N))
		half := prob.StudentUpperQuantile((1-in.Confidence)/2, float64(s.N-1)) * se
		s.SD, s.StandardError, s.MeanInterval = &sd, &se, &infer.Interval{Lower: s.Mean - half, Upper: s.Mean + half}
	}
	return s, nil
}

// rows lists the different numbers and finds the commonest.
func (s *Summary) rows(sorted []survey.Value) {
	var most, so int64
	for _, w := range sorted {
		so += w.Times
		s.Rows = append(
			s.Rows,
			SummaryRow{
				Value:           w.Number,
				Count:           w.Times,
				CumulativeCount: so,
				Share:           float64(w.Times) / float64(s.N),
				CumulativeShare: float64(so) / float64(s.N),
			},
		)
		most = max(most, w.Times)
	}
	for _, row := range s.Rows {
		if row.Count == most {
			s.Modes = append(s.Modes, row.Value)
		}
	}
}

// Grouped is an estimate from numbers given in classes.
type Grouped struct {
	N       int64
	Classes []GroupedClass
	// Mean, Variance and SD take everybody to be in the middle of the class; the
	// divisor is n − 1, nil for n < 2.
	Mean         float64
	Variance, SD *float64
	// Median interpolates within its class as if its members were spread evenly.
	Median   float64
	MedianAt int // position of that class
	// MedianTo is set where exactly half lie up to the end of that class and the next number
	// lies further on: every number from Median to MedianTo parts the lower half from the upper.
	MedianTo *float64
}

// GroupedClass is one class.
type GroupedClass struct {
	From, To, Midpoint     float64
	Count, CumulativeCount int64
	Share, CumulativeShare float64
}

// SummariseClasses estimates from classes in rising order without overlap; gaps may be
// between them. Errors, all *infer.InputError: lengths that differ, a class that is empty
// or begins before the end of the one before, counts out of range, nobody counted.
func SummariseClasses(classes [][2]float64, counts []int64) (*Grouped, error) {
	fail := func(why infer.Reason, at int) error {
		return &infer.InputError{Method: "grouped summary", Reason: why, Index: at}
	}
	if len(classes) != len(counts) {
		return nil, fail(CountsLength, -1)
	}
	g := &Grouped{MedianAt: -1}
	var v []survey.Value
	for i, c := range classes {
		switch {
		case !(math.Abs(c[0]) <= 1e100 && math.Abs(c[1]) <= 1e100):
			return nil, fail(infer.NotFinite, i)
		case c[1] <= c[0] || i > 0 && c[0] < classes[i-1][1]:
			return nil, fail(ClassesOrder, i)
		case counts[i] < 0:
			return nil, fail(infer.NegativeCount, i)
		case counts[i] > infer.MaxCount || g.N > infer.MaxCount-counts[i]:
			return nil, fail(infer.CountTooLarge, i)
		}
		g.N += counts[i]
		k := GroupedClass{From: c[0], To: c[1], Midpoint: c[0] + (c[1]-c[0])/2, Count: counts[i], CumulativeCount: g.N}
		g.Classes = append(g.Classes, k)
		v = append(v, survey.Value{Number: k.Midpoint, Times: k.Count})
	}
	if g.N == 0 {
		return nil, fail(infer.NoObservations, -1)
	}
	n := float64(g.N)
	for i := range g.Classes {
		c := &g.Classes[i]
		c.Share, c.CumulativeShare = float64(c.Count)/n, float64(c.CumulativeCount)/n
		if g.MedianAt < 0 && 2*c.CumulativeCount >= g.N {
			g.MedianAt = i
			g.Median = c.From + (n/2-float64(c.CumulativeCount-c.Count))/float64(c.Count)*(c.To-c.From)
		}
	}
	if at := g.Classes[g.MedianAt]; 2*at.CumulativeCount == g.N {
		for _, c := range g.Classes[g.MedianAt+1:] {
			if c.Count > 0 {
				if c.From > at.To {
					g.MedianTo = &c.From
				}
				break
			}
		}
	}
	m := measure(v, g.N)
	g.Mean, g.Variance = m.mean, m.variance
	if g.Variance != nil {
		sd := math.Sqrt(*g.Variance)
		g.SD = &sd
	}
	return g, nil
}
