package numericbygroup

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/methods/numericcomparison"
)

// RunDesigned implements analysis.Designed: the groups, and all in them together last.
func (*Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	var out []*numericcomparison.Estimate
	for i := range len(c.Questions[1].Proper()) + 1 {
		part := c.Drawing.All()
		if i < len(c.Questions[1].Proper()) {
			part = c.Drawing.Part(i)
		}
		e, err := numericcomparison.EstimateOf(c.Drawing.Sample, part)
		if err != nil {
			return nil, err
		}
		out = append(out, e)
	}
	return &analysis.Outcome{Result: out}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.Claim(o.Counted.Questions, about).Estimated(o.Result.([]*numericcomparison.Estimate), o.Counted.Sampled)
}
