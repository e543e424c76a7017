package trend

import (
	"context"
	"math"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/infer"
	"widetally/core/prob"
)

// Request is a question in several waves: how many gave each answer, a row for each wave, the first one first.
type Request struct {
	Waves [][]int64 `json:"waves"`
	// Together are the places of the answers that are counted together; empty for none.
	Together []int `json:"together,omitempty"`
	// Break is the place of the wave from which on the question was another one; 0 for none. Changes over it are
	// not tested.
	Break int `json:"break,omitempty"`
	// Rolling is how many waves a rolling average is of, from 2 on; 0 for none.
	Rolling int     `json:"rolling,omitempty"`
	Level   float64 `json:"level,omitempty"`
}

// Result is a question over waves.
type Result struct {
	// N is how many answered in each wave.
	N []int64 `json:"n"`
	// Rows are the answers that are counted together, where there are any, and then the answers.
	Rows []Row `json:"rows"`
	// Tests is how many changes were tested, which their p-values are adjusted for.
	Tests int `json:"tests"`
}

// Row is an answer over the waves.
type Row struct {
	Counts []int64 `json:"counts"`
	// Waves are its shares, nil for a wave that nobody answered in.
	Waves []*Point `json:"waves"`
	// Changes are those since the wave before and, of waves from the third on, since the first.
	Changes []Change `json:"changes"`
	// Rolling are the averages of so many waves up to each, nil for a wave before which there are not as many; absent
	// where none are asked for.
	Rolling []*Point `json:"rolling,omitempty"`
}

// Point is a share in a wave.
type Point struct {
	Share         float64         `json:"share"`
	StandardError float64         `json:"standardError"`
	Interval      *infer.Interval `json:"interval"`
}

// Change is the share of a wave less that of an earlier one.
type Change struct {
	Wave       int             `json:"wave"`
	Since      int             `json:"since"`
	Difference float64         `json:"difference"`
	Interval   *infer.Interval `json:"interval"`
	// Statistic is z, or t with DF degrees of freedom where these are above 0; nil where it cannot be tested.
	Statistic *float64   `json:"statistic"`
	DF        float64    `json:"df"`
	P         *prob.Prob `json:"p"`
	// Adjusted is p adjusted by Holm's method for all changes that were tested.
	Adjusted *prob.Prob `json:"adjusted"`
}

// UnknownRolling is the reason for an average of fewer than two waves or of more than there are.
const UnknownRolling infer.Reason = "unknown_rolling"

// fewestExpected is the expected count below which a change is not tested (Cochran 1954).
const fewestExpected = 5

// pairs calls f for each change of so many waves: since the wave before, and since the first.
func pairs(waves int, f func(wave, since int)) {
	for wave := 1; wave < waves; wave++ {
		f(wave, wave-1)
		if wave > 1 {
			f(wave, 0)
		}
	}
}

// setsOf are the answers of each row.
func setsOf(answers int, together []int) (out [][]int) {
	if len(together) > 1 { // one alone is the row of its answer
		out = append(out, together)
	}
	for i := range answers {
		out = append(out, []int{i})
	}
	return out
}

// Compute compares waves of different respondents: shares with the interval of Wilson (1927), changes by the
// z-test with the pooled share and the interval of Newcombe (1998). Errors, all *infer.InputError: fewer than two
// waves, rows of unlike length, counts out of range, nobody at all, UnknownRolling.
func Compute(in Request) (*Result, error) {
	if len(in.Waves) < 2 {
		return nil, analysis.RefuseInput("trend", infer.OneRowOrColumn, -1)
	}
	if in.Rolling < 0 || in.Rolling == 1 || in.Rolling > len(in.Waves) {
		return nil, analysis.RefuseInput("trend", UnknownRolling, -1)
	}
	if err := analysis.CheckTable("trend", in.Waves); err != nil {
		return nil, err
	}
	r := &Result{}
	any := int64(0)
	for _, wave := range in.Waves {
		n := int64(0)
		for _, x := range wave {
			n += x
		}
		r.N, any = append(r.N, n), any+n
	}
	if any == 0 {
		return nil, analysis.RefuseInput("trend", infer.NoObservations, -1)
	}
	z := prob.NormalUpperQuantile(in.Level / 2)
	for _, set := range setsOf(len(in.Waves[0]), in.Together) {
		row := Row{}
		for w, wave := range in.Waves {
			x := int64(0)
			for _, i := range set {
				if i < 0 || i >= len(wave) {
					return nil, analysis.RefuseInput("trend", infer.RaggedTable, w)
				}
				x += wave[i]
			}
			row.Counts = append(row.Counts, x)
			row.Waves = append(row.Waves, nil)
			if n := r.N[w]; n > 0 {
				p := float64(x) / float64(n)
				interval := infer.Wilson(x, n, z)
				row.Waves[w] = &Point{p, math.Sqrt(p * (1 - p) / float64(n)), &interval}
			}
		}
		pairs(len(r.N), func(wave, since int) {
			if r.N[wave] == 0 || r.N[since] == 0 {
				return
			}
			two, err := infer.ComputeTwoProportions(infer.TwoProportionsInput{
				Successes1: row.Counts[wave], N1: r.N[wave], Successes2: row.Counts[since], N2: r.N[since], Confidence: 1 - in.Level,
			})
			if err != nil {
				return
			}
			c := Change{Wave: wave, Since: since, Difference: two.Difference, Interval: &two.Newcombe}
			if row.tested(c, in.Break) && bears(row.Counts[wave]+row.Counts[since], r.N[wave], r.N[since]) {
				c.Statistic, c.P = two.Z, &two.Tails.TwoSided
			}
			row.Changes = append(row.Changes, c)
		})
		row.roll(r.N, in.Rolling, in.Break, len(set) == 1)
		r.Rows = append(r.Rows, row)
	}
	r.adjust()
	return r, nil
}

