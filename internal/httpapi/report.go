package httpapi

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/report"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/export"
	"widetally/internal/pages"
	"widetally/internal/reporting"
	"widetally/internal/said"
	"widetally/internal/service"
)

func (s *server) reportRoutes(r fiber.Router) {
	r.Get("/studies/:study/report", s.to((*server).getReport))
	r.Put("/studies/:study/report", s.to((*server).editReport))
	r.Get("/studies/:study/report/file", s.to((*server).reportFile))
	r.Get("/files/:token/progress", s.to((*server).watchWriting))
	r.Put("/studies/:study/report/questions/:question", s.selectPiece("question", true))
	r.Delete("/studies/:study/report/questions/:question", s.selectPiece("question", false))
	r.Put("/studies/:study/report/analyses/:analysis", s.selectPiece("analysis", true))
	r.Delete("/studies/:study/report/analyses/:analysis", s.selectPiece("analysis", false))
}

// selectPiece takes the tally of a question, in the subgroup that the page is about, or an
// analysis into the report or out of it.
func (s *server) selectPiece(kind string, in bool) fiber.Handler {
	return func(c fiber.Ctx) error {
		s := s.in(c)
		studyID, n, err := ids(c, kind)
		if err != nil {
			return err
		}
		piece := report.Piece{Analysis: n}
		if kind == "question" {
			of, err := among(c)
			if err != nil {
				return err
			}
			piece = report.Piece{Question: n}
			if of != nil {
				piece.Among = *of
			}
		}
		if err := s.Reports.Select(c.Context(), studyID, piece, in); err != nil {
			return err
		}
		return c.SendStatus(fiber.StatusNoContent)
	}
}

// content makes of a report what its maker takes.
func (s *server) content(v *service.ReportView) reporting.Content {
	r := v.Register
	w := s.words
	out := reporting.Content{Study: r.Study.Name, Units: r.Study.Units, Respondents: v.Respondents, Revision: r.Study.Revision, At: time.Now(), CountsBy: v.CountedBy, Weights: v.Weights,
		Tallies: map[int]*reporting.Tally{}, Analyses: map[int]*reporting.Analysis{}, Withdrawn: len(r.Withdrawn), Tests: r.TestsRun}
	if v.Estimated {
		out.Weighted, out.Design = v.Weighted, strings.Join(s.toDesign(v.Design).Said, " ")
	}
	if r.Adjustment != analysis.NoAdjustment {
		out.Adjusted = w.Text("report.adjusted", map[string]string{"how": w.Text("adjustment.by."+string(r.Adjustment), nil)})
	}
	for piece, q := range v.Tallies {
		out.Tallies[piece] = tallyOf(q)
	}
	for piece, row := range v.Analyses {
		a := s.reported(row, r.Questions)
		out.Analyses[piece] = &a
	}
	for _, row := range r.Claims {
		out.Claims = append(out.Claims, s.reported(row, r.Questions))
	}
	if b := v.Before; b != nil {
		out.Since = &reporting.Since{Content: s.content(b.ReportView), Wave: b.Wave, Before: b.Since}
	}
	return out
}

func tallyOf(q *service.QuestionView) *reporting.Tally {
	return &reporting.Tally{Question: q.Question.Question, Number: q.Number, Frequency: q.Frequency, Units: q.Units, Within: q.Within, Decimals: q.Decimals, Estimates: q.Estimates, Numeric: q.Numeric, EstimatedNumber: q.EstimatedNumber, Rule: q.Rule}
}

// reported is an analysis as a report takes it.
func (s *server) reported(row service.RegisterRow, questions []study.Question) reporting.Analysis {
	shown := row.AnalysisView
	shown.Document = nil
	d := s.toAnalysis(shown)
	title := row.Question.Short
	if title == "" {
		title = row.Question.Wording
	}
	out := reporting.Analysis{Name: row.ReportName(), Claim: row.Number, Title: title, Method: row.Spec.Method, Statement: d.Statement, Level: row.Spec.Settings.SignificanceLevel(), Document: said.Of(row.Leaving(), s.words), Problems: d.Problems,
		Whom: s.say(row.Whom), Source: d.Source, StatedAt: d.StatedAt, FirstRunAt: d.FirstRunAt, After: d.Timing == "changed", Estimated: row.Estimated()}
	if row.Outcome != nil && row.Outcome.Counted != nil {
		all := make([]survey.Question, len(questions))
		for i, q := range questions {
			all[i] = q.Question
		}
		out.Asked = reporting.AskedOf(row.Outcome.Counted.Questions, all, true)
		if n, ok := row.Outcome.Counted.Unanswered(); ok {
			out.Missing = s.words.Fixed(float64(n), 0)
		}
	}
	if d.Source != "" && d.SourceDate != "" {
		out.Source = d.Source + ", " + d.SourceDate
	}
	for _, change := range d.Changes {
		out.Changes = append(out.Changes, strings.TrimSuffix(change.Text, "."))
	}
	return out
}

func (s *server) maker() reporting.Maker {
	m := reporting.Maker{Words: s.words, Methods: s.Methods()}
	if s.charts.Built() {
		m.Draw = s.charts.Draw
	}
	return m
}

type disclosedDTO struct {
	Key  report.FactKey `json:"key"`
	Name string         `json:"name"`
	// Said is true where somebody wrote it, or the study itself tells it.
	Said bool `json:"said"`
}

// getReport answers with the report as it is defined and as it reads.
func (s *server) getReport(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	return s.sendReport(c, n)
}

