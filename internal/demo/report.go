package demo

import (
	"context"
	_ "embed"
	"encoding/json"
	"fmt"

	"widetally/core/report"
	"widetally/core/study"
	"widetally/internal/service"
)

//go:embed report.json
var reported []byte

// pieceText is prose, the tally of a column, or the first analysis of it by a method.
type pieceText struct {
	Prose    string `json:"prose"`
	Question string `json:"question"`
	Method   string `json:"method"`
}

// Report gives the demo study a finished report.
func Report(ctx context.Context, s *service.Places, st study.Study) error {
	var text struct {
		Title  string        `json:"title"`
		Facts  []report.Fact `json:"facts"`
		Pieces []pieceText   `json:"pieces"`
	}
	if err := json.Unmarshal(reported, &text); err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	page, err := s.Codebooks.Codebook(ctx, st.ID)
	if err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	columns := byName(page.Questions)
	r := report.Report{Title: text.Title, Facts: text.Facts}
	for _, p := range text.Pieces {
		piece := report.Piece{ID: r.NextID(), Prose: p.Prose}
		if p.Method == "" && p.Question != "" {
			piece.Question = columns[p.Question].ID
		}
		if p.Method != "" {
			if piece.Analysis, err = first(ctx, s, st.ID, columns[p.Question].ID, p.Method); err != nil {
				return fmt.Errorf("demo: the report, %s of %q: %w", p.Method, p.Question, err)
			}
		}
		r.Pieces = append(r.Pieces, piece)
	}
	now, err := s.Reports.Report(ctx, st.ID)
	if err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	if err := s.Reports.EditReport(ctx, st.ID, now.Version, r); err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	return s.UndoLine.Settle(ctx, st.ID)
}

// first finds the first analysis of a question by a method.
func first(ctx context.Context, s *service.Places, studyID, questionID uint64, method string) (uint64, error) {
	q, err := s.Toplines.Question(ctx, studyID, questionID, nil)
	if err != nil {
		return 0, err
	}
	for _, a := range q.Analyses {
		if a.Spec.Method == method {
			return a.ID, nil
		}
	}
	return 0, study.ErrNotFound
}
