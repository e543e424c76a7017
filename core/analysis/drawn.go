package analysis

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"math/big"
	"slices"
	"strconv"
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
	// Population is the question that tells of each respondent how many clusters his stratum has in the
	// population, or how many members where there are no clusters; "" where Fraction tells.
	Population Key `json:"population,omitempty"`
	// SinglePSU says what becomes of a stratum with one cluster; "" refuses it.
	SinglePSU design.SinglePSU `json:"singlePsu,omitempty"`
	Replication
	// effect is a design effect that was told instead of all this; 0 for none.
	effect float64
}

// Replication is the replicate weights that tell the variance in the place of strata and clusters; nil
// Replicates are none.
type Replication struct {
	// Replicates are the questions that hold them.
	Replicates []Key                  `json:"replicates,omitempty"`
	Method     design.ReplicateMethod `json:"method,omitempty"`
	// Fay is ρ of Fay's method, as written.
	Fay string `json:"fay,omitempty"`
	// Factors are what the squared departure of each replicate counts, where the method is these: as
	// written, one for all or one for each.
	Factors string `json:"factors,omitempty"`
	// DF are the degrees of freedom where they are known; 0 for the replicates less 1.
	DF int `json:"df,omitempty"`
}

// StudyMethods are the methods of replicate weights that can be said of a study.
var StudyMethods = []design.ReplicateMethod{
	design.JackknifeOne, design.BalancedHalves, design.FayHalves, design.Bootstrap, design.GivenFactors,
}

// MostReplicates bounds the replicate weights of a design.
const MostReplicates = 1000

// Questions are those that a design names, in its order.
func (d Drawn) Questions() (out []Key) {
	for _, key := range slices.Concat([]Key{d.Weight}, d.Strata, []Key{d.Cluster, d.Population}, d.Replicates) {
		if key != "" {
			out = append(out, key)
		}
	}
	return out
}

