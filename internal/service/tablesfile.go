package service

import (
	"context"
	"fmt"

	"widetally/core/analysis"
	"widetally/core/book"
	"widetally/core/recipe"
	"widetally/core/study"
	"widetally/core/studyfile"
	"widetally/core/survey"
)

// tablesDocument is the banners, books and nets of a study for its file.
func (s *StudyFiles) tablesDocument(ctx context.Context, d *dataset) (studyfile.Tables, error) {
	out := studyfile.Tables{Head: head(studyfile.TablesFormat), Banners: []studyfile.Banner{}, Books: []book.Book{}}
	v, err := (&Books{base: s.base}).viewOf(ctx, d)
	if err != nil {
		return out, err
	}
	for _, b := range v.Banners {
		out.Banners = append(out.Banners, studyfile.Banner{ID: b.ID, Name: b.Name, Banner: b.Banner})
	}
	for _, b := range v.Books {
		out.Books = append(out.Books, b.Book)
	}
	out.Nets = v.Nets
	return out, nil
}

// tabulated stores the banners, books and nets of a study file; what names something that was no longer in the
// study is left out.
func (o *opening) tabulated() error {
	stored, err := o.store.Questions(o.ctx, o.made.ID)
	if err != nil {
		return err
	}
	known := map[analysis.Key]survey.Question{}
	for _, q := range stored {
		known[KeyOf(q.ID)] = q.Question
	}
	find := func(key analysis.Key) (survey.Question, bool) { q, ok := known[key]; return q, ok }
	moved := func(ids map[uint64]uint64) book.Renamed {
		return func(key analysis.Key) (analysis.Key, bool) {
			id, _ := idOf(key)
			return KeyOf(ids[id]), ids[id] != 0
		}
	}
	question, part := moved(o.questions), moved(o.parts)
	there := func(analysis.Key) bool { return true }
	keep := func(kind study.PartKind, id uint64, name string, definition any) error {
		text, err := jsonText(definition)
		if err != nil {
			return fmt.Errorf("service: %w", err)
		}
		if name, err = plain(name, "/name", book.MostLabel, true); err != nil {
			return brokenIn(string(kind), name)
		}
		return o.part(kind, id, name, text)
	}
	for _, b := range o.tables.Banners {
		banner := b.Banner.Moved(question, part)
		if o.parts[b.ID] != 0 || len(banner.Check(find, there)) > 0 {
			return brokenIn("banner", b.Name)
		}
		if err := keep(study.Banner, b.ID, b.Name, banner); err != nil {
			return err
		}
	}
	for _, b := range o.tables.Books {
		to, ok := b.Moved(question, part, part)
		if !ok {
			continue
		}
		if len(to.Check(find, there)) > 0 {
			return brokenIn("book", b.Title)
		}
		if err := keep(study.TableBook, 0, b.Title, to); err != nil {
			return err
		}
	}
	nets := o.tables.Nets.Moved(question, part)
	for key, of := range nets.Questions {
		if err := checkNets(known[key], of); err != nil {
			return brokenIn("nets", known[key].Name)
		}
	}
	if len(nets.Questions)+len(nets.Lists) == 0 {
		return nil
	}
	return keep(study.Nets, 0, "nets", nets)
}

// recipeTables gives a recipe the banners, books and nets of the study, and its rule of what may leave.
func (s *StudyFiles) recipeTables(ctx context.Context, d *dataset, out *recipe.Recipe) error {
	v, err := (&Books{base: s.base}).viewOf(ctx, d)
	if err != nil {
		return err
	}
	question := func(key analysis.Key) (analysis.Key, bool) {
		q, ok := d.questionAt(key)
		return analysis.Key(q.Name), ok
	}
	subgroup := func(key analysis.Key) (analysis.Key, bool) {
		id, _ := idOf(key)
		p, _ := d.part(id)
		return analysis.Key(p.Name), d.subgroupAt(key)
	}
	names := map[analysis.Key]analysis.Key{}
	for _, b := range v.Banners {
		names[KeyOf(b.ID)] = analysis.Key(b.Name)
		out.Banners = append(out.Banners, recipe.Banner{Name: b.Name, Banner: b.Banner.Moved(question, subgroup)})
	}
	banner := func(key analysis.Key) (analysis.Key, bool) { name, ok := names[key]; return name, ok }
	for _, b := range v.Books {
		if to, ok := b.Book.Moved(question, subgroup, banner); ok {
			out.Books = append(out.Books, to)
		}
	}
	nets := d.nets(v.Nets)
	for i, q := range d.questions {
		out.Questions[i].Nets = nets(KeyOf(q.ID))
	}
	if d.rule.InForce() {
		out.SafeToPublish = &d.rule
	}
	return nil
}
