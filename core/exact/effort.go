// Package exact computes p-values by going through every outcome that could have
// been, without listing them one by one where that would take too long, and by
// simulation beyond. Everywhere an outcome counts against the hypothesis when it is
// no likelier than the observed one (Fisher 1935; Freeman and Halton 1951).
package exact

import (
	"context"
	"errors"
	"runtime"
	"sync/atomic"

	"widetally/core/prob"
)

// Slack is the relative margin within which two outcomes count as equally likely.
// It is far above the rounding of a product of a few hundred factors and far below
// any difference between the probabilities of two different small tables.
const Slack = 1e-7

// DefaultWork is the number of elementary steps allowed where Effort.Work is 0:
// about half a minute on two processors.
const DefaultWork = 4_000_000_000

// ErrBeyondReach is returned when a test would take more steps than allowed, or
// numbers outside the range of a float64. Simulation is the way on.
var ErrBeyondReach = errors.New("exact: beyond reach")

// Effort says how much may be spent and whom to tell.
type Effort struct {
	// Work bounds the elementary steps of an exact test; 0 means DefaultWork. The
	// same input is in reach or beyond it on every machine.
	Work int64
	// Progress, where not nil, is told the share done, 0–1, now and then, from the
	// goroutine that computes. It never goes down.
	Progress func(done float64)
}

// Result is an exact p-value with what it took.
type Result struct {
	// P is the total probability of the outcomes no likelier than the observed one,
	// counted as equally likely within a factor of 1 + Slack.
	P prob.Prob
	// Observed is the probability of the observed outcome itself.
	Observed prob.Prob
	// Outcomes is the number of outcomes covered, in floating point because it
	// soon passes any integer.
	Outcomes float64
	// Steps is the work done.
	Steps int64
}

// checkEvery is the number of steps between two looks at the context; well under a
// millisecond.
const checkEvery = 1 << 17

// meter counts the steps of one goroutine; those of one computation share an account.
type meter struct {
	ctx     context.Context
	steps   int64 // not booked yet
	account *account
}

type account struct {
	work     int64
	booked   atomic.Int64
	progress func(done float64)
	told     float64
}

func newMeter(ctx context.Context, e Effort) *meter {
	a := &account{work: e.Work, progress: e.Progress}
	if a.work <= 0 {
		a.work = DefaultWork
	}
	return &meter{ctx: ctx, account: a}
}

// spend counts steps and returns an error when the work is used up or the caller has
// gone away.
func (m *meter) spend(steps int64) error {
	if m.steps += steps; m.steps < checkEvery {
		return nil
	}
	return m.book()
}

func (m *meter) book() error {
	booked := m.account.booked.Add(m.steps)
	m.steps = 0
	if err := m.ctx.Err(); err != nil {
		return err
	}
	if booked > m.account.work {
		return ErrBeyondReach
	}
	return nil
}

// total is the work done by all.
func (m *meter) total() int64 { return m.account.booked.Load() + m.steps }

// reached reports progress.
func (m *meter) reached(share float64) {
	if a := m.account; a.progress != nil && share > a.told {
		a.told = share
		a.progress(share)
	}
}

// share gives the numbers 0 … n − 1 to as many goroutines as there are processors and
// returns the first error. Progress is told by the caller's goroutine, which works too.
func (m *meter) share(n int, f func(m *meter, k int) error) error {
	var next atomic.Int64
	work := func(m *meter, tell bool) error {
		for {
			k := int(next.Add(1)) - 1
			if k >= n {
				return m.book()
			}
			if err := f(m, k); err != nil {
				next.Store(int64(n)) // the others stop too
				return err
			}
			if tell {
				m.reached(float64(k+1) / float64(n))
			}
		}
	}
	others := min(runtime.GOMAXPROCS(0), n) - 1
	errs := make(chan error, max(0, others))
	for range others {
		go func() { errs <- work(&meter{ctx: m.ctx, account: m.account}, false) }()
	}
	err := work(m, true)
	for range others {
		if e := <-errs; err == nil {
			err = e
		}
	}
	return err
}
