package analysis

import (
	"reflect"
	"strings"

	"widetally/core/design"
	"widetally/core/infer"
	"widetally/core/plan"
	"widetally/core/weighting"
)

// fields names, for a reason, the members of requests that it may be about, the first
// that a request has being the one.
var fields = map[infer.Reason][]string{
	infer.NoObservations:      {"observed", "table", "tables", "patterns", "counts", "n", "first"},
	infer.OneAnswer:           {"observed", "table"},
	infer.NegativeCount:       {"observed", "table", "tables", "patterns", "counts"},
	infer.CountTooLarge:       {"observed", "table", "tables", "patterns", "counts", "n", "first"},
	infer.SharesLength:        {"shares", "published"},
	infer.NegativeShare:       {"shares"},
	infer.SharesSum:           {"shares", "expectedShares", "jointShares"},
	infer.LevelRange:          {"level", "confidence"},
	infer.ChosenButShareZero:  {"shares"},
	infer.OneAnswerAfterZeros: {"shares"},
	infer.MoreYesThanAsked:    {"successes", "first"},
	infer.ClaimedRange:        {"claimed", "expected", "share", "share1"},
	infer.RaggedTable:         {"table"},
	infer.OneRowOrColumn:      {"table"},
	infer.NotSquare:           {"table"},
	infer.NoDegreesOfFreedom:  {"estimated"},
	infer.ScoresLength:        {"columnScores"},
	infer.ScoresNotFinite:     {"columnScores"},
	infer.MarginRange:         {"margin"},
	infer.SDNegative:          {"first"},
	infer.SigmaNotPositive:    {"first"},
	infer.TooFewForSD:         {"first"},
	infer.NotFinite:           {"values", "first"},
	infer.ProbabilityRange:    {"p"},
	infer.Empty:               {"values", "p", "classes"},
	infer.TooMany:             {"values", "p", "classes", "percents"},
	infer.SimulationRange:     {"exact"},
	plan.NumberRange:          {"n", "n1"},
	plan.PowerRange:           {"power"},
	plan.DepartureRange:       {"w", "true", "share2"},
	TooManyAnswers:            {"observed", "expectedShares", "scores"},
	TooManyCells:              {"table", "tables", "shape", "k"},
	PairLength:                {"table", "tables", "classes"},

	design.MissingWeight:        {"weights"},
	design.NegativeWeight:       {"weights"},
	design.NoRespondents:        {"weights"},
	design.MissingStratum:       {"strata", "replicateStrata"},
	design.MissingCluster:       {"clusters"},
	design.FractionOutOfRange:   {"fractions", "fraction"},
	design.OneCluster:           {"clusters"},
	design.FactorsNeeded:        {"factors"},
	design.EmptyReplicate:       {"replicateWeights"},
	design.ReplicateLength:      {"replicateWeights"},
	design.FayOutOfRange:        {"fay"},
	design.UnknownMethod:        {"method"},
	design.ZeroDenominator:      {"denominator"},
	design.OneGroup:             {"groups"},
	design.UnknownWave:          {"wave"},
	weighting.TargetNotPositive: {"margins", "targets"},
	weighting.EmptyCategory:     {"margins", "cells"},
	weighting.TargetsNeeded:     {"margins", "targets"},
	weighting.BoundsOutOfRange:  {"bounds"},
	weighting.TotalOutOfRange:   {"total"},
}

// Field names the member of the family's requests that a refusal is about; "" where it
// is about several.
func (m Method) Field(why infer.Reason) string {
	has := map[string]bool{}
	members(m.Request, has)
	for _, name := range fields[why] {
		if has[name] {
			return name
		}
	}
	return ""
}

func members(t reflect.Type, into map[string]bool) {
	for i := range t.NumField() {
		m := t.Field(i)
		if m.Anonymous {
			members(m.Type, into)
			continue
		}
		name, _, _ := strings.Cut(m.Tag.Get("json"), ",")
		into[name] = true
	}
}

// RangeError says that one member lies outside what can be computed.
type RangeError struct {
	Field string
	// Least and Most are its bounds as text; Least is excluded where Above is set.
	Least, Most string
	Above       bool
}

func (e *RangeError) Error() string { return "analysis: " + e.Field + " is out of range" }

// MissingError says that a member is needed and lacking.
type MissingError struct{ Field string }

func (e *MissingError) Error() string { return "analysis: " + e.Field + " is lacking" }
