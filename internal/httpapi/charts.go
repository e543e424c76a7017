package httpapi

import (
	"context"
	"fmt"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/study"
	"widetally/internal/export"
	"widetally/internal/said"
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
	for _, b := range said.Of(v.Leaving(), s.words).Blocks {
		if b.Chart == nil {
			continue
		}
		if at--; at > 0 {
			continue
		}
		picture := b.Chart
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
		if err := s.leavesAs(c, export.FileName(picture.Title+" "+string(b.Chart.Kind), fmt.Sprintf("picture-%d", n), time.Time{}, "svg")); err != nil {
			return err
		}
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
	out := append([]string{}, said.Of(v.Leaving(), s.words).Basis()...)
	if whom := s.say(v.Whom); whom != "" {
		out = append(out, whom)
	}
	return append(out, s.from(st.Name, v.Estimated())), nil
}
