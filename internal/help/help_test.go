package help

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/core/methods"
	"widetally/docs"
)

// Each kind of claim and each quick check has its explanation, short and with a source or a
// formula where there is one; none is explained twice.
func TestWhatIsExplained(t *testing.T) {
	seen := map[string]string{}
	for _, topic := range Topics(docs.Methods) {
		assert.NotEmpty(t, topic.For, topic.Title)
		assert.NotEmpty(t, topic.Paragraphs, topic.Title)
		words := 0
		for _, p := range topic.Paragraphs {
			for _, piece := range p {
				words += len(piece.Text)
				if piece.Kind != Math {
					assert.NotContains(t, piece.Text, "$", topic.Title)
				}
			}
		}
		assert.Less(t, words, 420, topic.Title)
		for _, key := range topic.For {
			assert.Empty(t, seen[key], key)
			seen[key] = topic.Title
		}
	}
	for _, m := range methods.All().All() {
		if m.Asked != nil && (m.Asked.New().Tests() || m.Asked.Quick != "") && m.Name != "frequency" && m.Name != "numeric-summary" {
			assert.NotEmpty(t, seen[m.Name], m.Name)
		}
	}
	for _, key := range []string{"statistic", "df", "p", "critical", "w", "v", "h", "thin"} {
		assert.NotEmpty(t, seen[key], key)
	}
}

func TestMathematicsIsKeptApart(t *testing.T) {
	got := Topics([]byte("## In short\n\n### A *b*\n\n<!-- for: x, y/z -->\n\nIf $a_1\\,b_2 \\le x_i$ and\n*so* on.\n\n## Next\n\n### C\n\n<!-- for: q -->\n"))
	assert.Equal(t, []Topic{{For: []string{"x", "y/z"}, Title: "A b", Paragraphs: [][]Piece{{{Plain, "If "}, {Math, `a_1\,b_2 \le x_i`}, {Plain, " and "}, {Emphasis, "so"}, {Plain, " on."}}}}}, got)
}
