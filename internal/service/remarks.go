package service

import (
	"context"

	"widetally/core/document"
	"widetally/core/study"
)

// Remarks are what people write into the margin of a study, for each other.
type Remarks struct {
	*base
	store remarkRows
}

type remarkRows interface {
	Remarks(ctx context.Context, studyID uint64) ([]study.Remark, error)
	Remark(ctx context.Context, studyID, id uint64) (study.Remark, error)
	AddRemark(ctx context.Context, r study.Remark) (study.Remark, error)
	ResolveRemark(ctx context.Context, id uint64, resolved bool) error
	DeleteRemark(ctx context.Context, studyID, id uint64) error
}

// Bounds of what is written.
const (
	maxRemark   = 2000
	mostRemarks = 5000
)

// Of are the remarks of a study, oldest first, for whoever sees it.
func (s *Remarks) Of(ctx context.Context, studyID uint64) ([]study.Remark, error) {
	if _, err := s.seen(ctx, studyID); err != nil {
		return nil, err
	}
	return s.store.Remarks(ctx, studyID)
}

// writing runs f in a transaction that holds a study, for who sees it and has a name; whoever looks by a link writes nothing.
func (s *Remarks) writing(ctx context.Context, studyID uint64, f func(ctx context.Context) error) error {
	who := study.ActorOf(ctx)
	if who.Via == study.ViaLink || !who.Token.Lets(studyID, study.ToAsk) {
		return study.ErrNotAllowed
	}
	return s.changing(ctx, studyID, study.ToSee, func(ctx context.Context, _ study.Study) error { return f(ctx) })
}

// Write keeps a remark beside a question or an analysis of it, or an answer to one that begins.
func (s *Remarks) Write(ctx context.Context, r study.Remark) (made study.Remark, err error) {
	if r.Text, err = plain(r.Text, "/text", maxRemark, true); err != nil {
		return r, err
	}
	err = s.writing(ctx, r.StudyID, func(ctx context.Context) error {
		if r.To > 0 {
			first, err := s.store.Remark(ctx, r.StudyID, r.To)
			if err != nil {
				return err
			}
			if first.To > 0 {
				return invalid("remark.to", "/to", nil)
			}
			r.QuestionID, r.AnalysisID = first.QuestionID, first.AnalysisID
			if first.ResolvedAt != nil { // who answers opens it again
				if err := s.store.ResolveRemark(ctx, first.ID, false); err != nil {
					return err
				}
			}
		}
		q, err := s.drafts.Question(ctx, r.StudyID, r.QuestionID)
		if err != nil {
			return err
		}
		if r.AnalysisID > 0 {
			a, err := s.drafts.Analysis(ctx, r.StudyID, r.AnalysisID)
			if err != nil {
				return err
			}
			if a.QuestionID != q.ID || a.WithdrawnAt != nil {
				return study.ErrNotFound
			}
		}
		all, err := s.store.Remarks(ctx, r.StudyID)
		if err != nil {
			return err
		}
		if len(all) >= mostRemarks {
			return invalid("remark.many", "", nil)
		}
		if made, err = s.store.AddRemark(ctx, r); err != nil {
			return err
		}
		return s.base.store.Note(ctx, r.StudyID, document.Say("trail.remark.written", document.Values{"name": document.Text(q.Name)}))
	})
	return made, err
}

// Resolve settles a remark that begins, or opens it again.
func (s *Remarks) Resolve(ctx context.Context, studyID, id uint64, resolved bool) error {
	return s.writing(ctx, studyID, func(ctx context.Context) error {
		r, err := s.store.Remark(ctx, studyID, id)
		if err != nil {
			return err
		}
		if r.To > 0 {
			return invalid("remark.to", "", nil)
		}
		if err := s.store.ResolveRemark(ctx, id, resolved); err != nil {
			return err
		}
		what := "trail.remark.opened"
		if resolved {
			what = "trail.remark.resolved"
		}
		return s.noteOn(ctx, what, r)
	})
}

func (s *Remarks) noteOn(ctx context.Context, what string, r study.Remark) error {
	q, err := s.drafts.Question(ctx, r.StudyID, r.QuestionID)
	if err != nil {
		return err
	}
	return s.base.store.Note(ctx, r.StudyID, document.Say(what, document.Values{"name": document.Text(q.Name)}))
}

// Delete takes a remark away, with its answers: one's own, or anybody's for who owns the study.
func (s *Remarks) Delete(ctx context.Context, studyID, id uint64) error {
	return s.writing(ctx, studyID, func(ctx context.Context) error {
		r, err := s.store.Remark(ctx, studyID, id)
		if err != nil {
			return err
		}
		if r.Author != study.ActorOf(ctx).ID {
			if err := s.may(ctx, studyID, study.ToOwn); err != nil {
				return err
			}
		}
		if err := s.store.DeleteRemark(ctx, studyID, id); err != nil {
			return err
		}
		return s.noteOn(ctx, "trail.remark.deleted", r)
	})
}
