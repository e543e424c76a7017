// Package dissimilarity measures how differently the groups of a question answered another one:
// the index of dissimilarity (Duncan and Duncan 1955, American Sociological Review 20).
package dissimilarity

import (
	"context"
	"math"
	"math/rand/v2"
	"slices"

	"gonum.org/v1/gonum/stat/distuv"

	"widetally/core/analysis"
	"widetally/core/infer"
)

// Request is a table of counts, a row for each group and a column for each answer.
type Request struct {
	Table      [][]int64 `json:"table"`
	Confidence float64   `json:"confidence,omitempty"`
	// Replicates are samples drawn anew, Seed begins the draws.
	Replicates int    `json:"replicates,omitempty"`
	Seed       uint64 `json:"seed,omitempty"`
}

// Result holds an index for each group against the others together; of two groups there is one.
type Result struct {
	N          int64
	Confidence float64
	Replicates int
	Indices    []Index
}

// Index is how differently a group answered from the others.
type Index struct {
	// Group is the row of the group, Against that of the other one, −1 for all others together; N
	// and Others are their respondents.
	Group, Against int
	N, Others      int64
	// Estimate is ½ Σ|pⱼ − qⱼ| over the answers: the share of either who would have to answer
	// otherwise for both to answer alike; 0 to 1. Samples differ even where those whom they are
	// drawn from do not, so it is too large on average.
	Estimate float64
	// ByChance is the index that samples of these sizes have on average where nothing differs.
	ByChance float64
	// Corrected is Estimate less its bias as the bootstrap finds it, within 0 and Estimate. The
	// bootstrap draws by shares to each of which half a respondent was added (Jeffreys 1946), since
	// an answer that nobody in a group gave is not impossible there.
	Corrected float64
	// Interval admits the bias. Its lower end takes off what chance can add at most: whatever the
	// index d is, D − d is at most ½ Σ|eⱼ| with eⱼ the error of pⱼ − qⱼ (the triangle inequality),
	// and of that the upper quantile in the bootstrap (Efron and Tibshirani 1993) is taken. Its
	// upper end adds how far replicates fall below their mean. Within 0 and 1.
	Interval infer.Interval
}

// What a request may ask for.
const (
	usualReplicates = 2000
	mostReplicates  = 100_000
	// mostDrawn bounds replicates times cells: a few seconds.
	mostDrawn = 20_000_000
	name      = "dissimilarity"
)

var figures = analysis.HeavyWhen(
	analysis.Figures(
		name,
		"How differently groups answered: the index of dissimilarity, its bias taken off, with an interval",
		[]analysis.Assumption{
			analysis.SimpleRandom,
			analysis.IndependentGroups,
		},
		Request{Confidence: 0.95, Replicates: usualReplicates, Seed: analysis.FixedSeed},
		compute,
	),
	func(in *Request) bool { return in.Replicates*cells(in.Table) > analysis.LightCount },
)

func cells(table [][]int64) (n int) {
	for _, row := range table {
		n += len(row)
	}
	return n
}

func compute(ctx context.Context, in *Request) (*Result, error) {
	if err := analysis.CheckTable(name, in.Table); err != nil {
		return nil, err
	}
	switch {
	case !(in.Confidence > 0 && in.Confidence < 1):
		return nil, analysis.RefuseInput(name, infer.LevelRange, -1)
	case in.Replicates < 100 || in.Replicates > mostReplicates || in.Replicates*cells(in.Table) > mostDrawn:
		return nil, analysis.RefuseInput(name, infer.SimulationRange, -1)
	}
	t, err := read(in.Table)
	if err != nil {
		return nil, err
	}
	out := &Result{N: t.n, Confidence: in.Confidence, Replicates: in.Replicates, Indices: t.indices(t.counts)}
	random := rand.NewPCG(in.Seed, 0)
	drawn, errors, chance := make(
		[][]float64,
		len(out.Indices),
	), make(
		[][]float64,
		len(out.Indices),
	), make(
		[]float64,
		len(out.Indices),
	)
	from := t.apart(t.shares)
	for range in.Replicates {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		sample := t.draw(random, t.shares)
		for i, d := range t.differences(sample) {
			drawn[i], errors[i] = append(drawn[i], half(d, nil)), append(errors[i], half(d, from[i]))
		}
		for i, x := range t.indices(t.draw(random, t.alike)) {
			chance[i] += x.Estimate
		}
	}
	for i := range out.Indices {
		out.Indices[i].settle(half(from[i], nil), drawn[i], errors[i], in.Confidence)
		out.Indices[i].ByChance = chance[i] / float64(in.Replicates)
	}
	return out, nil
}

