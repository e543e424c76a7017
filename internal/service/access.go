package service

import (
	"context"

	"widetally/core/study"
)

// Admit says whether somebody may see or change a study; study.ErrNotAllowed where not.
type Admit func(ctx context.Context, who study.Actor, studyID uint64, to study.Access) error

// seen gives a study to whoever may see it. What is told of a study begins here, and what is
// changed in one with changing: nothing else asks the store for one that is there already.
func (s *base) seen(ctx context.Context, id uint64) (study.Study, error) {
	if err := s.admit(ctx, study.ActorOf(ctx), id, study.ToSee); err != nil {
		return study.Study{}, err
	}
	st, err := s.store.Study(ctx, id)
	study.Tell(ctx, st.Revision)
	return st, err
}

// may refuses whoever has no access of this kind to a study.
func (s *base) may(ctx context.Context, id uint64, to study.Access) error {
	return s.admit(ctx, study.ActorOf(ctx), id, to)
}

// changing runs f in a transaction that holds a study, for whoever has access of this kind.
func (s *base) changing(ctx context.Context, id uint64, to study.Access, f func(ctx context.Context, st study.Study) error) error {
	if err := s.may(ctx, id, to); err != nil {
		return err
	}
	var before uint64
	err := s.store.Change(ctx, id, func(ctx context.Context, st study.Study) error {
		before = st.Revision
		return f(ctx, st)
	})
	if err == nil {
		study.TellChanged(ctx, before+1)
	}
	return err
}

// maySet refuses whoever has no access of this kind to a set of the shelf.
func (s *base) maySet(ctx context.Context, id uint64, to study.Access) error {
	if s.admitSet == nil {
		return nil
	}
	return s.admitSet(ctx, id, to)
}
