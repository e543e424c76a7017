package docs_test

import (
	"context"
	"fmt"
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"widetally/core/infer"
	"widetally/core/plan"
	"widetally/core/printed"
	"widetally/core/prob"
	"widetally/core/tally"
)

var (
	yesNo   = []string{"1", "0"}
	tenures = []string{"1", "2", "3", "4"}
	scale   = []string{"1", "2", "3", "4", "5"}
	reasons = []string{"reason_smell", "reason_time", "reason_space", "reason_no_garden", "reason_flies"}
	// register is what the borough register says of the four tenures.
	register = []*big.Rat{big.NewRat(58, 100), big.NewRat(21, 100), big.NewRat(185, 1000), big.NewRat(25, 1000)}
)

// must unwraps a result; the inputs of examples are valid.
func must[T any](t *testing.T) func(v T, err error) T {
	return func(v T, err error) T {
		require.NoError(t, err)
		return v
	}
}

func value(v float64) *float64 { return &v }
func whole(v int64) *int64     { return &v }

func interval(i *infer.Interval) string {
	if i == nil {
		return "no interval"
	}
	return num(i.Lower) + " … " + num(i.Upper)
}

// effects lists measures, one line each.
func effects(all []infer.Effect) string {
	var b strings.Builder
	b.WriteString("\n| measure | value | interval | by |\n|---|---|---|---|\n")
	for _, e := range all {
		by := string(e.Method)
		if e.Interval == nil {
			by = string(e.Why)
		}
		fmt.Fprintf(&b, "| %s | %s | %s | %s |\n", plainName(string(e.Name)), opt(e.Value), interval(e.Interval), plainName(by))
	}
	return b.String()
}

func plainName(code string) string { return strings.ReplaceAll(code, "_", " ") }

func conditions(all []infer.Condition) string {
	var out []string
	for _, c := range all {
		met := "met"
		if !c.Met {
			met = "not met"
		}
		out = append(out, fmt.Sprintf("%s %s: %s, %s", plainName(string(c.Name)), num(c.Needed), num(c.Found), met))
	}
	return strings.Join(out, "; ")
}

func tails(t infer.Tails) string {
	return fmt.Sprintf("less %s, greater %s, two-sided %s", pr(t.Less), pr(t.Greater), pr(t.TwoSided))
}

