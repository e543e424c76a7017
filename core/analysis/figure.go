package analysis

import (
	"encoding/json"
	"math"
	"math/big"
	"strconv"
	"strings"

	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/shares"
)

// DefaultScaled are shares that were not given yet.
var DefaultScaled = Scaled{Scale: shares.Proportions}

// Figure is an expected share as written: a number, or a text such as "21.5", "1/3".
type Figure string

// UnmarshalJSON keeps the digits as they are written.
func (f *Figure) UnmarshalJSON(raw []byte) error {
	s, err := text(raw)
	if err == nil && len(raw) > 0 && raw[0] != '"' && strings.ContainsAny(s, "eE") {
		x, _ := strconv.ParseFloat(s, 64) // beyond ±1e±308 the figure is not a share anyway
		if math.Abs(x) < 1e30 {
			s = strconv.FormatFloat(x, 'f', -1, 64)
		}
	}
	*f = Figure(s)
	return err
}

// Schema describes what is taken.
func (Figure) Schema() map[string]any {
	return map[string]any{
		"type":        []string{"number", "string"},
		"description": "a share as written, such as 21.5 or \"1/3\"; read exactly",
	}
}

// Scaled says what expected shares are.
type Scaled struct {
	// Shares holds one figure per answer, in the order of the counts.
	Shares []Figure `json:"shares"`
	// Scale is what they are; proportions must add to exactly 1 and percents to 100.
	Scale shares.Scale `json:"scale,omitempty"`
	// Rescale divides figures that do not add up by their sum.
	Rescale bool `json:"rescale,omitempty"`
}

// SharesError says what keeps expected shares from being used.
type SharesError struct{ Aligned *shares.Aligned }

func (e *SharesError) Error() string { return "analysis: expected shares cannot be used" }

// maxDenominator bounds those of fractions, so that a thousand of them stay quick to add.
const maxDenominator = 1_000_000

// Read reads the shares as fractions that add to 1, as many as there are answers; a *SharesError says why they cannot be used.
func (s Scaled) Read(method string, answers int) ([]*big.Rat, error) {
	known := s.Scale == shares.Equal
	for _, m := range shares.Scales {
		known = known || m == s.Scale
	}
	switch {
	case !known:
		return nil, RefuseInput(method, UnknownName, -1)
	case answers > MaxAnswers:
		return nil, RefuseInput(method, TooManyAnswers, -1)
	case s.Scale == shares.Equal && len(s.Shares) == 0:
		s.Shares = make([]Figure, answers)
	case len(s.Shares) != answers:
		return nil, RefuseInput(method, infer.SharesLength, -1)
	}
	names, figures := make([]shares.Name, answers), make([]string, answers)
	for i, f := range s.Shares {
		names[i].Label, figures[i] = strconv.Itoa(i+1), string(f)
		if _, below, fraction := strings.Cut(figures[i], "/"); fraction {
			if d, err := strconv.Atoi(strings.TrimSpace(below)); err != nil || d > maxDenominator {
				return nil, RefuseInput(method, OutOfDomain, i)
			}
		}
	}
	a := shares.Normalise(names, figures, s.Scale, s.Rescale)
	if !a.Usable() {
		return nil, &SharesError{a}
	}
	return a.Shares, nil
}

// Probability is a probability as written: a number, or a text where it lies below what a
// number can be, such as "1e-400".
type Probability string

// UnmarshalJSON keeps the digits as they are written.
func (p *Probability) UnmarshalJSON(raw []byte) error {
	s, err := text(raw)
	*p = Probability(s)
	return err
}

// MarshalJSON writes a number where it is one.
func (p Probability) MarshalJSON() ([]byte, error) {
	if x, err := strconv.ParseFloat(string(p), 64); err == nil && x > 0 && json.Valid([]byte(p)) {
		return []byte(p), nil
	}
	return json.Marshal(string(p))
}

// Schema describes what is taken.
func (Probability) Schema() map[string]any {
	return map[string]any{
		"type":        []string{"number", "string"},
		"description": "a probability as written, such as 0.04 or \"1e-400\"",
	}
}

// Read gives the value and the logarithm; ok is false for what is no probability.
func (p Probability) Read() (q prob.Prob, ok bool) {
	s := strings.ToLower(strings.TrimSpace(string(p)))
	if strings.Trim(s, "0123456789.+-e") != "" { // ParseFloat would also take other bases and names
		return q, false
	}
	digits, power, _ := strings.Cut(s, "e")
	m, err := strconv.ParseFloat(digits, 64)
	if err != nil || !(m >= 0) || math.IsInf(m, 1) || len(s) > 64 {
		return q, false
	}
	exponent := 0
	if power != "" {
		if exponent, err = strconv.Atoi(power); err != nil || exponent > 1000 || exponent < -1_000_000_000 {
			return q, false
		}
	}
	if m == 0 {
		return prob.FromRatio(0, 1), true
	}
	x, _ := strconv.ParseFloat(s, 64)
	if !(x <= 1) {
		return q, false
	}
	if x > 0.5 {
		return prob.FromRatio(x, 1), true
	}
	return prob.Prob{Value: x, Log10: math.Log10(m) + float64(exponent)}, true
}

// ReadAll reads probabilities; bad is the position of the first that is none, or −1.
func ReadAll(texts []Probability) (p []prob.Prob, bad int) {
	for i, t := range texts {
		q, ok := t.Read()
		if !ok {
			return nil, i
		}
		p = append(p, q)
	}
	return p, -1
}
