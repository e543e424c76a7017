package demo

import (
	"context"
	_ "embed"
	"encoding/json"
	"fmt"

	"widetally/core/book"
	"widetally/core/study"
	"widetally/internal/service"
)

//go:embed tables.json
var tabulated []byte

// Tables gives the demo study a table book with its banner, whose questions are named as the file does.
func Tables(ctx context.Context, s *service.Places, st study.Study) error {
	var text struct {
		Banner string       `json:"banner"`
		Breaks []book.Break `json:"breaks"`
		Book   book.Book    `json:"book"`
		Nets   []struct {
			Question string `json:"question"`
			book.Net
		} `json:"nets"`
	}
	if err := json.Unmarshal(tabulated, &text); err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	page, err := s.Codebooks.Codebook(ctx, st.ID)
	if err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	columns := byName(page.Questions)
	for i := range text.Breaks {
		for k, name := range text.Breaks[i].Questions {
			text.Breaks[i].Questions[k] = service.KeyOf(columns[string(name)].ID)
		}
	}
	banner, err := s.Books.SaveBanner(ctx, st.ID, 0, 0, text.Banner, book.Banner{Breaks: text.Breaks})
	if err != nil {
		return fmt.Errorf("demo: the banner: %w", err)
	}
	text.Book.Banner = service.KeyOf(banner)
	if _, err := s.Books.SaveBook(ctx, st.ID, 0, 0, text.Book); err != nil {
		return fmt.Errorf("demo: the table book: %w", err)
	}
	for _, n := range text.Nets {
		now, err := s.Books.View(ctx, st.ID)
		if err != nil {
			return fmt.Errorf("demo: %w", err)
		}
		if err := s.Books.SaveNets(ctx, st.ID, now.NetsVersion, columns[n.Question].ID, false, []book.Net{n.Net}); err != nil {
			return fmt.Errorf("demo: nets of %q: %w", n.Question, err)
		}
	}
	return s.UndoLine.Settle(ctx, st.ID)
}
