package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"widetally/core/analysis"
	"widetally/core/methods/crosstab"
	"widetally/core/methods/goodnessoffit"
	"widetally/core/shares"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/arrivals"
	"widetally/internal/intake"
)

// ColumnChoice overrules what reading guessed about a column.
type ColumnChoice struct {
	Name string
	Kind *survey.Kind
	Skip bool // the column is left out; the file as it arrived keeps it
	// Missing gives the reasons of codes that mean missing; SameAs the code under
	// which another spelling is counted.
	Missing map[string]string
	SameAs  map[string]string
	Add     []string // codes of answers that nobody gave
}

// ExpectedOf are shares that came beside the counts of a question's answers, as settings of the
// comparison with them. Who they are of is left to be said.
type ExpectedOf struct {
	Question uint64
	Method   string
	Settings json.RawMessage
}

// NewStudy says what to make of an arrived file.
type NewStudy struct {
	ArrivalID string
	Settings  intake.Settings
	Name      string
	Units     string // "" means "respondents"
	Choices   []ColumnChoice
	// Expected is filled in where shares came beside the counts; nil where nobody asks.
	Expected *ExpectedOf
}

// Create reads an arrived file, unless it was just read, and keeps it as a study in
// one transaction. The errors are *intake.Problem, *InvalidError, or of the store.
func (s *Studies) Create(ctx context.Context, in NewStudy) (study.Study, error) {
	name, err := plain(in.Name, "/name", maxName, true)
	if err != nil {
		return study.Study{}, err
	}
	units, err := plain(in.Units, "/units", maxUnits, false)
	if err != nil {
		return study.Study{}, err
	}
	if units == "" {
		units = "respondents"
	}
	w, err := s.arrived(ctx, in.ArrivalID)
	if err != nil {
		return study.Study{}, err
	}
	var made study.Study
	ctx, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	// The file is kept while it is read: the one waits for the database, the other
	// for the processor.
	read := make(chan *intake.Table, 1)
	go func() {
		table, _, err := s.readable(ctx, in.ArrivalID, in.Settings)
		if err != nil {
			stop(err)
		}
		read <- table
	}()
	release, err := s.room.TurnToKeep(ctx, w)
	if err != nil {
		return study.Study{}, err
	}
	defer release()
	readOnce := sync.OnceValue(func() *intake.Table { return <-read })
	var kept *arrivals.Pending
	err = s.store.InBulk(ctx, func(ctx context.Context) error {
		if made, err = s.store.AddStudy(ctx, study.Study{Name: name, Units: units, Decimals: 1}); err != nil {
			return err
		}
		kept.Settle(false) // of an attempt that was taken back
		if kept, err = s.kept.Keep(ctx, made.ID, w); err != nil {
			return err
		}
		table := readOnce()
		if err := context.Cause(ctx); err != nil {
			return err
		}
		within, end := w.Begin(ctx, arrivals.Keeping)
		defer end()
		questions, err := keepTable(within, s.store, &made, table, in.Choices, w)
		if err != nil {
			return cancelled(within, err)
		}
		if in.Expected != nil && table.Shares != nil {
			if *in.Expected, err = expectedOf(table.Shares, questions, w.Name); err != nil {
				return err
			}
		}
		if err := cancelled(within, describeFile(within, s.store, made.ID, table)); err != nil {
			return err
		}
		return kept.Lasting()
	})
	kept.Settle(err == nil)
	if cause := context.Cause(ctx); cause != nil {
		err = cause
	}
	if err != nil {
		return study.Study{}, err
	}
	s.room.Discard(in.ArrivalID)
	_, _ = s.store.Purge(ctx, time.Now().Add(-deletedLife)) // housekeeping; the new study stands either way
	return s.store.Study(context.WithoutCancel(ctx), made.ID)
}

// cancelled says of an error that the work was cancelled, where it was: the driver tells of
// it as a lost connection, too.
func cancelled(ctx context.Context, err error) error {
	if err != nil && ctx.Err() != nil {
		return errors.Join(ctx.Err(), err)
	}
	return err
}

// keepTable stores what was read as the questions of a study.
func keepTable(ctx context.Context, rows keptRows, st *study.Study, table *intake.Table, choices []ColumnChoice, w arrivals.File) (questions []study.Question, err error) {
	columns, counts, err := chosen(table, choices)
	if err != nil {
		return nil, err
	}
	st.Rows = int64(table.Rows)
	questions = make([]study.Question, len(columns))
	for i, c := range columns {
		if err := textsFit(c.Question, survey.Question{}); err != nil {
			return nil, err
		}
		questions[i] = study.Question{StudyID: st.ID, Position: i, KindReason: string(c.Reason), Question: c.Question}
	}
	ids, err := rows.AddQuestions(ctx, questions)
	if err != nil {
		return nil, err
	}
	data := make([]study.Column, len(columns))
	for i, c := range columns {
		questions[i].ID = ids[i]
		data[i] = study.Column{QuestionID: ids[i], Generation: 1, Column: c.Data}
	}
	if counts >= 0 {
		st.CountQuestion = &ids[counts]
	}
	if err := rows.SetStudyData(ctx, *st); err != nil {
		return nil, err
	}
	if table.Settings.Shape == intake.Grid {
		if err := crossed(ctx, rows, st.ID, columns, ids); err != nil {
			return nil, err
		}
	}
	return questions, rows.SaveColumns(ctx, data, func(n int) { w.At(table.Rows, float64(n)/float64(len(columns))) })
}

