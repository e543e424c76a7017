// Package methods lists the methods. Each is a package of its own below: its request and figures,
// its settings, what may be said of its result.
package methods

import (
	"slices"

	"widetally/core/analysis"
	"widetally/core/methods/adjust"
	"widetally/core/methods/battery"
	"widetally/core/methods/cochranq"
	"widetally/core/methods/crosstab"
	"widetally/core/methods/crosstabs"
	"widetally/core/methods/designed"
	"widetally/core/methods/dissimilarity"
	"widetally/core/methods/distribution"
	"widetally/core/methods/equivalence"
	"widetally/core/methods/frequencies"
	"widetally/core/methods/frequency"
	"widetally/core/methods/goodnessoffit"
	"widetally/core/methods/homogeneity"
	"widetally/core/methods/mantelhaenszel"
	"widetally/core/methods/means"
	"widetally/core/methods/multipleresponse"
	"widetally/core/methods/multipleresponsebygroup"
	"widetally/core/methods/numericbygroup"
	"widetally/core/methods/numericcomparison"
	"widetally/core/methods/numericsummary"
	"widetally/core/methods/onemean"
	"widetally/core/methods/oneproportion"
	"widetally/core/methods/ordered"
	"widetally/core/methods/orderedsummary"
	"widetally/core/methods/paired"
	"widetally/core/methods/planning"
	"widetally/core/methods/printedresult"
	"widetally/core/methods/simultaneousintervals"
	"widetally/core/methods/trend"
	"widetally/core/methods/twoproportions"
	"widetally/core/methods/whatdiffers"
)

//go:generate go run ../../internal/describe -root ../.. -out ../../api/compute_gen.json -formats ../../docs/formats

// All is a registry of every method, in the order of the description.
func All() *analysis.Registry {
	return analysis.NewRegistry(slices.Concat([]analysis.Method{
		goodnessoffit.Method,
		homogeneity.Method,
		equivalence.Share,
		equivalence.TwoShares,
		equivalence.Distribution,
		oneproportion.Method,
		twoproportions.Method,
		onemean.Method,
		means.Method,
		crosstab.Method,
		dissimilarity.Method,
		ordered.Method,
		mantelhaenszel.Method,
		paired.Method,
		cochranq.Method,
		simultaneousintervals.Method,
		multipleresponse.Method,
		multipleresponsebygroup.Method,
		battery.Method,
		frequency.Method,
		frequencies.Method,
		crosstabs.Method,
		orderedsummary.Method,
		adjust.Method,
		printedresult.Method,
		planning.ChiSquare,
		planning.Margin,
		planning.OneProportion,
		planning.TwoProportions,
		distribution.Method,
		numericsummary.Method,
		numericsummary.Grouped,
		numericcomparison.Method,
		numericbygroup.Method,
		trend.Method,
		whatdiffers.Method,
	}, designed.All)...)
}
