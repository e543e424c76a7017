// Package analysis is the registry of methods, and how each is asked: of figures that are
// given with the request, or of a source, such as a study, by a spec.
package analysis

import (
	"context"
	"encoding/json"
	"reflect"

	"widetally/core/infer"
)

//go:generate go run ../../internal/describe -root ../.. -out ../../api/compute_gen.json -formats ../../docs/formats

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

// figures ties a request type to a result type.
func figures[In, Out any](name, summary string, assumes []Assumption, defaults In, run func(ctx context.Context, in *In) (Out, error)) Method {
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

// heavyWhen says which requests may keep the processors busy for seconds.
func heavyWhen[In any](m Method, is func(in *In) bool) Method {
	m.Heavy = func(request any) bool { return is(request.(*In)) }
	return m
}

// askedOf ties how a method is asked of a source to the method.
func askedOf(m Method, a *Asked) Method {
	m.Asked = a
	return m
}

// lightSteps and lightCount bound what is done at once: a few hundredths of a second.
const (
	lightSteps = 2_000_000
	lightCount = 1_000_000
)

// total adds counts that have not been checked yet, without running over.
func total(counts []int64) (n int64) {
	for _, c := range counts {
		n += min(max(c, 0), infer.MaxCount)
	}
	return n
}

// Methods lists all, in the order of the description.
var Methods []Method

// Asked methods look their own figures up in the list, so it is filled afterwards.
func init() {
	Methods = []Method{askedOf(goodnessOfFit, askedShares), askedOf(againstSample, askedTwoSamples), askedOf(equivalenceShare, askedNearShare), askedOf(equivalenceTwoShares, askedNearTwoShares), askedOf(equivalenceDistribution, askedNearDistribution),
		askedOf(oneProportion, askedShare), askedOf(twoProportions, askedTwoShares), askedOf(meanOf, askedOneMean), askedOf(means, askedTwoMeans),
		askedOf(independence, askedCrosstab), askedOf(ordered, askedOrderedGroups), askedOf(layers, askedLayers), askedOf(agreement, askedPaired), askedOf(chosenItems, askedChosen), askedOf(simultaneous, askedIntervals), askedOf(multipleResponse, askedResponses), askedOf(responsesWithin, askedResponsesBy), askedOf(battery, askedBattery),
		askedOf(frequency, askedFrequency), askedOf(frequenciesOf, askedFrequencies), askedOf(crossings, askedCrossings), askedOf(orderedSummary, askedOrdered),
		adjust, askedOf(printedResult, askedPrinted),
		askedOf(planChiSquare, askedPlanChiSquare), askedOf(planMargin, askedPlanMargin), askedOf(planOneProportion, askedPlanShare), askedOf(planTwoProportions, askedPlanTwoShares),
		askedOf(distribution, askedTails), askedOf(numericSummary, askedNumbers), groupedSummary, askedOf(comparison, askedComparison), askedOf(byGroup, askedByGroup),
	}
}

// Bounds of a request, beside those of the core.
const (
	maxAnswers = 1000
	maxCells   = 40_000
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

func refuse(method string, why infer.Reason, at int) error {
	return &infer.InputError{Method: method, Reason: why, Index: at}
}

// checkTable bounds a table before anything is computed.
func checkTable(method string, table [][]int64) error {
	cells := 0
	for _, row := range table {
		cells += len(row)
	}
	if cells > maxCells {
		return refuse(method, TooManyCells, -1)
	}
	return nil
}

// pair reads a 2 × 2 table.
func pair(method string, table [][]int64, at int) (t [2][2]int64, err error) {
	if len(table) != 2 || len(table[0]) != 2 || len(table[1]) != 2 {
		return t, refuse(method, PairLength, at)
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