func (s *server) sendReport(c fiber.Ctx, studyID uint64) error {
	v, err := s.Reports.Report(c.Context(), studyID)
	if err != nil {
		return err
	}
	content := s.content(v)
	made, err := s.maker().Make(c.Context(), v.Report, content)
	if err != nil {
		return err
	}
	out := struct {
		Study   studyDTO      `json:"study"`
		Version int           `json:"version"`
		Report  report.Report `json:"report"`
		// Made is the report as it reads.
		Made export.Report `json:"made"`
		// Offers are the figures that prose can name.
		Offers []reporting.Offered `json:"offers"`
		// Disclosed are the headings under which the survey tells of itself, Places the parts
		// of an analysis that can be shown and Usual those that are where nobody chose.
		Disclosed []disclosedDTO      `json:"disclosed"`
		Places    []document.Place    `json:"places"`
		Usual     []document.Place    `json:"usual"`
		Forms     []export.ReportForm `json:"forms"`
		Undo      *editDTO            `json:"undo"`
		Redo      *editDTO            `json:"redo"`
	}{toStudy(v.Register.Study), v.Version, v.Report, made, s.maker().Offers(v.Report, content), nil, report.Places, report.Usual, reportForms(), s.toEdit(v.Undo), s.toEdit(v.Redo)}
	for _, key := range report.FactKeys {
		out.Disclosed = append(out.Disclosed, disclosedDTO{key, s.words.Text("report.fact."+string(key), nil), content.Tells(v.Report, key)})
	}
	if out.Offers == nil {
		out.Offers = []reporting.Offered{}
	}
	if out.Made.Blocks == nil {
		out.Made.Blocks = []export.Block{}
	}
	etag(c, v.Version)
	return c.JSON(out)
}

// editReport stores the report. The figures that its prose names are noted as they stand, where
// the prose is new; those of prose that nobody touched stay as they were written.
func (s *server) editReport(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	ver, err := version(c)
	if err != nil {
		return err
	}
	var in report.Report
	if err := s.decode(c, &in); err != nil {
		return err
	}
	if in.Pieces == nil {
		in.Pieces = []report.Piece{}
	}
	v, err := s.Reports.Report(c.Context(), n)
	if err != nil {
		return err
	}
	written := map[int]report.Piece{}
	for _, p := range v.Report.Pieces {
		written[p.ID] = p
	}
	var now *reporting.Content
	for i, p := range in.Pieces {
		switch before := written[p.ID]; {
		case p.Prose == "":
			in.Pieces[i].Figures = nil
		case before.Prose == p.Prose:
			in.Pieces[i].Figures = before.Figures
		default:
			if now == nil {
				as, err := s.Reports.ReportAs(c.Context(), n, in)
				if err != nil {
					return err
				}
				content := s.content(as)
				now = &content
			}
			in.Pieces[i].Figures = s.maker().Figures(in, *now, p.Prose)
		}
	}
	if err := s.Reports.EditReport(c.Context(), n, ver, in); err != nil {
		return err
	}
	return s.sendReport(c, n)
}

// reportForms are those in which a report can leave here: pages where there is what makes them.
func reportForms() []export.ReportForm {
	if pages.Found() {
		return slices.Insert(slices.Clone(export.ReportForms), 2, export.PDFReport)
	}
	return export.ReportForms
}

// reportFile answers with the report in a form.
func (s *server) reportFile(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	form := export.ReportForm(c.Query("form", string(export.HTMLReport)))
	if form.MediaType() == "" {
		return &service.InvalidError{Code: "report.form", Field: "/form"}
	}
	if form == export.PDFReport && !pages.Found() {
		return &service.InvalidError{Code: "report.no_office", Field: "/form"}
	}
	v, err := s.Reports.Report(c.Context(), n)
	if err != nil {
		return err
	}
	told, end := s.writing(c)
	defer end()
	maker := s.maker().For(form)
	maker.Told = told
	made, err := maker.Make(c.Context(), v.Report, s.content(v))
	if err != nil {
		return err
	}
	title := made.Title
	if form == export.FiguresReport {
		title += " " + s.words.Text("report.word.figures", nil)
	}
	name := export.FileName(title, "report", made.At, form.Extension())
	media, write := form.MediaType(), func(w io.Writer) error { return made.Write(w, form) }
	if form.Archived() && made.HasPictures() {
		inside := name
		name = export.FileName(made.Title+" "+string(form), "report", made.At, "zip")
		media, write = "application/zip", func(w io.Writer) error { return made.Archive(w, form, inside) }
	}
	if form == export.PDFReport {
		document := write
		write = func(w io.Writer) error { return pages.PDF(c.Context(), w, string(made.PagesFrom()), document) }
	}
	f, err := written(c.Context(), write)
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, media)
	if err := s.leavesAs(c, name); err != nil {
		return err
	}
	return s.sendFile(c, f)
}

// written writes a file beside first, so that what fails is told and leaves nothing half; it
// stands at its beginning. A context that ends stops it.
func written(ctx context.Context, write func(w io.Writer) error) (*os.File, error) {
	f, err := os.CreateTemp("", "widetally-*")
	if err != nil {
		return nil, fmt.Errorf("httpapi: %w", err)
	}
	out := bufio.NewWriterSize(stopping{ctx, f}, 1<<16)
	if err = write(out); err == nil {
		err = out.Flush()
	}
	if err == nil {
		_, err = f.Seek(0, io.SeekStart)
	}
	if err != nil {
		return nil, errors.Join(err, f.Close(), os.Remove(f.Name()))
	}
	return f, nil
}

// stopping writes until its context ends.
type stopping struct {
	ctx context.Context
	w   io.Writer
}

func (s stopping) Write(p []byte) (int, error) {
	if err := s.ctx.Err(); err != nil {
		return 0, err
	}
	return s.w.Write(p)
}
