package intake

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/survey"
)

var ctx = context.Background()

func file(s string) File { return File{R: strings.NewReader(s), Size: int64(len(s))} }

// first is the first thing that is wrong with a file, fatal or not.
func firstProblem(f File, s Settings) *Problem {
	t, err := Read(ctx, f, s, nil)
	var p *Problem
	if errors.As(err, &p) {
		return p
	}
	if err == nil && len(t.Problems) > 0 {
		return &t.Problems[0]
	}
	return nil
}

func utf16le(s string) string {
	out := "\xff\xfe"
	for _, r := range s {
		out += string([]byte{byte(r), byte(r >> 8)})
	}
	return out
}

func TestSniff(t *testing.T) {
	t.Parallel()
	cases := []struct {
		name, in  string
		encoding  Encoding
		delimiter string
		header    int
		problem   Code
	}{
		{"commas", "ward,age\nHarbour,34\n", UTF8, ",", 1, ""},
		{"semicolons with decimal commas", "ward;weight\nHarbour;1,5\nFenside;0,5\n", UTF8, ";", 1, ""},
		{"tabs and a byte order mark", "\xef\xbb\xbfward\tage\r\nHarbour\t3\r\n", UTF8, "\t", 1, ""},
		{"windows-1252", "stra\xdfe;\xfcber\nja;nein\n", Windows1252, ";", 1, ""},
		{"utf-16", utf16le("ward,age\nHärbour,3\n"), UTF16LE, ",", 1, ""},
		{"no header: numbers on top", "1,2\n3,4\n", UTF8, ",", 0, ""},
		{"no header: the first row comes back", "yes\nno\nyes\n", UTF8, ",", 0, ""},
		{"delimiters inside quotes", "a;b\n\"x,y,z\";1\n\"p,q,r\";2\n", UTF8, ";", 1, ""},
		{"one column", "answer\nyes\nno\n", UTF8, ",", 1, ""},
		{"one column whose name holds a comma", "In your street, how often?\nweekly\nnever\nnever\n", UTF8, ";", 1, ""},
		{"a character cut in two by the sample", "ward\nHärbo\xc3", UTF8, ",", 1, ""},
		{"empty", " \r\n\t\n", "", "", 0, Empty},
		{"binary", "\x7fELF\x00\x01\x02", "", "", 0, Binary},
		{"another archive", "PK\x03\x04\x14\x00", "", "", 0, OtherZip},
		{"lines above the names", "\n\nward,age\nHarbour,34\n", UTF8, ",", 3, ""},
		{"answers and counts parted by blanks", "Harbour 238\nMillbrook 221\n", UTF8, " ", 0, ""},
		{"words parted by blanks are one column", "Quarry Hill\nFen side\n", UTF8, ",", 1, ""},
		{"colons", "Harbour:238\nMillbrook:221\n", UTF8, ":", 0, ""},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			s, err := Sniff(ctx, file(c.in))
			if c.problem != "" {
				var p *Problem
				require.ErrorAs(t, err, &p)
				assert.Equal(t, c.problem, p.Code)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, Settings{Format: Delimited, Shape: Rows, Encoding: c.encoding, Delimiter: c.delimiter, HeaderRow: c.header}, s)
		})
	}
}

var comma = Settings{Format: Delimited, Shape: Rows, Encoding: UTF8, Delimiter: ",", HeaderRow: 1}

