package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"widetally/core/document"
	"widetally/core/report"
	"widetally/core/study"
)

// pieceKey tells whether the tally of a question, in a subgroup or not, or an analysis is in a
// report.
type pieceKey struct{ question, among, analysis uint64 }

func keyOfPiece(p report.Piece) pieceKey { return pieceKey{p.Question, p.Among, p.Analysis} }

// reportOf finds the part that holds the report; without one it is empty.
func reportOf(parts []study.Part) (study.Part, report.Report, error) {
	for _, p := range parts {
		if p.Deleted {
			continue
		}
		r, err := readReport(p.Definition)
		if err != nil {
			return p, r, fmt.Errorf("service: report %d: %w", p.ID, err)
		}
		return p, r, nil
	}
	return study.Part{Kind: study.Report, Name: "report"}, report.Report{Pieces: []report.Piece{}}, nil
}

// readReport reads a definition; the first ones were a list of pieces.
func readReport(definition string) (r report.Report, err error) {
	if !strings.HasPrefix(definition, "[") {
		err = json.Unmarshal([]byte(definition), &r)
		return r, err
	}
	if err = json.Unmarshal([]byte(definition), &r.Pieces); err != nil {
		return r, err
	}
	for i := range r.Pieces {
		r.Pieces[i].ID = i + 1
	}
	return r, nil
}

// reportVersion is that of a report for who edits it; one that is not there yet has the first.
func reportVersion(p study.Part) int { return p.Version + 1 }

// Select takes a piece into the report, behind those that are in it, or takes it out.
func (s *Reports) Select(ctx context.Context, studyID uint64, piece report.Piece, in bool) error {
	id := "unselected"
	if in {
		id = "selected"
	}
	title := Title{To: study.ToAsk, ID: id, Values: document.Values{}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		if piece.Question != 0 {
			q, err := d.question(piece.Question)
			if err != nil {
				return err
			}
			title.Values["what"] = document.Text(q.Name)
		} else {
			a, err := d.standing(piece.Analysis)
			if err != nil {
				return err
			}
			title.Values["what"] = nameOf(a)
		}
		if piece.Among != 0 {
			if err := d.hasSubgroup(piece.Among); err != nil {
				return err
			}
		}
		return d.editReport(0, func(r *report.Report) {
			r.Pieces = slices.DeleteFunc(r.Pieces, func(p report.Piece) bool { return keyOfPiece(p) == keyOfPiece(piece) })
			if in {
				piece.ID = r.NextID()
				r.Pieces = append(r.Pieces, piece)
			}
		})
	})
}

// EditReport stores a report if it is still at this version. What it names has to be in the
// study, or to have been in the report before.
func (s *Reports) EditReport(ctx context.Context, studyID uint64, version int, to report.Report) error {
	if err := checkedReport(to); err != nil {
		return err
	}
	return s.change(ctx, studyID, Title{To: study.ToAsk, ID: "report", Values: document.Values{}}, func(d *draft) error {
		var failed error
		err := d.editReport(version, func(r *report.Report) {
			failed = d.names(to, *r)
			*r = to
		})
		return errors.Join(failed, err)
	})
}

func checkedReport(r report.Report) error {
	var problem *report.Problem
	if err := r.Check(); errors.As(err, &problem) {
		return invalid("report."+problem.Code, problem.Pointer, nil)
	}
	for i, p := range r.Pieces {
		if _, err := plain(strings.NewReplacer("\n", " ", "\t", " ").Replace(p.Prose), fmt.Sprintf("/pieces/%d/prose", i), report.MostProse, false); err != nil {
			return err
		}
	}
	return nil
}

