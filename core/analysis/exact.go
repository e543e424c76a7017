package analysis

import (
	"widetally/core/exact"
	"widetally/core/infer"
)

// FixedSeed is that of simulations that nobody gave one, so that a page shows the same
// figures each time.
const FixedSeed = 1

// ExactRequest asks for a p-value that does not rest on the chi-square distribution.
type ExactRequest struct {
	// Way is "exact", "simulation", or empty: exact, and simulated where that is beyond
	// reach.
	Way infer.ExactWay `json:"way,omitempty"`
	// Replicates and Seed are for simulation; 0 replicates takes 100,000, fewer for very
	// large tables.
	Replicates int    `json:"replicates,omitempty"`
	Seed       uint64 `json:"seed,omitempty"`
}

// Options bounds an exact test of a table with so many cells.
func (e *ExactRequest) Options(method string, cells int) (infer.ExactOptions, error) {
	most := min(maxReplicates, maxDrawnCells/cells)
	switch {
	case e.Way != infer.ExactOrSimulated && e.Way != infer.ExactOnly && e.Way != infer.SimulatedOnly:
		return infer.ExactOptions{}, RefuseInput(method, UnknownName, -1)
	case e.Replicates < 0 || e.Replicates > most:
		return infer.ExactOptions{}, RefuseInput(method, infer.SimulationRange, -1)
	case e.Replicates == 0:
		e.Replicates = min(exact.DefaultReplicates, most/2)
	}
	return infer.ExactOptions{Way: e.Way, Work: exactWork, Replicates: e.Replicates, Seed: e.Seed}, nil
}

// ExactTable is the exact test of a table whose expected counts are too small for the chi-square
// distribution, or its simulation, within what a page may spend; nil where it is not needed.
func (w Work) ExactTable(r *infer.Independence, table [][]int64, level float64) (*infer.ExactTest, error) {
	if r.Advice.Use != infer.UseExact && r.Advice.Use != infer.UseSimulation {
		return nil, nil
	}
	options := infer.ExactOptions{Work: w.Steps, Replicates: w.Replicates, Seed: FixedSeed}
	if r.Advice.Use == infer.UseSimulation {
		options.Way = infer.SimulatedOnly
	}
	return infer.ComputeExactIndependence(w.Context, table, level, options)
}
