package intake

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A name that is among its own values costs no names: what is unlike its column tells, and where
// nothing does the file asks.
func TestNamesThatComeBack(t *testing.T) {
	t.Parallel()
	rows := func(head string, lines ...string) string { return head + "\n" + strings.Join(lines, "\n") + "\n" }
	for _, k := range []struct {
		what, in string
		header   int
		asked    bool
		names    string
	}{
		{"a name among its values, numbers beside it", rows("compost,age", "compost,34", "landfill,51", "compost,28"), 1, false, "compost age"},
		{"a name among its values, an identifier beside it", rows("respondent,other", "a1,other", "a2,paper", "a3,other"), 1, false, "respondent other"},
		{"a name among its values, words beside it", rows("caddy,ward", "caddy,Harbour", "none,Fenside", "caddy,Harbour"), 1, true, "caddy ward"},
		{"answers only", rows("yes,no", "yes,no", "no,yes", "yes,yes"), 0, false, "column 1 column 2"},
		{"answers of which a rare one stands first", rows("yes,Harbour,no", "yes,Fenside,no", "no,Fenside,yes"), 0, false, "column 1 column 2 column 3"},
		{"names in two cases", rows("How,how", "1,2", "2,1"), 1, false, "How how"},
		{"a name that comes back far below", rows("caddy,ward", append(slices.Repeat([]string{"no,Fenside"}, 200), "caddy,Harbour")...), 1, true, "caddy ward"},
	} {
		t.Run(k.what, func(t *testing.T) {
			s, err := Sniff(ctx, file(k.in))
			require.NoError(t, err)
			assert.Equal(t, k.header, s.HeaderRow)
			table, err := Read(ctx, file(k.in), s, nil)
			require.NoError(t, err)
			assert.Equal(t, k.names, strings.Join(table.Names, " "))
			if !k.asked {
				assert.Empty(t, table.Problems)
				return
			}
			require.Len(t, table.Problems, 1)
			assert.Equal(t, Problem{Code: AskNames, Line: 1, Text: "caddy"}, table.Problems[0])
			known := *table
			known.Known("ward")
			assert.Empty(t, known.Problems, "who calls a column so has said it")
			s.HeaderSaid = true
			table, err = Read(ctx, file(k.in), s, nil)
			require.NoError(t, err)
			assert.Empty(t, table.Problems)
		})
	}
}

// What a text bears for other programs, or for readers, is no row: a line that names the delimiter,
// titles over the table, lines that end in CR alone; and the corner over row names needs no name.
func TestHabitsOfTexts(t *testing.T) {
	t.Parallel()
	for _, k := range []struct {
		what, in, delimiter string
		header, rows        int
		names               string
	}{
		{"a line that names the delimiter", "sep=;\r\nward;a,b\r\nHarbour;1,5\r\nFenside;2,5\r\n", ";", 2, 2, "ward a,b"},
		{"quoted, after a byte order mark", "\ufeff\"sep=|\"\nward|use\nHarbour|yes\nFenside|no\nFenside|yes\n", "|", 2, 3, "ward use"},
		{"a name like it", "sep=,use\nHarbour,yes\nFenside,no\nFenside,yes\n", ",", 1, 3, "sep= use"},
		{"lines that end in CR", "ward,use\rHarbour,yes\rFenside,no\rFenside,yes\r", ",", 1, 3, "ward use"},
		{"CR within a quoted cell", "ward,use\nHarbour,\"yes\rno\"\nFenside,no\n", ",", 1, 2, "ward use"},
		{"a title and a date over it", "Kerbside survey\n3 May\n\nward,use,size\nHarbour,yes,1\nFenside,no,2\nFenside,yes,2\n", ",", 4, 3, "ward use size"},
		{"no title, a name that is lacking", "ward\nHarbour,yes\nFenside,no\nFenside,yes\n", ",", 1, 3, "ward"},
		{"a corner without a name", ",ward,use\n1,Harbour,yes\n2,Fenside,no\n3,Fenside,yes\n", ",", 1, 3, "column 1 ward use"},
	} {
		t.Run(k.what, func(t *testing.T) {
			s, err := Sniff(ctx, file(k.in))
			require.NoError(t, err)
			assert.Equal(t, k.delimiter, s.Delimiter)
			assert.Equal(t, k.header, s.HeaderRow)
			table, err := Read(ctx, file(k.in), s, nil)
			require.NoError(t, err)
			assert.Equal(t, k.names, strings.Join(table.Names, " "))
			if k.names != "ward" { // where a name is lacking every line is too long
				assert.Empty(t, table.Problems)
				assert.Equal(t, k.rows, table.Rows)
			}
		})
	}
}

// Codes that are declared missing are missing in every column, numbers stay numbers beside words
// that mean missing, and words of other kinds make no numbers.
func TestWordsAmongNumbers(t *testing.T) {
	t.Parallel()
	var lines, words []string
	for i := range 84 {
		lines = append(lines, []string{"1", "2", "3"}[i%3]+","+[]string{"NA", "17.5", "22.25", "31.5", "8", "64.1"}[i%6]+strings.Repeat("1", i%7))
		words = append(words, []string{"low", "high", "1.5"}[i%3])
	}
	in := "mood,spent\n" + strings.Join(lines, "\n") + "\n"
	for strings.Contains(in, "NA1") {
		in = strings.ReplaceAll(in, "NA1", "NA")
	}
	s, err := Sniff(ctx, file(in))
	require.NoError(t, err)
	table, err := Read(ctx, file(in), s, nil)
	require.NoError(t, err)
	assert.Equal(t, "continuous", string(table.Columns[1].Kind))
	s.Missing = []string{"NA", "3"}
	table, err = Read(ctx, file(in), s, nil)
	require.NoError(t, err)
	for i, code := range []string{"3", "NA"} {
		found := false
		for _, a := range table.Columns[i].Answers {
			if a.Code == code {
				found = true
				assert.Equal(t, "no answer", a.Missing, code)
			}
		}
		assert.True(t, found, code)
	}
	table, err = Read(ctx, file("spent\n"+strings.Join(words, "\n")+"\n"), comma, nil)
	require.NoError(t, err)
	assert.Equal(t, "single", string(table.Columns[0].Kind))
}