func TestProblemsAreSaidByLine(t *testing.T) {
	t.Parallel()
	cases := []struct {
		name, in string
		want     Problem
	}{
		{"short line", "a,b\n1,2\n3\n", Problem{Code: ShortLine, Line: 3, Found: 1, Wanted: 2}},
		{"short line after a quoted line break", "a,b\n\"1\n\n\",2\n3\n", Problem{Code: ShortLine, Line: 5, Found: 1, Wanted: 2}},
		{"long line", "a,b\n1,2,x\n", Problem{Code: LongLine, Line: 2, Found: 3, Wanted: 2, Text: "x"}},
		{"open quote", "a,b\n1,\"2\n3,4\n", Problem{Code: OpenQuote, Line: 2, Column: 2}},
		{"text after a quote", "a,b\n\"1\"x,2\n", Problem{Code: AfterQuote, Line: 2, Column: 1, Text: "x,2"}},
		{"bad utf-8", "a,b\n1,2\n\xff,4\n", Problem{Code: NotUTF8, Line: 3}},
		{"no name", "a,,c\n1,2,3\n", Problem{Code: EmptyName, Line: 1, Column: 2}},
		{"name twice", "ward,age,ward\n1,2,3\n", Problem{Code: DuplicateName, Line: 1, Column: 3, Found: 1, Text: "ward"}},
		{"only a header", "a,b\n", Problem{Code: HeaderOnly, Line: 1}},
		{"a cell without end", "a\n" + strings.Repeat("x", MaxCell+1), Problem{Code: LongCell, Line: 2, Column: 1, Wanted: MaxCell}},
		{"too many columns", strings.Repeat(",", MaxColumns) + "\n1\n", Problem{Code: TooManyCells, Line: 1, Wanted: MaxColumns}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			p := firstProblem(file(c.in), comma)
			require.NotNil(t, p)
			assert.Equal(t, c.want, *p)
		})
	}
	_, err := Read(ctx, file("a"), Settings{Format: Delimited, Shape: Rows, Encoding: UTF8, Delimiter: "x"}, nil)
	assert.Error(t, err, "settings from outside are checked")
}

// A last line that is called a total is asked about, whichever way it was read; where it is one it
// is nobody's answers.
func TestATotalBelowTheRespondents(t *testing.T) {
	t.Parallel()
	many := strings.Repeat("7,Harbour,3\n", 100_000)
	said := func(of LastRow) Settings { s := comma; s.LastRow = of; return s }
	for _, c := range []struct {
		name, in string
		asked    *Problem
		rows     int // where it is a total
	}{
		{"an id called total", "id,ward,n\n1,Harbour,2\n2,Fenside,3\nTotal,,5\n", &Problem{Code: AskTotal, Line: 4, Text: "Total · 5"}, 2},
		{"blanks around it, no line break behind it", "id,ward,n\n1,Harbour,2\n2,Fenside,3\n, Sum: ,\"5\"", &Problem{Code: AskTotal, Line: 4, Text: "Sum: · 5"}, 2},
		{"behind very many", "id,ward,n\n" + many + "Grand total,,300000\n", &Problem{Code: AskTotal, Line: 100_002, Text: "Grand total · 300000"}, 100_000},
		{"behind a block that is full", "id,ward,n\n" + strings.Repeat("7,\"Harbour\",3\n", 511) + "total,\"\",5\n", &Problem{Code: AskTotal, Line: 513, Text: "total · 5"}, 511},
		{"it is above", "id,ward,n\nTotal,,5\n1,Harbour,2\n2,Fenside,3\n", nil, 3},
		{"somebody who answered in words", "id,ward,n\n1,Harbour,2\nTotal,Fenside,3\n", nil, 2},
		{"one column of words", "brand\nTotal\nOther\nOther\nTotal\n", nil, 4},
	} {
		t.Run(c.name, func(t *testing.T) {
			for _, of := range []LastRow{"", LastIsRespondent, LastIsTotal} {
				s := said(of)
				s.HeaderSaid = true
				table, err := Read(ctx, file(c.in), s, nil)
				require.NoError(t, err)
				all := strings.Count(strings.TrimSuffix(c.in, "\n"), "\n")
				switch {
				case of == "" && c.asked != nil:
					assert.Equal(t, []Problem{*c.asked}, table.Problems)
				case of == LastIsTotal:
					assert.Empty(t, table.Problems)
					all = c.rows
					assert.Equal(t, c.asked != nil, len(table.Left) == 1, "what is left out is told")
				default:
					assert.Empty(t, table.Problems)
				}
				assert.Equal(t, all, table.Rows, of)
				assert.Equal(t, all, table.Columns[0].Data.Rows())
			}
		})
	}
}

func TestRemediesInTheSettings(t *testing.T) {
	t.Parallel()
	s := comma
	s.PadShort, s.FixNames = true, true
	table, err := Read(ctx, file("ward,,ward,ward (2)\r\nHarbour\r\n\r\nFenside,1,2,3,,\r\n"), s, nil)
	require.NoError(t, err)
	var names []string
	for _, c := range table.Columns {
		names = append(names, c.Name)
	}
	assert.Equal(t, []string{"ward", "column 2", "ward (2)", "ward (2) (2)"}, names)
	assert.Equal(t, 2, table.Rows, "the empty line between is no respondent")
}

