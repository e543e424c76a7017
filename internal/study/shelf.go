package study

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"time"
	"unicode/utf8"

	"widetally/core/survey"
	"widetally/internal/intake"
	"widetally/internal/store"
)

// Bounds of texts that people write.
const (
	maxName    = 120
	maxUnits   = 40
	maxWording = 1000
	maxLabel   = 300
	maxMissing = 60
	maxSource  = 160
	maxDate    = 40
	maxDecimal = 4
)

// deletedLife is how long a deleted study can be brought back.
const deletedLife = 30 * 24 * time.Hour

// List returns the shelf, the latest edited study first.
func (s *Service) List(ctx context.Context) ([]store.Study, error) { return s.store.Studies(ctx) }

// Get returns one study.
func (s *Service) Get(ctx context.Context, id uint64) (store.Study, error) {
	return s.store.Study(ctx, id)
}

// NewStudy says what to make of an arrived file.
type NewStudy struct {
	ArrivalID string
	Settings  intake.Settings
	Name      string
	Units     string // "" means "respondents"
}

// Create reads an arrived file and keeps it as a study, in one transaction. The
// errors are *intake.Problem, *InvalidError, or of the store.
func (s *Service) Create(ctx context.Context, in NewStudy) (store.Study, error) {
	name, err := plain(in.Name, "/name", maxName, true)
	if err != nil {
		return store.Study{}, err
	}
	units, err := plain(in.Units, "/units", maxUnits, false)
	if err != nil {
		return store.Study{}, err
	}
	if units == "" {
		units = "respondents"
	}
	w, err := s.arrivals.get(in.ArrivalID)
	if err != nil {
		return store.Study{}, err
	}
	f, err := os.Open(w.path)
	if err != nil {
		return store.Study{}, fmt.Errorf("study: %w", err)
	}
	defer f.Close()
	table, err := intake.Read(ctx, f, in.Settings, nil)
	if err != nil {
		return store.Study{}, err
	}
	if _, err := f.Seek(0, 0); err != nil {
		return store.Study{}, fmt.Errorf("study: %w", err)
	}
	settings, err := json.Marshal(in.Settings)
	if err != nil {
		return store.Study{}, fmt.Errorf("study: %w", err)
	}
	var made store.Study
	err = s.store.InTx(ctx, func(tx *store.Store) error {
		if made, err = tx.AddStudy(ctx, store.Study{Name: name, Units: units, Decimals: 1, Rows: int64(table.Rows)}); err != nil {
			return err
		}
		for i, c := range table.Columns {
			q := store.Question{StudyID: made.ID, Position: i, KindReason: string(c.Reason),
				Question: survey.Question{Name: c.Name, Wording: c.Name, Kind: c.Kind, Answers: c.Answers}}
			id, err := tx.AddQuestion(ctx, q)
			if err != nil {
				return err
			}
			if err := tx.SaveColumn(ctx, id, c.Data); err != nil {
				return err
			}
		}
		return tx.SaveSource(ctx, store.Source{StudyID: made.ID, Name: w.name, Settings: string(settings)}, f)
	})
	if err != nil {
		return store.Study{}, err
	}
	s.Discard(in.ArrivalID)
	_, _ = s.store.Purge(ctx, time.Now().Add(-deletedLife)) // housekeeping; the new study stands either way
	return made, nil
}

// StudyEdit holds the parts of a study to change; nil leaves a part as it is.
type StudyEdit struct {
	Name     *string
	Units    *string
	Decimals *int
}

// Edit changes a study that is still at this version.
func (s *Service) Edit(ctx context.Context, id uint64, version int, e StudyEdit) (store.Study, error) {
	st, err := s.store.Study(ctx, id)
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
	return s.store.Study(ctx, id)
}

// Delete takes a study from the shelf; Restore brings it back.
func (s *Service) Delete(ctx context.Context, id uint64) error {
	return s.store.SetStudyDeleted(ctx, id, true)
}

// Restore brings a deleted study back, within thirty days.
func (s *Service) Restore(ctx context.Context, id uint64) (store.Study, error) {
	if err := s.store.SetStudyDeleted(ctx, id, false); err != nil {
		return store.Study{}, err
	}
	return s.store.Study(ctx, id)
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
