package exact

import (
	"context"
	"math"
	"math/rand/v2"

	"widetally/core/prob"
)

// Simulation says how to simulate.
type Simulation struct {
	// Replicates is the number of simulated outcomes, 1 … MaxReplicates; 0 means
	// DefaultReplicates.
	Replicates int
	// Seed starts the generator (PCG, O'Neill 2014). The same seed gives the same
	// result, whatever the number of processors.
	Seed uint64
	// Progress is told the share done, as in Effort.
	Progress func(done float64)
}

// Bounds and default of the number of simulated outcomes.
const (
	DefaultReplicates = 100_000
	MaxReplicates     = 50_000_000
	// MaxSimulatedTotal bounds the count of a simulated table, whose factorials are
	// held in a list.
	MaxSimulatedTotal = 5_000_000
)

// Simulated is a p-value estimated by simulation.
type Simulated struct {
	Replicates int
	Seed       uint64
	// ByProbability and ByChiSquare count an outcome by its probability, as the exact
	// test does, and by its X².
	ByProbability, ByChiSquare Estimate
}

// Estimate is a simulated p-value.
type Estimate struct {
	// AtLeast is the number of replicates at least as far out as the observed outcome.
	AtLeast int
	// P is (AtLeast + 1)/(Replicates + 1): the observed outcome is one more, so that
	// the test keeps its level and never gives 0 (Phipson and Smyth 2010, Permutation
	// p-values should never be zero).
	P prob.Prob
	// Lower and Upper hold the p-value that endless simulating would give, with
	// confidence 99.99 percent: the exact interval of AtLeast among Replicates (Clopper
	// and Pearson 1934).
	Lower, Upper float64
}

// estimateConfidence is that of the interval of a simulated p-value.
const estimateConfidence = 0.9999

func newEstimate(atLeast, replicates int) Estimate {
	e := Estimate{AtLeast: atLeast, P: prob.FromRatio(float64(atLeast+1), float64(replicates+1)), Upper: 1}
	b, m, tail := float64(atLeast), float64(replicates), (1-estimateConfidence)/2
	if atLeast > 0 {
		e.Lower = prob.BetaLowerQuantile(tail, b, m-b+1)
	}
	if atLeast < replicates {
		e.Upper = prob.BetaUpperQuantile(tail, b+1, m-b)
	}
	return e
}

// block is the number of replicates drawn from one stream of random numbers.
const block = 1024

// tally is how often an outcome at least as far out was drawn.
type tally struct{ byProbability, byChiSquare int }