// Sampled tells how a design draws, its questions called by their names.
func (d Drawn) Sampled(name func(Key) string) claim.Sampled {
	out := claim.Sampled{Single: d.SinglePSU, Effect: d.effect}
	if d.Weight != "" {
		out.Weight = name(d.Weight)
	}
	for _, key := range d.Strata {
		out.Strata = append(out.Strata, name(key))
	}
	if d.Cluster != "" {
		out.Cluster = name(d.Cluster)
	}
	if d.Population != "" {
		out.Population = name(d.Population)
	}
	out.Replicates, out.Method = len(d.Replicates), string(d.Method)
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

// EstimatesMissing is what settings have that estimate how many of all who were asked gave no answer.
type EstimatesMissing interface{ EstimatesMissing() }

// DesignChecked is what settings have of which it depends on the design in force whether they can be asked.
type DesignChecked interface {
	// CheckDesign lists what keeps them from being asked where a design is in force, or none is.
	CheckDesign(inForce bool, q []survey.Question) []Problem
}

// CheckBy lists what keeps a spec from being asked of questions where a design is in force, or none is.
func (s Spec) CheckBy(inForce bool, q []survey.Question) []Problem {
	out := s.Check(q)
	if checked, ok := s.Settings.(DesignChecked); ok && len(out) == 0 {
		out = append(out, checked.CheckDesign(inForce && !s.Unweighted, q)...)
	}
	return out
}

// Serves reports whether a method has a form for designed samples, or is about no answers at all.
func Serves(s Settings) bool {
	_, designed := s.(Designed)
	return designed || s.Needs() == NeedNothing
}

// estimate counts the cells of a spec's questions by the design that is in force.
func (c *Counted) estimate(ctx context.Context, s Spec, from Source, d Drawn) error {
	switch {
	case !Serves(s.Settings) && d.effect > 0:
		return Refused("design.no_form_typed", "/method", nil)
	case !Serves(s.Settings):
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
	if err = c.by(ctx, s, from); err == nil {
		c.Sampled.Names, err = from.StrataNames(ctx)
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

// by counts what the settings need by the design.
func (c *Counted) by(ctx context.Context, s Spec, from Source) (err error) {
	told := func(b design.Base, largest float64) {
		if b.N > c.Sampled.Base.N {
			c.Sampled.Base, c.Sampled.Largest = b, largest/b.Sum
		}
	}
	cells := func(keys ...Key) (*design.Cells, error) {
		of, err := from.Cells(ctx, keys, s.Subgroup)
		if err == nil {
			told(of.Base, of.Largest)
		}
		return of, err
	}
	drawing := func(number, groups Key) (*Drawing, error) {
		of, err := from.Drawing(ctx, number, groups, s.Subgroup)
		if err != nil {
			return nil, err
		}
		b, largest, err := of.base()
		if err == nil {
			told(b, largest)
		}
		return of, err
	}
	items := func(groups Key) (err error) {
		if c.Items, err = from.Items(ctx, s.Questions[0], groups, s.Subgroup); err != nil {
			return err
		}
		for _, of := range c.Items {
			if of != nil && groups == "" {
				told(of.Base, of.Largest)
			} else if of != nil && c.Sampled.Base.N == 0 {
				c.Sampled.Base = of.Base
			}
		}
		if c.Sampled.Base.N == 0 {
			return RefuseInput("design", design.EmptyBase, -1)
		}
		return nil
	}
	switch q := s.Questions; s.Settings.Needs() {
	case NeedDescriptives:
		c.Drawing, err = drawing(q[0], "")
	case NeedDescriptivesBy:
		c.Drawing, err = drawing(q[0], q[1])
	case NeedEachDescriptives:
		c.Sampled.Several = true
		for _, key := range q {
			of, err := drawing(key, "")
			if err = some(err); err != nil {
				return err
			}
			c.Drawings = append(c.Drawings, of)
		}
	case NeedEachFrequencies:
		c.Sampled.Several = true
		for _, key := range q {
			of, err := cells(key)
			if err = some(err); err != nil {
				return err
			}
			c.EachCells = append(c.EachCells, of)
		}
	case NeedEachCrosstab:
		c.Sampled.Several = true
		for _, key := range q[1:] {
			of, err := cells(key, q[0])
			if err = some(err); err != nil {
				return err
			}
			c.EachCells = append(c.EachCells, of)
		}
	case NeedResponses, NeedPatterns:
		return items("")
	case NeedResponsesBy:
		return items(q[1])
	default:
		c.Cells, err = cells(q...)
	}
	_, estimates := s.Settings.(EstimatesMissing)
	if estimates && err == nil && c.Frequency.Missing > 0 && c.Sampled.Effect == 0 {
		c.Whole, err = from.Cells(ctx, nil, s.Subgroup)
	}
	if err == nil && c.Sampled.Base.N == 0 {
		return RefuseInput("design", design.EmptyBase, -1)
	}
	return err
}

// some takes a base that is empty as one of several that may be.
func some(err error) error {
	if Empty(err) {
		return nil
	}
	return err
}

// DesignRefused says with its row why the answers do not bear a design.
func DesignRefused(why *infer.InputError) error {
	return Refused("design."+string(why.Reason), "/design", document.Values{"row": document.N(int64(why.Index + 1))})
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
	var only survey.Source
	sizes, cells, rows := []int{}, 1, 0
	for _, key := range questions {
		s, err := c.Get(key)
		if err != nil {
			return nil, err
		}
		only = s
		codes, sizes, rows = append(codes, answersOf(s)), append(sizes, len(s.Question.Proper())), s.Column.Rows()
		cells *= sizes[len(sizes)-1]
	}
	if len(questions) == 0 {
		s, err := c.Get(c.Design.Questions()[0])
		if err != nil {
			return nil, err
		}
		rows = s.Column.Rows()
	}
	if cells > MaxDesignedCells {
		return nil, Refused("compute."+string(TooManyCells), "/questions", nil)
	}
	sample, err := c.sampled(rows)
	if err != nil {
		return nil, err
	}
	if len(questions) == 1 && cells < design.NoByte {
		if code := bytesOf(only); code != nil {
			return sample.CellsByBytes(cells, func(rows []int, at []uint8) {
				code(rows, at)
				if of.Subset != nil {
					keepBytes(of.Subset, rows, at)
				}
			})
		}
	}
	return sample.CellsBy(cells, func(rows []int, at []int32) {
		if len(codes) == 0 {
			clear(at)
		}
		for i, code := range codes {
			if i == 0 {
				code(rows, at, first)
			} else {
				code(rows, at, int32(sizes[i]))
			}
		}
		if of.Subset != nil {
			keep(of.Subset, rows, at)
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
	number := func(key Key) ([]float64, error) {
		s, err := get(key)
		if err != nil {
			return nil, err
		}
		return numbersOf(s)
	}
	var err error
	if d.Weight != "" {
		if in.Weights, err = number(d.Weight); err != nil {
			return nil, err
		}
	}
	if d.Replicates != nil {
		return d.replicated(in, number)
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
	if d.Population != "" {
		of, err := number(d.Population)
		if err != nil {
			return nil, err
		}
		if in.Populations, err = populations(in, of); err != nil {
			return nil, err
		}
	}
	sample, err := design.New(in)
	var input *infer.InputError
	if errors.As(err, &input) && input.Reason == design.OneCluster && len(d.Strata) > 0 {
		return nil, d.alone(get, input.Index)
	}
	return sample, err
}

// replicated reads replicate weights.
func (d Drawn) replicated(in design.Columns, number func(Key) ([]float64, error)) (*design.Sample, error) {
	switch {
	case d.Strata != nil || d.Cluster != "" || d.Population != "":
		return nil, Refused("design.either", "/design", nil)
	case !slices.Contains(StudyMethods, d.Method):
		return nil, Refused("design.method", "/design", nil)
	case len(d.Replicates) < 2 || len(d.Replicates) > MostReplicates:
		return nil, Refused("design.replicates", "/design", document.Values{"most": document.N(MostReplicates)})
	case d.DF < 0:
		return nil, Refused("design.df", "/design", nil)
	}
	r := design.Replicates{Rows: in.Rows, Weights: in.Weights, Method: d.Method, DF: d.DF}
	for _, key := range d.Replicates {
		weights, err := number(key)
		if err != nil {
			return nil, err
		}
		r.Replicate = append(r.Replicate, weights)
	}
	f, wrong := d.fraction()
	if wrong != nil {
		return nil, Refused("design."+string(design.FractionOutOfRange), "/design", nil)
	}
	if f != nil {
		r.Fraction, _ = f.Float64()
	}
	switch d.Method {
	case design.FayHalves:
		rho, err := strconv.ParseFloat(strings.Replace(strings.TrimSpace(d.Fay), ",", ".", 1), 64)
		if err != nil {
			return nil, Refused("design."+string(design.FayOutOfRange), "/design", nil)
		}
		r.Fay = rho
	case design.GivenFactors:
		for _, text := range strings.Fields(d.Factors) {
			x, ok := new(big.Rat).SetString(strings.Replace(text, ",", ".", 1))
			if !ok || x.Sign() < 0 {
				return nil, Refused("design."+string(design.FactorsNeeded), "/design", nil)
			}
			factor, _ := x.Float64()
			r.Factors = append(r.Factors, factor)
		}
		if len(r.Factors) == 1 {
			r.Factors = slices.Repeat(r.Factors, len(r.Replicate))
		}
	}
	return design.NewReplicated(r)
}

// populations are those of the strata, by code, of which every row with a weight tells the same.
func populations(in design.Columns, of []float64) ([]float64, error) {
	out := make([]float64, maxCode(in.Strata)+1)
	for row, x := range of {
		h := 0
		if in.Strata != nil {
			h = in.Strata[row]
		}
		if h < 0 || in.Weights != nil && !(in.Weights[row] > 0) {
			continue
		}
		switch {
		case !(x > 0):
			return nil, Refused("design.no_population", "/design", document.Values{"row": document.N(int64(row + 1))})
		case out[h] != 0 && out[h] != x:
			return nil, Refused("design.two_populations", "/design", document.Values{"row": document.N(int64(row + 1))})
		}
		out[h] = x
	}
	return out, nil
}

// strataNames are those of the strata of a sample, their answers one after the other; nil for more than
// are named.
func (d Drawn) strataNames(get func(Key) (survey.Source, error), sample *design.Sample) (names []string, err error) {
	rows := sample.StratumRows()
	if len(d.Strata) == 0 || len(rows) > mostNamed {
		return nil, nil
	}
	for _, row := range rows {
		var parts []string
		for _, key := range d.Strata {
			s, err := get(key)
			if err != nil {
				return nil, err
			}
			parts = append(parts, s.Question.Code(s.Column, row))
		}
		names = append(names, strings.Join(parts, ", "))
	}
	return names, nil
}

// mostNamed bounds the strata that are called by their names.
const mostNamed = 200

// StrataNames implements Source.
func (c Columns) StrataNames(context.Context) ([]string, error) {
	if len(c.Design.Strata) == 0 || len(c.Design.Replicates) > 0 {
		return nil, nil
	}
	s, err := c.Get(c.Design.Strata[0])
	if err != nil {
		return nil, err
	}
	sample, err := c.sampled(s.Column.Rows())
	if err != nil {
		return nil, err
	}
	return c.Design.strataNames(c.Get, sample)
}

// Items implements Source.
func (c Columns) Items(_ context.Context, question, groups, subgroup Key) ([]*design.Items, error) {
	of, err := c.Sample(subgroup)
	if err != nil {
		return nil, err
	}
	if of.Frequency != nil {
		return nil, Refused("design.counted_rows", "/design", nil)
	}
	s, err := c.Get(question)
	if err != nil {
		return nil, err
	}
	sample, err := c.sampled(s.Column.Rows())
	if err != nil {
		return nil, err
	}
	chosen, parts := setAt(s), 1
	group := func(int) int { return 0 }
	if groups != "" {
		g, err := c.Get(groups)
		if err != nil {
			return nil, err
		}
		group, parts = answerAt(g), len(g.Question.Proper())
	}
	out := make([]*design.Items, parts)
	for i := range out {
		out[i], err = sample.Items(len(s.Question.Proper()), func(row int) (uint64, bool) {
			if of.Counts(row) == 0 || group(row) != i {
				return 0, false
			}
			return chosen(row)
		})
		if err = some(err); err != nil {
			return nil, err
		}
	}
	return out, nil
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
	if !c.Designed() {
		return ""
	}
	sum := sha256.New()
	for _, cells := range append(c.EachCells, c.Cells) {
		if cells != nil {
			fmt.Fprintln(sum, cells.Digest())
		}
	}
	for _, drawing := range append(c.Drawings, c.Drawing) {
		if drawing != nil {
			fmt.Fprintln(sum, drawing.digest())
		}
	}
	for _, items := range c.Items {
		if items != nil {
			fmt.Fprintln(sum, items.Base, items.Count, items.Total, items.Covariance)
		}
	}
	if c.Whole != nil {
		fmt.Fprintln(sum, c.Whole.Digest())
	}
	digest := hex.EncodeToString(sum.Sum(nil))
	if c.Items == nil && c.EachCells == nil && c.Drawings == nil && c.Whole == nil { // as it is stored since there are designs
		if c.Cells != nil {
			digest = c.Cells.Digest()
		} else {
			digest = c.Drawing.digest()
		}
	}
	return fmt.Sprintf(
		"%s | %s | %s | %s",
		c.Sampled.Weight,
		strings.Join(c.Sampled.Strata, ", "),
		c.Sampled.Cluster,
		digest,
	)
}
