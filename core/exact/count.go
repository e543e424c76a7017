package exact

import "math"

// EstimateTables is about how many tables have these row and column totals, as a common
// logarithm (Gail and Mantel 1977, Counting the number of r × c contingency tables with
// fixed margins): all ways of spreading each row, times the normal density of the column
// totals that such rows would have, and the same the other way round, of which the larger
// is nearer. Totals are positive and add to the same; the result is within a factor of
// about two.
func EstimateTables(rows, columns []int64) float64 {
	return math.Max(0, math.Max(spread(rows, columns), spread(columns, rows)))
}

func spread(rows, columns []int64) float64 {
	c := float64(len(columns))
	n, ln, variance := 0.0, 0.0, 0.0
	for _, total := range rows {
		r := float64(total)
		n += r
		ln += lnGamma(r+c) - lnGamma(c) - lnGamma(r+1)
		variance += r * (r + c) * (c - 1) / (c * c * (c + 1))
	}
	away := 0.0
	for _, total := range columns {
		d := float64(total) - n/c
		away += d / variance * d
	}
	ln += (c-1)/2*math.Log((c-1)/(2*math.Pi*c*variance)) + math.Log(c)/2 - (c-1)/c*away/2
	return ln / math.Ln10
}

func lnGamma(x float64) float64 {
	l, _ := math.Lgamma(x)
	return l
}