// simulate draws the replicates in blocks, each with a stream of its own, several at
// a time. newDraw makes the drawing function of one block.
func simulate(
	ctx context.Context,
	s Simulation,
	cost int64,
	newDraw func(*rand.Rand) func() (byProbability, byChiSquare bool),
) (*Simulated, error) {
	if s.Replicates == 0 {
		s.Replicates = DefaultReplicates
	}
	if s.Replicates < 0 || s.Replicates > MaxReplicates {
		return nil, ErrBeyondReach
	}
	blocks := (s.Replicates + block - 1) / block
	counts := make([]tally, blocks)
	m := newMeter(ctx, Effort{Work: math.MaxInt64, Progress: s.Progress})
	err := m.share(blocks, func(m *meter, k int) error {
		draw := newDraw(rand.New(rand.NewPCG(s.Seed, uint64(k))))
		for range min(block, s.Replicates-k*block) {
			p, x := draw()
			if p {
				counts[k].byProbability++
			}
			if x {
				counts[k].byChiSquare++
			}
			if err := m.spend(cost); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	var all tally
	for _, c := range counts {
		all.byProbability, all.byChiSquare = all.byProbability+c.byProbability, all.byChiSquare+c.byChiSquare
	}
	return &Simulated{
		s.Replicates,
		s.Seed,
		newEstimate(all.byProbability, s.Replicates),
		newEstimate(all.byChiSquare, s.Replicates),
	}, nil
}

// lnFactorials returns ln 0! … ln n!.
func lnFactorials(n int64) []float64 {
	ln := make([]float64, n+1)
	for i := range ln {
		ln[i], _ = math.Lgamma(float64(i) + 1)
	}
	return ln
}

// chiSlack keeps outcomes with the same Σ O²/E = X² + n as the observed one on its
// side.
const chiSlack = 1 - 1e-10

// SimulateTable draws tables with both margins of the given one (Patefield 1981, An
// efficient method of generating random r × c tables with given row and column totals):
// cell by cell, each from its hypergeometric distribution given the cells before, by
// inversion from the most likely value outwards. Rows and columns as in Table.
// ErrBeyondReach for counts above MaxSimulatedTotal.
func SimulateTable(ctx context.Context, table [][]int64, s Simulation) (*Simulated, error) {
	rows, columns := make([]int64, len(table)), make([]int64, len(table[0]))
	var total int64
	for i, row := range table {
		for j, o := range row {
			if total += o; total > MaxSimulatedTotal || o < 0 {
				return nil, ErrBeyondReach
			}
			rows[i], columns[j] = rows[i]+o, columns[j]+o
		}
	}
	ln := lnFactorials(total)
	n := float64(total)
	score := func(i int, row []int64) (lnCells, chi float64) {
		for j, o := range row {
			e := float64(rows[i]) * float64(columns[j]) / n
			lnCells += ln[o]
			chi += float64(o) / e * float64(o)
		}
		return
	}
	var wantLn, wantChi float64
	for i, row := range table {
		l, c := score(i, row)
		wantLn, wantChi = wantLn+l, wantChi+c
	}
	wantChi *= chiSlack
	cells := int64(len(rows) * len(columns))
	return simulate(ctx, s, 40*cells, func(rng *rand.Rand) func() (bool, bool) {
		left, row := make([]int64, len(columns)), make([]int64, len(columns))
		return func() (bool, bool) {
			copy(left, columns)
			rest := total
			var gotLn, gotChi float64
			for i, r := range rows {
				if i == len(rows)-1 {
					copy(row, left)
				} else {
					drawRow(rng, ln, row, left, r, rest)
				}
				rest -= r
				l, c := score(i, row)
				gotLn, gotChi = gotLn+l, gotChi+c
			}
			return gotLn >= wantLn-Slack, gotChi >= wantChi
		}
	})
}

// drawRow fills a row of r respondents from what is left of the columns, rest in all,
// and takes it off them.
func drawRow(rng *rand.Rand, ln []float64, row, left []int64, r, rest int64) {
	for j := range row {
		rest -= left[j] // in the columns to the right
		x := r
		if j < len(row)-1 {
			x = drawHypergeometric(rng, ln, r, left[j], rest)
		}
		row[j] = x
		left[j] -= x
		r -= x
	}
}

// drawHypergeometric draws how many of r picks fall among good ones, out of good and
// bad.
func drawHypergeometric(rng *rand.Rand, ln []float64, r, good, bad int64) int64 {
	lowest, highest := max(0, r-bad), min(r, good)
	if lowest == highest {
		return lowest
	}
	all := good + bad
	mode := int64(float64(r+1) * float64(good+1) / float64(all+2))
	mode = min(max(mode, lowest), highest)
	p := math.Exp(ln[good] + ln[bad] + ln[r] + ln[all-r] - ln[all] -
		ln[mode] - ln[good-mode] - ln[r-mode] - ln[bad-r+mode])
	return outwards(rng, mode, lowest, highest, p, func(x int64) float64 {
		return float64(good-x) / float64(x+1) * (float64(r-x) / float64(bad-r+x+1))
	})
}

// drawBinomial draws the successes among n with success probability p, 0 < p < 1.
func drawBinomial(rng *rand.Rand, n int64, p float64) int64 {
	mode := min(int64(float64(n+1)*p), n)
	return outwards(rng, mode, 0, n, math.Exp(prob.LnBinomial(mode, n, p)), func(x int64) float64 {
		return float64(n-x) / float64(x+1) * (p / (1 - p))
	})
}

// outwards draws by inversion: the values take their shares of a uniform number in
// turn, the mode first, then one above and one below it, and so on. up is the ratio of
// the probability of x + 1 to that of x.
func outwards(rng *rand.Rand, mode, lowest, highest int64, atMode float64, up func(x int64) float64) int64 {
	u := rng.Float64() - atMode
	above, below := atMode, atMode
	for x, y := mode, mode; u > 0 && above+below > 1e-300; {
		if x < highest {
			above *= up(x)
			x++
			if u -= above; u <= 0 {
				return x
			}
		} else {
			above = 0
		}
		if y > lowest {
			y--
			below /= up(y)
			if u -= below; u <= 0 {
				return y
			}
		} else {
			below = 0
		}
	}
	return mode // rounding left a crumb of u
}

// SimulateMultinomial draws how n respondents spread over answers with known shares,
// answer by answer from its binomial distribution given those before (Davis 1993, The
// computer generation of multinomial random variates). Shares are positive and add to
// 1.
func SimulateMultinomial(ctx context.Context, observed []int64, shares []float64, s Simulation) (*Simulated, error) {
	var total int64
	for _, o := range observed {
		if total += o; total > MaxSimulatedTotal || o < 0 {
			return nil, ErrBeyondReach
		}
	}
	ln := lnFactorials(total)
	lnShare := make([]float64, len(shares))
	rest := make([]float64, len(shares)+1) // share of the answers from i on
	for i := len(shares) - 1; i >= 0; i-- {
		rest[i] = rest[i+1] + shares[i]
		lnShare[i] = math.Log(shares[i])
	}
	score := func(i int, o int64) (lnChance, chi float64) {
		return float64(o)*lnShare[i] - ln[o], float64(o) / (shares[i] * float64(total)) * float64(o)
	}
	var wantLn, wantChi float64
	for i, o := range observed {
		l, c := score(i, o)
		wantLn, wantChi = wantLn+l, wantChi+c
	}
	wantChi *= chiSlack
	return simulate(ctx, s, int64(200*len(shares)), func(rng *rand.Rand) func() (bool, bool) {
		return func() (bool, bool) {
			left := total
			var gotLn, gotChi float64
			for i := range shares {
				x := left
				if i < len(shares)-1 && left > 0 {
					x = drawBinomial(rng, left, shares[i]/rest[i])
				}
				left -= x
				l, c := score(i, x)
				gotLn, gotChi = gotLn+l, gotChi+c
			}
			return gotLn <= wantLn+Slack, gotChi >= wantChi
		}
	})
}
