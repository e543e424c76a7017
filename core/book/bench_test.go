package book

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/survey"
)

// A book of 200 questions by a banner of 30 columns on a million respondents, the straight loop of one crossing
// of each of its questions beside it, and its first table.
func BenchmarkBook(b *testing.B) {
	const rows, questions = 1_000_000, 200
	r := rand.New(rand.NewPCG(1, 2))
	slots := func(answers int) []uint8 {
		out := make([]uint8, rows)
		for i := range out {
			if r.IntN(33) > 0 {
				out[i] = uint8(1 + r.IntN(answers))
			}
		}
		return out
	}
	var sources []survey.Source
	var tables []Table
	for i := range questions {
		s := single(fmt.Sprintf("q%d", i), survey.Single, 3+i%5, slots(3+i%5))
		sources = append(sources, s)
		tables = append(tables, Table{Questions: []Listed{{analysis.Key(s.Question.Name), s.Question}}})
	}
	var banner Banner
	banner.Breaks = append(banner.Breaks, Break{})
	for i, answers := range []int{4, 6, 7, 5} {
		s := single(fmt.Sprintf("by%d", i), survey.Single, answers, slots(answers))
		sources = append(sources, s)
		banner.Breaks = append(banner.Breaks, Break{Questions: []analysis.Key{analysis.Key(s.Question.Name)}})
	}
	set := single("set", survey.ChooseAll, 7, nil)
	for range rows {
		set.Column.Sets = append(set.Column.Sets, uint64(r.IntN(128))<<1)
	}
	sources = append(sources, set)
	banner.Breaks = append(banner.Breaks, Break{Questions: []analysis.Key{"set"}})
	of, err := analysis.NewTable(sources, "")
	require.NoError(b, err)
	from := From{Columns: of, Rows: rows}
	book := Book{Few: 30, Differences: Differences{Against: EachOther}}
	none := func(analysis.Key) []Net { return nil }
	made := func(b *testing.B, tables []Table) {
		for b.Loop() {
			l, err := Lay(banner, from)
			require.NoError(b, err)
			require.Len(b, l.Columns, 30)
			_, err = Make(b.Context(), book, l, tables, none, from)
			require.NoError(b, err)
		}
	}
	b.Run("straight", func(b *testing.B) {
		for b.Loop() {
			for _, s := range sources[:questions] {
				var t [256]int64
				by := sources[questions+1].Column.U8
				for row, x := range s.Column.U8 {
					t[(int(x)*7+int(by[row]))&255]++
				}
			}
		}
	})
	b.Run("book", func(b *testing.B) { made(b, tables) })
	b.Run("first", func(b *testing.B) { made(b, tables[:1]) })
}
