package service

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/intake"
)

// KeptFile writes a kept file as it arrived to a file and returns it, open at its
// beginning, with its name; the caller closes and removes it. A kept file that is not
// whole is a *study.FileDamagedError.
func (s *Answers) KeptFile(ctx context.Context, studyID, id uint64) (*os.File, string, error) {
	if err := s.may(ctx, studyID, study.ToSeeAnswers); err != nil {
		return nil, "", err
	}
	files, err := s.store.Files(ctx, studyID)
	if err != nil {
		return nil, "", err
	}
	at := slices.IndexFunc(files, func(f study.File) bool { return f.ID == id })
	if at < 0 {
		return nil, "", study.ErrNotFound
	}
	f, err := s.room.Outgoing(func(w io.Writer) error { return s.kept.Write(ctx, files[at], w) })
	return f, files[at].Name, err
}

// Repair makes a damaged column of a question anew: from the files as they arrived, or
// from the questions that it is derived from. Chunks that are whole stay. exact tells
// whether the answers are known, by their checksums, to be those that were there;
// otherwise corrections made by hand may be lost, which the history says.
func (s *Answers) Repair(ctx context.Context, studyID, questionID uint64) (exact bool, err error) {
	err = s.changing(ctx, studyID, study.ToChange, func(ctx context.Context, st study.Study) error {
		d := newDraft(ctx, s.base, st)
		q, err := d.question(questionID)
		if err != nil {
			return err
		}
		if whole, err := d.column(q); err == nil {
			if !q.Kind.Known() {
				return invalid("repair.kind_unknown", "", map[string]string{"name": q.Name})
			}
			if _, err := counted(q, whole, survey.Sample{}); err != nil {
				return invalid("repair.answer_lost", "", map[string]string{"name": q.Name})
			}
			exact = true
			return nil
		} else if damaged := (*study.DamagedError)(nil); !errors.As(err, &damaged) {
			return err
		}
		var column survey.Column
		if q.Derivation != nil {
			column, err = d.derivedAgain(q)
		} else {
			column, err = d.readAgain(q)
		}
		if err != nil {
			return err
		}
		if exact, err = s.store.RepairColumn(ctx, q.ID, q.Generation, column); err != nil {
			return err
		}
		if _, err := s.store.LoadColumn(ctx, q.ID, q.Generation, st.Rows); err != nil {
			return invalid("repair.other", "", map[string]string{"name": q.Name})
		}
		if err := s.base.store.Note(ctx, studyID, document.Say("trail.repaired", document.Values{"name": document.Text(q.Name)})); err != nil || exact {
			return err
		}
		if err := s.store.AddChanges(ctx, studyID, []study.Change{{Subject: study.OfQuestion, SubjectID: q.ID, Field: "repaired", Old: q.Name}}); err != nil {
			return err
		}
		return s.store.TouchStudy(ctx, studyID)
	})
	return exact, err
}

func (d *draft) derivedAgain(q study.Question) (survey.Column, error) {
	_, answers, column, err := d.derive(*q.Derivation)
	if err != nil {
		return column, err
	}
	if _, column, _, err = survey.Refit(q.Answers, answers, column, true); err != nil {
		return column, fmt.Errorf("service: %w", err)
	}
	return column, nil
}

// readAgain reads a question's column from the kept files whose answers the study has.
func (d *draft) readAgain(q study.Question) (survey.Column, error) {
	files, err := d.filesInForce(q)
	if err != nil {
		return survey.Column{}, err
	}
	var column survey.Column
	for i, f := range files {
		part, err := d.columnOf(f, q)
		if err != nil {
			return column, err
		}
		if i == 0 {
			column = part
		} else {
			column = survey.Joined(column, part)
		}
	}
	return column, nil
}

// filesInForce lists the files that the study's answers come from, in the order of
// their rows.
func (d *draft) filesInForce(q study.Question) ([]study.File, error) {
	files, err := d.store.Files(d.ctx, d.study.ID)
	if err != nil {
		return nil, err
	}
	slices.Reverse(files)
	var in []study.File
	for i, f := range files {
		if i == 0 {
			in = append(in, f)
			continue
		}
		if f.EditID == nil { // brought in before this was noted
			return nil, invalid("repair.unknown_files", "", map[string]string{"name": q.Name})
		}
		e, err := d.store.EditByID(d.ctx, d.study.ID, *f.EditID)
		switch {
		case err != nil:
			return nil, err
		case e.State != study.Done:
		case e.Title == "replace":
			in = []study.File{f}
		default:
			in = append(in, f)
		}
	}
	return in, nil
}

// columnOf reads a question's column from a kept file, as the question has it.
func (d *draft) columnOf(f study.File, q study.Question) (survey.Column, error) {
	var settings intake.Settings
	if err := json.Unmarshal([]byte(f.Settings), &settings); err != nil {
		return survey.Column{}, fmt.Errorf("service: file %d: %w", f.ID, err)
	}
	copied, err := d.s.room.Outgoing(func(w io.Writer) error {
		out := bufio.NewWriter(w)
		return errors.Join(d.s.kept.Write(d.ctx, f, out), out.Flush())
	})
	if err != nil {
		return survey.Column{}, err
	}
	defer os.Remove(copied.Name())
	defer copied.Close()
	table, err := intake.Read(d.ctx, d.s.room.Opened(copied, f.Size), settings, nil)
	if err != nil {
		return survey.Column{}, err
	}
	at := survey.Named(q.Name, len(table.Columns), func(i int) string { return table.Columns[i].Name })
	if at < 0 {
		return survey.Column{}, invalid("repair.not_in_file", "", map[string]string{"name": q.Name, "file": f.Name})
	}
	read, err := survey.ReadAs(q.Question, table.Columns[at])
	if err != nil {
		return survey.Column{}, invalid("repair.other", "", map[string]string{"name": q.Name})
	}
	answers, column, _, err := survey.Refit(q.Answers, read.Answers, read.Data, false)
	if err != nil || len(answers) != len(q.Answers) {
		return survey.Column{}, invalid("repair.other", "", map[string]string{"name": q.Name})
	}
	return column, nil
}
