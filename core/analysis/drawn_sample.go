package analysis

import (
	"errors"
	"math/big"
	"slices"
	"strconv"
	"strings"

	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
)

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