func TestBlankLinesOfASingleColumnAreMissingAnswers(t *testing.T) {
	t.Parallel()
	table, err := Read(ctx, file("caddy\nyes\n\nno\nyes\n\n"), comma, nil)
	require.NoError(t, err)
	assert.Equal(t, 4, table.Rows)
	counts, err := survey.CountAnswers(table.Columns[0].Question, table.Columns[0].Data, survey.Sample{})
	require.NoError(t, err)
	assert.Equal(t, []int64{1, 2, 1}, counts.BySlot)
}

func manyLines(n int, f func(i int) string) string {
	var b strings.Builder
	b.WriteString("q\n")
	for i := range n {
		b.WriteString(f(i) + "\n")
	}
	return b.String()
}

func TestKindsAreGuessed(t *testing.T) {
	t.Parallel()
	letters := func(i int) string {
		return string(rune('a'+i%26)) + string(rune('a'+i/26%26)) + string(rune('a'+i/676%26))
	}
	cases := []struct {
		name   string
		in     string
		kind   survey.Kind
		reason survey.Reason
	}{
		{"words", manyLines(60, func(i int) string { return []string{"yes", "no"}[i%2] }), survey.Single, survey.FewWords},
		{"codes", manyLines(60, func(i int) string { return []string{"1", "2", "5"}[i%3] }), survey.Single, survey.FewCodes},
		{"children", manyLines(100, func(i int) string { return string(rune('0' + i%9)) }), survey.Discrete, survey.SomeWholes},
		{"years", manyLines(400, func(i int) string { return strconv.Itoa(i%10) + "." + strconv.Itoa(i/10%10) }), survey.Continuous, survey.ManyNumbers},
		{"numbers with words among them", manyLines(400, func(i int) string {
			if i%50 == 0 {
				return "refused"
			}
			return string(rune('1'+i%9)) + "." + string(rune('0'+i/9%10))
		}), survey.Continuous, survey.ManyNumbers},
		{"identifier", manyLines(100, func(i int) string { return "F" + string(rune('0'+i/10)) + string(rune('0'+i%10)) }), survey.Identifier, survey.AllDifferent},
		{"free text", manyLines(300, func(i int) string { return strings.Repeat(letters(i), 1+i%3) }), survey.Text, survey.ManyTexts},
		{"nothing", "q,r\n,1\n,2\n", survey.Single, survey.NothingAtAll},
		{"more words than slots", manyLines(70_000, func(i int) string { return letters(i) + letters(i/17576) + strings.Repeat("x", i%2) }) + "aaaaaa\n", survey.Text, survey.ManyTexts},
		{"more numbers than slots", manyLines(140_000, func(i int) string { return "0." + strconv.Itoa(100_000+i) }), survey.Continuous, survey.ManyNumbers},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			table, err := Read(ctx, file(c.in), comma, nil)
			require.NoError(t, err)
			col := table.Columns[0]
			assert.Equal(t, c.kind, col.Kind)
			assert.Equal(t, c.reason, col.Reason)
			assert.Equal(t, table.Rows, col.Data.Rows())
			assert.Equal(t, survey.Blank, findBlank(t, col).Slot, "every question has its blank")
		})
	}
}

func findBlank(t *testing.T, c survey.Built) survey.Answer {
	for _, a := range c.Answers {
		if a.Code == "" {
			return a
		}
	}
	t.Fatal("no blank among the answers")
	return survey.Answer{}
}

