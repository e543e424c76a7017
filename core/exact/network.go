package exact

import (
	"context"
	"math/big"
	"slices"

	"widetally/core/prob"
)

// The exact test of an r × c table goes through the network of Mehta and Patel
// (1983, A network algorithm for performing Fisher's exact test in r × c contingency
// tables): the columns are filled one after the other, and a node of the network is
// the multiset of what remains of the rows. Tables that reach the same node have the
// same future, and rows with the same remainder are alike, so neither is gone through
// twice.
//
// As theirs, ours bounds the longest and the shortest way on from a node, here exactly, by
// going through the network once from its end (Clarkson, Fan and Joe 1993, A remark on
// algorithm 643, bound them by optimisation): a way to a node that is so unlikely that every
// way on from it counts is added up at once, and one from which none counts is dropped.
// What is left undecided meets in the middle (the idea of Horowitz and Sahni 1974): for each
// node some columns from the start the different probabilities of the ways there are listed,
// and for each node the remaining columns from the end those of the ways on, bounded in the
// same way. A step through the middle column joins a list of either kind, and the pairs whose
// product is small enough are added up by walking both lists once. Equal probabilities share
// an entry, and there are few different ones, for they are products of factorials.

// MaxTableSide bounds rows and columns of an exact test, MaxTableTotal its count.
const (
	MaxTableSide  = 40
	MaxTableTotal = 20_000
)

// Table is Fisher's exact test of an r × c table with both margins fixed (Freeman and
// Halton 1951, Note on an exact treatment of contingency, goodness of fit and other
// problems of significance). The table is rectangular with at least two rows and two
// columns, none of them empty. A table beyond the work allowed gives ErrBeyondReach.
func Table(ctx context.Context, table [][]int64, e Effort) (*Result, error) {
	n, err := newNetwork(table, newMeter(ctx, e))
	if err != nil {
		return nil, err
	}
	return n.solve(table)
}

// node is what remains of the rows, in falling order, with the ways to it from the
// start or from it to the end.
type node struct {
	left []int
	ways list
	// count is the number of ways from the start, all rows told apart.
	count   float64
	pending runs
	// The largest and the smallest probability of a way from the start, and of a way to the end.
	before, after span
	// live says that a way that is not decided leads here, always the probability of the ways to
	// the end that count whatever came before.
	live   bool
	always float64
}

// span is the largest and the smallest of some probabilities.
type span struct{ most, least float64 }

func (s *span) hold(most, least float64) {
	if s.most == 0 || most > s.most {
		s.most = most
	}
	if s.least == 0 || least < s.least {
		s.least = least
	}
}

type network struct {
	meter     *meter
	rows      []int
	columns   []int // in the order in which they are filled
	middle    int   // columns filled before the middle one
	factorial []scaled
	inverse   []scaled // 1/n!
	limit     float64  // the probability up to which a table counts
	stages    []*stage // between the columns, from the start to the end
	sure      sum      // the probability of the tables that are known to count
}

func newNetwork(table [][]int64, m *meter) (*network, error) {
	if len(table) > MaxTableSide || len(table[0]) > MaxTableSide {
		return nil, ErrBeyondReach
	}
	rows, columns := make([]int, len(table)), make([]int, len(table[0]))
	total := 0
	for i, row := range table {
		for j, o := range row {
			if o > MaxTableTotal {
				return nil, ErrBeyondReach
			}
			rows[i], columns[j], total = rows[i]+int(o), columns[j]+int(o), total+int(o)
		}
	}
	if total > MaxTableTotal {
		return nil, ErrBeyondReach
	}
	if len(rows) > len(columns) { // a node has as few remainders as can be
		rows, columns = columns, rows
	}
	slices.Sort(rows)
	slices.Reverse(rows)
	n := &network{meter: m, rows: rows, columns: middleOut(columns), middle: (len(columns) - 1) / 2, factorial: factorials(total)}
	for _, f := range n.factorial {
		n.inverse = append(n.inverse, f.inverse())
	}
	return n, nil
}

// middleOut puts the smallest column in the middle, where its steps meet the longest
// lists, and the larger ones further out.
func middleOut(columns []int) []int {
	slices.Sort(columns)
	out := make([]int, len(columns))
	middle := (len(columns) - 1) / 2
	for i, c := range columns {
		step := (i + 1) / 2
		if i%2 == 0 {
			step = -step
		}
		at := middle + step
		out[min(max(at, 0), len(columns)-1)] = c
	}
	if len(columns)%2 == 0 { // the last one goes to the far end
		out[len(columns)-1] = columns[len(columns)-1]
	}
	return out
}

// solve adds up the tables no likelier than the observed one.
func (n *network) solve(table [][]int64) (*Result, error) {
	observed := tableChance(table)
	n.limit = observed.float() * (1 + Slack)
	// The limit must stand clear of the end of the range of a float64.
	if n.limit < 1e-280 {
		return nil, ErrBeyondReach
	}
	for _, step := range []func() error{n.enumerate, n.bound, n.forward, n.backward} {
		if err := step(); err != nil {
			return nil, err
		}
	}
	met, err := n.meet()
	if err != nil {
		return nil, err
	}
	n.sure.add(met)
	last := n.stages[len(n.stages)-1].nodes[0]
	return &Result{
		P:        prob.FromRatio(n.sure.value(), 1),
		Observed: observed.over(one),
		Outcomes: last.count,
		Steps:    n.meter.total(),
	}, nil
}

