package analysis

import (
	"math/big"
	"slices"
	"strings"

	"widetally/core/claim"
	"widetally/core/design"
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
