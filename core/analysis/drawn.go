package analysis

import (
	"context"
	"errors"
	"fmt"
	"math/big"
	"slices"
	"strings"

	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
)

// Drawn says how the respondents of a source were drawn, by its questions. One that names nothing
// says nothing.
type Drawn struct {
	// Weight is the question of the weights; "" counts everybody once.
	Weight Key `json:"weight,omitempty"`
	// Strata are the questions whose answers together are the strata; nil for one stratum.
	Strata []Key `json:"strata,omitempty"`
	// Cluster is the question of the clusters; "" where each respondent was drawn alone.
	Cluster Key `json:"cluster,omitempty"`
	// Fraction is the share of the clusters of each stratum that were drawn, as written; "" takes it
	// as too small to matter.
	Fraction string `json:"fraction,omitempty"`
	// SinglePSU says what becomes of a stratum with one cluster; "" refuses it.
	SinglePSU design.SinglePSU `json:"singlePsu,omitempty"`
}

// Questions are those that a design names, in its order.
func (d Drawn) Questions() (out []Key) {
	for _, key := range append(append([]Key{d.Weight}, d.Strata...), d.Cluster) {
		if key != "" {
			out = append(out, key)
		}
	}
	return out
}

// Sampled tells how a design draws, its questions called by their names.
func (d Drawn) Sampled(name func(Key) string) claim.Sampled {
	out := claim.Sampled{Single: d.SinglePSU}
	if d.Weight != "" {
		out.Weight = name(d.Weight)
	}
	for _, key := range d.Strata {
		out.Strata = append(out.Strata, name(key))
	}
	if d.Cluster != "" {
		out.Cluster = name(d.Cluster)
	}
	if f, wrong := d.fraction(); wrong == nil && f != nil {
		out.Fraction = claim.PercentText(f)
	}
	return out
}

// fraction reads the sampling fraction; nil for none.
func (d Drawn) fraction() (*big.Rat, []Problem) {
	if strings.TrimSpace(d.Fraction) == "" {
		return nil, nil
	}
	return ReadShare(d.Fraction, "fraction")
}

// Designed is what the settings of a method have that has a form for designed samples.
type Designed interface {
	Settings
	// RunDesigned computes from the cells of the spec's questions.
	RunDesigned(work Work, counted *Counted) (*Outcome, error)
	// DocumentDesigned is what may be shown of it.
	DocumentDesigned(o *Outcome, about claim.About) document.Document
}

// Serves reports whether a method has a form for designed samples, or is about no answers at all.
func Serves(s Settings) bool {
	_, designed := s.(Designed)
	return designed || s.Needs() == NeedNothing
}

// estimate counts the cells of a spec's questions by the design that is in force.
func (c *Counted) estimate(ctx context.Context, s Spec, from Source, d Drawn) error {
	if !Serves(s.Settings) {
		return Refused("design.no_form", "/method", nil)
	}
	var err error
	c.Sampled = d.Sampled(func(key Key) string {
		q, failed := from.Question(ctx, key)
		if failed != nil && err == nil {
			err = failed
		}
		return q.Name
	})
	if errors.Is(err, ErrUnknownKey) {
		return Refused("design.gone", "/design", nil)
	}
	if err != nil {
		return err
	}
	if needs := s.Settings.Needs(); needs == NeedDescriptives || needs == NeedDescriptivesBy {
		groups := Key("")
		if needs == NeedDescriptivesBy {
			groups = s.Questions[1]
		}
		if c.Drawing, err = from.Drawing(ctx, s.Questions[0], groups, s.Subgroup); err == nil {
			c.Sampled.Base, c.Sampled.Largest, err = c.Drawing.base()
		}
	} else if c.Cells, err = from.Cells(ctx, s.Questions, s.Subgroup); err == nil {
		c.Sampled.Base, c.Sampled.Largest = c.Cells.Base, c.Cells.Largest/c.Cells.Sum
	}
	var refused *infer.InputError
	switch {
	case errors.As(err, &refused) && refused.Reason == design.EmptyBase:
		return Refused("compute."+string(infer.NoObservations), "/questions", nil)
	case errors.As(err, &refused):
		return DesignRefused(refused)
	case errors.Is(err, ErrUnknownKey):
		return Refused("design.gone", "/design", nil)
	}
	return err
}

// DesignRefused says with its row why the answers do not bear a design.
func DesignRefused(why *infer.InputError) error {
	return Refused("design."+string(why.Reason), "/design", document.Values{"row": document.N(int64(why.Index + 1))})
}

// Estimated is the share of an answer in the population.
type Estimated struct {
	Slot  survey.Slot
	Share float64
	// Interval is that of Korn and Graubard at the usual confidence; nil without degrees of freedom.
	Interval *infer.Interval
}

// Estimates are the shares of the proper answers to a question by the design in force; nil where none
// is, where the question has no such answers, or where they cannot be estimated, which an analysis of
// the question tells.
func Estimates(ctx context.Context, from Source, question, subgroup Key) ([]Estimated, error) {
	if from.Drawn() == nil {
		return nil, nil
	}
	q, err := from.Question(ctx, question)
	if err != nil || !q.Kind.Coded() || q.Kind == survey.ChooseAll {
		return nil, err
	}
	cells, err := from.Cells(ctx, []Key{question}, subgroup)
	var spec *SpecError
	var input *infer.InputError
	if errors.As(err, &spec) || errors.As(err, &input) || errors.Is(err, ErrUnknownKey) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	shares := cells.Shares()
	out := make([]Estimated, len(shares.Share))
	for j, a := range q.Proper() {
		one := infer.DesignedShare{
			Share:    shares.Share[j],
			Variance: shares.Covariance[j][j],
			N:        cells.N,
			KishN:    cells.KishN,
			DF:       cells.DF,
		}
		out[j] = Estimated{a.Slot, one.Share, one.Uncertainty(UsualConfidence).Beta}
	}
	return out, nil
}

