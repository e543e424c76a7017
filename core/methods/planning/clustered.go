package planning

import (
	"math"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/plan"
)

// Clustered says by how much a planned sample is less certain than a simple random one: by a design
// effect, or by clusters. Blank, it is one.
type Clustered struct {
	Effect  *analysis.Number `json:"effect,omitempty"`
	Cluster *analysis.Number `json:"cluster,omitempty"`
	// ICC is the intra-cluster correlation.
	ICC *analysis.Number `json:"icc,omitempty"`
}

// clusterInputs are those of every plan.
var clusterInputs = []analysis.Input{
	{Name: "effect", Kind: analysis.TextInput, MaxLength: 20},
	{Name: "cluster", Kind: analysis.TextInput, MaxLength: 20},
	{Name: "icc", Kind: analysis.TextInput, MaxLength: 20},
}

func (c Clustered) design() plan.Design {
	return plan.Design{Effect: (*float64)(c.Effect), ClusterSize: (*float64)(c.Cluster), Correlation: (*float64)(c.ICC)}
}

func (c Clustered) checkDesign() []analysis.Problem {
	refused := func(code, at string) []analysis.Problem {
		return []analysis.Problem{{Code: "plan." + code, Pointer: "/settings/" + at}}
	}
	switch {
	case c.Effect != nil && (c.Cluster != nil || c.ICC != nil):
		return refused("either_effect", "effect")
	case c.Effect != nil && !(*c.Effect > 0 && *c.Effect <= 1000):
		return refused("effect", "effect")
	case (c.Cluster == nil) != (c.ICC == nil):
		return refused("cluster_and_icc", "cluster")
	case c.Cluster != nil && !(*c.Cluster >= 1):
		return refused("cluster", "cluster")
	case c.ICC != nil && !(math.Abs(float64(*c.ICC)) <= 1 && 1+(*c.Cluster-1)**c.ICC > 0 && 1+(*c.Cluster-1)**c.ICC <= 1000):
		return refused("icc", "icc")
	}
	return nil
}

// told adds what a design effect does to a plan of n respondents.
func told(facts []document.Fact, notes *claim.NotesOf, n int64, effect float64) []document.Fact {
	if effect == 1 {
		return facts
	}
	notes.Add(document.Sentence, "plan.effect", nil)
	return append(facts,
		claim.Fact("design_effect", "design_effect", nil, claim.Plain(document.Of(document.Effect, effect))),
		claim.Fact("effective_n", "effective_n", nil, claim.Plain(document.Of(document.Amount, float64(n)/effect))),
	)
}
