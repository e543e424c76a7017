package service

import (
	"context"
	"errors"
	"fmt"

	"widetally/core/analysis"
	"widetally/core/book"
	"widetally/core/document"
	"widetally/core/study"
)

// Tabulated is tables of a book.
type Tabulated struct {
	Book   book.Book
	Banner string
	Layout *book.Layout
	// Captions are those of all tables; Tables are some, from the place From on.
	Captions []document.Message
	From     int
	Tables   []TabulatedTable
	// Revision is the state of the study, Units what a row is, and Among the subgroup that all is about.
	Revision     uint64
	Study, Units string
	Among        string
	// Design tells the design by which the population is estimated; nil counts respondents.
	Design []document.Message
	// Weight names the question by which respondents are weighted; "" for none.
	Weight string
}

// Chance counts the comparisons of the tables.
func (t *Tabulated) Chance() book.Chance {
	var made []*book.Made
	for _, one := range t.Tables {
		if one.Made != nil {
			made = append(made, one.Made)
		}
	}
	return t.Book.ChanceOf(made)
}

// TabulatedTable is a table of a book; Damaged is set where a column of it cannot be read.
type TabulatedTable struct {
	Made    *book.Made
	Shown   book.Shown
	Section string
	// Questions are those that it is about.
	Questions []uint64
	Damaged   *study.DamagedError
}

// madeTable is a table that was counted, with the memory that it holds.
type madeTable struct{ *book.Made }

// Bytes estimates it.
func (m madeTable) Bytes() int {
	n := 1000
	for _, r := range m.Rows {
		for _, c := range r.Cells {
			n += 120 + 150*len(c.Compared)
		}
	}
	return n
}

// tabulation is what the tables of a book are made from.
type tabulation struct {
	*Books
	d      *dataset
	book   book.Book
	from   book.From
	layout *book.Layout
	nets   func(analysis.Key) []book.Net
	tables []book.Table
	key    string
}

// tabulation reads what a book needs; a banner or a book with a problem is refused.
func (s *Books) tabulation(ctx context.Context, d *dataset, b book.Book, banner book.Banner, nets book.NetsOf) (*tabulation, error) {
	t := &tabulation{Books: s, d: d, book: b, nets: d.nets(nets)}
	t.from = book.From{Columns: s.source(ctx, d), Rows: int(d.study.Rows), Rule: d.rule, SubgroupName: func(key analysis.Key) string {
		id, _ := idOf(key)
		p, _ := d.part(id)
		return p.Name
	}}
	var listed []book.Listed
	for _, q := range d.questions {
		listed = append(listed, book.Listed{Key: KeyOf(q.ID), Question: q.Question})
	}
	t.tables = b.Tables(listed)
	if len(t.tables) > book.MostTables {
		t.tables = t.tables[:book.MostTables]
	}
	lay, err := jsonText([]any{d.study.ID, d.study.Revision, banner})
	if err != nil {
		return nil, fmt.Errorf("service: %w", err)
	}
	if t.key, err = jsonText([]any{lay, b, nets, d.rule}); err != nil {
		return nil, fmt.Errorf("service: %w", err)
	}
	if known, ok := s.layouts.Get(lay); ok {
		t.layout = known
		return t, nil
	}
	t.layout, err = once(ctx, s.turns, "banner "+lay, func(ctx context.Context) (*book.Layout, error) {
		done, err := s.turns.take(ctx)
		if err != nil {
			return nil, err
		}
		defer done()
		l, err := book.Lay(banner, t.from)
		if err == nil {
			s.layouts.Put(lay, l)
		}
		return l, err
	})
	return t, err
}

