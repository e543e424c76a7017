package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"

	"widetally/core/analysis"
	"widetally/core/book"
	"widetally/core/document"
	"widetally/core/report"
	"widetally/core/study"
	"widetally/core/survey"
)

// TakeToWave takes all that is asked and reported of one wave to another, as one edit: analyses, the tallies of the
// report, table books and the columns of banners. What compares waves stays. From then on the report tells what
// changed since.
func (s *Reports) TakeToWave(ctx context.Context, studyID, question uint64, from, to string) error {
	title := Title{ID: "waved", Values: document.Values{}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		q, err := d.question(question)
		if err != nil {
			return err
		}
		if !q.Kind.Coded() {
			return invalid("waves.question", "/question", nil)
		}
		parts, err := d.store.Parts(d.ctx, studyID, study.Subgroup)
		if err != nil {
			return err
		}
		m, err := newWaveMove(q, from, to, parts)
		if err != nil {
			return err
		}
		title.Values["wave"] = document.Text(m.to.Label)
		m.make = func(c survey.Condition, p study.Part) (uint64, error) {
			if err := d.checkCondition(c, "/question"); err != nil {
				return 0, err
			}
			p, err := d.part(p)
			return p.ID, err
		}
		if err := d.takeAnalyses(m); err != nil {
			return err
		}
		if err := d.takeTables(m); err != nil {
			return err
		}
		return d.takeReport(m)
	})
}

func (d *draft) takeAnalyses(m *waveMove) error {
	all, err := d.s.analysesOf(d.ctx, d.store, d.study.ID)
	if err != nil {
		return err
	}
	for _, id := range slices.Sorted(maps.Keys(all.byQuestion)) {
		for _, a := range all.byQuestion[id] {
			spec, moved, err := m.spec(a.spec)
			if err != nil {
				return err
			}
			if !moved {
				continue
			}
			to := a.Analysis // what cannot be asked as things are goes along, and says so as before
			if to.Spec, err = jsonText(spec); err != nil {
				return fmt.Errorf("service: %w", err)
			}
			to.Uses = usesOf(spec)
			if _, err := d.asked(to, a.spec, spec); err != nil {
				return err
			}
		}
	}
	return nil
}

func (d *draft) takeTables(m *waveMove) error {
	banners, err := d.store.Parts(d.ctx, d.study.ID, study.Banner)
	if err != nil {
		return err
	}
	by := map[analysis.Key]*BannerView{}
	for _, p := range banners {
		if p.Deleted {
			continue
		}
		var b book.Banner
		if err := json.Unmarshal([]byte(p.Definition), &b); err != nil {
			return fmt.Errorf("service: banner %d: %w", p.ID, err)
		}
		by[KeyOf(p.ID)] = &BannerView{ID: p.ID, Banner: b}
		to, moved, err := m.banner(b)
		if err == nil && moved {
			err = d.redefined(p, to)
		}
		if err != nil {
			return err
		}
	}
	books, err := d.store.Parts(d.ctx, d.study.ID, study.TableBook)
	if err != nil {
		return err
	}
	for _, p := range books {
		if p.Deleted {
			continue
		}
		var b book.Book
		if err := json.Unmarshal([]byte(p.Definition), &b); err != nil {
			return fmt.Errorf("service: table book %d: %w", p.ID, err)
		}
		to, moved, err := m.book(b, by[b.Banner])
		if err == nil && moved {
			err = d.redefined(p, to)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// redefined stores another definition of a part.
func (d *draft) redefined(p study.Part, definition any) (err error) {
	if p.Definition, err = jsonText(definition); err != nil {
		return fmt.Errorf("service: %w", err)
	}
	_, err = d.part(p)
	return err
}

func (d *draft) takeReport(m *waveMove) error {
	var failed error
	err := d.editReport(0, func(r *report.Report) {
		for i, p := range r.Pieces {
			if p.Question == 0 {
				continue
			}
			to, err := m.whom(p.Among)
			failed = errors.Join(failed, err)
			r.Pieces[i].Among = to
		}
		if since := m.since(); since != "" {
			r.Compared = &report.Compared{Question: m.question.ID, Wave: m.to.Code, Since: since}
		}
	})
	return errors.Join(failed, err)
}
