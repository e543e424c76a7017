package exact

import (
	"math"
	"slices"
)

// stage holds the nodes between two columns.
type stage struct {
	nodes []*node
	index map[string]int32
	// packed serves few remainders that are small.
	packed map[uint64]int32
	// steps are those on from each node, where they are kept.
	steps [][]step
}

// step is a way on from a node: to which one, how likely, and in how many orders.
type step struct {
	chance float64
	to     int32
	orders float32
}

func newStage() *stage {
	return &stage{index: map[string]int32{}, packed: map[uint64]int32{}}
}

// find returns the place of the node with these remainders, made if there is none yet.
func (s *stage) find(left []int) int32 {
	if len(left) <= 8 && left[0] < 1<<8 {
		key := uint64(0)
		for _, x := range left {
			key = key<<8 | uint64(x) //nolint:gosec // below 256
		}
		at, ok := s.packed[key]
		if !ok {
			at = s.add(left)
			s.packed[key] = at
		}
		return at
	}
	var room [2 * MaxTableSide]byte
	key := room[:0]
	for _, x := range left {
		key = append(key, byte(x), byte(x>>8))
	}
	at, ok := s.index[string(key)]
	if !ok {
		at = s.add(left)
		s.index[string(key)] = at
	}
	return at
}

func (s *stage) add(left []int) int32 {
	s.nodes = append(s.nodes, &node{left: slices.Clone(left)})
	return int32(len(s.nodes) - 1) //nolint:gosec // nodes are few
}

// stepsFrom calls f for each way of taking c respondents out of the remainders, once
// for all orders of rows with the same remainder: with the new remainders in falling
// order, which f must not keep, the probability of the way given the margins left, and
// the number of orders.
func (n *network) stepsFrom(m *meter, left []int, c int, f func(after []int, chance, orders float64) error) error {
	w := &filling{
		network: n,
		meter:   m,
		left:    left,
		f:       f,
		room:    make([]int, len(left)+1),
		taken:   make([]int, len(left)),
		after:   make([]int, len(left)),
	}
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
	if i == len(w.left)-1 && c > w.left[i] {
		return nil
	}
	alike := 0 // rows above with the same remainder; they take in falling order
	for i > alike && w.left[i-alike-1] == w.left[i] {
		alike++
	}
	if alike > 0 {
		most = min(most, w.taken[i-1])
	}
	for x := most; x >= 0 && c-x <= w.room[i+1]; x-- { // of the last row only what is left
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

// What is kept of the steps at most, 16 bytes each, and of how many rows: orders are exact then.
const (
	mostSteps     = 8_000_000
	mostStepsRows = 10
)

// pieces is in how many parts the nodes of a stage are shared out.
const pieces = 64

// enumerate finds the nodes between all columns, with how likely the ways to them are.
func (n *network) enumerate() error {
	first := newStage()
	root := first.only(n.rows)
	root.count, root.before = 1, span{1, 1}
	n.stages = []*stage{first}
	kept := 0
	for _, c := range n.columns {
		here, next := n.stages[len(n.stages)-1], newStage()
		steps := make([][]step, len(here.nodes))
		parts := make([]*stage, min(pieces, len(here.nodes)))
		err := n.meter.share(len(parts), func(m *meter, p int) error {
			part := newStage()
			parts[p] = part
			many := 0
			for i := p; i < len(here.nodes); i += len(parts) {
				from := here.nodes[i]
				if kept < mostSteps && len(n.rows) <= mostStepsRows {
					steps[i] = make([]step, 0, many+many/4+8) // about as many as the one before
				}
				err := n.stepsFrom(m, from.left, c, func(after []int, chance, orders float64) error {
					at := part.find(after)
					to := part.nodes[at]
					to.count += from.count * orders
					to.before.hold(from.before.most*chance, from.before.least*chance)
					if steps[i] != nil {
						steps[i] = append(steps[i], step{chance, at, float32(orders)})
					}
					return nil
				})
				if err != nil {
					return err
				}
				many = len(steps[i])
			}
			return nil
		})
		if err != nil {
			return err
		}
		many := 0
		for p, part := range parts {
			moved := make([]int32, len(part.nodes))
			for k, one := range part.nodes {
				moved[k] = next.find(one.left)
				to := next.nodes[moved[k]]
				to.count += one.count
				to.before.hold(one.before.most, one.before.least)
			}
			for i := p; i < len(here.nodes); i += len(parts) {
				for k := range steps[i] {
					steps[i][k].to = moved[steps[i][k].to]
				}
				many += len(steps[i])
			}
		}
		if many > 0 && kept+many <= mostSteps {
			here.steps = steps
			kept += many
		}
		n.stages = append(n.stages, next)
	}
	return nil
}

// only makes the only node of a stage.
func (s *stage) only(left []int) *node { return s.nodes[s.find(left)] }

// onward calls f for each step on from a node before column k: as it is kept, or found again.
func (n *network) onward(m *meter, k, i int, f func(to *node, chance, orders float64) error) error {
	here, next := n.stages[k], n.stages[k+1]
	if here.steps == nil {
		return n.stepsFrom(m, here.nodes[i].left, n.columns[k], func(after []int, chance, orders float64) error {
			return f(next.nodes[next.find(after)], chance, orders)
		})
	}
	for _, s := range here.steps[i] {
		if err := f(next.nodes[s.to], s.chance, float64(s.orders)); err != nil {
			return err
		}
	}
	return m.spend(int64(2 * len(here.steps[i])))
}
