package service

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"widetally/core/study"
	"widetally/core/survey"
)

// Bounds of texts that people write.
const (
	maxName    = survey.MaxSection // of studies, subgroups, lists and sections
	maxUnits   = 40
	maxWording = survey.MaxWording
	maxLabel   = survey.MaxLabel
	maxMissing = survey.MaxMissing
	maxSource  = 160
	maxDate    = 40
	maxDecimal = 6
)

// deletedLife is how long a deleted study can be brought back.
const deletedLife = 30 * 24 * time.Hour

// List returns the shelf, the latest edited study first.
func (s *Studies) List(ctx context.Context) ([]study.Study, error) {
	all, err := s.store.Studies(ctx)
	return slices.DeleteFunc(all, func(st study.Study) bool { return s.admit(ctx, study.ActorOf(ctx), st.ID, study.ToSee) != nil }), err
}

// Get returns one study.
func (s *Studies) Get(ctx context.Context, id uint64) (study.Study, error) {
	return s.seen(ctx, id)
}

// StudyEdit holds the parts of a study to change; nil leaves a part as it is.
type StudyEdit struct {
	Name     *string
	Units    *string
	Decimals *int
}

// Edit changes a study that is still at this version.
func (s *Studies) Edit(ctx context.Context, id uint64, version int, e StudyEdit) (study.Study, error) {
	if err := s.may(ctx, id, study.ToChange); err != nil {
		return study.Study{}, err
	}
	st, err := s.seen(ctx, id)
	if err != nil {
		return st, err
	}
	if e.Name != nil {
		if st.Name, err = plain(*e.Name, "/name", maxName, true); err != nil {
			return st, err
		}
	}
	if e.Units != nil {
		if st.Units, err = plain(*e.Units, "/units", maxUnits, true); err != nil {
			return st, err
		}
	}
	if e.Decimals != nil {
		if *e.Decimals < 0 || *e.Decimals > maxDecimal {
			return st, invalid("study.decimals", "/decimals", nil)
		}
		st.Decimals = *e.Decimals
	}
	st.Version = version
	if err := s.store.EditStudy(ctx, st); err != nil {
		return st, err
	}
	return s.seen(ctx, id)
}

// Delete takes a study from the shelf; Restore brings it back.
func (s *Studies) Delete(ctx context.Context, id uint64) error {
	if err := s.may(ctx, id, study.ToOwn); err != nil {
		return err
	}
	return s.store.SetStudyDeleted(ctx, id, true)
}

// Restore brings a deleted study back, within thirty days.
func (s *Studies) Restore(ctx context.Context, id uint64) (study.Study, error) {
	if err := s.may(ctx, id, study.ToOwn); err != nil {
		return study.Study{}, err
	}
	if err := s.store.SetStudyDeleted(ctx, id, false); err != nil {
		return study.Study{}, err
	}
	return s.seen(ctx, id)
}

// textsFit refuses a question of which a text is too long to be kept, whichever way it
// came in. What stood there before stays good.
func textsFit(q, before survey.Question) error {
	err := survey.CheckLengths(q)
	var long *survey.LengthError
	if !errors.As(err, &long) || survey.CheckLengths(before) != nil {
		return nil
	}
	return invalid("text.long_"+long.Part, "", map[string]string{"name": long.Name, "code": long.Code, "most": fmt.Sprint(long.Most), "found": fmt.Sprint(long.Found)})
}

// plain checks a text that a person wrote: outer blanks go, control characters
// are refused, the length is bounded.
func plain(text, field string, most int, required bool) (string, error) {
	text = strings.TrimSpace(text)
	switch {
	case required && text == "":
		return "", invalid("text.empty", field, nil)
	case !utf8.ValidString(text) || strings.ContainsFunc(text, func(r rune) bool { return r < ' ' && r != '\n' && r != '\t' }):
		return "", invalid("text.control", field, nil)
	case utf8.RuneCountInString(text) > most:
		return "", invalid("text.long", field, map[string]string{"most": fmt.Sprint(most)})
	}
	return text, nil
}
