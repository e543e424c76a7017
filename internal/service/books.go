package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"widetally/core/analysis"
	"widetally/core/book"
	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
)

// BannerView is a banner as it is kept.
type BannerView struct {
	ID      uint64
	Name    string
	Version int
	Banner  book.Banner
	// Problems keep it from being used as the questions are now.
	Problems []analysis.Problem
}

// BookView is a table book as it is kept.
type BookView struct {
	ID       uint64
	Version  int
	Book     book.Book
	Problems []analysis.Problem
}

// BooksView is all that makes tables in a study.
type BooksView struct {
	Study     study.Study
	Questions []study.Question
	Subgroups []study.Part
	Banners   []BannerView
	Books     []BookView
	Nets      book.NetsOf
	// NetsVersion is that of the nets for who edits them.
	NetsVersion int
	Undo, Redo  *study.Edit
}

// View gives a study's banners, books and nets.
func (s *Books) View(ctx context.Context, studyID uint64) (*BooksView, error) {
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return nil, err
	}
	return s.viewOf(ctx, d)
}

func (s *Books) viewOf(ctx context.Context, d *dataset) (*BooksView, error) {
	out := &BooksView{Study: d.study, Questions: d.questions, Banners: []BannerView{}, Books: []BookView{}, Undo: d.undo, Redo: d.redo}
	for _, p := range d.parts {
		if !p.Deleted {
			out.Subgroups = append(out.Subgroups, p)
		}
	}
	parts, err := s.store.Parts(ctx, d.study.ID, study.Banner)
	if err != nil {
		return nil, err
	}
	for _, p := range parts {
		if p.Deleted {
			continue
		}
		v := BannerView{ID: p.ID, Name: p.Name, Version: p.Version}
		if err := json.Unmarshal([]byte(p.Definition), &v.Banner); err != nil {
			return nil, fmt.Errorf("service: banner %d: %w", p.ID, err)
		}
		v.Problems = v.Banner.Check(d.questionAt, d.subgroupAt)
		out.Banners = append(out.Banners, v)
	}
	if parts, err = s.store.Parts(ctx, d.study.ID, study.TableBook); err != nil {
		return nil, err
	}
	for _, p := range parts {
		if p.Deleted {
			continue
		}
		v := BookView{ID: p.ID, Version: p.Version}
		if err := json.Unmarshal([]byte(p.Definition), &v.Book); err != nil {
			return nil, fmt.Errorf("service: table book %d: %w", p.ID, err)
		}
		v.Problems = v.Book.Check(d.questionAt, d.subgroupAt)
		if out.banner(v.Book) == nil {
			v.Problems = append(v.Problems, analysis.Problem{Code: "book.banner", Pointer: "/banner"})
		}
		out.Books = append(out.Books, v)
	}
	if parts, err = s.store.Parts(ctx, d.study.ID, study.Nets); err != nil {
		return nil, err
	}
	part, nets, err := netsOf(parts)
	out.Nets, out.NetsVersion = nets, reportVersion(part)
	return out, err
}

// banner is that of a book; nil where it is gone.
func (v *BooksView) banner(b book.Book) *BannerView {
	for i, one := range v.Banners {
		if KeyOf(one.ID) == b.Banner {
			return &v.Banners[i]
		}
	}
	return nil
}

// netsOf finds the part that holds the nets.
func netsOf(parts []study.Part) (study.Part, book.NetsOf, error) {
	nets := book.NetsOf{}
	for _, p := range parts {
		if !p.Deleted {
			err := json.Unmarshal([]byte(p.Definition), &nets)
			return p, nets, err
		}
	}
	return study.Part{Kind: study.Nets, Name: "nets"}, nets, nil
}

// questionAt is a question of the study by its key.
func (d *dataset) questionAt(key analysis.Key) (survey.Question, bool) {
	id, _ := idOf(key)
	q, ok := d.question(id)
	return q.Question, ok
}

// subgroupAt reports whether the study has a subgroup.
func (d *dataset) subgroupAt(key analysis.Key) bool {
	id, _ := idOf(key)
	p, ok := d.part(id)
	return ok && !p.Deleted
}

// nets are those of a question: its own and those of its shared list.
func (d *dataset) nets(of book.NetsOf) func(analysis.Key) []book.Net {
	return func(key analysis.Key) []book.Net {
		id, _ := idOf(key)
		q, _ := d.question(id)
		out := slices.Clone(of.Questions[key])
		if q.ListID != nil {
			out = append(out, of.Lists[KeyOf(*q.ListID)]...)
		}
		return out
	}
}

// firstProblem is the first problem as an error; nil for none.
func firstProblem(problems []analysis.Problem) error {
	for _, p := range problems {
		return invalidSaying(p.Code, p.Pointer, p.Values)
	}
	return nil
}

// checkable gives the questions and subgroups of a study that is being changed.
func (d *draft) checkable() (*dataset, error) {
	questions, err := d.store.Questions(d.ctx, d.study.ID)
	if err != nil {
		return nil, err
	}
	parts, err := d.store.Parts(d.ctx, d.study.ID, study.Subgroup)
	return &dataset{study: d.study, questions: questions, parts: parts}, err
}

// SaveBanner stores a banner: a new one when id is 0, else the one at this version.
func (s *Books) SaveBanner(ctx context.Context, studyID, id uint64, version int, name string, b book.Banner) (savedID uint64, err error) {
	title := Title{To: study.ToAsk, ID: "banner", Values: document.Values{"name": document.Text(name)}}
	err = s.change(ctx, studyID, title, func(d *draft) error {
		known, err := d.checkable()
		if err != nil {
			return err
		}
		if err := firstProblem(b.Check(known.questionAt, known.subgroupAt)); err != nil {
			return err
		}
		for i, one := range b.Breaks {
			if _, err := plain(one.Label, fmt.Sprintf("/breaks/%d/label", i), book.MostLabel, false); err != nil {
				return err
			}
		}
		savedID, err = d.named(study.Part{ID: id, Kind: study.Banner, Name: name, Version: version}, b)
		return err
	})
	return savedID, err
}