// settle takes the bias off, and sets the interval, by what the index was in samples drawn from
// shares of which it is known, and by their errors.
func (x *Index) settle(known float64, drawn, errors []float64, confidence float64) {
	mean := 0.0
	for _, d := range drawn {
		mean += d
	}
	mean /= float64(len(drawn))
	quantile := func(list []float64, p float64) float64 {
		slices.Sort(list)
		return list[int(math.Round(p*float64(len(list)-1)))]
	}
	tail := (1 - confidence) / 2
	x.Corrected = max(0, x.Estimate-max(0, mean-known))
	x.Interval = infer.Interval{
		Lower: max(0, x.Estimate-quantile(errors, 1-tail)),
		Upper: min(1, x.Estimate+max(0, mean-quantile(drawn, tail))),
	}
}

// table is the groups that somebody is in, with their shares, and those that all would have if
// they answered alike.
type table struct {
	groups        []int
	counts        [][]int64
	totals        []int64
	n             int64
	shares, alike [][]float64
}

func read(rows [][]int64) (*table, error) {
	t := &table{}
	all := []int64{}
	for i, row := range rows {
		total := int64(0)
		if len(row) != len(rows[0]) {
			return nil, analysis.RefuseInput(name, infer.RaggedTable, i)
		}
		for _, n := range row {
			switch {
			case n < 0:
				return nil, analysis.RefuseInput(name, infer.NegativeCount, i)
			case n > infer.MaxCount-t.n:
				return nil, analysis.RefuseInput(name, infer.CountTooLarge, i)
			}
			total, t.n = total+n, t.n+n
		}
		if total > 0 {
			t.groups, t.counts, t.totals = append(t.groups, i), append(t.counts, row), append(t.totals, total)
		}
	}
	if t.n == 0 {
		return nil, analysis.RefuseInput(name, infer.NoObservations, -1)
	}
	answers := 0
	for j := range rows[0] {
		n := int64(0)
		for _, row := range t.counts {
			n += row[j]
		}
		if all = append(all, n); n > 0 {
			answers++
		}
	}
	if len(t.groups) < 2 || answers < 2 {
		return nil, analysis.RefuseInput(name, infer.OneRowOrColumn, -1)
	}
	together := sharesOf(all, t.n)
	for i, row := range t.counts {
		smooth := make([]float64, len(row))
		for j, n := range row {
			if all[j] > 0 {
				smooth[j] = (float64(n) + 0.5) / (float64(t.totals[i]) + float64(answers)/2)
			}
		}
		t.shares, t.alike = append(t.shares, smooth), append(t.alike, together)
	}
	return t, nil
}

func sharesOf(counts []int64, n int64) []float64 {
	out := make([]float64, len(counts))
	for j, x := range counts {
		out[j] = float64(x) / float64(n)
	}
	return out
}

// indices compares each group with all others together; of two groups the first.
func (t *table) indices(counts [][]int64) []Index {
	var out []Index
	for i, d := range t.differences(counts) {
		x := Index{Group: t.groups[i], Against: -1, N: t.totals[i], Others: t.n - t.totals[i], Estimate: half(d, nil)}
		if len(t.groups) == 2 {
			x.Against = t.groups[1]
		}
		out = append(out, x)
	}
	return out
}

// differences are the shares of a group less those of all others, by answer.
func (t *table) differences(counts [][]int64) [][]float64 {
	shares := make([][]float64, len(counts))
	for i, row := range counts {
		shares[i] = sharesOf(row, t.totals[i])
	}
	return t.apart(shares)
}

// apart does so of shares.
func (t *table) apart(shares [][]float64) [][]float64 {
	all := make([]float64, len(shares[0]))
	for i, row := range shares {
		for j, p := range row {
			all[j] += p * float64(t.totals[i])
		}
	}
	var out [][]float64
	for i, row := range shares {
		d, n := make([]float64, len(row)), float64(t.totals[i])
		for j, p := range row {
			d[j] = p - (all[j]-p*n)/(float64(t.n)-n)
		}
		if out = append(out, d); len(t.groups) == 2 {
			break
		}
	}
	return out
}

// half is half the sum of what differs from another list, nil for zeros.
func half(d, from []float64) (sum float64) {
	for j, x := range d {
		if from != nil {
			x -= from[j]
		}
		sum += math.Abs(x) / 2
	}
	return sum
}

// draw draws as many answers in each group as it has, by shares.
func (t *table) draw(random rand.Source, shares [][]float64) [][]int64 {
	out := make([][]int64, len(t.groups))
	for i, p := range shares {
		left, room := t.totals[i], 1.0
		out[i] = make([]int64, len(p))
		for j, share := range p {
			switch {
			case left == 0:
			case share >= room || j == len(p)-1:
				out[i][j], left = left, 0
			case share > 0:
				x := int64(distuv.Binomial{N: float64(left), P: share / room, Src: random}.Rand())
				out[i][j], left = x, left-x
			}
			room -= share
		}
	}
	return out
}
