package service

import (
	"cmp"
	"context"
	"slices"

	"widetally/core/study"
	"widetally/core/survey"
)

// Wave is an answer to the question that tells the waves.
type Wave struct {
	Code, Label string
	// N is how many respondents there are.
	N int64
}

// WavesView tells how a study speaks of its waves, and what would go along to another one.
type WavesView struct {
	// Questions are those whose answers can be waves.
	Questions []study.Question
	// Question is the one that was asked for or, where nobody asked, the one that trends go by; 0 for none.
	Question uint64
	Waves    []Wave
	// From is the wave that is left, by its code, "" for all waves together; To the one that is gone to. Compared
	// is the wave since which changes are told; "" for none.
	From, To, Compared string
	WaveMoves
}

// WaveMoves counts what goes along to another wave, and what stays since it compares waves or is about others.
type WaveMoves struct {
	Claims, Described, Tallies, Books, Staying int
	// Made are the names of subgroups that are made for it.
	Made []string
}

// waveOf finds a wave by its code.
func waveOf(q survey.Question, code string) (survey.Answer, bool) {
	for _, a := range q.Proper() {
		if a.Code == code {
			return a, true
		}
	}
	return survey.Answer{}, false
}

// Waves tells what would go along from one wave to another. A question 0, and codes that are nil, are chosen: the
// question of the trends, from the wave that most is about to the last one.
func (s *Reports) Waves(ctx context.Context, studyID, question uint64, from, to *string) (*WavesView, error) {
	if err := s.may(ctx, studyID, study.ToChange); err != nil { // it tells every count, and is for who may go on
		return nil, err
	}
	p, err := s.page(ctx, studyID, nil)
	if err != nil {
		return nil, err
	}
	d := p.dataset
	out := &WavesView{Questions: []study.Question{}, Waves: []Wave{}}
	for _, q := range d.questions {
		if q.Kind.Coded() && len(q.Proper()) > 1 {
			out.Questions = append(out.Questions, q)
		}
	}
	out.Question = cmp.Or(question, d.wavesBy())
	q, ok := d.question(out.Question)
	if !ok || !slices.ContainsFunc(out.Questions, func(of study.Question) bool { return of.ID == q.ID }) {
		if question != 0 {
			return nil, study.ErrNotFound
		}
		out.Question = 0
		return out, nil
	}
	v, err := s.view(ctx, p, q)
	if err != nil {
		return nil, err
	}
	if v.Damaged != nil {
		return nil, v.Damaged
	}
	for _, a := range q.Proper() {
		w := Wave{Code: a.Code, Label: a.Label}
		for _, row := range v.Frequency.Rows {
			if row.Slot == a.Slot {
				w.N = row.Count
			}
		}
		out.Waves = append(out.Waves, w)
	}
	books, err := (&Books{base: s.base}).viewOf(ctx, d)
	if err != nil {
		return nil, err
	}
	if out.From = d.wavedMost(q, books); from != nil {
		out.From = *from
	}
	for _, w := range out.Waves {
		if w.N > 0 {
			out.To = w.Code
		}
	}
	switch {
	case to != nil:
		out.To = *to
	case out.To == out.From: // all is about the last one already
		out.To = ""
		return out, nil
	}
	m, err := newWaveMove(q, out.From, out.To, d.parts)
	if err != nil {
		return nil, err
	}
	out.Compared = m.since()
	m.make = func(_ survey.Condition, p study.Part) (uint64, error) {
		out.Made = append(out.Made, p.Name)
		return ^uint64(0) - uint64(len(out.Made)), nil // any that is nobody’s
	}
	err = m.count(d, books, &out.WaveMoves)
	return out, err
}

// wavesBy is the question that trends take for that of the waves; 0 where there are none.
func (d *dataset) wavesBy() uint64 {
	for _, q := range d.questions {
		for _, a := range d.analyses.byQuestion[q.ID] {
			if of, ok := a.spec.Settings.(interface{ WavesAt() int }); ok {
				id, _ := idOf(a.spec.Questions[of.WavesAt()])
				return id
			}
		}
	}
	if c := d.report.Compared; c != nil {
		return c.Question
	}
	return 0
}

// wavedMost is the wave that most of what is asked is about; "" where nothing is about one.
func (d *dataset) wavedMost(q study.Question, books *BooksView) (code string) {
	times := map[survey.Slot]int{}
	note := func(id uint64) {
		p, ok := d.part(id)
		if !ok || p.Deleted {
			return
		}
		if c, err := conditionOf(p); err == nil {
			if slot, given := c.Given(q.ID); given {
				times[slot]++
			}
		}
	}
	for _, list := range d.analyses.byQuestion {
		for _, a := range list {
			id, _ := idOf(a.spec.Subgroup)
			note(id)
		}
	}
	for _, p := range d.report.Pieces {
		note(p.Among)
	}
	for _, b := range books.Books {
		id, _ := idOf(b.Book.Subgroup)
		note(id)
	}
	most := 0
	for _, a := range q.Proper() {
		if times[a.Slot] >= max(most, 1) {
			most, code = times[a.Slot], a.Code
		}
	}
	return code
}