// Drawn implements Source.
func (c Columns) Drawn() *Drawn { return c.Design }

// Cells implements Source.
func (c Columns) Cells(_ context.Context, questions []Key, subgroup Key) (*design.Cells, error) {
	of, err := c.Sample(subgroup)
	if err != nil {
		return nil, err
	}
	if of.Frequency != nil {
		return nil, Refused("design.counted_rows", "/design", nil)
	}
	var codes []func(rows []int, at []int32, size int32)
	sizes, cells, rows := []int{}, 1, 0
	for _, key := range questions {
		s, err := c.Get(key)
		if err != nil {
			return nil, err
		}
		codes, sizes, rows = append(codes, answersOf(s)), append(sizes, len(s.Question.Proper())), s.Column.Rows()
		cells *= sizes[len(sizes)-1]
	}
	if cells > MaxDesignedCells {
		return nil, Refused("compute."+string(TooManyCells), "/questions", nil)
	}
	sample, err := c.sampled(rows)
	if err != nil {
		return nil, err
	}
	return sample.CellsBy(cells, func(rows []int, at []int32) {
		clear(at)
		for i, code := range codes {
			code(rows, at, int32(sizes[i]))
		}
		if of.Subset != nil {
			for k, row := range rows {
				if of.Counts(row) == 0 {
					at[k] = design.None
				}
			}
		}
	})
}

// MaxDesignedCells bounds the cells whose covariance is estimated.
const MaxDesignedCells = 400

// sampled reads the design in force, or remembers it.
func (c Columns) sampled(rows int) (*design.Sample, error) {
	build := func() (*design.Sample, error) { return c.Design.Sample(c.Get, rows) }
	if c.Sampled != nil {
		return c.Sampled(build)
	}
	return build()
}

// Sample reads how so many rows were drawn. Errors: those of design.New; a *SpecError for a question
// that cannot play its part.
func (d Drawn) Sample(get func(Key) (survey.Source, error), rows int) (*design.Sample, error) {
	in := design.Columns{Rows: rows, Single: d.SinglePSU}
	if d.SinglePSU != "" && !slices.Contains(design.SinglePSUs, d.SinglePSU) {
		return nil, Refused("design.single", "/design", nil)
	}
	if d.Weight != "" {
		s, err := get(d.Weight)
		if err != nil {
			return nil, err
		}
		if in.Weights, err = numbersOf(s); err != nil {
			return nil, err
		}
	}
	combined := map[[2]int]int{}
	for i, key := range d.Strata {
		s, err := get(key)
		if err != nil {
			return nil, err
		}
		codes, err := labelsOf(s)
		if err != nil {
			return nil, err
		}
		if i == 0 {
			in.Strata = codes
			continue
		}
		for row, code := range codes {
			pair := [2]int{in.Strata[row], code}
			if pair[0] < 0 || code < 0 {
				in.Strata[row] = design.None
				continue
			}
			at, seen := combined[pair]
			if !seen {
				at = len(combined)
				combined[pair] = at
			}
			in.Strata[row] = at
		}
		clear(combined)
	}
	if d.Cluster != "" {
		s, err := get(d.Cluster)
		if err != nil {
			return nil, err
		}
		if in.Clusters, err = labelsOf(s); err != nil {
			return nil, err
		}
	}
	f, wrong := d.fraction()
	if wrong != nil {
		return nil, Refused("design."+string(design.FractionOutOfRange), "/design", nil)
	}
	if f != nil {
		x, _ := f.Float64()
		for range maxCode(in.Strata) + 1 {
			in.Fractions = append(in.Fractions, x)
		}
	}
	sample, err := design.New(in)
	var input *infer.InputError
	if errors.As(err, &input) && input.Reason == design.OneCluster && len(d.Strata) > 0 {
		return nil, d.alone(get, input.Index)
	}
	return sample, err
}

// alone names the stratum of a row that holds one cluster.
func (d Drawn) alone(get func(Key) (survey.Source, error), row int) error {
	var names []string
	for _, key := range d.Strata {
		s, err := get(key)
		if err != nil {
			return err
		}
		names = append(names, s.Question.Code(s.Column, row))
	}
	return Refused(
		"design.single_psu_named",
		"/design",
		document.Values{"stratum": document.Text(strings.Join(names, ", "))},
	)
}

func maxCode(codes []int) int {
	most := 0
	for _, c := range codes {
		most = max(most, c)
	}
	return most
}

// drawnInputs tells of the design what a result depends on; "" where none is in force.
func (c *Counted) drawnInputs() string {
	digest := ""
	switch {
	case c.Cells != nil:
		digest = c.Cells.Digest()
	case c.Drawing != nil:
		digest = c.Drawing.digest()
	default:
		return ""
	}
	return fmt.Sprintf(
		"%s | %s | %s | %s",
		c.Sampled.Weight,
		strings.Join(c.Sampled.Strata, ", "),
		c.Sampled.Cluster,
		digest,
	)
}
