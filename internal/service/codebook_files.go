package service

import (
	"context"
	"fmt"
	"io"
	"os"
	"strings"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/say"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/export"
	"widetally/internal/intake"
)

// CodebookFormat is a format in which a codebook leaves.
type CodebookFormat string

// The formats. PackageFile brings the answers along.
const (
	CSVFile     CodebookFormat = "csv"
	DDIFile     CodebookFormat = "ddi"
	PackageFile CodebookFormat = "package"
)

// CodebookFile writes a study's codebook to a file and returns it, open at its
// beginning; the caller closes and removes it. A package takes the access of who sees single answers.
func (s *Codebooks) CodebookFile(ctx context.Context, studyID uint64, format CodebookFormat) (*os.File, error) {
	if format == PackageFile {
		if err := s.may(ctx, studyID, study.ToSeeAnswers); err != nil {
			return nil, err
		}
	}
	return s.room.Outgoing(func(w io.Writer) error { return s.writeCodebook(ctx, studyID, format, w) })
}

func (s *Codebooks) writeCodebook(ctx context.Context, studyID uint64, format CodebookFormat, w io.Writer) error {
	p, err := s.page(ctx, studyID, nil)
	if err != nil {
		return err
	}
	st, all := p.study, p.questions
	questions := make([]survey.Question, len(all))
	for i, q := range all {
		questions[i] = q.Question
	}
	switch format {
	case CSVFile:
		err = export.CodebookCSV(w, questions)
	case DDIFile:
		err = export.CodebookDDI(w, st.Name, s.sampleDesign(p.dataset), questions)
	case PackageFile:
		documents, err := s.files.documents(ctx, p)
		if err != nil {
			return err
		}
		return s.files.writePackage(ctx, p, documents, nil, w)
	default:
		return invalid("codebook.format", "/format", nil)
	}
	if err != nil {
		return fmt.Errorf("service: codebook: %w", err)
	}
	return nil
}

// sampleDesign tells the design of a dataset for a codebook that leaves.
func (s *Codebooks) sampleDesign(d *dataset) (out export.SampleDesign) {
	is := d.design.Drawn
	if len(is.Questions()) == 0 {
		return out
	}
	by := is.Sampled(func(key analysis.Key) string {
		id, _ := idOf(key)
		q, _ := d.question(id)
		return q.Name
	})
	words := s.words
	for _, m := range by.Drawn() {
		out.Sampling = strings.TrimSpace(out.Sampling + " " + words.Say(m))
	}
	if out.Weight = by.Weight; by.Weight != "" {
		out.Weighting = words.Say(say.BasisDesignedWeight(by.Weight))
	}
	return out
}

// CodebookFit tells how an arrived codebook goes onto a study.
type CodebookFit struct {
	Matched []string // questions that both have
	Lacking []string // questions of the study of which it says nothing
	Further []string // questions that the study lacks
	// KindsKept are matched questions that keep their kind, since their answers cannot
	// be read as the codebook's.
	KindsKept []string
}

// ImportCodebook applies an arrived codebook to a study by the questions' names, as one
// edit; with dry it only tells how it would fit.
func (s *Codebooks) ImportCodebook(ctx context.Context, studyID uint64, arrivalID string, dry bool) (*CodebookFit, error) {
	w, err := s.arrived(ctx, arrivalID)
	if err != nil {
		return nil, err
	}
	var book []survey.Question
	err = s.room.Look(ctx, w, func(f intake.File) (err error) {
		book, err = intake.ReadCodebook(ctx, f)
		return err
	})
	if err != nil {
		return nil, err
	}
	var fit *CodebookFit
	title := Title{ID: "codebook", Values: document.Values{"file": document.Text(w.Name)}}
	stop := fmt.Errorf("service: only looked")
	err = s.change(ctx, studyID, title, func(d *draft) error {
		fit = &CodebookFit{Matched: []string{}, Lacking: []string{}, Further: []string{}, KindsKept: []string{}}
		all, err := d.store.Questions(d.ctx, studyID)
		if err != nil {
			return err
		}
		var changed []edited
		for _, before := range all {
			at := survey.Named(before.Name, len(book), func(i int) string { return book[i].Name })
			if at < 0 {
				fit.Lacking = append(fit.Lacking, before.Name)
				continue
			}
			fit.Matched = append(fit.Matched, before.Name)
			q, kept, err := d.describe(before, book[at])
			if err != nil {
				return err
			}
			if kept {
				fit.KindsKept = append(fit.KindsKept, before.Name)
			}
			changed = append(changed, edited{before, q})
		}
		if err := d.saveAll(changed); err != nil {
			return err
		}
		for _, b := range book {
			if survey.Named(b.Name, len(all), func(i int) string { return all[i].Name }) < 0 {
				fit.Further = append(fit.Further, b.Name)
			}
		}
		if dry {
			return stop
		}
		if len(fit.Matched) == 0 {
			return invalid("codebook.nothing_fits", "", nil)
		}
		return nil
	})
	if err == stop {
		return fit, nil
	}
	if err == nil {
		s.room.Discard(ctx, arrivalID)
	}
	return fit, err
}

// describe gives a question what a codebook says. kept is set when it keeps its kind
// although the codebook says another, since its answers cannot be read as that.
func (d *draft) describe(q study.Question, said survey.Question) (out study.Question, kept bool, err error) {
	if said.Kind != "" && said.Kind != q.Kind {
		as, err := d.recode(q, said.Kind)
		if _, refused := err.(*InvalidError); refused || q.Kind == survey.Identifier && said.Kind == survey.Single {
			kept = true
		} else if err != nil {
			return q, false, err
		} else {
			q = as
		}
	}
	said.Kind = ""
	reasons := map[string]string{}
	for _, a := range said.Answers {
		if a.Missing != "" && a.Code != "" {
			reasons[a.Code] = a.Missing
		}
	}
	if q.Kind.Measured() && len(reasons) > 0 {
		if q, err = d.setMissing(q, reasons); err != nil {
			return q, kept, err
		}
	}
	q.Question = survey.Describe(q.Question, said)
	return q, kept, nil
}
