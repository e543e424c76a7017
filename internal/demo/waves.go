package demo

import (
	"bytes"
	"context"
	"embed"
	"encoding/json"
	"fmt"

	"widetally/core/analysis"
	"widetally/core/study"
	"widetally/internal/service"
)

//go:embed fernmouth-2024.csv fernmouth-2025.csv fernmouth-2026.csv
var waveFiles embed.FS

//go:embed waves.json
var waved []byte

// Waves makes a study of three years of the borough's survey, in which part of the households were asked again: the
// first file, the others added as waves, and trends over them.
func Waves(ctx context.Context, s *service.Places) error {
	var text struct {
		Name      string                  `json:"name"`
		Units     string                  `json:"units"`
		Question  string                  `json:"question"`
		Waves     []string                `json:"waves"`
		Questions map[string]questionText `json:"questions"`
		Trends    []analysis.Spec         `json:"trends"`
	}
	if err := json.Unmarshal(waved, &text); err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	var st study.Study
	for i, wave := range text.Waves {
		name := "fernmouth-" + wave + ".csv"
		raw, err := waveFiles.ReadFile(name)
		if err != nil {
			return fmt.Errorf("demo: %w", err)
		}
		a, err := s.Uploads.Arrive(ctx, name, bytes.NewReader(raw))
		if err != nil {
			return fmt.Errorf("demo: %s: %w", name, err)
		}
		if i == 0 {
			if st, err = s.Studies.Create(ctx, service.NewStudy{ArrivalID: a.ID, Settings: a.Settings, Name: text.Name, Units: text.Units}); err != nil {
				return fmt.Errorf("demo: %s: %w", name, err)
			}
			continue
		}
		if err := s.Uploads.Refresh(ctx, st.ID, service.Refresh{ArrivalID: a.ID, Settings: a.Settings, Add: true, WaveQuestion: text.Question, Wave: wave, WaveBefore: text.Waves[0]}); err != nil {
			return fmt.Errorf("demo: %s: %w", name, err)
		}
	}
	page, err := s.Codebooks.Codebook(ctx, st.ID)
	if err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	columns := byName(page.Questions)
	for _, q := range page.Questions {
		if t, ok := text.Questions[q.Name]; ok {
			if err := s.Codebooks.EditQuestion(ctx, st.ID, q.ID, q.Version, t.edit(q, columns)); err != nil {
				return fmt.Errorf("demo: question %q: %w", q.Name, err)
			}
		}
	}
	for _, spec := range text.Trends {
		if err := s.Methods().Resolve(&spec); err != nil {
			return fmt.Errorf("demo: %w", err)
		}
		for i, name := range spec.Questions {
			spec.Questions[i] = service.KeyOf(columns[string(name)].ID)
		}
		if _, _, err := s.Claims.State(ctx, st.ID, spec, false); err != nil {
			return fmt.Errorf("demo: %s: %w", spec.Method, err)
		}
	}
	return s.UndoLine.Settle(ctx, st.ID)
}