// names refuses pieces that are not in the study and were not in the report before.
func (d *draft) names(to, before report.Report) error {
	known := map[pieceKey]bool{}
	for _, p := range before.Pieces {
		known[keyOfPiece(p)] = true
	}
	for i, p := range to.Pieces {
		if known[keyOfPiece(p)] {
			continue
		}
		var err error
		switch {
		case p.Question != 0:
			_, err = d.question(p.Question)
		case p.Analysis != 0:
			_, err = d.standing(p.Analysis)
		}
		if err == nil && p.Among != 0 {
			err = d.hasSubgroup(p.Among)
		}
		if errors.Is(err, study.ErrNotFound) {
			return invalid("report.piece", fmt.Sprintf("/pieces/%d", i), nil)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

func (d *draft) hasSubgroup(id uint64) error {
	p, err := d.store.Part(d.ctx, d.study.ID, id)
	if err != nil {
		return err
	}
	if p.Kind != study.Subgroup || p.Deleted {
		return study.ErrNotFound
	}
	return nil
}

// editReport changes the report of the study; a version other than 0 has to be its own.
func (d *draft) editReport(version int, edit func(r *report.Report)) error {
	parts, err := d.store.Parts(d.ctx, d.study.ID, study.Report)
	if err != nil {
		return err
	}
	part, r, err := reportOf(parts)
	if err != nil {
		return err
	}
	if version != 0 && version != reportVersion(part) {
		return study.ErrStale
	}
	edit(&r)
	definition, err := json.Marshal(r)
	if err != nil {
		return fmt.Errorf("service: %w", err)
	}
	part.Definition = string(definition)
	_, err = d.part(part)
	return err
}

// ReportName is what an analysis is called in prose and in recipes.
func (r RegisterRow) ReportName() string {
	if r.Number > 0 {
		return fmt.Sprintf("claim %d", r.Number)
	}
	return fmt.Sprintf("analysis %d", r.ID)
}

// ReportView is a report with all that it is made of.
type ReportView struct {
	Report  report.Report
	Version int
	// Tallies and Analyses are those that the pieces name and the study has, by piece.
	Tallies  map[int]*QuestionView
	Analyses map[int]RegisterRow
	// Register has all claims, reported or not.
	Register *Register
	// Respondents are all of the study; CountedBy and Weights name the columns of counts and weights.
	Respondents        int64
	CountedBy, Weights string
	// Design is in force where Estimated, its weight the question of that name.
	Design     DesignView
	Estimated  bool
	Weighted   string
	Undo, Redo *study.Edit
	// Before is what it tells of the wave since which it says what changed; nil for none.
	Before *Before
}

// Report gives the report of a study with all that it is made of. Pieces that are no longer in
// the study are lacking.
func (s *Reports) Report(ctx context.Context, studyID uint64) (*ReportView, error) {
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return nil, err
	}
	out, err := s.reportOf(ctx, d, nil)
	if err != nil {
		return nil, err
	}
	out.Before, err = s.before(ctx, d)
	return out, err
}

// ReportAs gives what another definition of the report would be made of.
func (s *Reports) ReportAs(ctx context.Context, studyID uint64, r report.Report) (*ReportView, error) {
	if err := checkedReport(r); err != nil {
		return nil, err
	}
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return nil, err
	}
	return s.reportOf(ctx, d, &r)
}

// reportOf is the report of a study as it stands, or, where as is not nil, another one.
func (s *Reports) reportOf(ctx context.Context, d *dataset, as *report.Report) (*ReportView, error) {
	p, err := s.pageOf(ctx, d, nil)
	if err != nil {
		return nil, err
	}
	if as == nil {
		as = &p.report
	}
	out := &ReportView{Report: *as, Version: p.reportVersion, Tallies: map[int]*QuestionView{}, Analyses: map[int]RegisterRow{}, CountedBy: p.countedBy(), Weights: p.weights(), Undo: p.undo, Redo: p.redo}
	if out.Design, err = s.designView(ctx, p.dataset); err != nil {
		return nil, err
	}
	if is := p.inForce(); is != nil {
		id, _ := idOf(is.Weight)
		weight, _ := p.question(id)
		out.Estimated, out.Weights, out.Weighted = true, "", weight.Name
	}
	out.Respondents = p.of.Number(int(p.study.Rows))
	if out.Register, err = s.register(ctx, p.dataset); err != nil {
		return nil, err
	}
	pages := map[uint64]*page{0: p}
	for _, piece := range as.Pieces {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		switch {
		case piece.Question != 0:
			q, ok := p.question(piece.Question)
			if !ok {
				continue
			}
			among := pages[piece.Among]
			if among == nil {
				part, ok := p.part(piece.Among)
				if !ok || part.Deleted {
					continue
				}
				if among, err = s.pageOf(ctx, d, &piece.Among); err != nil {
					return nil, err
				}
				pages[piece.Among] = among
			}
			v, err := s.view(ctx, among, q)
			if err != nil {
				return nil, err
			}
			if v.Damaged == nil {
				out.Tallies[piece.ID] = v
			}
		case piece.Analysis != 0:
			row, err := s.reported(ctx, p.dataset, out.Register, piece.Analysis)
			if err != nil {
				return nil, err
			}
			if row != nil {
				out.Analyses[piece.ID] = *row
			}
		}
	}
	return out, nil
}

// reported finds an analysis that stands in a study; nil when it was withdrawn.
func (s *Reports) reported(ctx context.Context, d *dataset, r *Register, id uint64) (*RegisterRow, error) {
	for _, c := range r.Claims {
		if c.ID == id {
			return &c, nil
		}
	}
	for _, q := range d.questions {
		for _, a := range d.analyses.byQuestion[q.ID] {
			if a.ID != id {
				continue
			}
			v, err := s.analysisView(ctx, d, a)
			return &RegisterRow{AnalysisView: v, Question: q}, err
		}
	}
	return nil, nil
}
