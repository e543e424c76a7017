package service

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/study"
)

// Register is all claims of a study, as they stand.
type Register struct {
	Study     study.Study
	Questions []study.Question
	Claims    []RegisterRow
	// Withdrawn are the claims that were deleted; TestsRun counts the tests of theirs, too.
	Withdrawn []WithdrawnView
	TestsRun  int
	AdjustmentView
}

// AdjustmentView is how many claims at once are adjusted for.
type AdjustmentView struct {
	Adjustment analysis.Adjustment
	ChosenAt   *time.Time
	// Afterwards says that a test had been run when it was chosen.
	Afterwards bool
}

// RegisterRow is one claim.
type RegisterRow struct {
	AnalysisView
	Question study.Question
	// Adjusted is its p among all that have been run; nil without one.
	Adjusted *analysis.Adjusted
}

// adjustment is what is kept of it with a study.
type adjustment struct {
	Adjustment analysis.Adjustment `json:"adjustment"`
	ChosenAt   time.Time           `json:"chosenAt"`
	AfterRun   bool                `json:"afterRun"`
}

func adjustmentOf(parts []study.Part) (study.Part, adjustment, error) {
	for _, p := range parts {
		if p.Deleted {
			continue
		}
		var a adjustment
		if err := json.Unmarshal([]byte(p.Definition), &a); err != nil {
			return p, a, fmt.Errorf("service: adjustment %d: %w", p.ID, err)
		}
		return p, a, nil
	}
	return study.Part{Kind: study.Adjustment, Name: "adjustment"}, adjustment{Adjustment: analysis.NoAdjustment}, nil
}

// Register lists the claims of a study with what came out, without tabulating its questions.
func (s *Claims) Register(ctx context.Context, studyID uint64) (*Register, error) {
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return nil, err
	}
	return s.register(ctx, d)
}

func (s *base) register(ctx context.Context, d *dataset) (*Register, error) {
	chosen := d.adjustment
	r := &Register{Study: d.study, Questions: d.questions, Withdrawn: d.withdrawn(), TestsRun: d.analyses.testsRun, AdjustmentView: AdjustmentView{Adjustment: chosen.Adjustment, Afterwards: chosen.AfterRun}}
	if !chosen.ChosenAt.IsZero() {
		r.ChosenAt = &chosen.ChosenAt
	}
	var outcomes []*document.Outcome
	var levels []float64
	var run []int
	for _, q := range d.questions {
		for _, a := range d.analyses.byQuestion[q.ID] {
			if a.Number == 0 {
				continue
			}
			v, err := s.analysisView(ctx, d, a)
			if err != nil {
				return nil, err
			}
			r.Claims = append(r.Claims, RegisterRow{AnalysisView: v, Question: q})
		}
	}
	slices.SortFunc(r.Claims, func(a, b RegisterRow) int { return a.Number - b.Number })
	for i, c := range r.Claims {
		if c.Document != nil && c.Document.Outcome != nil {
			outcomes, levels, run = append(outcomes, c.Document.Outcome), append(levels, c.Spec.Settings.SignificanceLevel()), append(run, i)
		}
	}
	for k, a := range chosen.Adjustment.Together(outcomes, levels) {
		r.Claims[run[k]].Adjusted = &a
	}
	return r, nil
}

// withdrawn are the claims that were deleted.
func (d *dataset) withdrawn() (out []WithdrawnView) {
	for _, a := range d.analyses.withdrawn {
		w := WithdrawnView{Analysis: a.Analysis, Level: a.spec.Settings.SignificanceLevel()}
		if q := d.questionsOf(a.spec); len(q) == len(a.spec.Questions) {
			w.Statement = a.spec.Settings.Statement(q, d.about(a.spec))
		}
		out = append(out, w)
	}
	return out
}

// Adjust chooses how the claims of a study are adjusted for being many. Whether a test had been
// run by then is kept with it.
func (s *Claims) Adjust(ctx context.Context, studyID uint64, to analysis.Adjustment) error {
	if !slices.Contains(analysis.Adjustments, to) {
		return invalid("adjustment", "/adjustment", nil)
	}
	return s.change(ctx, studyID, Title{To: study.ToAsk, ID: "adjusted", Values: document.Values{"how": document.Term("adjustment." + string(to))}}, func(d *draft) error {
		parts, err := d.store.Parts(d.ctx, studyID, study.Adjustment)
		if err != nil {
			return err
		}
		part, before, err := adjustmentOf(parts)
		if err != nil || before.Adjustment == to {
			return err
		}
		all, err := d.s.analysesOf(d.ctx, d.store, studyID)
		if err != nil {
			return err
		}
		definition, err := json.Marshal(adjustment{to, time.Now().UTC(), all.testsRun > 0})
		if err != nil {
			return fmt.Errorf("service: %w", err)
		}
		part.Definition = string(definition)
		_, err = d.part(part)
		return err
	})
}
