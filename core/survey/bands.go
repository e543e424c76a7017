package survey

import (
	"math"
	"sort"
	"strconv"
)

func (m *maker) bands(d Derivation, s Source, of Sample) error {
	q, column := s.Question, s.Column
	if !q.Kind.Numeric() {
		return &DerivationError{"kind"}
	}
	values := q.Values()
	limits, err := d.limits(column, values, of)
	if err != nil {
		return err
	}
	for b := 0; b <= len(limits); b++ {
		a := Answer{}
		if b > 0 {
			a.From = &limits[b-1]
		}
		if b < len(limits) {
			a.To = &limits[b]
		}
		a.Code = bandName(a.From, a.To, d.UpperClosed)
		a.Label = a.Code
		m.add(a)
	}
	to := map[Slot]Slot{}
	m.keepMissing(q, to)
	out := make([]uint16, column.Rows())
	for i := range out {
		x, slot, ok := column.number(i, values)
		if !ok {
			out[i] = uint16(to[slot])
			continue
		}
		var b int
		if d.UpperClosed {
			b = sort.SearchFloat64s(limits, x)
		} else {
			b = sort.Search(len(limits), func(k int) bool { return limits[k] > x })
		}
		out[i] = uint16(b + 1)
	}
	m.column = Column{U16: out}.narrowed(len(m.answers))
	return nil
}

// mostBands bounds the classes of a number.
const mostBands = 100

func (d Derivation) limits(c Column, values map[Slot]float64, of Sample) ([]float64, error) {
	if d.Cut == GivenLimits {
		for i, l := range d.Limits {
			if math.IsNaN(l) || math.IsInf(l, 0) || i > 0 && l <= d.Limits[i-1] {
				return nil, &DerivationError{"limits"}
			}
		}
		if len(d.Limits) == 0 || len(d.Limits) >= mostBands {
			return nil, &DerivationError{"limits"}
		}
		return d.Limits, nil
	}
	if d.Cut != EqualWidth && d.Cut != EqualGroups || d.Number < 2 || d.Number > mostBands {
		return nil, &DerivationError{"number"}
	}
	counted, err := Distribute(c, SlotLimit, of)
	if err != nil {
		return nil, err
	}
	all, n := counted.numbers(values), int64(0)
	for _, v := range all {
		n += v.Times
	}
	if len(all) == 0 {
		return nil, &DerivationError{"nobody"}
	}
	lo, hi := all[0].Number, all[len(all)-1].Number
	var limits []float64
	if d.Cut == EqualWidth {
		for k := 1; k < d.Number; k++ {
			limits = append(limits, lo+(hi-lo)*float64(k)/float64(d.Number))
		}
		if lo == hi {
			return nil, &DerivationError{"one_value"}
		}
		return limits, nil
	}
	// The k-th limit is the smallest value that k/Number of the respondents do not
	// exceed (Hyndman and Fan 1996, definition 1); for classes closed below, the
	// next value after it. The last value cannot be a limit with nobody above it, so
	// the one before it is. Limits that ties make equal are one.
	var seen int64
	k, before := 1, math.Inf(-1)
	for i, c := range all {
		seen += c.Times
		isLast := i+1 == len(all)
		for ; k < d.Number && seen*int64(d.Number) >= int64(k)*n; k++ {
			limit := c.Number
			switch {
			case isLast && d.UpperClosed:
				limit = before
			case !isLast && !d.UpperClosed:
				limit = all[i+1].Number
			}
			if limit > lo || d.UpperClosed && limit >= lo {
				if len(limits) == 0 || limits[len(limits)-1] < limit {
					limits = append(limits, limit)
				}
			}
		}
		before = c.Number
	}
	if len(limits) == 0 {
		return nil, &DerivationError{"one_value"}
	}
	return limits, nil
}

// bandName writes a class so that its closed side is seen.
func bandName(from, to *float64, upperClosed bool) string {
	w := func(x float64) string { return strconv.FormatFloat(x, 'g', 10, 64) }
	switch {
	case from == nil && upperClosed:
		return "≤ " + w(*to)
	case from == nil:
		return "< " + w(*to)
	case to == nil && upperClosed:
		return "> " + w(*from)
	case to == nil:
		return "≥ " + w(*from)
	case upperClosed:
		return "> " + w(*from) + " to " + w(*to)
	}
	return w(*from) + " to < " + w(*to)
}