// tested reports whether a change is one that can be told: not over a break, and not of an answer that a wave lacks.
func (r Row) tested(c Change, broken int) bool {
	return (broken <= 0 || c.Since >= broken || c.Wave < broken) && r.Counts[c.Wave] > 0 && r.Counts[c.Since] > 0
}

// bears reports whether the expected counts of two waves bear a test.
func bears(hits, n, m int64) bool {
	pooled := float64(hits) / float64(n+m)
	return float64(min(n, m))*math.Min(pooled, 1-pooled) >= fewestExpected
}

// adjust adjusts the p-values of all changes.
func (r *Result) adjust() {
	var p []prob.Prob
	var at []*Change
	// Of two answers the second one's changes are those of the first the other way round: one test.
	mirrored := len(r.Rows) == 2
	for i := range r.Rows[:len(r.Rows)-map[bool]int{true: 1}[mirrored]] {
		for k := range r.Rows[i].Changes {
			if c := &r.Rows[i].Changes[k]; c.P != nil {
				p, at = append(p, *c.P), append(at, c)
			}
		}
	}
	r.Tests = len(p)
	for i, adjusted := range infer.Holm(p) {
		at[i].Adjusted = &adjusted
	}
	if mirrored {
		for k := range r.Rows[1].Changes {
			r.Rows[1].Changes[k].Adjusted = r.Rows[0].Changes[k].Adjusted
		}
	}
}

// estimate is a question over waves by a design: cells of answers by waves. The covariance of two waves is that
// which the design gives them, of a panel by whom it recognises in both (Kish 1965, 12.4).
func estimate(cells *design.Cells, waves int, together []int, broken, rolling int, level float64) *Result {
	answers := len(cells.Count) / waves
	r := &Result{N: make([]int64, waves)}
	for cell, n := range cells.Count {
		r.N[cell%waves] += n
	}
	var here []int
	for w, n := range r.N {
		if n > 0 {
			here = append(here, w)
		}
	}
	confidence, df := 1-level, float64(cells.DF)
	for _, set := range setsOf(answers, together) {
		row := Row{Counts: make([]int64, waves), Waves: make([]*Point, waves)}
		in := make([]bool, answers)
		for _, i := range set {
			in[i] = true
		}
		for cell, n := range cells.Count {
			if in[cell/waves] {
				row.Counts[cell%waves] += n
			}
		}
		of := cells.Ratios(len(here), func(i, cell int) float64 {
			return design.Indicator(
				in[cell/waves] && cell%waves == here[i],
			)
		},
			func(i, cell int) float64 { return design.Indicator(cell%waves == here[i]) })
		place := map[int]int{}
		for i, w := range here {
			place[w] = i
			share := of.Value[i]
			if row.Counts[w] == 0 || row.Counts[w] == r.N[w] {
				share = design.Indicator(row.Counts[w] > 0)
			}
			row.Waves[w] = &Point{share, of.SE(i), cutTo01(infer.TInterval(share, of.SE(i), df, confidence))}
		}
		pairs(waves, func(wave, since int) {
			i, now := place[wave]
			j, then := place[since]
			if !now || !then {
				return
			}
			v := of.Covariance
			se := math.Sqrt(math.Max(0, v[i][i]+v[j][j]-2*v[i][j]))
			c := Change{Wave: wave, Since: since, Difference: row.Waves[wave].Share - row.Waves[since].Share, DF: df}
			c.Interval = infer.TInterval(c.Difference, se, df, confidence)
			if t := infer.ComputeTTest(c.Difference, se, df); t.T != nil && row.tested(c, broken) && bears(
				row.Counts[wave]+row.Counts[since], r.N[wave], r.N[since],
			) {
				c.Statistic, c.P = t.T, t.TwoSided
			}
			row.Changes = append(row.Changes, c)
		})
		row.rollBy(r.N, rolling, broken, len(set) == 1, of.Covariance, place, df, confidence)
		r.Rows = append(r.Rows, row)
	}
	r.adjust()
	return r
}

func cutTo01(i *infer.Interval) *infer.Interval {
	if i == nil {
		return nil
	}
	return &infer.Interval{Lower: math.Max(0, i.Lower), Upper: math.Min(1, i.Upper)}
}

var figures = analysis.Figures(
	"trend",
	"A question over several waves: shares with intervals, changes since the wave before and since the first",
	[]analysis.Assumption{analysis.SimpleRandom}, Request{Level: 0.05},
	func(_ context.Context, in *Request) (*Result, error) { return Compute(*in) })