// make counts a table, or remembers.
func (t *tabulation) make(ctx context.Context, i int) (*book.Made, error) {
	key := fmt.Sprintf("%d %s", i, t.key)
	if known, ok := t.Books.tables.Get(key); ok {
		return known.Made, nil
	}
	return once(ctx, t.turns, "table "+key, func(ctx context.Context) (*book.Made, error) {
		done, err := t.turns.take(ctx)
		if err != nil {
			return nil, err
		}
		defer done()
		from := t.from
		from.Columns = t.source(ctx, t.d)
		made, err := book.Make(ctx, t.book, t.layout, t.tables[i:i+1], t.nets, from)
		if err != nil {
			return nil, err
		}
		made[0].Protect(t.d.rule, t.layout)
		t.Books.tables.Put(key, madeTable{made[0]})
		return made[0], nil
	})
}

// Tables makes some tables of a book, from a place on; most < 0 makes all that are left. told is told how far it
// has come; nil for nobody.
func (s *Books) Tables(ctx context.Context, studyID, id uint64, from, most int, told func(done, of int)) (*Tabulated, error) {
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return nil, err
	}
	v, err := s.viewOf(ctx, d)
	if err != nil {
		return nil, err
	}
	for _, one := range v.Books {
		if one.ID != id {
			continue
		}
		if err := firstProblem(one.Problems); err != nil {
			return nil, err
		}
		return s.tabulate(ctx, d, one.Book, v.banner(one.Book), v.Nets, from, most, told)
	}
	return nil, study.ErrNotFound
}

// Sample makes the table of a question by a banner, so that the banner is seen; it compares nothing.
func (s *Books) Sample(ctx context.Context, studyID, banner, question uint64) (*Tabulated, error) {
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return nil, err
	}
	v, err := s.viewOf(ctx, d)
	if err != nil {
		return nil, err
	}
	b := book.Book{Banner: KeyOf(banner), Choice: book.Choice{Which: book.Picked, Questions: []analysis.Key{KeyOf(question)}}}
	if err := firstProblem(b.Check(d.questionAt, d.subgroupAt)); err != nil {
		return nil, err
	}
	by := v.banner(b)
	if by == nil {
		return nil, study.ErrNotFound
	}
	return s.tabulate(ctx, d, b, by, v.Nets, 0, 1, nil)
}

func (s *Books) tabulate(ctx context.Context, d *dataset, b book.Book, by *BannerView, nets book.NetsOf, from, most int, told func(done, of int)) (*Tabulated, error) {
	if err := firstProblem(by.Problems); err != nil {
		return nil, err
	}
	t, err := s.tabulation(ctx, d, b, by.Banner, nets)
	if err != nil {
		return nil, err
	}
	out := &Tabulated{Book: b, Banner: by.Name, Layout: t.layout, From: from, Revision: d.study.Revision, Study: d.study.Name, Units: d.study.Units}
	if b.Subgroup != "" {
		out.Among = t.from.SubgroupName(b.Subgroup)
	}
	if is := d.inForce(); is != nil && !b.Unweighted {
		view, err := s.designView(ctx, d)
		if err != nil {
			return nil, err
		}
		out.Design = view.Said
		id, _ := idOf(is.Weight)
		weight, _ := d.question(id)
		out.Weight = weight.Name
	}
	for _, one := range t.tables {
		out.Captions = append(out.Captions, (&book.Made{Table: one}).Caption())
	}
	end := len(t.tables)
	if most >= 0 {
		end = min(end, from+most)
	}
	for i := from; i < end; i++ {
		if told != nil {
			told(i-from, end-from)
		}
		one := TabulatedTable{Section: t.tables[i].Questions[0].Section}
		for _, q := range t.tables[i].Questions {
			id, _ := idOf(q.Key)
			one.Questions = append(one.Questions, id)
		}
		one.Made, err = t.make(ctx, i)
		var damaged *study.DamagedError
		switch {
		case errors.As(err, &damaged):
			one.Damaged = damaged
		case err != nil:
			return nil, err
		default:
			one.Shown = one.Made.Document(b, t.layout, d.study.Units, out.Among, d.rule)
		}
		out.Tables = append(out.Tables, one)
	}
	return out, nil
}
