package infer

import (
	"sort"

	"widetally/core/exact"
)

// Condition is something a method asks of the numbers, counted.
type Condition struct {
	Name   ConditionName
	Met    bool
	Found  float64
	Needed float64
}

// ConditionName names a condition.
type ConditionName string

// The conditions.
const (
	// LowShareAtMost: percent of cells with an expected count below LowExpected.
	LowShareAtMost ConditionName = "percent_of_low_expected_at_most"
	// SmallestAtLeast: the smallest expected count.
	SmallestAtLeast ConditionName = "smallest_expected_at_least"
	// NoLowCell: the number of cells with an expected count below LowExpected.
	NoLowCell ConditionName = "low_expected_at_most"
	// ExpectedYesAtLeast and ExpectedNoAtLeast: n·p0 and n·(1 − p0).
	ExpectedYesAtLeast ConditionName = "expected_yes_at_least"
	ExpectedNoAtLeast  ConditionName = "expected_no_at_least"
	// CountAtLeast: the smallest of the counts of yes and no in the groups.
	CountAtLeast ConditionName = "smallest_count_at_least"
	// ChangedAtLeast: how many of those asked twice gave another answer.
	ChangedAtLeast ConditionName = "changed_at_least"
	// GroupAtLeast: the size of the smallest group.
	GroupAtLeast ConditionName = "smallest_group_at_least"
	// ManyForSkewness: 25 times the squared skewness of the numbers, the number from which on
	// the mean of skewed numbers is nearly normal (Cochran 1977, Sampling Techniques, section 2.15).
	ManyForSkewness ConditionName = "numbers_for_their_skewness"
	// EqualSharesServe: n²/answers for nearly equal shares, beside Cochran's rule.
	EqualSharesServe ConditionName = "n_squared_per_answer_at_least"
	// RoomAtLeast: over the layers, how far the sum of the first cells could go from its
	// expectation to either side (Mantel and Fleiss 1980, Minimum expected cell size
	// requirements for the Mantel–Haenszel one-degree-of-freedom chi-square test).
	RoomAtLeast ConditionName = "room_of_first_cells_at_least"
)

func atLeast(name ConditionName, found, needed float64) Condition {
	return Condition{name, found >= needed, found, needed}
}

// expectedBoth are the conditions of the normal approximation of a share p among n.
func expectedBoth(n, p float64) []Condition {
	return []Condition{atLeast(ExpectedYesAtLeast, n*p, LowExpected), atLeast(ExpectedNoAtLeast, n*(1-p), LowExpected)}
}

func atMost(name ConditionName, found, needed float64) Condition {
	return Condition{name, found <= needed, found, needed}
}

// CochranPercent and CochranSmallest are Cochran's rule (1954, Some methods for
// strengthening the common χ² tests): at most a fifth of the cells with an expected
// count below 5, none below 1.
const (
	CochranPercent  = 20
	CochranSmallest = 1
)

// LowExpectedCounts counts the low expected counts of a test.
type LowExpectedCounts struct {
	CellsInTest      int
	LowCells         int     // with an expected count below LowExpected
	LowPercent       float64 // 0–100
	SmallestExpected float64
}

func (t *LowExpectedCounts) add(expected float64) (low bool) {
	if t.CellsInTest == 0 || expected < t.SmallestExpected {
		t.SmallestExpected = expected
	}
	t.CellsInTest++
	if low = expected < LowExpected; low {
		t.LowCells++
	}
	t.LowPercent = 100 * float64(t.LowCells) / float64(t.CellsInTest)
	return low
}

func (t LowExpectedCounts) conditions() []Condition {
	return []Condition{
		atMost(NoLowCell, float64(t.LowCells), 0),
		atMost(LowShareAtMost, t.LowPercent, CochranPercent),
		atLeast(SmallestAtLeast, t.SmallestExpected, CochranSmallest),
	}
}

// Advice is what to rest the conclusion on, with its reason.
type Advice struct {
	Use     Approach
	Because Reason
	// Merge lists, by position, answers (columns) which merged into one would leave no
	// expected count below 5; empty where nothing is to be merged or would help.
	// Whether they belong together in meaning is for the researcher to say.
	Merge []int
}

// Approach is a way to a p-value.
type Approach string

// The approaches.
const (
	ChiSquareSafe       Approach = "chi_square"
	ChiSquareAcceptable Approach = "chi_square_acceptable"
	UseExact            Approach = "exact"
	UseSimulation       Approach = "simulation"
)

// The reasons of an advice.
const (
	BecauseNoLowCell    Reason = "no_low_expected"
	BecauseWithinRule   Reason = "within_cochrans_rule"
	BecauseEqualShares  Reason = "nearly_equal_shares"
	BecauseManyLow      Reason = "too_many_low_expected"
	BecauseOneTooSmall  Reason = "an_expected_count_below_one"
	BecauseExactTooLong Reason = "exact_may_take_long"
)

// advise recommends by Cochran's rule. exactInReach says whether an exact test of this
// size is a matter of seconds; columnExpected gives the smallest expected count of each
// answer.
func (t LowExpectedCounts) advise(exactInReach bool, columnExpected []float64) Advice {
	a := Advice{}
	switch {
	case t.LowCells == 0:
		return Advice{Use: ChiSquareSafe, Because: BecauseNoLowCell}
	case t.LowPercent <= CochranPercent && t.SmallestExpected >= CochranSmallest:
		return Advice{Use: ChiSquareAcceptable, Because: BecauseWithinRule}
	case !exactInReach:
		a.Use, a.Because = UseSimulation, BecauseExactTooLong
	case t.SmallestExpected < CochranSmallest:
		a.Use, a.Because = UseExact, BecauseOneTooSmall
	default:
		a.Use, a.Because = UseExact, BecauseManyLow
	}
	a.Merge = merge(columnExpected)
	return a
}

// merge returns the answers with the smallest expected counts that together reach
// LowExpected, so that none below it is left over; nil when that would leave fewer
// than two answers.
func merge(expected []float64) []int {
	order := make([]int, len(expected))
	for i := range order {
		order[i] = i
	}
	sort.SliceStable(order, func(a, b int) bool { return expected[order[a]] < expected[order[b]] })
	sum := 0.0
	for k, i := range order {
		if sum += expected[i]; sum >= LowExpected && (k+1 == len(order) || expected[order[k+1]] >= LowExpected) {
			if k == 0 || len(order)-k < 2 {
				return nil
			}
			merged := append([]int(nil), order[:k+1]...)
			sort.Ints(merged)
			return merged
		}
	}
	return nil
}

// multinomialInReach and tableInReach guess whether an exact test takes seconds. The
// test itself decides by counting its steps.
func multinomialInReach(n int64, answers int) bool {
	return exact.MultinomialSteps(n, answers) <= 200_000_000
}

// reachLog10 is the logarithm of the number of tables up to which the exact test took
// seconds in every shape tried: the work grows more slowly, but not in one way for all.
const reachLog10 = 10

func tableInReach(rows, columns []int64) bool {
	n := int64(0)
	for _, r := range rows {
		n += r
	}
	return n <= exact.MaxTableTotal && max(len(rows), len(columns)) <= exact.MaxTableSide &&
		exact.EstimateTables(rows, columns) <= reachLog10
}
