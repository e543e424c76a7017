package httpapi

import (
	"bytes"
	"fmt"
	"mime"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/internal/export"
	"widetally/internal/reporting"
	"widetally/internal/said"
	"widetally/internal/service"
)

// from says from which study something leaves, whether it estimates the population, and when.
func (s *server) from(name string, estimated bool) string {
	id := "leaves.from"
	if estimated {
		id = "leaves.from_designed"
	}
	return s.words.Text(id, map[string]string{"study": name, "date": time.Now().Format("2006-01-02")})
}

// leavesAs names what leaves as a file, and notes in the audit trail of its study that it did.
func (s *server) leavesAs(c fiber.Ctx, name string) error {
	disposition := fmt.Sprintf(`attachment; filename="%s"`, name)
	if strings.ContainsFunc(name, func(r rune) bool { return r < ' ' || r > '~' || r == '"' || r == '\\' }) { // of a file as it arrived
		disposition = mime.FormatMediaType("attachment", map[string]string{"filename": name})
	}
	c.Set(fiber.HeaderContentDisposition, disposition)
	if c.Params("study") == "" {
		return nil
	}
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	return s.Trails.Left(c.Context(), n, name)
}

// nameOf names a file by its study, what it is of it, and the day.
func (s *server) nameOf(c fiber.Ctx, id uint64, what, extension string) (string, error) {
	st, err := s.Studies.Get(c.Context(), id)
	return export.FileName(st.Name+" "+what, what, time.Now(), extension), err
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
	if err := s.leavesAs(c, export.FileName(t.Title, name, time.Time{}, string(form))); err != nil {
		return err
	}
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
	v, err := s.Claims.Analysis(c.Context(), studyID, n)
	if err != nil {
		return err
	}
	st, err := s.Studies.Get(c.Context(), studyID)
	if err != nil {
		return err
	}
	if v.Document == nil {
		return study.ErrNotFound
	}
	var basis, over []string // of all its tables, and what stands over the one
	for _, b := range said.Of(v.Leaving(), s.words).Blocks {
		switch b.Kind {
		case document.Basis:
			basis = append(basis, b.Text())
		case document.Heading, document.Sentence:
			over = append(over, b.Text())
		}
		if b.Table == nil {
			continue
		}
		if at--; at > 0 {
			over = nil
			continue
		}
		return s.sendTable(c, reporting.Table(s.words, b.Table, slices.Concat(basis, over, []string{s.from(st.Name, v.Estimated())})), fmt.Sprintf("table-%d", n))
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
	v, err := s.Toplines.Question(c.Context(), studyID, n, of)
	if err != nil {
		return err
	}
	st, err := s.Studies.Get(c.Context(), studyID)
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
	return s.sendTable(c, reporting.TallyTable(s.words, tallyOf(v), base, order, []string{s.from(st.Name, false)}), fmt.Sprintf("question-%d", v.Number))
}
