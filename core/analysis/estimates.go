package analysis

import (
	"context"
	"errors"
	"slices"
	"sync"

	"widetally/core/design"
	"widetally/core/infer"
	"widetally/core/survey"
)

// Estimated is the share of an answer in the population.
type Estimated struct {
	Slot  survey.Slot
	Share float64
	// UpTo is the share of this answer and those before it; 0 where several can be chosen.
	UpTo float64
	// Interval is that of Korn and Graubard (1998) at the usual confidence; nil without degrees of
	// freedom.
	Interval *infer.Interval
}

// Estimates are what the design in force says of a question.
type Estimates struct {
	// Shares are those of the proper answers; nil for a question without a list of them.
	Shares []Estimated
	// Number is nil for one without numbers of the respondents, as weights are not.
	Number *EstimatedNumber
}

// EstimatesOf gives those of a question. They are none where no design is in force, or where they cannot
// be estimated, which an analysis of the question tells.
func EstimatesOf(ctx context.Context, from Source, question, subgroup Key) (out Estimates, err error) {
	if from.Drawn() == nil {
		return out, nil
	}
	q, err := from.Question(ctx, question)
	if err != nil {
		return out, err
	}
	switch {
	case q.Kind == survey.ChooseAll:
		list, err := from.Items(ctx, question, "", subgroup)
		if err != nil || list[0] == nil {
			return out, told(err)
		}
		out.Shares = estimated(q, list[0].Share, list[0].One)
		return out, nil
	case q.Kind.Coded():
		cells, err := from.Cells(ctx, []Key{question}, subgroup)
		if err != nil {
			return out, told(err)
		}
		of := cells.Shares()
		out.Shares, out.Number = estimated(q, of.Share, of.One), estimatedNumber(q, cells)
		return out, nil
	case q.Kind == survey.Continuous:
		d, err := from.Drawing(ctx, question, "", subgroup)
		if err == nil {
			out.Number, err = d.EstimatedNumber()
		}
		return out, told(err)
	}
	return out, nil
}

// estimated are the shares of the proper answers to a question.
func estimated(q survey.Question, shares []float64, one func(j int) infer.DesignedShare) []Estimated {
	out, upTo := make([]Estimated, len(shares)), 0.0
	var done sync.WaitGroup
	for j, a := range q.Proper() {
		out[j] = Estimated{Slot: a.Slot, Share: shares[j]}
		if q.Kind != survey.ChooseAll {
			upTo += shares[j]
			out[j].UpTo = upTo
		}
		done.Go(func() { out[j].Interval = one(j).Uncertainty(UsualConfidence).Beta })
	}
	done.Wait()
	return out
}

// EstimatedNumber is the mean and the quartiles of a number in the population.
type EstimatedNumber struct {
	*design.Mean
	// Interval is MeanInterval.
	Interval *infer.Interval
	// Quartiles are the first, the median and the third.
	Quartiles []design.Quantile
}

// EstimatedNumber estimates the numbers of all groups. Errors: those of design.Sample.Mean.
func (d *Drawing) EstimatedNumber() (*EstimatedNumber, error) {
	of := d.All()
	m, err := d.Sample.Mean(of)
	if err != nil {
		return nil, err
	}
	e := &EstimatedNumber{Mean: m, Interval: MeanInterval(m)}
	_, e.Quartiles, err = d.Sample.Quantiles(of, quartiles, UsualConfidence)
	return e, err
}

// estimatedNumber is that of a question whose answers are numbers, from the cells of its answers; nil for
// another one, and where nobody gave a number.
func estimatedNumber(q survey.Question, cells *design.Cells) *EstimatedNumber {
	if q.Kind != survey.Discrete {
		return nil
	}
	values, proper := q.Values(), q.Proper()
	var numbers []float64
	for _, a := range proper {
		if x, known := values[a.Slot]; known {
			numbers = append(numbers, x)
		}
	}
	slices.Sort(numbers)
	numbers = slices.Compact(numbers)
	of := cells.Part(len(numbers), func(cell int) (int, bool) {
		x, known := values[proper[cell].Slot]
		at, _ := slices.BinarySearch(numbers, x)
		return at, known
	})
	if of == nil {
		return nil
	}
	m := of.Mean(numbers)
	return &EstimatedNumber{
		Mean: m, Interval: MeanInterval(m), Quartiles: of.Quantiles(numbers, quartiles, UsualConfidence),
	}
}

// MeanInterval is that of a mean at the usual confidence; nil without degrees of freedom, and of one
// respondent or one cluster, within which nothing tells how much it may be off.
func MeanInterval(m *design.Mean) *infer.Interval {
	if m.N < 2 || m.Replicates == 0 && m.BasePSUs < 2 {
		return nil
	}
	return infer.TInterval(m.Mean, m.SE(), float64(m.DF), UsualConfidence)
}

var quartiles = []float64{0.25, 0.5, 0.75}

// told takes what an analysis of the question tells as no error.
func told(err error) error {
	var spec *SpecError
	var input *infer.InputError
	if errors.As(err, &spec) || errors.As(err, &input) || errors.Is(err, ErrUnknownKey) {
		return nil
	}
	return err
}
