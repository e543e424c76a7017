// Package printed asks whether the figures of a printed result can all be true
// together, given how they were rounded, and if not, which known slip makes them fit.
package printed

import (
	"math"
	"strconv"
	"strings"

	"widetally/core/infer"
)

// Figure is a number as it was printed: every value that rounds to it.
type Figure struct {
	Text     string
	Relation Relation
	Value    float64
	// Range is what rounds to the text, or for "<" and ">" what the text allows; an end
	// may be infinite.
	Range infer.Interval
	// Step is the unit of the last digit.
	Step float64
}

// Relation is what stands before the number.
type Relation string

// The relations.
const (
	Equal   Relation = "="
	Below   Relation = "<"
	Beneath Relation = "<="
	Above   Relation = ">"
	AtLeast Relation = ">="
)

// ReadFigure reads a number such as 9.40, .024, "< 0.001", "= 3,2", 1.2e-5 or "4.1 × 10^-5". A
// decimal comma counts as a point. Ok is false for anything else.
func ReadFigure(text string) (f Figure, ok bool) {
	f = Figure{Text: strings.TrimSpace(text), Relation: Equal}
	s := f.Text
	for _, r := range []struct {
		sign string
		is   Relation
	}{{"<=", Beneath}, {"≤", Beneath}, {">=", AtLeast}, {"≥", AtLeast}, {"<", Below}, {">", Above}, {"=", Equal}} {
		if strings.HasPrefix(s, r.sign) {
			f.Relation, s = r.is, strings.TrimPrefix(s, r.sign)
			break
		}
	}
	s = strings.ReplaceAll(strings.TrimSpace(s), " ", "")
	s = strings.NewReplacer("−", "-", ",", ".", "×10^", "e", "·10^", "e", "*10^", "e").Replace(s)
	if len(s) == 0 || len(s) > 40 || strings.Trim(s, "+-.0123456789eE") != "" {
		return f, false
	}
	mantissa, exponent, power := strings.ToLower(s), 0, ""
	if at := strings.IndexByte(mantissa, 'e'); at >= 0 {
		mantissa, power = mantissa[:at], mantissa[at+1:]
		e, err := strconv.Atoi(power)
		if err != nil {
			return f, false
		}
		exponent = e
	}
	v, err := strconv.ParseFloat(s, 64)
	if err != nil || math.Abs(v) > 1e15 {
		return f, false
	}
	f.Value = v
	decimals := 0
	if at := strings.IndexByte(mantissa, '.'); at >= 0 {
		decimals = len(mantissa) - at - 1
	}
	if f.Step = math.Pow(10, float64(exponent-decimals)); !(f.Step > 0 && f.Step <= 1e15) {
		return f, false
	}
	switch f.Relation {
	case Equal:
		f.Range.Lower, f.Range.Upper = v-f.Step/2, v+f.Step/2
	case Below, Beneath:
		f.Range.Lower, f.Range.Upper = math.Inf(-1), v
	case Above, AtLeast:
		f.Range.Lower, f.Range.Upper = v, math.Inf(1)
	}
	return f, true
}

// ends widens a comparison by the rounding of the figures' own ends in a float64.
const ends = 1e-9

// meets reports whether some value between lo and hi rounds to the figure. A value
// halfway counts for both of its neighbours, since some round up and some to even.
func (f Figure) meets(lo, hi float64) bool {
	slack := ends * math.Max(f.Step, math.Abs(f.Value))
	if f.Relation != Equal {
		slack = ends * math.Abs(f.Value)
	}
	return hi >= f.Range.Lower-slack && lo <= f.Range.Upper+slack
}

// cutMeets is meets for a figure whose further digits were cut off rather than rounded.
func (f Figure) cutMeets(lo, hi float64) bool {
	if f.Relation != Equal {
		return false
	}
	from, to := f.Value, f.Value+f.Step
	if f.Value < 0 {
		from, to = f.Value-f.Step, f.Value
	}
	return hi >= from && lo < to
}
