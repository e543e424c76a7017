package designed

import "widetally/core/analysis"

// All are the methods of designed samples and of weighting, in the order of the description.
var All = []analysis.Method{
	Shares, OneShare, Fit, Table, TwoShares, TwoMeans, Paired, Waves, Mean, Ratio, Quantile, Trend,
	ReplicateShares, ReplicateMean, Kish, Rake, Poststratify,
}
