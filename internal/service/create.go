package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
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
	Expected *ExpectedOf `json:"-"`
}

// Create reads an arrived file, unless it was just read, and keeps it as a study: all of it, or nothing. Where several
// processes serve the database, another one completes it if this one ends, and asked again it gives the study that was
// made. The errors are *intake.Problem, *InvalidError, or of the store.
func (s *Studies) Create(ctx context.Context, in NewStudy) (made study.Study, err error) {
	if in.Name, err = plain(in.Name, "/name", maxName, true); err != nil {
		return made, err
	}
	if in.Units, err = plain(in.Units, "/units", maxUnits, false); err != nil {
		return made, err
	}
	if in.Units == "" {
		in.Units = "respondents"
	}
	if s.jobs == nil {
		w, err := s.arrived(ctx, in.ArrivalID)
		if err != nil {
			return made, err
		}
		return s.create(ctx, in, w, nil)
	}
	return s.jobs.create(ctx, in)
}

// create makes a study of an arrived file. It is stored in pieces, as a study that nobody sees, and made visible by a last small
// transaction with which noted, which may be nil, is called.
func (s *Studies) create(ctx context.Context, in NewStudy, w arrivals.File, noted func(ctx context.Context, st study.Study) error) (made study.Study, err error) {
	ctx, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	defer func() {
		if err != nil {
			err = causeOf(ctx, err)
		}
	}()
	// The study is begun while the file is read: the one waits for the database, the other
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
		return made, err
	}
	defer release()
	kept, err := s.kept.Hold(w)
	if err != nil {
		return made, err
	}
	defer func() { kept.Settle(err == nil) }()
	if made, err = s.store.BeginStudy(ctx, study.Study{Name: in.Name, Units: in.Units, Decimals: 1}); err != nil {
		return made, err
	}
	defer func() {
		if err != nil {
			_ = s.store.EndStudy(context.WithoutCancel(ctx), made.ID) // else it goes with what was given up
		}
	}()
	table := <-read
	if err := context.Cause(ctx); err != nil {
		return made, err
	}
	within, end := w.Begin(ctx, arrivals.Keeping)
	defer end()
	questions, err := keepTable(within, s.store, &made, table, in.Choices, w)
	if err != nil {
		return made, cancelled(within, err)
	}
	if in.Expected != nil && table.Shares != nil {
		if *in.Expected, err = expectedOf(table.Shares, questions, w.Name); err != nil {
			return made, err
		}
	}
	err = cancelled(within, s.shown(within, made, kept, func(ctx context.Context) error {
		if err := describeFile(ctx, s.store, made.ID, table); err != nil || noted == nil {
			return err
		}
		return noted(ctx, made)
	}))
	if err != nil {
		return made, err
	}
	s.room.Forget(ctx, in.ArrivalID)
	ctx = context.WithoutCancel(ctx)
	_, _ = s.store.Purge(ctx, time.Now().Add(-deletedLife)) // housekeeping; the new study stands either way
	return s.asKept(ctx, made), nil
}

// causeOf is why a context was ended, where it was, and otherwise the error.
func causeOf(ctx context.Context, err error) error {
	if cause := context.Cause(ctx); cause != nil {
		return cause
	}
	return err
}

// shown makes a study visible that was stored, with its file and what else is to be kept with it. Done twice it has
// the same outcome, so that it is done until it is known to be kept.
func (s *base) shown(ctx context.Context, made study.Study, kept *arrivals.Pending, with func(ctx context.Context) error) error {
	if err := kept.Lasting(); err != nil {
		return err
	}
	return study.Again(func() error {
		return s.makers.InBulk(ctx, func(ctx context.Context) error {
			if now, err := s.store.Study(ctx, made.ID); err == nil && now.ID == made.ID {
				return nil // kept by the attempt of which this was not known
			}
			if err := kept.Note(ctx, made.ID); err != nil {
				return err
			}
			if err := with(ctx); err != nil {
				return err
			}
			return s.makers.ShowStudy(ctx, made)
		})
	})
}

// asKept is a study as it stands. It is kept whether or not it can be read at this moment.
func (s *base) asKept(ctx context.Context, made study.Study) study.Study {
	if now, err := s.store.Study(ctx, made.ID); err == nil {
		return now
	}
	return made
}

// cancelled says of an error that the work was cancelled, where it was: the driver tells of
// it as a lost connection, too.
func cancelled(ctx context.Context, err error) error {
	if err != nil && ctx.Err() != nil {
		return errors.Join(ctx.Err(), err)
	}
	return err
}

// keepTable stores what was read as the questions of a study that nobody sees yet.
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
	var data []study.Column
	err = rows.InBulk(ctx, func(ctx context.Context) error {
		data = make([]study.Column, len(columns))
		ids, err := rows.AddQuestions(ctx, questions)
		if err != nil {
			return err
		}
		for i, c := range columns {
			questions[i].ID = ids[i]
			data[i] = study.Column{QuestionID: ids[i], Generation: 1, Column: c.Data}
		}
		if counts >= 0 {
			st.CountQuestion = &ids[counts]
		}
		if err := rows.SetStudyData(ctx, *st); err != nil || table.Settings.Shape != intake.Grid {
			return err
		}
		return crossed(ctx, rows, st.ID, columns, ids)
	})
	if err != nil {
		return nil, err
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