var examples = map[string]func(t *testing.T, f fernmouth) string{
	"goodness-of-fit": func(t *testing.T, f fernmouth) string {
		in := infer.GoodnessOfFitInput{Observed: f.counts("tenure", tenures...), Shares: register, Level: 0.05}
		r := must[*infer.GoodnessOfFit](t)(infer.ComputeGoodnessOfFit(in))
		e := must[*infer.ExactTest](t)(infer.ComputeExactGoodnessOfFit(context.Background(), in, infer.ExactOptions{}))
		s := must[*infer.ExactTest](t)(infer.ComputeExactGoodnessOfFit(context.Background(), in, infer.ExactOptions{Way: infer.SimulatedOnly, Replicates: 10_000, Seed: 1}))
		var b strings.Builder
		fmt.Fprintf(&b, "Of %d households, %s own, rent privately, rent from the borough or live otherwise; the register says 58, 21, 18.5 and 2.5 %%.\n", r.N, list(in.Observed))
		b.WriteString("\n| observed | expected | contribution | Pearson residual | adjusted residual | p after Holm |\n|---|---|---|---|---|---|\n")
		for _, row := range r.Rows {
			fmt.Fprintf(&b, "| %d | %s | %s | %s | %s | %s |\n", row.Observed, num(row.Expected), num(row.Contribution), num(row.Pearson), num(row.Adjusted), pr(*row.HolmP))
		}
		fmt.Fprintf(&b, "\nX² = %s, df %d, p = %s; G² = %s, p = %s. Exact p = %s over %.0f outcomes; simulated with 10,000 replicates and seed 1: %s, between %s and %s.\n",
			num(r.Statistic), r.DF, pr(r.P), num(r.G), pr(r.GP), pr(e.Exact.P), e.Exact.Outcomes, pr(s.Simulated.ByProbability.P), num(s.Simulated.ByProbability.Lower), num(s.Simulated.ByProbability.Upper))
		b.WriteString(effects(r.Effects))
		fmt.Fprintf(&b, "\nLargest w %s; w found four times in five %s. Conditions: %s.\n", num(r.LargestW), num(r.DetectableW), conditions(r.Conditions))
		return b.String()
	},
	"advice": func(t *testing.T, f fernmouth) string {
		r := must[*infer.GoodnessOfFit](t)(infer.ComputeGoodnessOfFit(infer.GoodnessOfFitInput{Observed: f.where("ward", "Fenside").counts("tenure", tenures...), Shares: register, Level: 0.05}))
		var merge []string
		for _, i := range r.Advice.Merge {
			merge = append(merge, []string{"own", "rent privately", "rent from the borough", "otherwise"}[i])
		}
		return fmt.Sprintf("The %d households of Fenside: %s. Advice: %s, because %s; merged, no cell would be thin: %s.\n",
			r.N, conditions(r.Conditions), plainName(string(r.Advice.Use)), plainName(string(r.Advice.Because)), strings.Join(merge, " and "))
	},
	"exact-table": func(t *testing.T, f fernmouth) string {
		table := f.where("age_band", "75+").table("tenure", tenures, "prefers", []string{"Weekly", "Every two weeks", "On call"})
		e := must[*infer.ExactTest](t)(infer.ComputeExactIndependence(context.Background(), table, 0.05, infer.ExactOptions{}))
		r := must[*infer.Independence](t)(infer.ComputeIndependence(table, 0.05))
		return fmt.Sprintf("Tenure by preferred rhythm among households aged 75 and over, %s (n = %d): %.4g tables share the margins; exact p = %s, X² = %s with p = %s. Conditions of the latter: %s. Advice: %s, because %s.\n",
			matrix(table), r.N, e.Exact.Outcomes, pr(e.Exact.P), num(r.Statistic), pr(r.P), conditions(r.Conditions), plainName(string(r.Advice.Use)), plainName(string(r.Advice.Because)))
	},
	"independence": func(t *testing.T, f fernmouth) string {
		table := f.table("dwelling", []string{"Flat", "Terraced house", "Semi-detached house", "Detached house"}, "prefers", []string{"Weekly", "Every two weeks", "On call"})
		r := must[*infer.Independence](t)(infer.ComputeIndependence(table, 0.05))
		return fmt.Sprintf("Dwelling by preferred rhythm, %s: X² = %s, df %d, p = %s; G² = %s, p = %s. Furthest from independence in the first row: adjusted residuals %s, %s and %s.\n",
			matrix(table), num(r.Statistic), r.DF, pr(r.P), num(r.G), pr(r.GP), num(r.Cells[0][0].Adjusted), num(r.Cells[0][1].Adjusted), num(r.Cells[0][2].Adjusted)) + effects(r.Effects)
	},
	"two-by-two": func(t *testing.T, f fernmouth) string {
		table := f.two("leaflet", []string{"Read it", "Never saw it"}, "caddy_after", yesNo)
		r := must[*infer.TwoByTwo](t)(infer.ComputeTwoByTwo(table, 0.95))
		return fmt.Sprintf("Uses a caddy among those who read the leaflet and those who never saw it: %s. Yates %s, p = %s; Fisher: %s.\n",
			matrix([][]int64{table[0][:], table[1][:]}), num(r.Yates), pr(r.YatesP), tails(r.Fisher.Tails)) + effects(r.Effects)
	},
	"ordered": func(t *testing.T, f fernmouth) string {
		table := f.table("leaflet", []string{"Never saw it", "Saw it, did not read it", "Read it"}, "satisfaction", scale)
		r := must[*infer.Ordered](t)(infer.ComputeOrdered(infer.OrderedInput{Table: table, Level: 0.05}))
		two := must[*infer.Ordered](t)(infer.ComputeOrdered(infer.OrderedInput{Table: f.table("garden", []string{"0", "1"}, "satisfaction", scale), Level: 0.05}))
		p := two.Ranks.Pair
		return fmt.Sprintf("Leaflet (never saw, saw, read) by satisfaction 1–5, %s: trend M² = %s, p = %s (r = %s); Kruskal and Wallis H = %s, df %d, p = %s, ε² = %s. "+
			"Satisfaction without and with a garden: U = %s of mean %s, z = %s, p = %s; Cochran and Armitage z = %s; chance of standing higher %s (%s).\n",
			matrix(table), num(r.Trend.Statistic), pr(r.Trend.P), num(r.Trend.Correlation), num(r.Ranks.H), r.Ranks.DF, pr(r.Ranks.P), num(r.Ranks.EpsilonSquared),
			num(p.U), num(p.Mean), num(p.Z), pr(p.Tails.TwoSided), num(two.Proportions.Z), opt(p.Superiority.Value), interval(p.Superiority.Interval)) + effects(r.Effects)
	},
	"layers": func(t *testing.T, f fernmouth) string {
		var tables [][2][2]int64
		var shown []string
		for _, d := range []string{"Flat", "Terraced house", "Semi-detached house", "Detached house"} {
			table := f.where("dwelling", d).two("leaflet", []string{"Read it", "Never saw it"}, "caddy_after", yesNo)
			tables, shown = append(tables, table), append(shown, matrix([][]int64{table[0][:], table[1][:]}))
		}
		r := must[*infer.MantelHaenszel](t)(infer.ComputeMantelHaenszel(tables, 0.95))
		return fmt.Sprintf("Leaflet by caddy within the four dwellings, %s: X² = %s, p = %s (corrected %s, p = %s); common odds ratio %s (%s); Breslow and Day %s, df %d, p = %s; Tarone %s, p = %s.\n",
			strings.Join(shown, "; "), num(r.Statistic), pr(r.P), num(r.Corrected), pr(r.CorrectedP), opt(r.CommonOddsRatio), interval(r.Interval),
			num(r.Homogeneity.Statistic), r.Homogeneity.DF, pr(r.Homogeneity.P), num(r.Homogeneity.Tarone), pr(r.Homogeneity.TaroneP))
	},
	"paired": func(t *testing.T, f fernmouth) string {
		table := f.two("caddy_before", yesNo, "caddy_after", yesNo)
		r := must[*infer.PairedTwoByTwo](t)(infer.ComputePaired(table))
		square := f.table("satisfaction", scale, "crew", scale)
		a := must[*infer.Agreement](t)(infer.ComputeAgreement(square, 0.95))
		return fmt.Sprintf("Caddy before and after the leaflet, %s: McNemar %s, p = %s; corrected %s, p = %s; exact p = %s, mid-p %s.\n\n"+
			"Satisfaction with the service by satisfaction with the crew, %s: Bowker %s, df %d, p = %s; Stuart and Maxwell %s, df %d, p = %s; "+
			"kappa %s (%s), linear weights %s (%s), quadratic %s (%s).\n",
			matrix([][]int64{table[0][:], table[1][:]}), num(r.Statistic), pr(r.P), num(r.Corrected), pr(r.CorrectedP), pr(r.Exact), pr(r.MidP),
			matrix(square), num(a.Symmetry.Statistic), a.Symmetry.DF, pr(a.Symmetry.P), num(a.Margins.Statistic), a.Margins.DF, pr(a.Margins.P),
			num(a.Kappa.Value), interval(a.Kappa.Interval), num(a.KappaLinear.Value), interval(a.KappaLinear.Interval), num(a.KappaQuadratic.Value), interval(a.KappaQuadratic.Interval))
	},
	"cochran-q": func(t *testing.T, f fernmouth) string {
		var patterns []infer.ChosenPattern
		for _, row := range f {
			if row[reasons[0]] == "" {
				continue
			}
			p := infer.ChosenPattern{Count: 1}
			for _, item := range reasons {
				p.Chosen = append(p.Chosen, row[item] == "1")
			}
			patterns = append(patterns, p)
		}
		r := must[*infer.CochranQ](t)(infer.ComputeCochranQ(patterns, 0.05))
		return fmt.Sprintf("Reasons against a caddy (smell, time, space, no garden, flies), chosen by %s of %d households, of whom %d chose some and not others: Q = %s, df %d, p = %s.\n",
			list(r.Items), r.N, r.Bearing, num(r.Statistic), r.DF, pr(r.P))
	},
	"one-proportion": func(t *testing.T, f fernmouth) string {
		c := f.counts("caddy_after", yesNo...)
		r := must[*infer.Proportion](t)(infer.ComputeProportion(infer.ProportionInput{Successes: c[0], N: c[0] + c[1], Claimed: 0.6, Confidence: 0.95}))
		var b strings.Builder
		fmt.Fprintf(&b, "%d of %d use a caddy, against a target of 60 %%: z = %s; score p: %s; exact p: %s; with continuity correction z = %s, p = %s. h = %s (%s).\n\n| interval at 95 %% | lower | upper | one-sided lower | one-sided upper |\n|---|---|---|---|---|\n",
			r.Successes, r.N, num(r.Z), tails(r.Score), tails(r.Exact), num(r.ZCorrected), pr(r.ZCorrectedP), opt(r.CohensH.Value), interval(r.CohensH.Interval))
		for _, line := range []struct {
			name     string
			two, one infer.Interval
		}{{"Wald", r.Intervals.Wald, r.Bounds.Wald}, {"Agresti–Coull", r.Intervals.AgrestiCoull, r.Bounds.AgrestiCoull}, {"Wilson", r.Intervals.Wilson, r.Bounds.Wilson},
			{"Wilson, corrected", r.Intervals.WilsonCorrected, r.Bounds.WilsonCorrected}, {"Clopper–Pearson", r.Intervals.ClopperPearson, r.Bounds.ClopperPearson}, {"Jeffreys", r.Intervals.Jeffreys, r.Bounds.Jeffreys}} {
			fmt.Fprintf(&b, "| %s | %s | %s | %s | %s |\n", line.name, num(line.two.Lower), num(line.two.Upper), num(line.one.Lower), num(line.one.Upper))
		}
		return b.String()
	},
	"two-proportions": func(t *testing.T, f fernmouth) string {
		c := f.two("leaflet", []string{"Read it", "Never saw it"}, "caddy_after", yesNo)
		r := must[*infer.TwoProportions](t)(infer.ComputeTwoProportions(infer.TwoProportionsInput{Successes1: c[0][0], N1: c[0][0] + c[0][1], Successes2: c[1][0], N2: c[1][0] + c[1][1], Confidence: 0.95}))
		return fmt.Sprintf("Caddy users: %d of %d who read the leaflet, %d of %d who never saw it. Difference %s, Newcombe %s, Wald %s; z = %s, p: %s; exact: %s; ratio %s, odds ratio %s.\n",
			r.Successes1, r.N1, r.Successes2, r.N2, num(r.Difference), interval(&r.Newcombe), interval(&r.Wald), opt(r.Z), tails(*r.Tails), tails(r.Exact.Tails), opt(r.RelativeRisk), opt(r.OddsRatio))
	},
	"means": func(t *testing.T, f fernmouth) string {
		first, second := sizes(t, f.where("garden", "1")), sizes(t, f.where("garden", "0"))
		r := must[*infer.Means](t)(infer.ComputeMeans(infer.MeansInput{First: first, Second: &second, Confidence: 0.95}))
		one := must[*infer.Means](t)(infer.ComputeMeans(infer.MeansInput{First: first, Claimed: 2.3, Confidence: 0.95}))
		return fmt.Sprintf("Persons per household with a garden (n = %d, mean %s, SD %s) and without (n = %d, mean %s, SD %s): difference %s; Welch t = %s, df %s, p = %s, interval %s; pooled t = %s, df %s, p = %s; d = %s (%s). The former against 2.3: t = %s, p = %s.\n",
			first.N, num(first.Mean), num(first.SD), second.N, num(second.Mean), num(second.SD), num(r.Estimate), num(r.Student.Statistic), opt(r.Student.DF), pr(r.Student.Tails.TwoSided), interval(&r.Student.Interval),
			num(r.Pooled.Statistic), opt(r.Pooled.DF), pr(r.Pooled.Tails.TwoSided), opt(r.CohensD.Value), interval(r.CohensD.Interval), num(one.Student.Statistic), pr(one.Student.Tails.TwoSided))
	},
	"simultaneous": func(t *testing.T, f fernmouth) string {
		codes := []string{"Weekly", "Every two weeks", "On call"}
		r := must[*infer.Simultaneous](t)(infer.ComputeSimultaneous(f.counts("prefers", codes...), 0.95))
		var b strings.Builder
		fmt.Fprintf(&b, "Preferred rhythm, n = %d:\n\n| answer | share | Goodman | Quesenberry–Hurst | Sison–Glaz |\n|---|---|---|---|---|\n", r.N)
		for i, code := range codes {
			fmt.Fprintf(&b, "| %s | %s | %s | %s | %s |\n", code, num(r.Estimates[i]), interval(&r.Goodman[i]), interval(&r.QuesenberryHurst[i]), interval(&r.SisonGlaz.Intervals[i]))
		}
		return b.String()
	},
	"adjust": func(t *testing.T, f fernmouth) string {
		wards := []string{"Harbour", "Millbrook", "Oldgate", "Quarry Hill", "Saltings", "Fenside"}
		var p []prob.Prob
		for _, w := range wards {
			c := f.where("ward", w).counts("caddy_after", yesNo...)
			r := must[*infer.Proportion](t)(infer.ComputeProportion(infer.ProportionInput{Successes: c[0], N: c[0] + c[1], Claimed: 0.6, Confidence: 0.95}))
			p = append(p, r.Score.TwoSided)
		}
		r := must[*infer.Adjusted](t)(infer.Adjust(p))
		var b strings.Builder
		b.WriteString("Caddy users against 60 % in each ward:\n\n| ward | p | Bonferroni | Holm | Benjamini–Hochberg |\n|---|---|---|---|---|\n")
		for i, w := range wards {
			fmt.Fprintf(&b, "| %s | %s | %s | %s | %s |\n", w, pr(r.P[i]), pr(r.Bonferroni[i]), pr(r.Holm[i]), pr(r.BenjaminiHochberg[i]))
		}
		return b.String()
	},
	"homogeneity": func(t *testing.T, f fernmouth) string {
		r := must[*infer.Homogeneity](t)(infer.ComputeHomogeneity(f.counts("tenure", tenures...), []int64{232, 84, 74, 10}, 0.05))
		return fmt.Sprintf("Had the register's shares come from a sample of 400 (232, 84, 74, 10): homogeneity X² = %s, p = %s, beside X² = %s, p = %s as if they were known. Of the evidence %s remains; M/(n + M) = %s.\n",
			num(r.Test.Statistic), pr(r.Test.P), num(r.Known.Statistic), pr(r.Known.P), opt(r.Kept), num(r.KeptExpected))
	},
	"equivalence": func(t *testing.T, f fernmouth) string {
		c := f.counts("caddy_after", yesNo...)
		one := must[*infer.Equivalence](t)(infer.ComputeShareEquivalence(c[0], c[0]+c[1], 0.6, 0.05, 0.05))
		m := f.two("garden", yesNo, "caddy_after", yesNo)
		two := must[*infer.Equivalence](t)(infer.ComputeTwoSharesEquivalence(infer.TwoProportionsInput{Successes1: m[0][0], N1: m[0][0] + m[0][1], Successes2: m[1][0], N2: m[1][0] + m[1][1]}, 0.05, 0.05))
		all := must[*infer.DistributionEquivalence](t)(infer.ComputeDistributionEquivalence(infer.GoodnessOfFitInput{Observed: f.counts("tenure", tenures...), Shares: register, Level: 0.05}, 0.05))
		say := func(yes bool) string {
			if yes {
				return "near enough"
			}
			return "not shown to be near enough"
		}
		return fmt.Sprintf("Margin 5 points, α = 0.05. Caddy users against 60 %%: off by %s (%s), p = %s, exact %s: %s. With and without a garden: difference %s (%s), p = %s: %s. Tenure against the register: p = %s, exact %s: %s.\n",
			num(one.Estimate), interval(&one.Interval), pr(one.P), pr(*one.ExactP), say(one.Equivalent), num(two.Estimate), interval(&two.Interval), pr(two.P), say(two.Equivalent), pr(all.P), pr(all.ExactP), say(all.Equivalent))
	},
	"printed-result": func(t *testing.T, f fernmouth) string {
		var b strings.Builder
		b.WriteString("| printed | holds | p can be | slips that would explain it |\n|---|---|---|---|\n")
		for _, c := range []struct{ statistic, p string }{{"14.80", "0.002"}, {"14.80", "0.005"}, {"14.80", "0.998"}, {"14.80", "0.000"}, {"14.80", "0.03"}} {
			df := 3.0
			r := must[*printed.Result](t)(printed.Compute(printed.Input{Kind: printed.ChiSquare, Statistic: c.statistic, DF: &df, P: c.p}))
			var slips []string
			for _, s := range r.Slips {
				slips = append(slips, plainName(string(s.Name))+" "+num(s.Value))
			}
			fmt.Fprintf(&b, "| χ²(3) = %s, p = %s | %v | %s … %s | %s |\n", c.statistic, c.p, r.Holds, pr(r.PFrom), pr(r.PTo), strings.Join(slips, "; "))
		}
		return b.String()
	},
	"planning": func(t *testing.T, f fernmouth) string {
		need := must[*plan.ChiSquare](t)(plan.ComputeChiSquare(plan.ChiSquareInput{W: value(0.1), Power: value(0.8), DF: 3, Level: 0.05}))
		find := must[*plan.ChiSquare](t)(plan.ComputeChiSquare(plan.ChiSquareInput{N: whole(1240), Power: value(plan.FourInFive), DF: 3, Level: 0.05}))
		one := must[*plan.OneProportion](t)(plan.ComputeOneProportion(context.Background(), plan.OneProportionInput{Claimed: 0.6, True: value(0.65), Power: value(0.8), Level: 0.05}))
		two := must[*plan.TwoProportions](t)(plan.ComputeTwoProportions(context.Background(), plan.TwoProportionsInput{Share1: 0.6, Share2: value(0.75), Power: value(0.8), Level: 0.05}))
		margin := must[*plan.Margin](t)(plan.ComputeMargin(plan.MarginInput{Margin: value(0.03), Share: 0.5, Confidence: 0.95, Population: 9000}))
		return fmt.Sprintf("To find w = 0.1 with df 3 four times in five: n = %d, power %s (with one fewer %s). 1,240 households find w = %s. "+
			"A share of 65 %% against 60 %%: n = %d (unrounded %s), exact from %d on. 60 against 75 %%: n = %d per group, Fisher's test %d. "+
			"Margin of 3 points among 9,000 households: n = %d (unrounded %s, without the finite population %s).\n",
			need.N, num(need.Power), opt(need.PowerOneFewer), num(find.W), one.N, opt(one.NUnrounded), *one.ExactN, two.N1, *two.ExactN, margin.N, opt(margin.NFinite), opt(margin.NUnrounded))
	},
	"numeric-summary": func(t *testing.T, f fernmouth) string {
		var values []float64
		var counts []int64
		for size := 1; size <= 8; size++ {
			values, counts = append(values, float64(size)), append(counts, f.counts("household_size", fmt.Sprint(size))[0])
		}
		r := must[*tally.Summary](t)(tally.SummariseNumbers(tally.NumbersInput{Values: values, Counts: counts, Percents: []float64{10, 25, 50, 75, 90}, Confidence: 0.95}))
		g := must[*tally.Grouped](t)(tally.SummariseClasses([][2]float64{{0.5, 1.5}, {1.5, 2.5}, {2.5, 4.5}, {4.5, 8.5}}, []int64{counts[0], counts[1], counts[2] + counts[3], counts[4] + counts[5] + counts[6] + counts[7]}))
		return fmt.Sprintf("Persons per household, n = %d: mean %s (%s), median %s, mode %s, SD %s, percentiles 10, 25, 50, 75, 90 at 1 + (n − 1)p: %v, at (n + 1)p: %v. In classes 1, 2, 3–4, 5–8: mean %s, SD %s, median %s.\n",
			r.N, num(r.Mean), interval(r.MeanInterval), num(r.Median), num(r.Modes[0]), opt(r.SD), r.PercentilesAtNMinus1, r.PercentilesAtNPlus1, num(g.Mean), opt(g.SD), num(g.Median))
	},
	"digits": digits,
	"edges":  edges,
}

// sizes summarises the known household sizes.
func sizes(t *testing.T, f fernmouth) infer.Sample {
	var values []float64
	var counts []int64
	for size := 1; size <= 8; size++ {
		values, counts = append(values, float64(size)), append(counts, f.counts("household_size", fmt.Sprint(size))[0])
	}
	r := must[*tally.Summary](t)(tally.SummariseNumbers(tally.NumbersInput{Values: values, Counts: counts, Confidence: 0.95}))
	return infer.Sample{N: r.N, Mean: r.Mean, SD: *r.SD}
}
