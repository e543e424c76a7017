package httpapi

import (
	"context"
	"fmt"
	"strings"

	"github.com/gofiber/fiber/v3"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/internal/chart"
	"widetally/internal/service"
)

// drawChart answers with a chart of an analysis as a picture, by its place among them.
func (s *server) drawChart(c fiber.Ctx) error {
	studyID, n, err := ids(c, "analysis")
	if err != nil {
		return err
	}
	at, err := id(c, "chart")
	if err != nil {
		return err
	}
	v, err := s.Claims.Analysis(c.Context(), studyID, n)
	if err != nil {
		return err
	}
	if v.Document == nil {
		return study.ErrNotFound
	}
	for _, b := range v.Document.Blocks {
		if b.Chart == nil {
			continue
		}
		if at--; at > 0 {
			continue
		}
		picture := chart.Of(b.Chart, s.Words())
		if picture.Notes, err = s.pictureNotes(c.Context(), studyID, v); err != nil {
			return err
		}
		if c.Query("form") == "json" {
			return c.JSON(picture)
		}
		svg, err := s.charts.Draw(c.Context(), picture)
		if err != nil {
			return err
		}
		c.Set(fiber.HeaderContentType, "image/svg+xml")
		c.Set(fiber.HeaderContentDisposition, fmt.Sprintf(`attachment; filename="chart-%d-%s.svg"`, n, b.Chart.Kind))
		return c.SendString(svg)
	}
	return study.ErrNotFound
}

// pictureNotes are the lines that stand under a picture which leaves: of whom it speaks, and
// from which study and day.
func (s *server) pictureNotes(ctx context.Context, studyID uint64, v service.AnalysisView) ([]string, error) {
	st, err := s.Studies.Get(ctx, studyID)
	if err != nil {
		return nil, err
	}
	out := []string{}
	for _, b := range v.Document.Blocks {
		if b.Kind == document.Basis {
			out = append(out, strings.Join(s.sayAll(b.Said), " "))
		}
	}
	if whom := s.say(v.Whom); whom != "" {
		out = append(out, whom)
	}
	return append(out, s.from(st.Name)), nil
}
