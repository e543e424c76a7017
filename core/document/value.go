// Package document is what may be shown of a result, as data: blocks of messages and
// typed values. The texts are in the catalogue (locales/), one file per language;
// renderers know documents and no methods.
package document

import (
	"math"

	"widetally/core/prob"
)

// ValueKind says how a value is to be written.
type ValueKind string

// The kinds of value in a message, and of a figure in a table.
const (
	Words      ValueKind = "words"        // text as it is, such as an answer's label
	Count      ValueKind = "count"        // a whole number of respondents or answers
	Amount     ValueKind = "amount"       // a figure shown with 1 decimal, an expected count
	Percent    ValueKind = "percent"      // 0–100, shown with 1 decimal and the sign
	Bare       ValueKind = "bare_percent" // the same without its sign, in a column of percents
	Level      ValueKind = "level"        // a unit level 0–1, shown as a percent without needless zeros
	Points     ValueKind = "points"       // percentage points, unsigned, 1 decimal
	Difference ValueKind = "difference"   // percentage points with their sign, 1 decimal
	Share      ValueKind = "share"        // 0–1, 3 decimals
	Statistic  ValueKind = "statistic"    // 3 decimals
	Effect     ValueKind = "effect"       // 2 decimals
	PValue     ValueKind = "p"            // Log10 holds its logarithm
	PEqual     ValueKind = "p_equal"      // the same with its sign: "= 0.344" or "< 0.001"
	PExact     ValueKind = "p_exact"      // in scientific notation where it is small
	Exact      ValueKind = "exact"        // scientific notation where it is small
	Said       ValueKind = "said"         // Message says it
	Range      ValueKind = "range"        // percents from Number to Upper, 2 decimals
	Measure    ValueKind = "measure"      // a number in its own units: six digits, no exponent where it can be read without
	Rounded    ValueKind = "rounded"      // one that was computed: two decimals, more where fewer than three digits would count
	BothSides  ValueKind = "both_sides"   // ± a statistic
	Quoted     ValueKind = "quoted"       // text between the quotation marks of the language
	AnyOf      ValueKind = "any_of"       // the values of List, one or the other
	Listed     ValueKind = "listed"       // the values of List, one after the other
)

// Value is one value in a message or a table.
type Value struct {
	Kind   ValueKind
	Number float64
	Upper  float64 // of a range
	Log10  float64 // of a p-value
	Level  float64 // the level a p-value is compared with; its digits never hide on which side it is
	Text   string
	// Message is a message within the message.
	Message *Message
	// List holds the values of an enumeration.
	List []Value
}

// Text is words as they are.
func Text(s string) Value { return Value{Kind: Words, Text: s} }

// Quote is words between quotation marks.
func Quote(s string) Value { return Value{Kind: Quoted, Text: s} }

// Quotes are several of them, one or the other where kind is AnyOf.
func Quotes(kind ValueKind, list []string) Value {
	out := Value{Kind: kind}
	for _, s := range list {
		out.List = append(out.List, Quote(s))
	}
	return out
}

// Term is a message without values within a message.
func Term(id string) Value { return Value{Kind: Said, Message: &Message{ID: id}} }

// N is a whole number.
func N(n int64) Value { return Value{Kind: Count, Number: float64(n)} }

// Of is a number to be written by its kind.
func Of(k ValueKind, x float64) Value { return Value{Kind: k, Number: x} }

// P is a p-value that is compared with a level.
func P(k ValueKind, p prob.Prob, level float64) Value {
	return Value{Kind: k, Number: p.Value, Log10: p.Log10, Level: level}
}

// Values are those of a message by their names.
type Values = map[string]Value

// Message is one thing to say: the id of its text and the values in it.
type Message struct {
	ID     string
	Values Values
}

// Say makes a message.
func Say(id string, v Values) Message { return Message{ID: id, Values: v} }

// Saying is a message within another one.
func Saying(m Message) Value { return Value{Kind: Said, Message: &m} }

// Finite is nil for a number without bound, or that is none.
func Finite(x float64) *float64 {
	if math.IsInf(x, 0) || math.IsNaN(x) {
		return nil
	}
	return &x
}

// Precise is the message with what was computed at six digits instead of the few that are read, so that a
// working can be followed by hand.
func (m Message) Precise() Message {
	if m.Values == nil {
		return m
	}
	out := Message{ID: m.ID, Values: Values{}}
	for name, v := range m.Values {
		out.Values[name] = v.precise()
	}
	return out
}

func (v Value) precise() Value {
	if v.Kind == Rounded {
		v.Kind = Measure
	}
	if v.Message != nil {
		m := v.Message.Precise()
		v.Message = &m
	}
	list := v.List
	v.List = nil
	for _, one := range list {
		v.List = append(v.List, one.precise())
	}
	return v
}
