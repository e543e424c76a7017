package infer

import "fmt"

// Reason says why a method cannot give a number; the texts are in the catalogue
// under the same name.
type Reason string

// The reasons for which an input is refused or a figure stays empty.
const (
	NoObservations       Reason = "no_observations"
	OneAnswer            Reason = "one_answer"
	NegativeCount        Reason = "negative_count"
	CountTooLarge        Reason = "count_too_large"
	SharesLength         Reason = "shares_length"
	NegativeShare        Reason = "negative_share"
	SharesSum            Reason = "shares_sum"
	LevelRange           Reason = "level_range"
	ChosenButShareZero   Reason = "chosen_but_share_zero"
	OneAnswerAfterZeros  Reason = "one_answer_after_zeros"
	MoreYesThanAsked     Reason = "more_yes_than_asked"
	ClaimedRange         Reason = "claimed_range"
	RaggedTable          Reason = "ragged_table"
	OneRowOrColumn       Reason = "one_row_or_column"
	NotSquare            Reason = "not_square"
	NoDegreesOfFreedom   Reason = "no_degrees_of_freedom"
	NoVariation          Reason = "no_variation"
	NobodyChanged        Reason = "nobody_changed"
	Perfect              Reason = "perfect_agreement_by_chance"
	ScoresLength         Reason = "scores_length"
	ScoresEqual          Reason = "scores_equal"
	ScoresNotFinite      Reason = "scores_not_finite"
	MarginRange          Reason = "margin_range"
	SDNegative           Reason = "sd_negative"
	SigmaNotPositive     Reason = "sigma_not_positive"
	NotFinite            Reason = "not_finite"
	TooFewForSD          Reason = "too_few_for_sd"
	ProbabilityRange     Reason = "probability_range"
	Empty                Reason = "empty"
	TooMany              Reason = "too_many"
	ZeroCell             Reason = "zero_cell"
	IntervalNotKnown     Reason = "interval_not_known"
	AtTheEdge            Reason = "at_the_edge"
	SimulationRange      Reason = "simulation_range"
	BeyondReach          Reason = "beyond_reach"
	CloserThanChance     Reason = "closer_than_chance"
	OutsideApproximation Reason = "outside_approximation"
	NoDesignVariance     Reason = "no_design_variance"
	SigmaAndDesign       Reason = "sigma_and_design"
)

// InputError is returned for inputs outside a method's domain. Index is the
// 0-based position of the offending answer, group or row, or −1 if it is about
// the whole.
type InputError struct {
	Method string
	Reason Reason
	Index  int
}

func (e *InputError) Error() string {
	if e.Index >= 0 {
		return fmt.Sprintf("%s: %s at answer %d", e.Method, e.Reason, e.Index+1)
	}
	return fmt.Sprintf("%s: %s", e.Method, e.Reason)
}
