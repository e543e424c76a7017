package intake

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/survey"
)

// Whatever stands in a file, each cell arrives as it was written: lines that are cut many at
// once between such as are read by themselves, for their quotes, their ends or their length.
func TestEveryCellArrives(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(6, 4))
	words := []string{"", "", "a", "b", "zz", "Quarry Hill", "Quarry Hall", "Quarry Hill Lane End", "Quarry Hill Lane Bend", "é", "mid\rway", "eight888", strings.Repeat("long ", 30) + "one"}
	quoted := []string{`with "quotes"`, "with, comma", "two\nlines"}
	for round := range map[bool]int{false: 24, true: 240}[os.Getenv("WIDETALLY_SOAK") != ""] {
		width, rows, crlf := 2+rng.IntN(60), 1+rng.IntN(3000), rng.IntN(3) == 0
		quotes, bytesOnly := []int{0, 5, 3000}[rng.IntN(3)], rng.IntN(2) == 0
		var file bytes.Buffer
		end := map[bool]string{false: "\n", true: "\r\n"}[crlf]
		for i := range width {
			fmt.Fprintf(&file, "%s%c", fmt.Sprint("q", i), []byte{',', '\n'}[max(0, i+2-width)])
		}
		cells := make([][]string, rows)
		for r := range cells {
			var line strings.Builder
			for i := range width {
				word := words[rng.IntN(len(words))]
				if bytesOnly {
					word = words[rng.IntN(4)]
				}
				if i+1 == width && crlf && strings.HasSuffix(word, "\r") {
					word = ""
				}
				written := word
				if quotes > 0 && rng.IntN(quotes) == 0 {
					word = quoted[rng.IntN(len(quoted))]
					written = `"` + strings.ReplaceAll(word, `"`, `""`) + `"`
				}
				if i > 0 {
					line.WriteByte(',')
				}
				line.WriteString(written)
				cells[r] = append(cells[r], word)
			}
			ends := end
			if rng.IntN(40) == 0 { // the other one now and then
				ends = map[bool]string{false: "\r\n", true: "\n"}[crlf]
			}
			file.WriteString(line.String() + ends)
		}
		table, err := Read(t.Context(), File{R: bytes.NewReader(file.Bytes()), Size: int64(file.Len())}, Settings{Format: Delimited, Encoding: UTF8, Delimiter: ",", HeaderRow: 1, HeaderSaid: true, Shape: Rows}, nil)
		require.NoError(t, err)
		require.Empty(t, table.Problems, "round %d", round)
		require.Equal(t, rows, table.Rows)
		for i, c := range table.Columns {
			for r := range rows {
				got := c.Code(c.Data, r)
				if got != cells[r][i] {
					t.Fatalf("round %d, row %d, column %d: %q instead of %q", round, r, i, got, cells[r][i])
				}
			}
		}
	}
}

// A line of another width is told of with its number and its cells, wherever it stands among
// lines that are cut many at once.
func TestRaggedLinesAmongMany(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(1, 4))
	for range 40 {
		var file strings.Builder
		file.WriteString("a,b,c\n")
		var want []Problem
		for line := 2; line < 5000; line++ {
			switch rng.IntN(600) {
			case 0:
				file.WriteString("1,2\n")
				want = append(want, Problem{Code: ShortLine, Line: line, Found: 2, Wanted: 3})
			case 1:
				file.WriteString("1,2,3,4\n")
				want = append(want, Problem{Code: LongLine, Line: line, Found: 4, Wanted: 3, Text: "4"})
			default:
				file.WriteString("1,2,3\n")
			}
		}
		table, err := Read(t.Context(), File{R: strings.NewReader(file.String()), Size: int64(file.Len())}, Settings{Format: Delimited, Encoding: UTF8, Delimiter: ",", HeaderRow: 1, HeaderSaid: true, Shape: Rows}, nil)
		require.NoError(t, err)
		assert.Equal(t, len(want), table.Ragged)
		assert.Equal(t, want[:min(len(want), maxReported)], table.Problems)
		counts, err := survey.CountAnswers(table.Columns[0].Question, table.Columns[0].Data, survey.Sample{})
		require.NoError(t, err)
		assert.Equal(t, int64(4998), counts.Everyone-counts.Missing)
	}
}
