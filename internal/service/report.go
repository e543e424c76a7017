package service

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"widetally/core/study"
)

// Piece is something of the topline that was selected for the report: the tally of a
// question, or an analysis. One of the two is 0.
type Piece struct {
	Question uint64 `json:"question,omitempty"`
	Analysis uint64 `json:"analysis,omitempty"`
}

// reportOf finds the part that holds what is selected; without one nothing is.
func reportOf(parts []study.Part) (study.Part, []Piece, error) {
	for _, p := range parts {
		if p.Deleted {
			continue
		}
		var pieces []Piece
		if err := json.Unmarshal([]byte(p.Definition), &pieces); err != nil {
			return p, nil, fmt.Errorf("service: report %d: %w", p.ID, err)
		}
		return p, pieces, nil
	}
	return study.Part{Kind: study.Report, Name: "report"}, nil, nil
}

// Select takes a piece into the report, behind those that are in it, or takes it out.
func (s *Claims) Select(ctx context.Context, studyID uint64, piece Piece, in bool) error {
	id := "unselected"
	if in {
		id = "selected"
	}
	title := Title{ID: id, Values: map[string]string{}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		if piece.Question != 0 {
			q, err := d.question(piece.Question)
			if err != nil {
				return err
			}
			title.Values["what"] = q.Name
		} else {
			a, err := d.standing(piece.Analysis)
			if err != nil {
				return err
			}
			title.Values["what"] = s.nameOf(a)
		}
		parts, err := d.store.Parts(d.ctx, studyID, study.Report)
		if err != nil {
			return err
		}
		part, pieces, err := reportOf(parts)
		if err != nil {
			return err
		}
		pieces = slices.DeleteFunc(pieces, func(p Piece) bool { return p == piece })
		if in {
			pieces = append(pieces, piece)
		}
		definition, err := json.Marshal(pieces)
		if err != nil {
			return fmt.Errorf("service: %w", err)
		}
		part.Definition = string(definition)
		_, err = d.part(part)
		return err
	})
}
