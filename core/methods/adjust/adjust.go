// Package adjust adjusts the p-values of claims that are looked at together.
package adjust

import (
	"context"

	"widetally/core/analysis"
	"widetally/core/infer"
)

// Request is p-values looked at together.
type Request struct {
	P []analysis.Probability `json:"p"`
}

// Method is the method; it is asked of figures only.
var Method = analysis.Figures("adjust", "Many claims at once: Bonferroni, Holm, Benjamini and Hochberg", nil, Request{},
	func(_ context.Context, in *Request) (*infer.Adjusted, error) {
		p, ok := analysis.ReadAll(in.P)
		if ok >= 0 {
			return nil, analysis.RefuseInput("adjustment", infer.ProbabilityRange, ok)
		}
		return infer.Adjust(p)
	})
