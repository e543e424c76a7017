package exact

import (
	"context"
	"math"
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
// Where their algorithm bounds the longest and the shortest way on from a node, ours
// meets in the middle (the idea of Horowitz and Sahni 1974): for each node some
// columns from the start the different probabilities of the ways there are listed,
// and for each node the remaining columns from the end those of the ways on. A step
// through the middle column joins a list of either kind, and the pairs whose product
// is small enough are added up by walking both lists once. Equal probabilities share
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
	// count is the number of ways, all rows told apart.
	count   float64
	pending []entry
}

// stage holds the nodes between two columns.
type stage struct {
	nodes []*node
	index map[string]int
}

func newStage() *stage { return &stage{index: map[string]int{}} }

// find returns the node with these remainders, made if there is none and it may be.
func (s *stage) find(left []int, make bool) *node {
	var room [2 * MaxTableSide]byte
	key := room[:0]
	for _, x := range left {
		key = append(key, byte(x), byte(x>>8))
	}
	if i, ok := s.index[string(key)]; ok {
		return s.nodes[i]
	}
	if !make {
		return nil
	}
	s.index[string(key)] = len(s.nodes)
	s.nodes = append(s.nodes, &node{left: slices.Clone(left)})
	return s.nodes[len(s.nodes)-1]
}

