package workedcases

import (
	"math"
	"math/big"
)

// The tails below are finite sums, or sums of terms of one sign, in 1600-bit arithmetic,
// from the definitions and for the parameters for which such sums exist. They share no
// code with the core.

const bits = 1600

func num(x float64) *big.Float { return new(big.Float).SetPrec(bits).SetFloat64(x) }

// exp is Taylor's series after halving, squared back.
func exp(x *big.Float) *big.Float {
	halvings := max(0, x.MantExp(nil)+20)
	small := new(big.Float).SetPrec(bits+64).SetMantExp(x, -halvings)
	sum, term := num(1).SetPrec(bits+64), num(1).SetPrec(bits+64)
	for k := 1.0; k < 200 && term.Sign() != 0 && term.MantExp(nil) > -bits-80; k++ {
		term.Mul(term, small).Quo(term, num(k))
		sum.Add(sum, term)
	}
	for range halvings {
		sum.Mul(sum, sum)
	}
	return sum
}

// ChiSquareUpper is e^(−x/2) Σ_{k<df/2} (x/2)^k/k! for an even df.
func ChiSquareUpper(x float64, df int) *big.Float {
	half := num(x / 2)
	return new(big.Float).Mul(poissonSum(half, df/2), exp(new(big.Float).Neg(half)))
}

// poissonSum is Σ_{k<n} h^k/k!.
func poissonSum(h *big.Float, n int) *big.Float {
	sum, term := num(0), num(1)
	for k := range n {
		sum.Add(sum, term)
		term.Mul(term, h).Quo(term, num(float64(k+1)))
	}
	return sum
}

// NoncentralUpper is Σ_j e^(−λ/2)(λ/2)^j/j! times the upper tail with df + 2j, for an
// even df.
func NoncentralUpper(x float64, df int, lambda float64) *big.Float {
	half, mean := num(x/2), num(lambda/2)
	inner, last := num(0), num(1) // Σ_{k<df/2+j} h^k/k! and its next term
	for k := range df / 2 {
		inner.Add(inner, last)
		last.Mul(last, half).Quo(last, num(float64(k+1)))
	}
	sum, weight := num(0), num(1)
	for j := 0; ; j++ {
		term := new(big.Float).Mul(weight, inner)
		sum.Add(sum, term)
		if float64(j) > lambda/2+math.Sqrt(lambda*x)+x && term.MantExp(nil) < sum.MantExp(nil)-200 {
			break
		}
		inner.Add(inner, last)
		last.Mul(last, half).Quo(last, num(float64(df/2+j+1)))
		weight.Mul(weight, mean).Quo(weight, num(float64(j+1)))
	}
	return sum.Mul(sum, exp(new(big.Float).Neg(new(big.Float).Add(half, mean))))
}

// BinomialUpper is Σ_{j≥k} C(n, j) p^j (1 − p)^(n−j), and with it the lower tail of a beta
// variable at p with parameters k and n − k + 1.
func BinomialUpper(k, n int, p *big.Rat) *big.Float {
	yes := new(big.Float).SetPrec(bits).SetRat(p)
	no := new(big.Float).Sub(num(1), yes)
	sum, odds := num(0), new(big.Float).Quo(yes, no)
	term := num(1)
	for range n {
		term.Mul(term, no)
	}
	for j := range n + 1 {
		if j >= k {
			sum.Add(sum, term)
		}
		term.Mul(term, odds).Mul(term, num(float64(n-j))).Quo(term, num(float64(j+1)))
	}
	return sum
}

// FUpper is the binomial sum of the beta tail at d2/(d2 + d1·f), for even d1 and d2.
func FUpper(f float64, d1, d2 int) *big.Float {
	a, b := d1/2, d2/2
	fr, _ := new(big.Rat).SetString(new(big.Float).SetFloat64(f).Text('p', 0))
	p := new(big.Rat).Quo(big.NewRat(int64(d2), 1), new(big.Rat).Add(big.NewRat(int64(d2), 1), fr.Mul(fr, big.NewRat(int64(d1), 1))))
	return BinomialUpper(b, a+b-1, p)
}

// StudentUpper is ½ − ½ sin θ (1 + ½ cos²θ + 1·3/(2·4) cos⁴θ + …) with tan θ = t/√df, for
// an even df (Abramowitz and Stegun 1964, 26.7.4).
func StudentUpper(t float64, df int) *big.Float {
	tt := new(big.Float).Mul(num(t), num(t))
	all := new(big.Float).Add(tt, num(float64(df)))
	sin := new(big.Float).Quo(num(t), new(big.Float).Sqrt(all))
	cos2 := new(big.Float).Quo(num(float64(df)), all)
	sum, term := num(0), num(1)
	for k := 0; k < df/2; k++ {
		sum.Add(sum, term)
		term.Mul(term, cos2).Mul(term, num(float64(2*k+1))).Quo(term, num(float64(2*k+2)))
	}
	return new(big.Float).Quo(new(big.Float).Sub(num(1), sum.Mul(sum, sin)), num(2))
}

// NormalUpper is ½ − φ(z)(z + z³/3 + z⁵/(3·5) + …) (Laplace).
func NormalUpper(z float64) *big.Float {
	zz := new(big.Float).Mul(num(z), num(z))
	sum, term := num(0), num(z)
	for k := 3.0; term.Sign() != 0 && term.MantExp(nil) > sum.MantExp(nil)-bits; k += 2 {
		sum.Add(sum, term)
		term.Mul(term, zz).Quo(term, num(k))
	}
	pi, _ := new(big.Float).SetPrec(bits).SetString(piDigits)
	density := new(big.Float).Quo(exp(new(big.Float).Quo(zz, num(-2))), new(big.Float).Sqrt(pi.Mul(pi, num(2))))
	return new(big.Float).Sub(num(0.5), sum.Mul(sum, density))
}

// piDigits is π to 220 digits.
const piDigits = "3.1415926535897932384626433832795028841971693993751058209749445923078164062862089986280348253421170679821480865132823066470938446095505822317253594081284811174502841027019385211055596446229489549303819644288109756659334461"

// Ln is the natural logarithm of a positive number of any size.
func Ln(x *big.Float) float64 {
	mantissa := new(big.Float)
	exponent := x.MantExp(mantissa)
	m, _ := mantissa.Float64()
	return math.Log(m) + float64(exponent)*math.Ln2
}

// Digits is how many significant digits of got agree with want, at most 16.
func Digits(got float64, want *big.Float) float64 {
	if math.IsNaN(got) || math.IsInf(got, 0) {
		return 0
	}
	off := new(big.Float).Sub(num(got), want)
	relative, _ := off.Quo(off, want).Float64()
	return math.Max(0, math.Min(16, -math.Log10(math.Abs(relative)+1e-300)))
}
