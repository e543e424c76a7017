package httpapi

import (
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/study"
	"widetally/internal/export"
	"widetally/internal/i18n"
	"widetally/internal/service"
)

// leaves makes of a table of a document one that can leave: each figure of a cell that is
// shown gets a column of its own.
func (s *server) leaves(t *document.Table, notes []string) export.Table {
	w := s.study.Words()
	out := export.Table{Title: s.say(t.Caption), Notes: notes, Head: []string{s.say(t.Stub)}}
	for _, c := range t.Columns {
		for _, role := range t.Shown {
			head := s.say(c)
			if role != document.Main {
				head += ", " + w.Text("role."+string(role), nil)
			}
			out.Head = append(out.Head, head)
		}
	}
	for _, r := range t.Rows {
		row := []export.Cell{{Text: s.say(r.Name)}}
		for _, c := range r.Cells {
			for _, role := range t.Shown {
				cell := export.Cell{}
				for _, f := range c.Figures {
					if f.Role != role {
						continue
					}
					cell.Text = w.Write(f.Value)
					if d, is := i18n.Decimals(f.Value.Kind); is {
						cell.Number, cell.Decimals = finite(f.Value.Number), d
					}
				}
				row = append(row, cell)
			}
		}
		out.Rows = append(out.Rows, row)
	}
	return out
}

// from says from which study something leaves, whether weighted, and when.
func (s *server) from(name string) string {
	return s.study.Words().Text("leaves.from", map[string]string{"study": name, "date": time.Now().Format("2006-01-02")})
}

func (s *server) sendTable(c fiber.Ctx, t export.Table, name string) error {
	if text := c.Query("column"); text != "" {
		at, err := strconv.Atoi(text)
		if err != nil || at < 0 || at >= len(t.Head) {
			return &service.InvalidError{Code: "leaves.column", Field: "/column"}
		}
		c.Set(fiber.HeaderContentType, export.TSVTable.MediaType())
		return c.SendString(t.Column(at))
	}
	form := export.TableForm(c.Query("form", string(export.CSVTable)))
	if form.MediaType() == "" {
		return &service.InvalidError{Code: "leaves.form", Field: "/form"}
	}
	var out bytes.Buffer
	if err := t.Write(&out, form); err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, form.MediaType())
	c.Set(fiber.HeaderContentDisposition, fmt.Sprintf(`attachment; filename="%s.%s"`, name, form))
	return c.Send(out.Bytes())
}

// analysisTable answers with a table of an analysis, by its place among them.
func (s *server) analysisTable(c fiber.Ctx) error {
	studyID, n, err := ids(c, "analysis")
	if err != nil {
		return err
	}
	at, err := id(c, "table")
	if err != nil {
		return err
	}
	v, err := s.study.Analysis(c.Context(), studyID, n)
	if err != nil {
		return err
	}
	st, err := s.study.Get(c.Context(), studyID)
	if err != nil {
		return err
	}
	if v.Document == nil {
		return study.ErrNotFound
	}
	var basis, over []string // of all its tables, and what stands over the one
	for _, b := range v.Document.Blocks {
		switch text := strings.Join(s.sayAll(b.Said), " "); b.Kind {
		case document.Basis:
			basis = append(basis, text)
		case document.Heading, document.Sentence:
			over = append(over, text)
		}
		if b.Table == nil {
			continue
		}
		if at--; at > 0 {
			over = nil
			continue
		}
		return s.sendTable(c, s.leaves(b.Table, slices.Concat(basis, over, []string{s.from(st.Name)})), fmt.Sprintf("table-%d", n))
	}
	return study.ErrNotFound
}

// questionTable answers with the tally of a question as it is shown, of a subgroup where
// one is asked for.
func (s *server) questionTable(c fiber.Ctx) error {
	studyID, n, err := ids(c, "question")
	if err != nil {
		return err
	}
	of, err := among(c)
	if err != nil {
		return err
	}
	v, err := s.study.Question(c.Context(), studyID, n, of)
	if err != nil {
		return err
	}
	st, err := s.study.Get(c.Context(), studyID)
	if err != nil {
		return err
	}
	base := c.Query("base", "answered")
	if !v.Kind.Tabulated() || v.Damaged != nil || base != "answered" && base != "everyone" {
		return &service.InvalidError{Code: "leaves.base", Field: "/base"}
	}
	order, err := orderOf(c)
	if err != nil {
		return err
	}
	return s.sendTable(c, s.tallyTable(v, base, order, st.Name), fmt.Sprintf("question-%d", v.Number))
}

// tallyTable is the frequency table of a question over one base; where the order of the
// answers means something, with its running sums.
func (s *server) tallyTable(v *service.QuestionView, base string, order claim.Order, studyName string) export.Table {
	w := s.study.Words()
	f := v.Frequency
	rows, n := arranged(v.Question.Question, f.Rows, order), f.Answered
	if base == "everyone" {
		rows, n = slices.Concat(rows, f.MissingRows), f.Everyone
	}
	head := func(ids ...string) (out []string) {
		for _, id := range ids {
			out = append(out, w.Text("column."+id, nil))
		}
		return out
	}
	title := v.Wording
	if v.Within != "" {
		title += " (" + v.Within + ")"
	}
	t := export.Table{Title: title, Head: head("answer", "count", "of_"+base)}
	running := v.Kind.Ranked() && base == "answered"
	if running {
		t.Head = append(t.Head, head("cumulative", "cumulative_relative")...)
	}
	number := func(x float64, decimals int) export.Cell {
		return export.Cell{Text: w.Fixed(x, decimals), Number: &x, Decimals: decimals}
	}
	percentOf := func(count int64) export.Cell {
		if n == 0 {
			return export.Cell{}
		}
		return number(100*float64(count)/float64(n), v.Decimals)
	}
	for _, r := range rows {
		a, _ := v.Answer(r.Slot)
		row := []export.Cell{{Text: a.Label}, number(float64(r.Count), 0), percentOf(r.Count)}
		if running {
			row = append(row, number(float64(*r.Cumulative), 0), percentOf(*r.Cumulative))
		}
		t.Rows = append(t.Rows, row)
	}
	t.Rows = append(t.Rows, []export.Cell{{Text: w.Text("column.total", nil)}, number(float64(n), 0)})
	whom := map[string]string{"units": v.Units, "n": w.Fixed(float64(n), 0), "missing": w.Fixed(float64(f.Missing), 0)}
	if v.Within != "" {
		whom["units"] = w.Text("claim.in_subgroup", map[string]string{"units": v.Units, "subgroup": v.Within})
	}
	t.Notes = []string{w.Text("leaves.base_"+base, whom), s.from(studyName)}
	return t
}
