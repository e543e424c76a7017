package analysis

import (
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"math"

	"widetally/core/design"
)

// Drawing is a design with a number of its respondents, and the groups that they are in.
type Drawing struct {
	Sample *design.Sample
	// Number is that of a row; in is false outside of the subgroup and where there is none.
	Number func(row int) (x float64, in bool)
	// Group is the place of the row's answer to the question of the groups, design.None for none; 0
	// where there is no such question.
	Group func(row int) int
}

// Part is the numbers of a group.
func (d *Drawing) Part(group int) design.Part {
	return d.Sample.Of(func(row int) (float64, bool) {
		x, in := d.Number(row)
		return x, in && d.Group(row) == group
	})
}

// All is the numbers of all groups.
func (d *Drawing) All() design.Part {
	return d.Sample.Of(func(row int) (float64, bool) {
		x, in := d.Number(row)
		return x, in && d.Group(row) >= 0
	})
}

// base describes those who gave a number, with the largest weight as a part of theirs.
func (d *Drawing) base() (b design.Base, largest float64, err error) {
	of := d.All()
	m, err := d.Sample.Mean(of)
	if err != nil {
		return b, 0, err
	}
	for k, w := range d.Sample.Weights {
		if _, in := of(k); in {
			largest = math.Max(largest, w)
		}
	}
	return m.Base, largest / m.Sum, nil
}

// digest stands for all that estimates of the numbers depend on.
func (d *Drawing) digest() string {
	sum, of := sha256.New(), d.All()
	var raw [28]byte
	for k, w := range d.Sample.Weights {
		x, in := of(k)
		if !in {
			x = math.Inf(1)
		}
		binary.LittleEndian.PutUint64(raw[:], math.Float64bits(w))
		binary.LittleEndian.PutUint64(raw[8:], math.Float64bits(x))
		binary.LittleEndian.PutUint32(raw[16:], uint32(d.Sample.PSU[k]))
		binary.LittleEndian.PutUint64(raw[20:], uint64(d.Group(d.Sample.Rows[k])))
		sum.Write(raw[:])
	}
	return hex.EncodeToString(sum.Sum(nil))
}

// Drawing implements Source.
func (c Columns) Drawing(_ context.Context, numbers, groups, subgroup Key) (*Drawing, error) {
	of, err := c.Sample(subgroup)
	if err != nil {
		return nil, err
	}
	if of.Frequency != nil {
		return nil, Refused("design.counted_rows", "/design", nil)
	}
	s, err := c.Get(numbers)
	if err != nil {
		return nil, err
	}
	if !s.Question.Kind.Numeric() { // classes have no number of each
		return nil, Refused("design.no_form", "/method", nil)
	}
	values, err := numbersOf(s)
	if err != nil {
		return nil, err
	}
	d := &Drawing{Group: func(int) int { return 0 }, Number: func(row int) (float64, bool) {
		return values[row], !math.IsNaN(values[row]) && of.Counts(row) > 0
	}}
	if groups != "" {
		g, err := c.Get(groups)
		if err != nil {
			return nil, err
		}
		d.Group = answerAt(g)
	}
	d.Sample, err = c.sampled(s.Column.Rows())
	return d, err
}
