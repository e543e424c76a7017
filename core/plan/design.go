package plan

import "widetally/core/infer"

// EffectRange is the reason for a design that cannot be: an effect of 0 or less or beyond 1000, clusters
// of less than one member, a correlation outside of −1 to 1, or both an effect and clusters.
const EffectRange infer.Reason = "design_effect_range"

// Design says how many times the variance of a planned sample is that of a simple random sample. Without
// any member it is once.
type Design struct {
	// Effect is the design effect.
	Effect *float64 `json:"designEffect,omitempty"`
	// ClusterSize and Correlation give it in its place: of clusters of m members that are drawn whole, or
	// of which m are asked, with the intra-cluster correlation ρ it is 1 + (m − 1)ρ (Kish 1965).
	ClusterSize *float64 `json:"clusterSize,omitempty"`
	Correlation *float64 `json:"intraClusterCorrelation,omitempty"`
}

// effect is the design effect.
func (d Design) effect() (float64, error) {
	switch {
	case d.Effect == nil && d.ClusterSize == nil && d.Correlation == nil:
		return 1, nil
	case d.Effect != nil && d.ClusterSize == nil && d.Correlation == nil:
		if *d.Effect > 0 && *d.Effect <= 1000 {
			return *d.Effect, nil
		}
	case d.Effect == nil && d.ClusterSize != nil && d.Correlation != nil:
		m, rho := *d.ClusterSize, *d.Correlation
		if effect := 1 + (m-1)*rho; m >= 1 && rho >= -1 && rho <= 1 && effect > 0 && effect <= 1000 {
			return effect, nil
		}
	}
	return 0, fail(EffectRange)
}
