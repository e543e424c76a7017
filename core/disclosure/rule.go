// Package disclosure keeps what leaves a study from telling of single respondents: the rule that says what may be
// told, and which further figures must be left out so that those that are left out cannot be had by
// subtraction.
package disclosure

import (
	"slices"

	"widetally/core/analysis"
	"widetally/core/document"
)

// Rule is what may be told of a study wherever something leaves it. The zero value allows everything.
type Rule struct {
	// Least is the number of respondents below which nothing is told of a base.
	Least int64 `json:"least,omitempty"`
	// Fewest is the smallest count above 0 that is told; 0 and 1 allow any.
	Fewest int64 `json:"fewest,omitempty"`
	// Rounding is the base to which counts are rounded, and percents made of these; 0 for none.
	Rounding int64 `json:"rounding,omitempty"`
	// PercentsOnly tells no counts but those of bases.
	PercentsOnly bool `json:"percentsOnly,omitempty"`
	// CodeEnds tells the lowest and the highest values of a number together where single ones are below Fewest.
	CodeEnds bool `json:"codeEnds,omitempty"`
}

// Roundings are the bases to which counts can be rounded.
var Roundings = []int64{0, 3, 5, 10}

// most bounds the limits of a rule.
const most = 10_000

// InForce reports whether the rule keeps anything back.
func (r Rule) InForce() bool { return r != Rule{} }

// Check lists what is wrong with a rule.
func (r Rule) Check() (out []analysis.Problem) {
	one := func(is bool, member string) {
		if !is {
			out = append(out, analysis.Problem{Code: "disclosure." + member, Pointer: "/" + member})
		}
	}
	one(r.Least >= 0 && r.Least <= most, "least")
	one(r.Fewest >= 0 && r.Fewest <= most, "fewest")
	one(slices.Contains(Roundings, r.Rounding), "rounding")
	return out
}

// Width is how wide the range is at least to which a count that is left out can be told.
func (r Rule) Width() int64 { return max(r.Fewest, 2) }

// Rounded is a count as it is told: the nearest multiple of the base, half of it upwards.
func (r Rule) Rounded(n int64) int64 {
	if r.Rounding < 2 {
		return n
	}
	return (2*n + r.Rounding) / (2 * r.Rounding) * r.Rounding
}

// Percent is a percent as it is told, made of rounded counts where these are rounded; false where the rounded base
// is 0.
func (r Rule) Percent(part, whole int64, exact float64) (float64, bool) {
	if r.Rounding < 2 {
		return exact, true
	}
	base := r.Rounded(whole)
	if base == 0 {
		return 0, false
	}
	return min(100, 100*float64(r.Rounded(part))/float64(base)), true
}

// Middle reports whether a median of so many respondents is told: as many lie on either side of it as are told of.
func (r Rule) Middle(n int64) bool { return n >= 2*r.Least }

// Quantile reports whether a figure of so many respondents is told by its name: a median as Middle has it, a quartile
// of twice as many; anything else is.
func (r Rule) Quantile(name string, n int64) bool {
	switch name {
	case "median":
		return r.Middle(n)
	case "q1", "q3":
		return n >= 4*r.Least
	}
	return true
}

// Said tells the rule in sentences.
func (r Rule) Said() []document.Message { return r.told("disclosure.rule.fewest") }

// Signs tells what the rule does to a table of a book, in sentences.
func (r Rule) Signs() []document.Message { return r.told("disclosure.fewest") }

func (r Rule) told(fewest string) (out []document.Message) {
	if r.Fewest > 1 {
		out = append(out, document.Say(fewest, document.Values{"fewest": document.N(r.Fewest)}))
	}
	if r.Least > 1 {
		out = append(out, document.Say("disclosure.least", document.Values{"least": document.N(r.Least)}))
	}
	if r.Rounding > 1 {
		out = append(out, document.Say("disclosure.rounding", document.Values{"base": document.N(r.Rounding)}))
	}
	if r.PercentsOnly {
		out = append(out, document.Say("disclosure.percents_only", nil))
	}
	if r.CodeEnds && r.Fewest > 1 {
		out = append(out, document.Say("disclosure.code_ends", document.Values{"fewest": document.N(r.Fewest)}))
	}
	return out
}
