package service

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"sync"

	"widetally/core/analysis"
	"widetally/core/disclosure"
	"widetally/core/report"
	"widetally/core/study"
	"widetally/core/survey"
)

// dataset is a study as it stands at one revision: read once, then shared by all that is
// asked of it and never changed. What was counted in it is remembered.
type dataset struct {
	methods   *analysis.Registry
	study     study.Study
	questions []study.Question
	analyses  *studyAnalyses
	parts     []study.Part // subgroups, deleted ones too
	report    report.Report
	// reportVersion is that of the report for who edits it.
	reportVersion int
	selected      map[pieceKey]bool
	answered      answeredNotes
	adjustment    adjustment
	design        Design
	rule          disclosure.Rule
	sampled       *sampled
	undo          *study.Edit
	redo          *study.Edit
	// otherwise says in what it is not as the study is; "" for nothing.
	otherwise string

	mu    sync.Mutex
	views map[viewKey]*QuestionView
}

// viewKey names a question's view among the respondents of a subgroup, 0 for everyone.
type viewKey struct{ question, in uint64 }

// mostViews bounds the views that a dataset remembers.
const mostViews = 4000

// mostDatasets is how many studies are remembered.
const mostDatasets = 16

// datasets remembers studies as they were read last.
type datasets struct {
	mu   sync.Mutex
	byID map[uint64]*dataset
}

func newDatasets() *datasets { return &datasets{byID: map[uint64]*dataset{}} }

func (d *datasets) get(st study.Study) *dataset {
	d.mu.Lock()
	defer d.mu.Unlock()
	if known := d.byID[st.ID]; known != nil && known.study.Revision == st.Revision {
		return known
	}
	return nil
}

func (d *datasets) put(s *dataset) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if known := d.byID[s.study.ID]; known != nil && known.study.Revision > s.study.Revision {
		return
	}
	if len(d.byID) >= mostDatasets {
		for id := range d.byID { // any one: it is read again when it is asked for
			delete(d.byID, id)
			break
		}
	}
	d.byID[s.study.ID] = s
}

// dataset returns a study as it is now: one query when nothing changed since it was read.
func (s *base) dataset(ctx context.Context, studyID uint64) (*dataset, error) {
	st, err := s.seen(ctx, studyID)
	if err != nil {
		return nil, err
	}
	if known := s.datasets.get(st); known != nil {
		return known, nil
	}
	d := &dataset{methods: s.methods, views: map[viewKey]*QuestionView{}}
	err = s.store.Snapshot(ctx, func(ctx context.Context) (err error) {
		if d.study, err = s.store.Study(ctx, studyID); err != nil {
			return err
		}
		if d.questions, err = s.store.Questions(ctx, studyID); err != nil {
			return err
		}
		if d.analyses, err = s.analysesOf(ctx, s.store, studyID); err != nil {
			return err
		}
		if d.parts, err = s.store.Parts(ctx, studyID, study.Subgroup); err != nil {
			return err
		}
		d.analyses.nameSubgroups(d.part)
		reports, err := s.store.Parts(ctx, studyID, study.Report)
		if err != nil {
			return err
		}
		part, r, err := reportOf(reports)
		if err != nil {
			return err
		}
		d.report, d.reportVersion, d.selected = r, reportVersion(part), map[pieceKey]bool{}
		for _, p := range r.Pieces {
			d.selected[keyOfPiece(p)] = true
		}
		answered, err := s.store.Parts(ctx, studyID, study.Answered)
		if err != nil {
			return err
		}
		if _, d.answered, err = answeredOf(answered); err != nil {
			return err
		}
		adjusted, err := s.store.Parts(ctx, studyID, study.Adjustment)
		if err != nil {
			return err
		}
		if _, d.adjustment, err = adjustmentOf(adjusted); err != nil {
			return err
		}
		drawn, err := s.store.Parts(ctx, studyID, study.Design)
		if err != nil {
			return err
		}
		if _, d.design, err = designOf(drawn); err != nil {
			return err
		}
		rules, err := s.store.Parts(ctx, studyID, study.Disclosure)
		if err != nil {
			return err
		}
		if _, d.rule, err = ruleOf(rules); err != nil {
			return err
		}
		d.undo, d.redo, err = steps(ctx, s.store, studyID)
		return err
	})
	if err != nil {
		return nil, err
	}
	if d.sampled, err = s.sampledBy(d); err != nil {
		return nil, err
	}
	s.datasets.put(d)
	return d, nil
}

