package service

import (
	"context"

	"widetally/core/study"
)

// Admit says whether somebody may see or change a study; study.ErrNotAllowed where not.
type Admit func(ctx context.Context, who study.Actor, studyID uint64, to study.Access) error

// everybody is let in as long as there are no accounts.
func everybody(context.Context, study.Actor, uint64, study.Access) error { return nil }

// seen gives a study to whoever may see it. What is told of a study begins here, and what is
// changed in one with changing: nothing else asks the store for one that is there already.
func (s *base) seen(ctx context.Context, id uint64) (study.Study, error) {
	if err := s.admit(ctx, study.ActorOf(ctx), id, study.ToSee); err != nil {
		return study.Study{}, err
	}
	return s.store.Study(ctx, id)
}

// mayChange refuses whoever may not change a study.
func (s *base) mayChange(ctx context.Context, id uint64) error {
	return s.admit(ctx, study.ActorOf(ctx), id, study.ToChange)
}

// changing runs f in a transaction that holds a study, for whoever may change it.
func (s *base) changing(ctx context.Context, id uint64, f func(ctx context.Context, st study.Study) error) error {
	if err := s.mayChange(ctx, id); err != nil {
		return err
	}
	return s.store.Change(ctx, id, f)
}
