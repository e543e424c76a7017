package tally

import (
	"math"
	"slices"
	"strconv"

	"widetally/core/infer"
	"widetally/core/survey"
)

// MostBins bounds the classes of a picture.
const MostBins = 200

// BinWidth asks for classes that do not fit the numbers: none or more than MostBins, or a
// width that is not above 0.
const BinWidth infer.Reason = "bin_width"

// Bins cuts described numbers into classes of one width, From ≤ x < To, the first of which
// begins at start and holds the smallest number; without a start, at a multiple of the
// width. Limits are taken to 12 digits, so that 0.3 belongs to the class from 0.3. Errors:
// *infer.InputError with BinWidth.
func (s *Summary) Bins(width float64, start *float64) ([]Class, error) {
	first := math.Floor(s.Smallest/width) * width
	if start != nil {
		first = *start
	}
	limit := func(i int) float64 {
		x, _ := strconv.ParseFloat(strconv.FormatFloat(first+float64(i)*width, 'g', 12, 64), 64)
		return x
	}
	bands := math.Floor((s.Largest-first)/width) + 2 // one too many, for what rounding does
	if !(width > 0) || math.IsNaN(first) || first > s.Smallest || s.Smallest-first >= 2*width || !(bands <= MostBins+2) {
		return nil, &infer.InputError{Method: "classes", Reason: BinWidth, Index: -1}
	}
	var out []Class
	i := 0
	for _, row := range s.Rows {
		for len(out) == 0 || row.Value >= out[len(out)-1].To {
			if i > MostBins {
				return nil, &infer.InputError{Method: "classes", Reason: BinWidth, Index: -1}
			}
			if c := (Class{From: limit(i), To: limit(i + 1)}); c.To > s.Smallest {
				out = append(out, c)
			}
			i++
		}
		out[len(out)-1].Count += row.Count
	}
	return out, nil
}

// BinsAt cuts described numbers at given limits, rising. Where numbers lie outside, a class
// is added that reaches to the last of them, so that none is left out; added says so. Errors:
// *infer.InputError with BinWidth for fewer than two limits, limits that do not rise, or too
// many of them.
func (s *Summary) BinsAt(limits []float64) (out []Class, added bool, err error) {
	if len(limits) < 2 || len(limits) > MostBins {
		return nil, false, &infer.InputError{Method: "classes", Reason: BinWidth, Index: -1}
	}
	for i, x := range limits {
		if !(math.Abs(x) <= 1e100) || i > 0 && x <= limits[i-1] {
			return nil, false, &infer.InputError{Method: "classes", Reason: BinWidth, Index: i}
		}
	}
	all := slices.Clone(limits)
	if s.Smallest < all[0] {
		all, added = append([]float64{s.Smallest}, all...), true
	}
	if s.Largest > all[len(all)-1] {
		all, added = append(all, s.Largest), true
	}
	for i := range all[1:] {
		out = append(out, Class{From: all[i], To: all[i+1]})
	}
	at := 0
	for _, row := range s.Rows {
		for at < len(out)-1 && row.Value >= out[at].To {
			at++
		}
		out[at].Count += row.Count
	}
	return out, added, nil
}

// NiceWidths are widths that are 1, 2 or 5 times a power of ten, rising: the middle one
// gives 7 to 15 classes or so, the others are its neighbours. Nil where all numbers are the same.
func (s *Summary) NiceWidths() []float64 {
	if !(s.Range > 0) || math.IsInf(s.Range, 0) {
		return nil
	}
	steps := []float64{1, 2, 5}
	power := int(math.Floor(math.Log10(s.Range / 15)))
	at := func(i int) float64 {
		k := power + int(math.Floor(float64(i)/3))
		x, _ := strconv.ParseFloat(strconv.FormatFloat(steps[((i%3)+3)%3], 'g', 1, 64)+"e"+strconv.Itoa(k), 64)
		return x
	}
	i := 0
	for s.Range/at(i) > 14 {
		i++
	}
	var out []float64
	for k := i - 1; k <= i+1; k++ {
		if w := at(k); s.Range/w <= MostBins-2 {
			out = append(out, w)
		}
	}
	return out
}

// Discrete reports whether the numbers are whole and few enough for each to stand for
// itself, and the values between them.
func (s *Summary) Discrete() bool {
	if s.Range > 40 {
		return false
	}
	for _, row := range s.Rows {
		if row.Value != math.Trunc(row.Value) {
			return false
		}
	}
	return true
}

// Box is the five figures of a box plot with what lies beyond its whiskers.
type Box struct {
	// Lower and Upper are the ends of the whiskers: the furthest numbers within 1.5 times
	// the box from it (Tukey 1977, Exploratory data analysis).
	Lower, Quartile1, Median, Quartile3, Upper float64
	// Beyond holds the different numbers further out, with how often each was given.
	Beyond []SummaryRow
}

// Box describes the numbers for a box plot; quartiles by the definition of Median.
func (s *Summary) Box() Box {
	b := Box{Quartile1: s.quantile(0.25), Median: s.Median, Quartile3: s.quantile(0.75)}
	reach := 1.5 * (b.Quartile3 - b.Quartile1)
	b.Lower, b.Upper = math.Inf(1), math.Inf(-1)
	for _, row := range s.Rows {
		if row.Value < b.Quartile1-reach || row.Value > b.Quartile3+reach {
			b.Beyond = append(b.Beyond, row)
			continue
		}
		b.Lower, b.Upper = math.Min(b.Lower, row.Value), math.Max(b.Upper, row.Value)
	}
	return b
}

func (s *Summary) quantile(p float64) float64 {
	v := make([]survey.Value, len(s.Rows))
	for i, row := range s.Rows {
		v[i] = survey.Value{Number: row.Value, Times: row.Count}
	}
	return listOf(v).quantile7(p)
}