type network struct {
	meter     *meter
	rows      []int
	columns   []int // in the order in which they are filled
	middle    int   // columns filled before the middle one
	factorial []scaled
	inverse   []scaled // 1/n!
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

// stepsFrom calls f for each way of taking c respondents out of the remainders, once
// for all orders of rows with the same remainder: with the new remainders in falling
// order, which f must not keep, the probability of the way given the margins left, and
// the number of orders.
func (n *network) stepsFrom(m *meter, left []int, c int, f func(after []int, chance, orders float64) error) error {
	w := &filling{network: n, meter: m, left: left, f: f, room: make([]int, len(left)+1), taken: make([]int, len(left)), after: make([]int, len(left))}
	for i := len(left) - 1; i >= 0; i-- {
		w.room[i] = w.room[i+1] + left[i]
	}
	total := w.room[0]
	so := n.inverse[total].times(n.factorial[c]).times(n.factorial[total-c])
	for _, x := range left {
		so = so.times(n.factorial[x])
	}
	return w.row(0, c, so.mantissa, so.exponent, 1, 0)
}

// filling is one column being filled.
type filling struct {
	*network
	meter              *meter
	left, taken, after []int
	room               []int // room[i] is what the rows from i on can take
	f                  func(after []int, chance, orders float64) error
}

// row fills the rows from i on with c respondents. like counts the rows just above
// with the same remainder that take the same number.
func (w *filling) row(i, c int, mantissa float64, exponent int, orders float64, like int) error {
	if i == len(w.left) {
		for k := range w.left {
			w.after[k] = w.left[k] - w.taken[k]
		}
		insertionSort(w.after)
		if err := w.f(w.after, math.Ldexp(mantissa, exponent), orders); err != nil {
			return err
		}
		return w.meter.spend(int64(8 + 4*len(w.left)))
	}
	most := min(c, w.left[i])
	alike := 0 // rows above with the same remainder; they take in falling order
	for i > alike && w.left[i-alike-1] == w.left[i] {
		alike++
	}
	if alike > 0 {
		most = min(most, w.taken[i-1])
	}
	for x := most; x >= 0 && c-x <= w.room[i+1]; x-- {
		w.taken[i] = x
		in, out := w.inverse[x], w.inverse[w.left[i]-x]
		o, l := orders, 1
		if alike > 0 {
			if x == w.taken[i-1] {
				l = like + 1
			}
			o = orders * float64(alike+1) / float64(l)
		}
		if err := w.row(i+1, c-x, mantissa*in.mantissa*out.mantissa, exponent+in.exponent+out.exponent, o, l); err != nil {
			return err
		}
	}
	return nil
}

// insertionSort puts a few numbers, nearly in order, into falling order.
func insertionSort(x []int) {
	for i := 1; i < len(x); i++ {
		for j := i; j > 0 && x[j] > x[j-1]; j-- {
			x[j], x[j-1] = x[j-1], x[j]
		}
	}
}

// solve adds up the tables no likelier than the observed one.
func (n *network) solve(table [][]int64) (*Result, error) {
	observed := tableChance(table)
	limit := observed.float() * (1 + Slack)
	// The limit must stand clear of the end of the range of a float64.
	if limit < 1e-280 {
		return nil, ErrBeyondReach
	}
	from, err := n.forward()
	if err != nil {
		return nil, err
	}
	to, err := n.backward(from)
	if err != nil {
		return nil, err
	}
	least, outcomes, err := n.meet(from, to, limit)
	if err != nil {
		return nil, err
	}
	return &Result{P: prob.FromRatio(least, 1), Observed: observed.over(one), Outcomes: outcomes, Steps: n.meter.total()}, nil
}

// forward lists the ways from the start to each node before the middle column.
func (n *network) forward() (*stage, error) {
	s := newStage()
	root := s.find(n.rows, true)
	root.ways, root.count = single(), 1
	for _, c := range n.columns[:n.middle] {
		next := newStage()
		for _, from := range s.nodes {
			err := n.stepsFrom(n.meter, from.left, c, func(after []int, chance, orders float64) error {
				to := next.find(after, true)
				to.count += from.count * orders
				return to.extend(from.ways, chance, orders, n.meter)
			})
			if err != nil {
				return nil, err
			}
		}
		for _, to := range next.nodes {
			if err := to.settle(n.meter); err != nil {
				return nil, err
			}
		}
		s = next
	}
	return s, nil
}

// extend adds ways that go on by one step, or come by one.
func (t *node) extend(ways list, chance, orders float64, m *meter) error {
	for i, each := range ways.each {
		t.pending = append(t.pending, entry{each * chance, (ways.upTo[i+1] - ways.upTo[i]) * chance * orders})
	}
	if len(t.pending) > 1<<17+2*len(t.ways.each) { // joined early, so that no list outgrows the memory
		if err := t.settle(m); err != nil {
			return err
		}
		for i, each := range t.ways.each {
			t.pending = append(t.pending, entry{each, t.ways.upTo[i+1] - t.ways.upTo[i]})
		}
	}
	return m.spend(int64(4 * len(ways.each)))
}

// settle sorts what was added.
func (t *node) settle(m *meter) error {
	var err error
	t.ways, err = newList(t.pending, m)
	t.pending = t.pending[:0]
	return err
}

// backward finds the nodes after the middle column and lists the ways from each to
// the end.
func (n *network) backward(from *stage) (*stage, error) {
	rest := n.columns[n.middle:]
	stages := []*stage{from}
	for _, c := range rest {
		next := newStage()
		for _, s := range stages[len(stages)-1].nodes {
			err := n.stepsFrom(n.meter, s.left, c, func(after []int, _, _ float64) error {
				next.find(after, true)
				return nil
			})
			if err != nil {
				return nil, err
			}
		}
		stages = append(stages, next)
	}
	for _, end := range stages[len(stages)-1].nodes {
		end.ways, end.count = single(), 1
	}
	for k := len(rest) - 1; k >= 1; k-- {
		for _, s := range stages[k].nodes {
			err := n.stepsFrom(n.meter, s.left, rest[k], func(after []int, chance, orders float64) error {
				to := stages[k+1].find(after, false)
				s.count += to.count * orders
				return s.extend(to.ways, chance, orders, n.meter)
			})
			if err == nil {
				err = s.settle(n.meter)
			}
			if err != nil {
				return nil, err
			}
		}
	}
	return stages[1], nil
}

// meet joins the ways before and after the middle column and adds up those whose
// probability is at most the limit, several nodes at a time.
func (n *network) meet(from, to *stage, limit float64) (least, outcomes float64, err error) {
	type part struct{ least, outcomes float64 }
	parts := make([]part, len(from.nodes))
	err = n.meter.share(len(from.nodes), func(m *meter, k int) error {
		f := from.nodes[k]
		var sumLeast sum
		err := n.stepsFrom(m, f.left, n.columns[n.middle], func(after []int, chance, orders float64) error {
			t := to.find(after, false)
			some, steps := pairsAtMost(f.ways, t.ways, limit/chance)
			sumLeast.add(some * chance * orders)
			parts[k].outcomes += f.count * orders * t.count
			return m.spend(steps)
		})
		parts[k].least = sumLeast.value()
		return err
	})
	var all sum
	for _, p := range parts {
		all.add(p.least)
		outcomes += p.outcomes
	}
	return all.value(), outcomes, err
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
	return toScaled(new(big.Float).SetPrec(precision).Quo(new(big.Float).SetPrec(precision).SetInt(above), new(big.Float).SetPrec(precision).SetInt(below)))
}
