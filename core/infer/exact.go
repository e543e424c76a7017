package infer

import (
	"context"
	"errors"
	"math/big"

	"widetally/core/exact"
	"widetally/core/prob"
)

// ExactOptions says how to come by a p-value that does not rest on the chi-square
// distribution.
type ExactOptions struct {
	Way ExactWay
	// Work bounds the steps of an exact test; 0 means exact.DefaultWork. Where simulation
	// stands ready it is a second or two at most.
	Work int64
	// Replicates and Seed are for simulation; 0 replicates means
	// exact.DefaultReplicates.
	Replicates int
	Seed       uint64
	// Progress is told the share done, 0–1, of the exact test and then of the
	// simulation.
	Progress func(done float64)
}

// ExactWay chooses.
type ExactWay string

// The ways. ExactOrSimulated, the zero value, simulates where the exact test is beyond
// its reach.
const (
	ExactOrSimulated ExactWay = ""
	ExactOnly        ExactWay = "exact"
	SimulatedOnly    ExactWay = "simulation"
)

// firstTry is the number of steps that an exact test may take where simulation stands
// ready: a second or two.
const firstTry = 200_000_000

// ExactConvention names what counts as at least as extreme: every outcome no likelier
// than the observed one, equal within a factor of 1 + 1e-7.
const ExactConvention = "outcomes_no_likelier_than_observed"

// ExactTest is the outcome: one of Exact and Simulated is set.
type ExactTest struct {
	Convention string
	Level      float64
	Exact      *exact.Result
	Simulated  *exact.Simulated
	// BeyondReach says that the exact test was tried, or known at once, to take more
	// steps than allowed.
	BeyondReach bool
	// Reject is P ≤ Level of Exact, or of Simulated.ByProbability; nil without either.
	Reject *bool
	// Settled says that the decision is certain: exact, or simulated with the whole
	// interval of the p-value on one side of Level.
	Settled bool
}

// ExactOf is an exact test whose p-value is known already.
func ExactOf(p prob.Prob, level float64) *ExactTest {
	t := &ExactTest{Convention: ExactConvention, Level: level, Exact: &exact.Result{P: p}, Settled: true}
	t.decide(p)
	return t
}

// ComputeExactGoodnessOfFit is the exact multinomial test, or its simulation, for the
// same input as ComputeGoodnessOfFit, with the same errors. Estimated must be 0, for the
// exact test takes the shares as known. Cancelled contexts give their error.
func ComputeExactGoodnessOfFit(ctx context.Context, in GoodnessOfFitInput, o ExactOptions) (*ExactTest, error) {
	if err := in.check(); err != nil {
		return nil, err
	}
	if in.Estimated != 0 {
		return nil, &InputError{"exact goodness of fit", NoDegreesOfFreedom, -1}
	}
	var observed []int64
	var shares []*big.Rat
	var approximate []float64
	for i, s := range in.Shares {
		if s.Sign() > 0 {
			observed, shares, approximate = append(observed, in.Observed[i]), append(shares, s), append(approximate, float(s))
		}
	}
	if len(observed) < 2 {
		return nil, &InputError{"exact goodness of fit", OneAnswerAfterZeros, -1}
	}
	return o.run(in.Level,
		func(e exact.Effort) (*exact.Result, error) {
			if len(observed) == 2 {
				return exact.Binomial(observed[0], observed[0]+observed[1], shares[0]), nil
			}
			return exact.Multinomial(ctx, observed, shares, e)
		},
		func(s exact.Simulation) (*exact.Simulated, error) {
			return exact.SimulateMultinomial(ctx, observed, approximate, s)
		})
}

// ComputeExactIndependence is Fisher's test of an r × c table (Freeman and Halton 1951),
// or its simulation, with the errors of ComputeIndependence. Empty rows and columns are
// left out. Cancelled contexts give their error.
func ComputeExactIndependence(ctx context.Context, table [][]int64, level float64, o ExactOptions) (*ExactTest, error) {
	counts, err := (&Independence{Level: level}).prepare(table)
	if err != nil {
		return nil, err
	}
	return o.run(level,
		func(e exact.Effort) (*exact.Result, error) { return exact.Table(ctx, counts, e) },
		func(s exact.Simulation) (*exact.Simulated, error) { return exact.SimulateTable(ctx, counts, s) })
}

func (o ExactOptions) run(
	level float64,
	compute func(exact.Effort) (*exact.Result, error),
	simulate func(exact.Simulation) (*exact.Simulated, error),
) (*ExactTest, error) {
	if o.Replicates < 0 || o.Replicates > exact.MaxReplicates {
		return nil, &InputError{"simulation", SimulationRange, -1}
	}
	t := &ExactTest{Convention: ExactConvention, Level: level}
	if o.Way != SimulatedOnly {
		work := o.Work
		if o.Way == ExactOrSimulated && (work == 0 || work > firstTry) {
			work = firstTry
		}
		r, err := compute(exact.Effort{Work: work, Progress: o.Progress})
		switch {
		case err == nil:
			t.Exact, t.Settled = r, true
			t.decide(r.P)
			return t, nil
		case !errors.Is(err, exact.ErrBeyondReach):
			return nil, err
		}
		t.BeyondReach = true
		if o.Way == ExactOnly {
			return t, nil
		}
	}
	s, err := simulate(exact.Simulation{Replicates: o.Replicates, Seed: o.Seed, Progress: o.Progress})
	if errors.Is(err, exact.ErrBeyondReach) {
		t.BeyondReach = true
		return t, nil
	}
	if err != nil {
		return nil, err
	}
	t.Simulated = s
	t.decide(s.ByProbability.P)
	t.Settled = s.ByProbability.Upper <= level || s.ByProbability.Lower > level
	return t, nil
}

func (t *ExactTest) decide(p prob.Prob) {
	reject := p.AtMost(t.Level)
	t.Reject = &reject
}
