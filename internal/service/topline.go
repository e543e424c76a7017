package service

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"widetally/core/analysis"
	"widetally/core/disclosure"
	"widetally/core/document"
	"widetally/core/inspect"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Topline is the living page: every question with its tally and claims.
type Topline struct {
	Study     study.Study
	Subgroups []SubgroupView
	// Outline is every question of the study, Questions those of them that were asked for.
	Outline   []Outlined
	Questions []*QuestionView
	Undo      *study.Edit // what undo would take back
	Redo      *study.Edit
	// Weights is the name of a question of weights, which no figure here uses; "" for none, and where
	// the study has a design.
	Weights string
	Design  DesignView
}

// Outlined is a question as long as it is not tabulated.
type Outlined struct {
	study.Question
	// PartOf is the choose-all question that counts this one as a column of its own; 0 for none.
	PartOf uint64
	// Analyses are those that stand under it.
	Analyses []uint64
}

// Window says which questions of a page are tabulated: those with these ids, or Many from a
// place in the questionnaire on. The zero value is all of them.
type Window struct {
	IDs        []uint64
	From, Many int
}

func (w Window) of(all []study.Question) []study.Question {
	switch {
	case w.IDs != nil:
		byID := map[uint64]bool{}
		for _, id := range w.IDs {
			byID[id] = true
		}
		var out []study.Question
		for _, q := range all {
			if byID[q.ID] {
				out = append(out, q)
			}
		}
		return out
	case w.Many > 0:
		last := max(0, min(w.From-1+w.Many, len(all)))
		return all[max(0, min(w.From-1, last)):last]
	}
	return all
}

// WithdrawnView is a claim that was withdrawn, as the register shows it.
type WithdrawnView struct {
	study.Analysis
	Statement document.Message
	Level     float64
}

// QuestionView is one question as the page shows it.
type QuestionView struct {
	study.Question
	Units     string // of the study
	Decimals  int    // of the study
	Within    string // the subgroup that it is about; "" for everyone
	Frequency *tally.Frequency
	// Numeric is set for numbers when there are any.
	Numeric *tally.Numeric
	// Suspicions are what the arrival check notices still.
	Suspicions []inspect.Suspicion
	// IsCounts says that this column counts the study's rows.
	IsCounts bool
	// Estimates are the shares in the population by the design in force; nil where respondents are
	// counted.
	Estimates []analysis.Estimated
	// EstimatedNumber is what the design says of a number; nil likewise.
	EstimatedNumber *analysis.EstimatedNumber
	// Estimated says that a design is in force.
	Estimated bool
	// SumAnswered and SumEveryone are what the percent columns add to as printed.
	SumAnswered, SumEveryone float64
	// Examples are a few different texts, for text and identifiers.
	Examples []string
	// Summaries is all that is known of a summarised number.
	Summaries []SummaryView
	// Different counts the different texts.
	Different  int
	Lookalikes []survey.Lookalike
	Analyses   []AnalysisView
	// Asked is how many meet the question's base; nil when it was asked of all.
	Asked *int64
	// CountsInForce is set when a column of counts multiplies the tallies.
	CountsInForce bool
	// Selected says that its tally is in the report.
	Selected bool
	// Rule is what may be told of it where it leaves, and Withheld the answers that are not, where it does.
	Rule     disclosure.Rule
	Withheld []string
	// Damaged says which stored column keeps the question from being tabulated: its
	// own, or one on which its tally rests. Nothing else of the view is filled then.
	Damaged *study.DamagedError
}

// SummaryView is what is known of a number among those who gave an answer.
type SummaryView struct {
	Label string
	survey.GroupSummary
}

const mostExamples = 3

// page is a dataset looked at among the respondents of a subgroup.
type page struct {
	*dataset
	of whom
	in *uint64
	// damaged is set when nobody can tell whom the page is about, since a column that
	// says so is damaged.
	damaged *study.DamagedError
}

// page loads what the questions of a study share. in is the subgroup that the page is
// about, nil for everyone.
func (s *base) page(ctx context.Context, studyID uint64, in *uint64) (*page, error) {
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return nil, err
	}
	return s.pageOf(ctx, d, in)
}

// pageOf is page for a study that is read.
func (s *base) pageOf(ctx context.Context, d *dataset, in *uint64) (*page, error) {
	p := &page{dataset: d, in: in}
	var err error
	p.of, err = s.sample(ctx, d, in)
	if errors.As(err, &p.damaged) {
		return p, nil
	}
	return p, err
}

