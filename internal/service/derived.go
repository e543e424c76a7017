package service

import (
	"context"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
)

// DerivedEdit is a derived question as it shall be.
type DerivedEdit struct {
	Wording    string
	Derivation survey.Derivation
}

// mostDerived bounds how deep derived questions may build on derived ones.
const mostDerived = 8

// AddDerived makes a question from others, right behind the last of its sources.
func (s *Codebooks) AddDerived(ctx context.Context, studyID uint64, e DerivedEdit) (id uint64, err error) {
	title := Title{ID: "derived", Values: document.Values{}}
	err = s.change(ctx, studyID, title, func(d *draft) error {
		wording, err := plain(e.Wording, "/wording", maxWording, true)
		if err != nil {
			return err
		}
		all, err := d.store.Questions(d.ctx, studyID)
		if err != nil {
			return err
		}
		if err := e.check(all, 0); err != nil {
			return err
		}
		kind, answers, column, err := d.derive(e.Derivation)
		if err != nil {
			return derivationError(err)
		}
		q := study.Question{KindReason: string(survey.Derived), Question: survey.Question{Name: freeName(all, e.Derivation), Wording: wording, Kind: kind, Answers: answers, Derivation: &e.Derivation}}
		for _, o := range all {
			if slices.Contains(e.Derivation.Sources, o.ID) {
				q.Position, q.Section = max(q.Position, o.Position+1), o.Section
			}
		}
		q.Base = sharedBase(all, e.Derivation.Sources)
		title.Values["name"] = document.Text(q.Name)
		id, err = d.add(q, column)
		return err
	})
	return id, err
}

// sharedBase is the base that all sources have, nil when they differ.
func sharedBase(all []study.Question, sources []uint64) *survey.Condition {
	var base *survey.Condition
	first := true
	for _, q := range all {
		if !slices.Contains(sources, q.ID) {
			continue
		}
		if !first && !reflect.DeepEqual(base, q.Base) {
			return nil
		}
		base, first = q.Base, false
	}
	return base
}

// EditDerived gives a derived question another definition; answers that both have
// keep their labels and order.
func (s *Codebooks) EditDerived(ctx context.Context, studyID, id uint64, version int, e DerivedEdit) error {
	title := Title{ID: "derived", Values: document.Values{}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		before, err := d.question(id)
		if err != nil {
			return err
		}
		if before.Derivation == nil {
			return study.ErrNotFound
		}
		title.Values["name"] = document.Text(before.Name)
		all, err := d.store.Questions(d.ctx, studyID)
		if err != nil {
			return err
		}
		if err := e.check(all, id); err != nil {
			return err
		}
		q := before
		q.Version = version
		if q.Wording, err = plain(e.Wording, "/wording", maxWording, true); err != nil {
			return err
		}
		if err := d.save(before, q); err != nil {
			return err
		}
		return derivationError(d.remake(id, e.Derivation))
	})
}

// check refuses sources that the study lacks and definitions that lead back to
// themselves.
func (e DerivedEdit) check(all []study.Question, self uint64) error {
	byID := map[uint64]study.Question{}
	for _, q := range all {
		byID[q.ID] = q
	}
	var walk func(ids []uint64, depth int) error
	walk = func(ids []uint64, depth int) error {
		for _, id := range ids {
			q, ok := byID[id]
			if !ok || id == self || depth > mostDerived {
				return invalid("derivation.sources", "/derivation/sources", nil)
			}
			if q.Derivation != nil {
				if err := walk(q.Derivation.Sources, depth+1); err != nil {
					return err
				}
			}
		}
		return nil
	}
	if err := walk(e.Derivation.Sources, 0); err != nil || len(e.Derivation.Sources) == 0 {
		return err
	}
	for _, g := range e.Derivation.Groups {
		for _, slot := range g.Answers {
			if a, ok := byID[e.Derivation.Sources[0]].Answer(slot); !ok || a.Missing != "" {
				return invalid("derivation.group", "/derivation/groups", nil)
			}
		}
	}
	return nil
}

func derivationError(err error) error {
	var bad *survey.DerivationError
	switch {
	case errors.As(err, &bad):
		return invalid("derivation."+bad.Why, "/derivation", nil)
	case errors.Is(err, survey.ErrTooManyAnswers):
		return invalid("derivation.too_many", "/derivation", nil)
	}
	return err
}

// freeName gives a derived question a short name that tells where it comes from.
func freeName(all []study.Question, d survey.Derivation) string {
	var from []string
	for _, id := range d.Sources {
		for _, q := range all {
			if q.ID == id {
				from = append(from, q.Name)
			}
		}
	}
	stem := string(d.Rule)
	switch {
	case d.Rule == survey.Together && commonStem(from) != "":
		stem = commonStem(from)
	case len(from) == 2 && d.Rule == survey.Combine:
		stem = from[0] + "_" + from[1]
	case len(from) > 0:
		stem = from[0] + "_" + stem
	}
	if r := []rune(stem); len(r) > maxName {
		stem = string(r[:maxName])
	}
	name := stem
	for n := 2; slices.ContainsFunc(all, func(q study.Question) bool { return strings.EqualFold(q.Name, name) }); n++ {
		name = fmt.Sprintf("%s_%d", stem, n)
	}
	return name
}

// commonStem is the beginning that names share, without the mark at its end.
func commonStem(names []string) string {
	if len(names) == 0 {
		return ""
	}
	stem := names[0]
	for _, n := range names[1:] {
		for !strings.HasPrefix(n, stem) {
			stem = stem[:len(stem)-1]
		}
	}
	return strings.TrimRight(stem, " _-.0123456789:")
}

// DeleteQuestion takes a derived question away; undo brings it back. Questions that
// came with the file stay, and so does one on which something rests.
func (s *Codebooks) DeleteQuestion(ctx context.Context, studyID, id uint64, version int) error {
	title := Title{ID: "delete_question", Values: document.Values{}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		before, err := d.question(id)
		if err != nil {
			return err
		}
		title.Values["name"] = document.Text(before.Name)
		if before.Derivation == nil {
			return invalid("question.from_file", "", nil)
		}
		used, err := d.uses(id)
		if err != nil || len(used) > 0 {
			return firstError(err, inUse("", used))
		}
		q := before
		q.Version, q.Deleted = version, true
		return d.save(before, q)
	})
}