// expectedOf are shares of a column beside the counts as settings of a comparison: whose they are is
// left to be said.
func expectedOf(s *intake.TypedShares, questions []study.Question, file string) (ExpectedOf, error) {
	settings := struct {
		Shares analysis.ExpectedShares `json:"shares"`
	}{analysis.ExpectedShares{Scale: s.Scale, Source: analysis.Reference{Title: cut(fmt.Sprintf("%s (%s)", s.Column, file), shares.MaxSetText)}}}
	for _, f := range s.Figures {
		settings.Shares.Figures = append(settings.Shares.Figures, analysis.CategoryFigure{Code: f.Code, Figure: f.Figure})
	}
	raw, err := json.Marshal(settings)
	out := ExpectedOf{Method: goodnessoffit.Method.Name, Settings: raw}
	for _, q := range questions {
		if q.Name == s.Question {
			out.Question = q.ID
		}
	}
	return out, err
}

// crossed shows the two questions of a grid of counts crossed as the grid had them.
func crossed(ctx context.Context, rows analysisWriter, studyID uint64, columns []survey.Built, ids []uint64) error {
	var coded []uint64
	for i, c := range columns {
		if c.Kind.Coded() {
			coded = append(coded, ids[i])
		}
	}
	if len(coded) != 2 {
		return nil
	}
	spec, err := jsonText(crosstab.Described(KeyOf(coded[0]), KeyOf(coded[1])))
	if err != nil {
		return fmt.Errorf("service: %w", err)
	}
	_, err = rows.AddAnalysis(ctx, study.Analysis{StudyID: studyID, QuestionID: coded[0], Spec: spec,
		Uses: []study.Use{{Subject: study.OfQuestion, ID: coded[0]}, {Subject: study.OfQuestion, ID: coded[1]}}}, false)
	return err
}

// arrivalNote is what is kept of how a file arrived.
type arrivalNote struct {
	Names  []string   `json:"names"`
	First  [][]string `json:"first"`
	Padded int        `json:"padded"`
	Left   []string   `json:"left"`
}

// describeFile notes with a kept file how it was read.
func describeFile(ctx context.Context, rows fileWriter, studyID uint64, table *intake.Table) error {
	settings, err := jsonText(table.Settings)
	if err != nil {
		return fmt.Errorf("service: %w", err)
	}
	note, err := jsonText(arrivalNote{table.Names, table.First, table.Padded, table.Left})
	if err != nil {
		return fmt.Errorf("service: %w", err)
	}
	return rows.DescribeFile(ctx, studyID, settings, note)
}

// chosen applies what a person overruled. counts is the place of the count column
// among the columns kept, or −1.
func chosen(table *intake.Table, choices []ColumnChoice) (columns []survey.Built, counts int, err error) {
	byName := map[string]ColumnChoice{}
	for i, c := range choices {
		if !slices.ContainsFunc(table.Columns, func(b survey.Built) bool { return b.Name == c.Name }) {
			return nil, 0, invalid("choice.column", fmt.Sprintf("/columns/%d/name", i), map[string]string{"text": c.Name})
		}
		byName[c.Name] = c
	}
	counts = -1
	for i, b := range table.Columns {
		c, said := byName[b.Name]
		if i == table.CountColumn {
			counts = len(columns)
		} else if said && c.Skip {
			continue
		} else if said {
			if b, err = c.apply(b); err != nil {
				return nil, 0, err
			}
		}
		columns = append(columns, b)
	}
	if len(columns) == 0 {
		return nil, 0, invalid("choice.nothing_left", "/columns", nil)
	}
	return columns, counts, nil
}

func (c ColumnChoice) apply(b survey.Built) (survey.Built, error) {
	if c.Kind != nil && *c.Kind != b.Kind {
		if err := knownKind(*c.Kind, "/columns"); err != nil {
			return b, err
		}
		if *c.Kind == survey.Count {
			return b, invalid("choice.counts", "/columns", map[string]string{"text": c.Name})
		}
		q, data, _, err := survey.Recode(b.Question, b.Data, *c.Kind)
		if err != nil {
			return b, invalid("choice.kind", "/columns", map[string]string{"text": c.Name})
		}
		b.Question, b.Data, b.Reason = q, data, survey.Chosen
	}
	if len(c.Missing) > 0 {
		reasons := map[string]string{}
		for code, reason := range c.Missing {
			reason, err := plain(reason, "/columns", maxMissing, true)
			if err != nil {
				return b, err
			}
			reasons[strings.TrimSpace(code)] = reason
		}
		b.Question, b.Data, _ = survey.SetMissing(b.Question, b.Data, reasons)
	}
	b.Answers = slices.Clone(b.Answers)
	for _, code := range c.Add {
		code, err := plain(code, "/columns", maxLabel, true)
		if err != nil {
			return b, err
		}
		if !b.Kind.Coded() || slices.ContainsFunc(b.Answers, func(a survey.Answer) bool { return strings.TrimSpace(a.Code) == code }) {
			continue
		}
		b.Question = survey.WithAnswer(b.Question, code, code)
	}
	for rare, common := range c.SameAs {
		b.Question = survey.CountAs(b.Question, rare, common)
	}
	return b, nil
}
