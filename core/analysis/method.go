// Package analysis is the registry of methods, and how each is asked: of figures that are
// given with the request, or of a source, such as a study, by a spec.
package analysis

import (
	"context"
	"encoding/json"
	"errors"
	"reflect"
	"strings"

	"widetally/core/design"
	"widetally/core/infer"
	"widetally/core/survey"
)

// Nobody reports whether the core refused because nobody is counted.
func Nobody(err error) bool {
	var input *infer.InputError
	return errors.As(err, &input) && input.Reason == infer.NoObservations
}

// Empty reports whether a design refused because nobody is in the base.
func Empty(err error) bool {
	var input *infer.InputError
	return errors.As(err, &input) && input.Reason == design.EmptyBase
}

// Method is one method, or a family of methods that answer one question together.
type Method struct {
	Name    string // as in specs, and below /compute/
	Summary string
	// Assumes names what the methods take for granted and cannot see in the numbers.
	Assumes []Assumption
	// Heavy tells whether a request may keep the processors busy for seconds.
	Heavy func(request any) bool
	// Request and Result are the types of what goes in and what comes out.
	Request, Result reflect.Type
	// New gives a request, a pointer, with its defaults filled in, to decode into.
	New func() any
	// Run computes. Errors are *infer.InputError, *SharesError, or the context's.
	Run func(ctx context.Context, request any) (any, error)
	// Asked tells how it is asked of a source; nil where its figures must be given.
	Asked *Asked
}

// Assumption is something that the methods take for granted; the words are in the
// catalogue under the same name.
type Assumption string

// The assumptions.
const (
	// SimpleRandom: respondents drawn independently, each counted once, unweighted.
	SimpleRandom Assumption = "simple_random_sample"
	// DesignTold: the columns of a request tell how the sample was drawn.
	DesignTold Assumption = "design_told"
	// EffectTold: a design effect stands for how the sample was drawn.
	EffectTold Assumption = "effect_told"
	// SharesKnown: the expected shares have no error of their own.
	SharesKnown Assumption = "shares_known"
	// IndependentGroups: no respondent is in two groups.
	IndependentGroups Assumption = "independent_groups"
	// SameRespondents: each respondent gave both, or all, answers.
	SameRespondents Assumption = "same_respondents"
	// AnswersOrdered: the answers come in their order, lowest first.
	AnswersOrdered Assumption = "answers_ordered"
	// NearlyNormal: numbers nearly normal, or many of them.
	NearlyNormal Assumption = "nearly_normal_or_many"
	// SpreadEvenly: within a class everybody stands at its middle.
	SpreadEvenly Assumption = "evenly_within_classes"
	// MarginBeforehand: the margin was fixed before the answers were seen.
	MarginBeforehand Assumption = "margin_set_beforehand"
	// PrintedRounded: printed figures are rounded to the nearest in the last place shown.
	PrintedRounded Assumption = "printed_figures_rounded"
	// EverybodyAnswers: the number of respondents is that of answers.
	EverybodyAnswers Assumption = "everybody_answers"
)

// Figures ties a request type to a result type.
func Figures[In, Out any](
	name, summary string,
	assumes []Assumption,
	defaults In,
	run func(ctx context.Context, in *In) (Out, error),
) Method {
	return Method{Name: name, Summary: summary, Assumes: assumes, Request: reflect.TypeFor[In](), Result: reflect.TypeFor[Out](),
		New: func() any { in := defaults; return &in }, Heavy: func(any) bool { return false },
		Run: func(ctx context.Context, request any) (any, error) {
			out, err := run(ctx, request.(*In))
			if err != nil {
				return nil, err
			}
			return out, nil
		}}
}

// Assumed names what the method takes for granted; where the population is estimated by a design, that is
// what the design tells in the place of a simple random sample of independent groups.
func (m Method) Assumed(estimated bool) (out []Assumption) {
	if !estimated {
		return m.Assumes
	}
	out = []Assumption{DesignTold}
	for _, a := range m.Assumes {
		if a != SimpleRandom && a != IndependentGroups && a != NearlyNormal {
			out = append(out, a)
		}
	}
	return out
}

