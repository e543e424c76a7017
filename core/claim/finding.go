// Package claim turns results into what may be said about them: decisions,
// findings, cautions and the shown working. It says it in message ids with
// values; the words are in the catalogue (locales/), one file per language.
package claim

import "widetally/core/prob"

// ValueKind says how a value is to be written.
type ValueKind string

// The kinds of value in a finding.
const (
	Words     ValueKind = "words"     // text as it is, such as an answer's label
	Count     ValueKind = "count"     // a whole number of respondents or answers
	Amount    ValueKind = "amount"    // a figure shown with 1 decimal, an expected count
	Percent   ValueKind = "percent"   // 0–100, shown with 1 decimal and the sign
	Level     ValueKind = "level"     // a unit level 0–1, shown as a percent without needless zeros
	Points    ValueKind = "points"    // percentage points, unsigned, 1 decimal
	Statistic ValueKind = "statistic" // 3 decimals
	Effect    ValueKind = "effect"    // 2 decimals
	PValue    ValueKind = "p"         // Log10 holds its logarithm
	PEqual    ValueKind = "p_equal"   // the same with its sign: "= 0.344" or "< 0.001"
	Exact     ValueKind = "exact"     // scientific notation where it is small
)

// Value is one value in a finding.
type Value struct {
	Kind   ValueKind
	Number float64
	Log10  float64 // of a p-value
	Level  float64 // the level a p-value is compared with; its digits never hide on which side it is
	Text   string
}

// Finding is one thing to say. ID names the message; Beside the place in the
// result of which it speaks.
type Finding struct {
	ID      string
	Values  map[string]Value
	Beside  Place
	Caution bool
}

// Place is a part of a result that a margin note can stand beside.
type Place string

// The places.
const (
	BesideShares     Place = "shares"
	BesideReading    Place = "reading"
	BesideTable      Place = "table"
	BesideConditions Place = "conditions"
	BesideDecision   Place = "decision"
)

func words(s string) Value            { return Value{Kind: Words, Text: s} }
func count(n int64) Value             { return Value{Kind: Count, Number: float64(n)} }
func of(k ValueKind, x float64) Value { return Value{Kind: k, Number: x} }

func pvalue(k ValueKind, p prob.Prob, level float64) Value {
	return Value{Kind: k, Number: p.Value, Log10: p.Log10, Level: level}
}
