package service

import (
	"context"
	"errors"
	"io"
	"os"
	"slices"

	"widetally/core/disclosure"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/export"
)

// MicrodataAsk chooses what of the answers of respondents leaves for others.
type MicrodataAsk struct {
	Questions []uint64
	Keys      []uint64 // of them, those whose answers others may know of somebody
	disclosure.Release
}

// releaseName is the document of a file for others that says how it was made.
const releaseName = "release.json"

// releaseDocument is its content.
type releaseDocument struct {
	Keys     []string `json:"keys"`
	Least    int64    `json:"least"`
	Bands    int      `json:"bands"`
	Withheld int64    `json:"withheld"`
	// Design says by which questions estimates of the population are made, where these leave.
	Weight string `json:"weight,omitempty"`
	Counts string `json:"counts,omitempty"`
}

// Microdata tells how well respondents would be hid in a file for others. It takes the access of who changes answers:
// what may leave is no matter of who only asks.
func (s *Reports) Microdata(ctx context.Context, studyID uint64, ask MicrodataAsk) (*disclosure.Anonymity, error) {
	m, _, err := s.microdata(ctx, studyID, ask)
	if err != nil {
		return nil, err
	}
	return &m.Anonymity, nil
}

// MicrodataFile writes the file for others, a Data Package, and returns it, open at its beginning; the caller closes
// and removes it.
func (s *Reports) MicrodataFile(ctx context.Context, studyID uint64, ask MicrodataAsk) (*os.File, error) {
	m, d, err := s.microdata(ctx, studyID, ask)
	if err != nil {
		return nil, err
	}
	told := releaseDocument{Keys: []string{}, Least: ask.Least, Bands: ask.Bands, Withheld: m.Anonymity.Withheld, Counts: d.countedBy()}
	for i, id := range ask.Questions {
		if slices.Contains(ask.Keys, id) {
			told.Keys = append(told.Keys, m.Questions[i].Name)
		}
		if m.Questions[i].Kind == survey.Weight && d.design.Drawn.Weight == KeyOf(id) {
			told.Weight = m.Questions[i].Name
		}
	}
	cells := make([]string, len(m.Questions))
	return s.room.Outgoing(func(w io.Writer) error {
		return export.Package(w, d.study.Name, m.Questions, []export.Document{{Name: releaseName, Content: told}}, int(d.study.Rows), func(i int) ([]string, error) {
			m.Row(i, cells)
			return cells, ctx.Err()
		})
	})
}

func (s *Reports) microdata(ctx context.Context, studyID uint64, ask MicrodataAsk) (*disclosure.Microdata, *dataset, error) {
	if err := s.may(ctx, studyID, study.ToChange); err != nil {
		return nil, nil, err
	}
	p, err := s.page(ctx, studyID, nil)
	if err != nil {
		return nil, nil, err
	}
	if p.damaged != nil {
		return nil, nil, p.damaged
	}
	d := p.dataset
	if counts := d.study.CountQuestion; counts != nil && !slices.Contains(ask.Questions, *counts) {
		ask.Questions = append(slices.Clone(ask.Questions), *counts) // without it rows would be taken for respondents
	}
	if err := firstProblem(ask.Check(len(ask.Questions), len(ask.Keys))); err != nil {
		return nil, nil, err
	}
	get := s.getter(ctx, d)
	chosen := make([]disclosure.Chosen, len(ask.Questions))
	for i, id := range ask.Questions {
		q, ok := d.question(id)
		if !ok {
			return nil, nil, study.ErrNotFound
		}
		isKey := slices.Contains(ask.Keys, id)
		if !disclosure.Leaves(q.Kind) || isKey && !disclosure.ServesAsKey(q.Kind) || slices.Contains(ask.Questions[:i], id) {
			return nil, nil, invalid("microdata.kind", "/questions", map[string]string{"name": q.Name})
		}
		if chosen[i].Source, err = get(id); err != nil {
			return nil, nil, err
		}
		chosen[i].Key = isKey
	}
	m, err := disclosure.MakeMicrodata(ask.Release, chosen, int(d.study.Rows), p.of.Sample)
	if errors.Is(err, disclosure.ErrTooFew) {
		return nil, nil, invalid("microdata.few", "/least", nil)
	}
	return m, d, err
}