// SaveBook stores a table book: a new one when id is 0, else the one at this version.
func (s *Books) SaveBook(ctx context.Context, studyID, id uint64, version int, b book.Book) (savedID uint64, err error) {
	title := Title{To: study.ToAsk, ID: "book", Values: document.Values{"name": document.Text(b.Title)}}
	err = s.change(ctx, studyID, title, func(d *draft) error {
		known, err := d.checkable()
		if err != nil {
			return err
		}
		if err := firstProblem(b.Check(known.questionAt, known.subgroupAt)); err != nil {
			return err
		}
		banner, _ := idOf(b.Banner)
		p, err := d.store.Part(d.ctx, studyID, banner)
		if errors.Is(err, study.ErrNotFound) || err == nil && (p.Deleted || p.Kind != study.Banner) {
			return invalid("book.banner", "/banner", nil)
		}
		if err != nil {
			return err
		}
		savedID, err = d.named(study.Part{ID: id, Kind: study.TableBook, Name: b.Title, Version: version}, b)
		return err
	})
	return savedID, err
}

// named stores a part whose name no other of its kind has.
func (d *draft) named(p study.Part, definition any) (uint64, error) {
	var err error
	if p.Name, err = plain(p.Name, "/name", book.MostLabel, true); err != nil {
		return 0, err
	}
	parts, err := d.store.Parts(d.ctx, d.study.ID, p.Kind)
	if err != nil {
		return 0, err
	}
	for _, other := range parts {
		if !other.Deleted && other.ID != p.ID && strings.EqualFold(other.Name, p.Name) {
			return 0, invalid(string(p.Kind)+".name_taken", "/name", map[string]string{"text": p.Name})
		}
	}
	if p.Definition, err = jsonText(definition); err != nil {
		return 0, fmt.Errorf("service: %w", err)
	}
	p, err = d.part(p)
	return p.ID, err
}

// Delete takes a banner or a book away; undo brings it back. A banner that a book uses stays.
func (s *Books) Delete(ctx context.Context, studyID, id uint64, kind study.PartKind) error {
	title := Title{To: study.ToAsk, ID: "delete_" + string(kind), Values: document.Values{}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		p, err := d.store.Part(d.ctx, studyID, id)
		if err != nil || p.Deleted || p.Kind != kind {
			return firstError(err, study.ErrNotFound)
		}
		title.Values["name"] = document.Text(p.Name)
		if kind == study.Banner {
			books, err := d.store.Parts(d.ctx, studyID, study.TableBook)
			if err != nil {
				return err
			}
			for _, one := range books {
				var b book.Book
				if err := json.Unmarshal([]byte(one.Definition), &b); err != nil {
					return fmt.Errorf("service: table book %d: %w", one.ID, err)
				}
				if !one.Deleted && b.Banner == KeyOf(id) {
					return invalid("banner.in_use", "", map[string]string{"text": one.Name})
				}
			}
		}
		p.Deleted = true
		_, err = d.part(p)
		return err
	})
}

// mostNets bounds the nets of a question or a list.
const mostNets = 20

// SaveNets stores the nets of a question, or those of the shared list that it has, which hold for all of its
// questions.
func (s *Books) SaveNets(ctx context.Context, studyID uint64, version int, question uint64, ofList bool, nets []book.Net) error {
	title := Title{To: study.ToAsk, ID: "nets", Values: document.Values{}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		q, err := d.question(question)
		if err != nil {
			return err
		}
		title.Values["name"] = document.Text(q.Name)
		if ofList && q.ListID == nil {
			return study.ErrNotFound
		}
		if err := checkNets(q.Question, nets); err != nil {
			return err
		}
		parts, err := d.store.Parts(d.ctx, studyID, study.Nets)
		if err != nil {
			return err
		}
		part, all, err := netsOf(parts)
		if err != nil {
			return err
		}
		if version != reportVersion(part) {
			return study.ErrStale
		}
		of, key := &all.Questions, KeyOf(q.ID)
		if ofList {
			of, key = &all.Lists, KeyOf(*q.ListID)
		}
		if *of == nil {
			*of = map[analysis.Key][]book.Net{}
		}
		if (*of)[key] = nets; len(nets) == 0 {
			delete(*of, key)
		}
		if part.Definition, err = jsonText(all); err != nil {
			return fmt.Errorf("service: %w", err)
		}
		_, err = d.part(part)
		return err
	})
}

func checkNets(q survey.Question, nets []book.Net) error {
	if len(nets) > mostNets {
		return invalid("book.nets", "/nets", nil)
	}
	labels, known := map[string]bool{}, analysis.CodesOf(q)
	for i := range nets {
		at := fmt.Sprintf("/nets/%d", i)
		var err error
		if nets[i].Label, err = plain(nets[i].Label, at+"/label", book.MostLabel, false); err != nil {
			return err
		}
		label := strings.ToLower(nets[i].Label)
		if label == "" || labels[label] {
			return invalid("book.net_label", at+"/label", nil)
		}
		labels[label] = true
		nets[i].Codes = slices.DeleteFunc(nets[i].Codes, func(code string) bool { return !slices.Contains(known, code) })
		slices.Sort(nets[i].Codes)
		if nets[i].Codes = slices.Compact(nets[i].Codes); len(nets[i].Codes) < 2 {
			return invalid("book.net_codes", at+"/codes", nil)
		}
	}
	return nil
}