// Topline tabulates the questions of a study that a window holds, among everyone or in a
// subgroup.
func (s *Toplines) Topline(ctx context.Context, studyID uint64, in *uint64, window Window) (*Topline, error) {
	p, err := s.page(ctx, studyID, in)
	if err != nil {
		return nil, err
	}
	t := &Topline{Study: p.study, Outline: p.outline(), Undo: p.undo, Redo: p.redo, Weights: p.weights()}
	if t.Design, err = s.designView(ctx, p.dataset); err != nil {
		return nil, err
	}
	if len(t.Design.Drawn.Questions()) > 0 {
		t.Weights = ""
	}
	if t.Questions, err = s.views(ctx, p, window); err != nil {
		return nil, err
	}
	t.Subgroups, err = s.subgroupViews(ctx, p)
	return t, err
}

// Questions tabulates the questions of a study that a window holds.
func (s *Toplines) Questions(ctx context.Context, studyID uint64, in *uint64, window Window) (study.Study, []*QuestionView, error) {
	p, err := s.page(ctx, studyID, in)
	if err != nil {
		return study.Study{}, nil, err
	}
	list, err := s.views(ctx, p, window)
	return p.study, list, err
}

func (s *base) views(ctx context.Context, p *page, window Window) (out []*QuestionView, err error) {
	for _, q := range window.of(p.questions) {
		v, err := s.view(ctx, p, q)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, nil
}

func (d *dataset) outline() (out []Outlined) {
	set := map[uint64]uint64{}
	for _, q := range d.questions {
		if q.Derivation != nil && q.Derivation.Rule == survey.Together {
			for _, source := range q.Derivation.Sources {
				set[source] = q.ID
			}
		}
	}
	for _, q := range d.questions {
		o := Outlined{Question: q, PartOf: set[q.ID]}
		for _, a := range d.analyses.byQuestion[q.ID] {
			o.Analyses = append(o.Analyses, a.ID)
		}
		out = append(out, o)
	}
	return out
}

// Question tabulates one question of a study.
func (s *Toplines) Question(ctx context.Context, studyID, id uint64, in *uint64) (*QuestionView, error) {
	p, err := s.page(ctx, studyID, in)
	if err != nil {
		return nil, err
	}
	q, ok := p.question(id)
	if !ok {
		return nil, study.ErrNotFound
	}
	return s.view(ctx, p, q)
}

// view tabulates a question, or says which damaged column keeps it from being tabulated.
func (s *base) view(ctx context.Context, p *page, q study.Question) (*QuestionView, error) {
	if p.damaged != nil {
		return damagedView(p, q, p.damaged), nil
	}
	key := viewKey{question: q.ID}
	if p.in != nil {
		key.in = *p.in
	}
	p.mu.Lock()
	known := p.views[key]
	p.mu.Unlock()
	if known != nil {
		return known, nil
	}
	v, err := once(ctx, s.turns, fmt.Sprintf("view %d %d %s %v", p.study.ID, p.study.Revision, p.otherwise, key), func(ctx context.Context) (*QuestionView, error) {
		return s.tabulated(ctx, p, q)
	})
	var damaged *study.DamagedError
	if errors.As(err, &damaged) {
		return damagedView(p, q, damaged), nil
	}
	if err != nil {
		return nil, err
	}
	p.mu.Lock()
	if len(p.views) >= mostViews {
		clear(p.views)
	}
	p.views[key] = v
	p.mu.Unlock()
	return v, nil
}

func damagedView(p *page, q study.Question, why *study.DamagedError) *QuestionView {
	return &QuestionView{Question: q, Units: p.study.Units, Decimals: p.study.Decimals, Frequency: &tally.Frequency{}, Damaged: why}
}

func (s *base) tabulated(ctx context.Context, p *page, q study.Question) (*QuestionView, error) {
	of := p.of
	isCounts := p.study.CountQuestion != nil && *p.study.CountQuestion == q.ID
	if isCounts { // the counts themselves are summed over rows
		of.Frequency, of.key = nil, "rows "+of.key
	}
	counted, err := s.distribution(ctx, q, p.study.Rows, of)
	if err != nil {
		return nil, err
	}
	v := &QuestionView{Question: q, Units: p.study.Units, Decimals: p.study.Decimals, Within: p.within(), CountsInForce: p.study.CountQuestion != nil, Selected: p.selected[pieceKey{question: q.ID, among: p.among()}], Rule: p.rule}
	v.Frequency = tally.FrequencyOf(q.Question, counted)
	v.sum()
	v.Estimated = p.inForce() != nil
	told, err := s.estimatesOf(ctx, p, q, of)
	if err != nil {
		return nil, err
	}
	v.Estimates, v.EstimatedNumber = told.Shares, told.Number
	if q.Base != nil {
		if v.Asked, err = s.asked(ctx, p, *q.Base, isCounts); err != nil {
			return nil, err
		}
	}
	if q.Kind != survey.Identifier {
		v.Suspicions = inspect.Question(q.Question, counted, nil).Suspicions
	}
	v.IsCounts = isCounts
	switch {
	case v.IsCounts: // how often each row counts, not a question that was asked
	case q.Kind == survey.Summarised:
		v.Summaries = p.summaries(q)
	case q.Kind.Numeric():
		v.Numeric = tally.Summarise(q.Numbers(counted))
	case !q.Kind.Tabulated():
		v.Examples, v.Different = slices.Sorted(slices.Values(counted.Texts[:min(mostExamples, len(counted.Texts))])), len(counted.Texts)
	}
	if q.Kind.Coded() {
		v.Lookalikes = survey.Lookalikes(q.Answers, q.Counts(counted).BySlot)
	}
	for _, a := range p.analyses.byQuestion[q.ID] {
		view, err := s.analysisView(ctx, p.dataset, a)
		if err != nil {
			return nil, err
		}
		v.Analyses = append(v.Analyses, view)
	}
	return v, nil
}

// summaries is what is known of a number within the answers of the question that it is known by.
func (p *page) summaries(q study.Question) (out []SummaryView) {
	by, _ := p.question(q.Derivation.Sources[0])
	for _, a := range by.Proper() {
		for _, s := range q.Derivation.Summaries {
			if s.Answer == a.Slot {
				out = append(out, SummaryView{a.Label, s})
			}
		}
	}
	return out
}

// among is the subgroup, 0 for everyone.
func (p *page) among() uint64 {
	if p.in == nil {
		return 0
	}
	return *p.in
}

// within names the subgroup of the page; "" for everyone.
func (p *page) within() string {
	for _, part := range p.parts {
		if p.in != nil && part.ID == *p.in {
			return part.Name
		}
	}
	return ""
}

// asked counts those on the page who meet a base; isCounts says that rows are counted.
func (s *base) asked(ctx context.Context, p *page, base survey.Condition, isCounts bool) (*int64, error) {
	in, err := s.meeting(ctx, p.dataset, &base)
	if err != nil {
		return nil, err
	}
	if p.in != nil || isCounts {
		of := survey.Sample{Frequency: in.Frequency, Subset: in.Subset.And(p.of.Subset)}
		if isCounts {
			of.Frequency = nil
		}
		in.n = of.Number(int(p.study.Rows))
	}
	return &in.n, nil
}

// sum adds the percent columns as they are printed.
func (v *QuestionView) sum() {
	var answered, everyone []float64
	for _, r := range v.Frequency.Rows {
		if r.PercentOfAnswered != nil {
			answered = append(answered, *r.PercentOfAnswered)
		}
	}
	for _, r := range append(v.Frequency.Rows[:len(v.Frequency.Rows):len(v.Frequency.Rows)], v.Frequency.MissingRows...) {
		if r.PercentOfEveryone != nil {
			everyone = append(everyone, *r.PercentOfEveryone)
		}
	}
	v.SumAnswered, v.SumEveryone = tally.RoundedSum(answered, v.Decimals), tally.RoundedSum(everyone, v.Decimals)
}

// load gives a question's column of this many rows, from memory where it is kept. A
// column of another length is a *study.DamagedError like one that fails its checksum.
func (s *base) load(ctx context.Context, q study.Question, rows int64) (survey.Column, error) {
	key := columnKey{q.ID, q.Generation}
	if c, ok := s.columns.Get(key); ok && int64(c.Rows()) == rows {
		return c, nil
	}
	return once(ctx, s.turns, fmt.Sprintf("column %v %d", key, rows), func(ctx context.Context) (survey.Column, error) {
		c, err := s.read(ctx, q, rows)
		if err == nil {
			s.columns.Put(key, c)
		}
		return c, err
	})
}

// read is load for a transaction: what it reads may yet be taken back, and so is not
// remembered.
func (s *base) read(ctx context.Context, q study.Question, rows int64) (survey.Column, error) {
	if c, ok := s.columns.Get(columnKey{q.ID, q.Generation}); ok && int64(c.Rows()) == rows {
		return c, nil
	}
	c, err := s.store.LoadColumn(ctx, q.ID, q.Generation, rows)
	var damaged *study.DamagedError
	if errors.As(err, &damaged) {
		damaged.Name = q.Name
	}
	return c, err
}
