package disclosure

import "math"

// program is a linear program in equality form: minimise cost·x where rows·x = right and 0 ≤ x ≤ upper. It is
// solved by the primal simplex method for bounded variables (Dantzig 1955), with the rule of Bland (1977)
// against cycling, on a dense table: the systems here have some hundred variables.
type program struct {
	rows  [][]float64
	right []float64
	upper []float64 // +Inf for none
}

// near is how close to 0 a number is taken to be nothing but rounding; counts are whole numbers.
const near = 1e-7

// solved is a program with a feasible basis, from which it is solved for one cost after the other.
type solved struct {
	n, m  int
	table [][]float64 // rows of the basis
	right []float64   // values of the basic variables
	upper []float64
	basis []int
	// high says that a variable that is not in the basis stands at its upper bound.
	high  []bool
	inOut []int // the row of a basic variable, −1 for others
}

// begin finds a feasible basis; false where there is none.
func (p program) begin() (*solved, bool) {
	n, m := len(p.upper), len(p.rows)
	s := &solved{
		n: n, m: m, right: make([]float64, m), upper: append(
			append([]float64{}, p.upper...), make([]float64, m)...,
		), basis: make([]int, m), high: make([]bool, n+m), inOut: make([]int, n+m),
	}
	for j := range s.inOut {
		s.inOut[j] = -1
	}
	cost := make([]float64, n+m)
	for i, row := range p.rows {
		line := make([]float64, n+m)
		sign := 1.0
		if p.right[i] < 0 {
			sign = -1
		}
		for j, a := range row {
			line[j] = sign * a
		}
		line[n+i] = 1
		s.table = append(s.table, line)
		s.right[i], s.basis[i], s.inOut[n+i] = sign*p.right[i], n+i, i
		s.upper[n+i], cost[n+i] = math.Inf(1), 1
	}
	s.minimise(cost)
	for i, j := range s.basis {
		if j >= n && s.right[i] > near {
			return nil, false
		}
	}
	for j := n; j < n+m; j++ { // what was only there to begin with stays 0
		s.upper[j] = 0
	}
	return s, true
}

// minimise moves to a basis at which the cost is least, and returns it; −Inf where there is no least.
func (s *solved) minimise(cost []float64) float64 {
	reduced := make([]float64, len(s.upper))
	for {
		copy(reduced, cost)
		for i, j := range s.basis {
			if c := cost[j]; c != 0 {
				for k, a := range s.table[i] {
					if a != 0 {
						reduced[k] -= c * a
					}
				}
			}
		}
		enter := -1
		for j := range reduced {
			if s.inOut[j] < 0 && s.upper[j] > 0 && (!s.high[j] && reduced[j] < -near || s.high[j] && reduced[j] > near) {
				enter = j
				break
			}
		}
		if enter < 0 {
			return s.value(cost)
		}
		if !s.move(enter) {
			return math.Inf(-1)
		}
	}
}

// value is the cost of where it stands.
func (s *solved) value(cost []float64) (sum float64) {
	for j, x := range s.at() {
		sum += cost[j] * x
	}
	return sum
}

// at gives the values of the variables.
func (s *solved) at() []float64 {
	x := make([]float64, len(s.upper))
	for j := range x {
		if s.inOut[j] >= 0 {
			x[j] = s.right[s.inOut[j]]
		} else if s.high[j] {
			x[j] = s.upper[j]
		}
	}
	return x
}

// move lets a variable leave its bound as far as the others allow; false where nothing stops it.
func (s *solved) move(enter int) bool {
	direction := 1.0
	if s.high[enter] {
		direction = -1
	}
	step, leave, atUpper := s.upper[enter], -1, false
	for i, j := range s.basis {
		a := direction * s.table[i][enter]
		limit, up := math.Inf(1), false
		switch {
		case a > near:
			limit = math.Max(0, s.right[i]) / a
		case a < -near && !math.IsInf(s.upper[j], 1):
			limit, up = math.Max(0, s.upper[j]-s.right[i])/-a, true
		}
		if limit < step-near || limit < step+near && leave >= 0 && j < s.basis[leave] {
			step, leave, atUpper = math.Min(limit, step), i, up
		}
	}
	if math.IsInf(step, 1) {
		return false
	}
	for i := range s.basis {
		s.right[i] -= direction * step * s.table[i][enter]
	}
	if leave < 0 { // it goes to its other bound
		s.high[enter] = !s.high[enter]
		return true
	}
	from := 0.0
	if s.high[enter] {
		from = s.upper[enter]
	}
	out := s.basis[leave]
	s.inOut[out], s.high[out] = -1, atUpper
	s.inOut[enter], s.basis[leave], s.high[enter] = leave, enter, false
	s.right[leave] = from + direction*step
	s.pivot(leave, enter)
	return true
}

// pivot makes the column of a variable that of its row alone.
func (s *solved) pivot(row, column int) {
	line := s.table[row]
	by := 1 / line[column]
	for k := range line {
		line[k] *= by
	}
	for i, other := range s.table {
		f := other[column]
		if i == row || f == 0 {
			continue
		}
		for k, a := range line {
			if a != 0 {
				other[k] -= f * a
			}
		}
		other[column] = 0
	}
}
