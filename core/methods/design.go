package methods

import (
	"slices"
)

// With is what a question is to be compared with, which settles the design: the same people or
// others, known figures or uncertain ones.
type With string

// What a question can be compared with.
const (
	WithShares   With = "shares"   // expected or published shares of all its answers
	WithShare    With = "share"    // a claimed share of some of its answers
	WithSample   With = "sample"   // the counts of another sample
	WithAgain    With = "again"    // the same question, asked the same people again
	WithQuestion With = "question" // another question
	WithGroups   With = "groups"   // its own answers in two groups of different people
	WithMean     With = "mean"     // a claimed mean
	WithItself   With = "itself"   // its answers with each other, of a choose-all question
)

// Withs lists them in the order in which they are offered.
var Withs = []With{WithShares, WithShare, WithSample, WithGroups, WithQuestion, WithAgain, WithMean, WithItself}

// Aim is what is to be shown.
type Aim string

// The aims.
const (
	AimDifference Aim = "difference"
	AimAgreement  Aim = "agreement" // that it is near enough
)

// Aims lists them in the order in which they are offered.
var Aims = []Aim{AimDifference, AimAgreement}

// Proposal is the method that serves a design; the reason is in the catalogue under design.why
// and the method's texts.
type Proposal struct {
	With   With   `json:"with"`
	Aim    Aim    `json:"aim"`
	Method string `json:"method"`
}

// Proposals lists the methods that serve each design, the one that uses most of what is known
// first: of those that can be asked of a question the first is proposed.
var Proposals = []Proposal{
	{WithShares, AimDifference, "goodness-of-fit"}, {WithShares, AimAgreement, "equivalence/distribution"},
	{WithShare, AimDifference, "one-proportion"}, {WithShare, AimAgreement, "equivalence/share"},
	{WithSample, AimDifference, "homogeneity"},
	{
		WithGroups,
		AimDifference,
		"two-proportions",
	}, {WithGroups, AimDifference, "means"}, {WithGroups, AimAgreement, "equivalence/two-shares"},
	{WithQuestion, AimDifference, "ordered"}, {WithQuestion, AimDifference, "crosstab"},
	{WithAgain, AimDifference, "paired"},
	{WithMean, AimDifference, "one-mean"},
	{WithItself, AimDifference, "cochran-q"},
}

// Proposed are the proposals for a question of which these methods can be asked, one for each
// design.
func Proposed(asks []string) (out []Proposal) {
	for _, p := range Proposals {
		if slices.Contains(asks, p.Method) &&
			!slices.ContainsFunc(out, func(o Proposal) bool { return o.With == p.With && o.Aim == p.Aim }) {
			out = append(out, p)
		}
	}
	return out
}
