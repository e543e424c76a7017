package service

import (
	"cmp"
	"context"
	"errors"
	"strings"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/studyfile"
	"widetally/internal/arrivals"
	"widetally/internal/intake"
)

// Packed is a study in a file that arrived: what could be opened.
type Packed struct {
	Name, Units       string
	Rows              int64
	Questions, Claims int
}

// documentsOf reads the documents of a study file; ok is false for a file without them.
func (s *StudyFiles) documentsOf(ctx context.Context, w arrivals.File) (book studyfile.Codebook, asked studyfile.Analyses, reported studyfile.Report, tables studyfile.Tables, ok bool, err error) {
	read := func(name string) (raw []byte, err error) {
		err = s.room.Look(ctx, w, func(f intake.File) (err error) {
			raw, err = intake.Member(f, name)
			return err
		})
		if errors.Is(err, intake.ErrNoMember) {
			return nil, nil
		}
		return raw, err
	}
	raw, err := read(studyfile.CodebookName)
	if err != nil || raw == nil {
		return book, asked, reported, tables, false, err
	}
	if err = studyfile.Read(raw, studyfile.CodebookFormat, &book); err != nil {
		return book, asked, reported, tables, true, packed(err)
	}
	for _, d := range []struct {
		name string
		into func(raw []byte) error
	}{
		{studyfile.AnalysesName, func(raw []byte) error {
			err := studyfile.Read(raw, studyfile.AnalysesFormat, &asked)
			for i := range asked.Analyses {
				err = cmp.Or(err, s.methods.Resolve(&asked.Analyses[i].Spec))
			}
			return err
		}},
		{studyfile.ReportName, func(raw []byte) error { return studyfile.Read(raw, studyfile.ReportFormat, &reported) }},
		{studyfile.TablesName, func(raw []byte) error { return studyfile.Read(raw, studyfile.TablesFormat, &tables) }},
	} {
		if raw, err = read(d.name); err != nil {
			return book, asked, reported, tables, true, err
		}
		if raw == nil {
			continue
		}
		if err = d.into(raw); err != nil {
			return book, asked, reported, tables, true, packed(err)
		}
	}
	return book, asked, reported, tables, true, nil
}

// packed says what is wrong with a study file.
func packed(err error) error {
	if errors.Is(err, studyfile.ErrNewer) {
		return invalid("packed.newer", "", nil)
	}
	return broken("unreadable", document.Values{"text": document.Text(strings.TrimPrefix(err.Error(), "studyfile: "))})
}

// PackedIn tells of the study in a file that arrived; nil where there is none.
func (s *StudyFiles) PackedIn(ctx context.Context, arrivalID string) (*Packed, error) {
	w, err := s.arrived(ctx, arrivalID)
	if err != nil {
		return nil, err
	}
	book, asked, _, _, ok, err := s.documentsOf(ctx, w)
	if err != nil || !ok {
		return nil, err
	}
	out := &Packed{Name: book.Study.Name, Units: book.Study.Units, Rows: book.Study.Rows, Questions: len(book.Questions)}
	for _, a := range asked.Analyses {
		if a.Claim > 0 && a.WithdrawnAt == nil {
			out.Claims++
		}
	}
	return out, nil
}

// Open makes of a study file the study that it was: the same questions, subgroups, analyses,
// claims with their times, and report. The line of undo begins anew.
func (s *StudyFiles) Open(ctx context.Context, arrivalID string) (study.Study, error) {
	w, err := s.arrived(ctx, arrivalID)
	if err != nil {
		return study.Study{}, err
	}
	book, asked, reported, tables, ok, err := s.documentsOf(ctx, w)
	if err == nil && !ok {
		err = invalid("packed.none", "", nil)
	}
	if err != nil {
		return study.Study{}, err
	}
	table, w, err := s.readable(ctx, arrivalID, intake.Settings{Format: intake.DataPackage, Shape: intake.Rows, Encoding: intake.UTF8, Delimiter: ",", HeaderRow: 1, HeaderSaid: true, LastRow: intake.LastIsRespondent})
	if err != nil {
		return study.Study{}, err
	}
	release, err := s.room.TurnToKeep(ctx, w)
	if err != nil {
		return study.Study{}, err
	}
	defer release()
	kept, err := s.kept.Hold(w)
	if err != nil {
		return study.Study{}, err
	}
	o := &opening{StudyFiles: s, book: book, asked: asked, tables: tables, table: table}
	err = o.run(ctx, kept, reported.Report)
	kept.Settle(err == nil)
	if err != nil {
		return study.Study{}, err
	}
	s.room.Discard(ctx, arrivalID)
	return s.asKept(context.WithoutCancel(ctx), o.made), nil
}
