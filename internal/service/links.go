package service

import (
	"context"
	"errors"
	"slices"
	"time"

	"widetally/core/document"
	"widetally/core/people"
	"widetally/core/study"
)

// AddLink makes a link by which whoever has it looks at one thing of a study, and gives what is secret of it, which is not told again. Only
// who owns the study makes links.
func (s *People) AddLink(ctx context.Context, studyID uint64, shows people.LinkKind, days int) (secret string, l people.Link, err error) {
	if !slices.Contains(people.LinkKinds, shows) {
		return "", l, invalid("link.shows", "/shows", nil)
	}
	if days < 1 || days > people.MostLinkDays {
		return "", l, invalid("link.days", "/days", nil)
	}
	secret, hash, err := token()
	if err != nil {
		return "", l, err
	}
	at := time.Now()
	l = people.Link{Hash: hash, StudyID: studyID, Shows: shows, By: study.ActorOf(ctx).Account, CreatedAt: at, ExpiresAt: at.AddDate(0, 0, days)}
	return secret, l, s.changing(ctx, studyID, study.ToOwn, func(ctx context.Context, _ study.Study) error {
		all, err := s.store.Links(ctx, studyID)
		if err != nil {
			return err
		}
		if len(all) >= people.MostLinks {
			return invalid("link.many", "", nil)
		}
		if err := s.store.AddLink(ctx, l); err != nil {
			return err
		}
		return s.noteLink(ctx, "link_made", l)
	})
}

func (s *People) noteLink(ctx context.Context, what string, l people.Link) error {
	return s.base.store.Note(ctx, l.StudyID, document.Say("trail."+what, document.Values{"shows": document.Term("ui.people.links." + string(l.Shows)), "until": document.Text(l.ExpiresAt.UTC().Format(time.DateOnly))}))
}

// Links are those of a study, for who owns it.
func (s *People) Links(ctx context.Context, studyID uint64) ([]people.Link, error) {
	if err := s.may(ctx, studyID, study.ToOwn); err != nil {
		return nil, err
	}
	return s.store.Links(ctx, studyID)
}

// EndLink ends a link of a study, by its hash: nobody looks by it any more.
func (s *People) EndLink(ctx context.Context, studyID uint64, hash string) error {
	return s.changing(ctx, studyID, study.ToOwn, func(ctx context.Context, _ study.Study) error {
		l, err := s.store.Link(ctx, hash)
		if err != nil || l.StudyID != studyID {
			return study.ErrNotFound
		}
		if err := s.store.EndLink(ctx, studyID, hash); err != nil {
			return err
		}
		return s.noteLink(ctx, "link_ended", l)
	})
}

// ByLink is what a link shows; study.ErrNotFound for one that does not hold (any more).
func (s *People) ByLink(ctx context.Context, secret string) (people.Link, error) {
	if secret == "" {
		return people.Link{}, study.ErrNotFound
	}
	l, err := s.store.Link(ctx, hashOf(secret))
	now := time.Now()
	if err == nil && now.After(l.ExpiresAt) || errors.Is(err, study.ErrNotFound) {
		return people.Link{}, study.ErrNotFound
	}
	if err == nil && (l.SeenAt == nil || now.Sub(*l.SeenAt) > seenEvery) {
		err = s.store.SeeLink(ctx, l.Hash, now)
	}
	return l, err
}