// HeavyWhen says which requests may keep the processors busy for seconds.
func HeavyWhen[In any](m Method, is func(in *In) bool) Method {
	m.Heavy = func(request any) bool { return is(request.(*In)) }
	return m
}

// AskedWith ties how a method is asked of a source to the method.
func (m Method) AskedWith(a *Asked) Method {
	a.Texts = strings.NewReplacer("-", "_", "/", "_").Replace(m.Name)
	if a.Mode == "" {
		a.Mode = Describes
		if a.New().Tests() {
			a.Mode = Tests
		}
	}
	m.Asked = a
	return m
}

// LightSteps and lightCount bound what is done at once: a few hundredths of a second.
const (
	LightSteps = 2_000_000
	LightCount = 1_000_000
)

// Total adds counts that have not been checked yet, without running over.
func Total(counts []int64) (n int64) {
	for _, c := range counts {
		n += min(max(c, 0), infer.MaxCount)
	}
	return n
}

// Registry holds the methods, in the order of the description.
type Registry struct{ methods []Method }

// NewRegistry makes a registry; every method has a name of its own.
func NewRegistry(methods ...Method) *Registry { return &Registry{methods} }

// All lists the methods.
func (r *Registry) All() []Method { return r.methods }

// Find returns a method by its name.
func (r *Registry) Find(name string) (Method, bool) {
	for _, m := range r.methods {
		if m.Name == name {
			return m, true
		}
	}
	return Method{}, false
}

// AskedOf lists the names of the methods in which a question can be at a place: those that
// can be asked of it, and those in which it can be a further one.
func (r *Registry) AskedOf(place int, q survey.Question) []string {
	names := []string{}
	for _, m := range r.methods {
		if m.Asked != nil && (place < len(m.Asked.Questions) || m.Asked.More != "") && m.Asked.Takes(place, q) {
			names = append(names, m.Name)
		}
	}
	return names
}

// Bounds of a request, beside those of the core.
const (
	MaxAnswers = 1000
	MaxCells   = 40_000
	// exactWork is about ten seconds on two processors, for the slowest shapes twenty.
	exactWork     = 500_000_000
	maxReplicates = 1_000_000
	// maxDrawnCells bounds replicates times cells: about a quarter of a minute.
	maxDrawnCells = 150_000_000
)

// Reasons of this package.
const (
	TooManyAnswers infer.Reason = "too_many_answers"
	TooManyCells   infer.Reason = "too_many_cells"
	NothingAsked   infer.Reason = "nothing_asked"
	UnknownName    infer.Reason = "unknown_name"
	OutOfDomain    infer.Reason = "out_of_domain"
	PairLength     infer.Reason = "pair_length"
)

// RefuseInput refuses a request; at is the place within a list, −1 for none.
func RefuseInput(method string, why infer.Reason, at int) error {
	return &infer.InputError{Method: method, Reason: why, Index: at}
}

// CheckTable bounds a table before anything is computed.
func CheckTable(method string, table [][]int64) error {
	cells := 0
	for _, row := range table {
		cells += len(row)
	}
	if cells > MaxCells {
		return RefuseInput(method, TooManyCells, -1)
	}
	return nil
}

// Pair reads a 2 × 2 table.
func Pair(method string, table [][]int64, at int) (t [2][2]int64, err error) {
	if len(table) != 2 || len(table[0]) != 2 || len(table[1]) != 2 {
		return t, RefuseInput(method, PairLength, at)
	}
	return [2][2]int64{{table[0][0], table[0][1]}, {table[1][0], table[1][1]}}, nil
}

// text reads a JSON number or string as text.
func text(raw []byte) (string, error) {
	if len(raw) > 0 && raw[0] == '"' {
		var s string
		err := json.Unmarshal(raw, &s)
		return s, err
	}
	return string(raw), nil
}