// another is the same study with subgroups of its own, which what is different is said of; what was counted by
// conditions is shared, views are not.
func (d *dataset) another(otherwise string) *dataset {
	return &dataset{
		methods: d.methods, study: d.study, questions: d.questions, analyses: d.analyses, parts: slices.Clone(d.parts),
		report: d.report, reportVersion: d.reportVersion, selected: d.selected, answered: d.answered, adjustment: d.adjustment,
		design: d.design, rule: d.rule, sampled: d.sampled, undo: d.undo, redo: d.redo, otherwise: otherwise, views: map[viewKey]*QuestionView{},
	}
}

func (d *dataset) question(id uint64) (study.Question, bool) {
	for _, q := range d.questions {
		if q.ID == id {
			return q, true
		}
	}
	return study.Question{}, false
}

func (d *dataset) part(id uint64) (study.Part, bool) {
	for _, p := range d.parts {
		if p.ID == id {
			return p, true
		}
	}
	return study.Part{}, false
}

// weights names a question of weights that the study has.
func (d *dataset) weights() string {
	for _, q := range d.questions {
		if _, _, replicate := survey.NamesReplicate(q.Name); q.Kind == survey.Weight && !replicate {
			return q.Name
		}
	}
	return ""
}

// countedBy names the question that counts the rows; "" for none.
func (d *dataset) countedBy() string {
	if d.study.CountQuestion == nil {
		return ""
	}
	q, _ := d.question(*d.study.CountQuestion)
	return q.Name
}

// getter gives the questions of a study with their columns.
func (s *base) getter(ctx context.Context, d *dataset) func(id uint64) (survey.Source, error) {
	return func(id uint64) (survey.Source, error) {
		q, ok := d.question(id)
		if !ok {
			return survey.Source{}, study.ErrNotFound
		}
		c, err := s.load(ctx, q, d.study.Rows)
		return survey.Source{Question: q.Question, Column: c}, err
	}
}

// KeyOf is the key of a question or a subgroup in specs.
func KeyOf(id uint64) analysis.Key { return analysis.Key(strconv.FormatUint(id, 10)) }

// IDOf is the id of a question or a subgroup by its key in specs; ok is false for what is no id.
func IDOf(key analysis.Key) (id uint64, ok bool) { return idOf(key) }

// idOf reads a key; ok is false for what is no id.
func idOf(key analysis.Key) (id uint64, ok bool) {
	id, err := strconv.ParseUint(string(key), 10, 63)
	return id, err == nil && id > 0
}

// source counts in a study's columns.
func (s *base) source(ctx context.Context, d *dataset) analysis.Columns {
	get := s.getter(ctx, d)
	known := func(err error) error {
		if errors.Is(err, study.ErrNotFound) {
			return analysis.ErrUnknownKey
		}
		return err
	}
	sample := func(key analysis.Key) (whom, error) {
		if key == "" {
			return s.sample(ctx, d, nil)
		}
		id, ok := idOf(key)
		if !ok {
			return whom{}, analysis.ErrUnknownKey
		}
		of, err := s.sample(ctx, d, &id)
		return of, known(err)
	}
	return analysis.Columns{
		Design:  d.inForce(),
		Sampled: d.sampled.once,
		KeyOf:   KeyOf,
		Get: func(key analysis.Key) (survey.Source, error) {
			id, ok := idOf(key)
			if !ok {
				return survey.Source{}, analysis.ErrUnknownKey
			}
			found, err := get(id)
			return found, known(err)
		},
		Sample: func(key analysis.Key) (survey.Sample, error) {
			of, err := sample(key)
			return of.Sample, err
		},
		Counted: func(key, subgroup analysis.Key) (*survey.Distribution, error) {
			id, _ := idOf(key)
			q, ok := d.question(id)
			if !ok {
				return nil, analysis.ErrUnknownKey
			}
			of, err := sample(subgroup)
			if err != nil {
				return nil, err
			}
			return s.distribution(ctx, q, d.study.Rows, of)
		},
	}
}
