package printed

import (
	"math"

	"widetally/core/infer"
)

// EffectName is the name under which a measure of size was printed.
type EffectName string

// The names.
const (
	NamedW   EffectName = "w"   // Cohen's w, √(X²/n)
	NamedV   EffectName = "v"   // Cramér's V, √(X²/(n·(min(r, c) − 1))), of two-way tables
	NamedPhi EffectName = "phi" // φ, of tables of two by two
	NamedC   EffectName = "c"   // the contingency coefficient, √(X²/(X² + n))
)

// EffectNames lists them in the order in which they are offered.
var EffectNames = []EffectName{NamedW, NamedV, NamedPhi, NamedC}

// The check and the slips of a printed size.
const (
	EffectFits CheckName = "effect_fits_statistic"

	WUnderOtherName SlipName = "w_under_another_name"
	VUnderOtherName SlipName = "v_under_another_name"
	CUnderOtherName SlipName = "c_under_another_name"
	OneWayDivided   SlipName = "w_divided_as_v"
	EffectSquared   SlipName = "effect_squared"
)

// The reasons for which a printed size cannot be checked.
const (
	EffectText   infer.Reason = "effect_text"
	EffectKind   infer.Reason = "effect_name"
	EffectNeedsN infer.Reason = "effect_needs_n"
)

// sizes are what a statistic gives under each name; sides are the numbers min(r, c) − 1 that a
// table can have, none for counts of one question.
type sizes struct {
	n     float64
	sides []float64
}

func (s sizes) w(x float64) float64 { return math.Sqrt(x / s.n) }
func (s sizes) c(x float64) float64 { return math.Sqrt(x / (x + s.n)) }

// tableSides lists what min(r, c) − 1 can be where only (r − 1)(c − 1) is known.
func tableSides(df float64) (out []float64) {
	for k := 1.0; k*k <= df; k++ {
		if math.Mod(df, k) == 0 {
			out = append(out, k)
		}
	}
	return out
}

// compareEffect holds a printed size against the statistic and n.
func (r *Result) compareEffect(in Input, c *counts) error {
	fail := func(why infer.Reason) error {
		return &infer.InputError{Method: "printed result", Reason: why, Index: -1}
	}
	figure, ok := ReadFigure(in.Effect)
	s := sizes{}
	switch {
	case !ok || figure.Relation != Equal:
		return fail(EffectText)
	case in.Kind != ChiSquare || in.EffectName != NamedW && in.EffectName != NamedV && in.EffectName != NamedPhi && in.EffectName != NamedC:
		return fail(EffectKind)
	case c != nil:
		s.n = float64(c.fitted.N)
	case in.N != nil && *in.N > 0:
		s.n = float64(*in.N)
	default:
		return fail(EffectNeedsN)
	}
	switch {
	case in.Table != nil:
		s.sides = []float64{float64(min(c.rows, c.other) - 1)}
	case in.Observed == nil:
		s.sides = tableSides(*in.DF)
	}
	lo, hi := math.Max(0, r.Statistic.Range.Lower), math.Max(0, r.Statistic.Range.Upper)
	between := func(f func(x float64) float64) (from, to float64, fits bool) {
		from, to = f(lo), f(hi)
		return from, to, figure.meets(from, to)
	}
	v := func(side float64) func(x float64) float64 {
		return func(x float64) float64 { return s.w(x) / math.Sqrt(side) }
	}
	asW := func() (float64, float64, bool) { return between(s.w) }
	asV := func() (from, to float64, fits bool) {
		for _, side := range s.sides {
			if from, to, fits = between(v(side)); fits {
				return from, to, true
			}
		}
		return from, to, false
	}
	asC := func() (float64, float64, bool) { return between(s.c) }
	own := map[EffectName]func() (float64, float64, bool){NamedW: asW, NamedV: asV, NamedPhi: asW, NamedC: asC}[in.EffectName]
	from, to, fits := own()
	if len(s.sides) == 0 && in.EffectName == NamedV { // one question has no V
		from, to, fits = s.w(lo), s.w(hi), false
	}
	if r.check(EffectFits, fits, from, to) {
		return nil
	}
	slip := func(name SlipName, from, to float64, fits bool) {
		if fits {
			r.Slips = append(r.Slips, Slip{name, EffectFits, (from + to) / 2})
		}
	}
	if in.EffectName != NamedW && in.EffectName != NamedPhi {
		slip(namedOf(WUnderOtherName, asW))
	}
	if in.EffectName != NamedV && len(s.sides) > 0 {
		slip(namedOf(VUnderOtherName, asV))
	}
	if in.EffectName != NamedC {
		slip(namedOf(CUnderOtherName, asC))
	}
	if len(s.sides) == 0 && *in.DF > 1 {
		from, to, fits := between(v(*in.DF))
		slip(OneWayDivided, from, to, fits)
	}
	from, to, fits = between(func(x float64) float64 { return x / s.n })
	slip(EffectSquared, from, to, fits)
	return nil
}

func namedOf(name SlipName, f func() (float64, float64, bool)) (SlipName, float64, float64, bool) {
	from, to, fits := f()
	return name, from, to, fits
}
