package infer

import (
	"math"

	"widetally/core/prob"
)

// Curve is the density of a distribution prepared for drawing.
type Curve struct {
	X, Density []float64 // same length, X rising
	// Top is the height of the drawing. For one degree of freedom the density
	// has no maximum and is cut there.
	Top float64
	// StatisticOutside is set when the statistic lies beyond the last X.
	StatisticOutside bool
}

// NormalCurve samples the standard normal density over the statistic and the critical
// value to either side, but not further than five standard errors from the middle, past
// which nothing of the curve could be seen.
func NormalCurve(z, critical float64) Curve { return bell(z, critical, prob.NormalDensity, 5) }

// StudentCurve does the same with the density of t, whose tails may reach further.
func StudentCurve(t, critical, df float64) Curve {
	return bell(t, critical, func(x float64) float64 { return prob.StudentDensity(x, df) }, max(5, min(20, math.Abs(critical)+0.5)))
}

func bell(statistic, critical float64, density func(x float64) float64, most float64) Curve {
	last := min(most, max(3.4, math.Abs(statistic)+0.5, math.Abs(critical)+0.5))
	c := Curve{StatisticOutside: math.Abs(statistic) > last, Top: density(0)}
	for i := range curvePoints {
		x := last * (2*float64(i)/(curvePoints-1) - 1)
		c.X, c.Density = append(c.X, x), append(c.Density, density(x))
	}
	return c
}

const curvePoints = 160

// ChiSquareCurve samples the density from 0 to past the statistic and the
// critical value, but not further than three times the critical value, past
// which nothing of the curve could be seen.
func ChiSquareCurve(statistic, critical, df float64) Curve {
	last := max(1.45*critical, 1.25*min(statistic, 2.4*critical))
	c := Curve{StatisticOutside: statistic > last}
	for i := range curvePoints {
		x := last * float64(i) / (curvePoints - 1)
		if df < 2 && i == 0 {
			x = last / curvePoints / 4
		}
		c.X = append(c.X, x)
		c.Density = append(c.Density, prob.ChiSquareDensity(x, df))
	}
	if df < 2 {
		c.Top = prob.ChiSquareDensity(last/25, df)
	} else {
		for _, d := range c.Density {
			c.Top = max(c.Top, d)
		}
	}
	return c
}