// Whatever is accepted holds the same cells as the standard library's reader
// finds, and nothing makes the reader panic or hang.
func FuzzRead(f *testing.F) {
	for _, s := range []string{"a,b\n1,2\n", "a;b\r\n\"x\r\ny\";\"\"\"\"\r\n", "\"a\"\n\"", "\xff\xfea\x00", "a\n\n\nb", "q\n\"\"\n", "\xef\xbb\xbfa,b\n,\n", "id,n\n1,2\nTotal,2\n", "id,n,m\n1,2,3\n1,2,3\n, sum:"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		f := File{R: bytes.NewReader(raw), Size: int64(len(raw))}
		s, err := Sniff(ctx, f)
		if err != nil {
			return
		}
		for _, shape := range []Shape{Grid, Two, Classes, Counts} {
			of := s
			of.Shape, of.Second, of.UpTo, of.CountColumn = shape, SecondIsAsked, UpToNext, "n"
			var told *Problem
			if _, err := Read(ctx, f, of, nil); err != nil && !errors.As(err, &told) {
				t.Fatalf("%s: %v", shape, err)
			}
		}
		s.PadShort, s.FixNames = true, true
		table, err := Read(ctx, f, s, nil)
		if err != nil {
			return
		}
		// Without a total below it, a table is what it is; with one it has a row less.
		asked := len(table.Problems) == 1 && table.Problems[0].Code == AskTotal
		if asked || len(table.Problems) == 0 {
			without := s
			without.LastRow = LastIsTotal
			again, err := Read(ctx, f, without, nil)
			switch {
			case asked && table.Rows == 1: // nothing is left
			case err != nil:
				t.Fatal(err)
			case asked && again.Rows != table.Rows-1, !asked && again.Rows != table.Rows, asked != (len(again.Left) == 1):
				t.Fatalf("%d rows of %d, left out %q", again.Rows, table.Rows, again.Left)
			}
		}
		if len(table.Problems) > 0 {
			return
		}
		for _, c := range table.Columns {
			if c.Data.Rows() != table.Rows {
				t.Fatalf("%s has %d rows of %d", c.Name, c.Data.Rows(), table.Rows)
			}
		}
		text := strings.TrimPrefix(string(raw), "\xef\xbb\xbf")
		if s.Format != Delimited || s.HeaderRow > 1 || s.Encoding != UTF8 || len(table.Columns) == 1 || strings.ContainsAny(strings.ReplaceAll(text, "\r\n", "\n"), "\r\"") {
			return // the two readers rightly differ on empty lines, bare CR and quotes inside cells
		}
		std := csv.NewReader(strings.NewReader(text))
		std.Comma, std.FieldsPerRecord = rune(s.Delimiter[0]), -1
		rows, err := std.ReadAll()
		if err != nil {
			t.Fatalf("the standard reader refuses it: %v", err)
		}
		n := len(rows)
		if s.HeaderRow > 0 {
			n--
		}
		if n != table.Rows {
			t.Fatalf("%d rows, the standard reader has %d", table.Rows, n)
		}
	})
}

func TestQuotedCellsAgreeWithTheStandardReader(t *testing.T) {
	t.Parallel()
	in := "a,b,c\r\n\"x, y\",\"he said \"\"no\"\"\",\"two\r\nlines\"\r\n,\"\",plain\n"
	std, err := csv.NewReader(strings.NewReader(in)).ReadAll()
	require.NoError(t, err)
	sp := newSplitter(strings.NewReader(in), ',', true)
	for _, want := range std {
		cells, err := sp.next()
		require.NoError(t, err)
		for i := range want {
			// The standard reader turns CRLF inside quotes into LF; here it is kept.
			assert.Equal(t, want[i], strings.ReplaceAll(string(cells[i]), "\r\n", "\n"))
		}
	}
}

// The suite's answers, cell for cell.
func TestSpectrumOfDelimitedFiles(t *testing.T) {
	t.Parallel()
	files, err := filepath.Glob("testdata/csv-spectrum/*.csv")
	require.NoError(t, err)
	require.Len(t, files, 12)
	for _, name := range files {
		t.Run(filepath.Base(name), func(t *testing.T) {
			raw, err := os.ReadFile(name)
			require.NoError(t, err)
			said, err := os.ReadFile(strings.TrimSuffix(name, ".csv") + ".json")
			require.NoError(t, err)
			var want []map[string]string
			if json.Unmarshal(said, &want) != nil {
				want = make([]map[string]string, 1)
				require.NoError(t, json.Unmarshal(said, &want[0]))
			}
			f := file(string(raw))
			s, err := Sniff(ctx, f)
			require.NoError(t, err)
			s.HeaderRow = 1 // some of the suite's names are numbers of the next row
			table, err := Read(ctx, f, s, nil)
			require.NoError(t, err)
			require.Empty(t, table.Problems)
			var got []map[string]string
			for i := range table.Rows {
				row := map[string]string{}
				for _, c := range table.Columns {
					row[c.Name] = c.Code(c.Data, i)
				}
				got = append(got, row)
			}
			if phone := "Contact Phone Number"; want[0][phone] != "" {
				want[0][phone] = "2095257564" // the suite's JSON holds another number than its CSV
			}
			assert.Equal(t, want, got)
		})
	}
}