// bound finds how likely the ways on from each node are.
func (n *network) bound() error {
	for _, end := range n.stages[len(n.columns)].nodes {
		end.after = span{1, 1}
	}
	for k := len(n.columns) - 1; k >= 0; k-- {
		nodes := n.stages[k].nodes
		err := n.meter.share(len(nodes), func(m *meter, i int) error {
			return n.onward(m, k, i, func(to *node, chance, _ float64) error {
				nodes[i].after.hold(to.after.most*chance, to.after.least*chance)
				return nil
			})
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// forward lists the ways from the start to each node before the middle column that are not
// decided yet.
func (n *network) forward() error {
	root := n.stages[0].nodes[0]
	root.ways = single()
	n.decide(root)
	for k := range n.middle {
		for i, from := range n.stages[k].nodes {
			if len(from.ways.each) == 0 {
				continue
			}
			err := n.onward(n.meter, k, i, func(to *node, chance, orders float64) error {
				whole, none := from.ways.between(n.limit/(to.after.most*chance), n.limit/(to.after.least*chance))
				n.sure.add(from.ways.upTo[whole] * chance * orders)
				return to.extend(from.ways.slice(whole, none), chance, orders, n.meter)
			})
			if err != nil {
				return err
			}
			from.ways = list{}
		}
		nodes := n.stages[k+1].nodes
		if err := n.meter.share(len(nodes), func(m *meter, i int) error { return nodes[i].settle(m) }); err != nil {
			return err
		}
		for _, to := range nodes {
			n.decide(to)
		}
	}
	return nil
}

// decide adds up the ways to a node from which every way on counts, and drops those from which
// none does.
func (n *network) decide(at *node) {
	w := at.ways
	whole, none := w.between(n.limit/at.after.most, n.limit/at.after.least)
	n.sure.add(w.upTo[whole])
	at.ways = w.part(whole, none)
}

// backward lists, for the nodes after the middle column to which something undecided leads, the
// ways to the end of which that depends.
func (n *network) backward() error {
	for _, from := range n.stages[n.middle].nodes {
		from.live = len(from.ways.each) > 0
	}
	for k := n.middle; k < len(n.columns); k++ {
		for i, from := range n.stages[k].nodes {
			if !from.live {
				continue
			}
			err := n.onward(n.meter, k, i, func(to *node, _, _ float64) error {
				to.live = true
				return nil
			})
			if err != nil {
				return err
			}
		}
	}
	for _, end := range n.stages[len(n.columns)].nodes {
		end.ways = single()
	}
	for k := len(n.columns) - 1; k > n.middle; k-- {
		nodes := n.stages[k].nodes
		err := n.meter.share(len(nodes), func(m *meter, i int) error {
			at := nodes[i]
			if !at.live {
				return nil
			}
			err := n.onward(m, k, i, func(to *node, chance, orders float64) error {
				at.always += to.always * chance * orders
				return at.extend(to.ways, chance, orders, m)
			})
			if err == nil {
				err = at.settle(m)
			}
			if err != nil {
				return err
			}
			whole, none := at.ways.between(n.limit/at.before.most, n.limit/at.before.least)
			at.always += at.ways.upTo[whole]
			at.ways = at.ways.part(whole, none)
			return nil
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// extend adds ways that go on by one step, or come by one.
func (t *node) extend(ways list, chance, orders float64, m *meter) error {
	t.pending.add(ways, chance, orders)
	if len(t.pending.entries) > 1<<17+2*len(t.ways.each) { // joined early, so that no list outgrows the memory
		if err := t.settle(m); err != nil {
			return err
		}
		t.pending.add(t.ways, 1, 1)
	}
	return m.spend(int64(4 * len(ways.each)))
}

// settle sorts what was added.
func (t *node) settle(m *meter) error {
	var err error
	t.ways, err = t.pending.list(m)
	t.pending.clear()
	return err
}

// meet joins the ways before and after the middle column and adds up those whose
// probability is at most the limit, several nodes at a time.
func (n *network) meet() (least float64, err error) {
	from := n.stages[n.middle].nodes
	parts := make([]float64, len(from))
	err = n.meter.share(len(from), func(m *meter, k int) error {
		f := from[k]
		if !f.live {
			return nil
		}
		var least sum
		err := n.onward(m, n.middle, k, func(t *node, chance, orders float64) error {
			some, steps := pairsAtMost(f.ways, t.ways, n.limit/chance)
			least.add((some + f.ways.total()*t.always) * chance * orders)
			return m.spend(steps)
		})
		parts[k] = least.value()
		return err
	})
	var all sum
	for _, p := range parts {
		all.add(p)
	}
	return all.value(), err
}

// tableChance is the probability of a table given its margins, by integers.
func tableChance(table [][]int64) scaled {
	columns := make([]int64, len(table[0]))
	above, below, total := big.NewInt(1), big.NewInt(1), int64(0)
	factorial := func(x int64) *big.Int { return new(big.Int).MulRange(1, x) }
	for _, row := range table {
		sum := int64(0)
		for j, o := range row {
			sum, columns[j] = sum+o, columns[j]+o
			below.Mul(below, factorial(o))
		}
		above.Mul(above, factorial(sum))
		total += sum
	}
	for _, c := range columns {
		above.Mul(above, factorial(c))
	}
	below.Mul(below, factorial(total))
	return toScaled(
		new(
			big.Float,
		).SetPrec(precision).
			Quo(new(big.Float).SetPrec(precision).SetInt(above), new(big.Float).SetPrec(precision).SetInt(below)),
	)
}
