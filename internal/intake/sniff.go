package intake

import (
	"bytes"
	"context"
	"errors"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"widetally/core/survey"
)

// Sniff guesses how a file is to be read, from its beginning. A file that cannot be
// read in any form is a *Problem.
func Sniff(ctx context.Context, f File) (Settings, error) {
	if f.isZip() {
		return sniffZip(ctx, f)
	}
	head, err := f.head(sampleBytes)
	if err != nil {
		return Settings{}, err
	}
	if s, ok := sniffDescriptor(head); ok {
		return s, nil
	}
	return sniffText(head)
}

func sniffText(head []byte) (Settings, error) {
	s := Settings{Format: Delimited, Shape: Rows}
	switch {
	case len(bytes.TrimSpace(head)) == 0:
		return s, &Problem{Code: Empty}
	case bytes.HasPrefix(head, []byte{0xff, 0xfe}):
		s.Encoding = UTF16LE
	case bytes.HasPrefix(head, []byte{0xfe, 0xff}):
		s.Encoding = UTF16BE
	case bytes.IndexByte(head, 0) >= 0:
		return s, &Problem{Code: Binary}
	case utf8.Valid(trimPartial(head)):
		s.Encoding = UTF8
	default:
		s.Encoding = Windows1252
	}
	text, err := io.ReadAll(s.decode(bytes.NewReader(head)))
	if err != nil && len(text) == 0 {
		return s, &Problem{Code: Binary}
	}
	if values, mark := oneLine(text); len(values) > 2 {
		s.OneLine, s.Delimiter = true, mark
		return s, nil
	}
	s.Delimiter = guessDelimiter(text)
	if coded, err := io.ReadAll(s.coded(bytes.NewReader(head))); err == nil {
		if named := namedDelimiter(coded); slices.Contains(Delimiters, named) {
			s.Delimiter = named
		}
	}
	// What is wrong with the text is said when it is read, with its place.
	rows, first, _ := sample(newSplitter(bytes.NewReader(text), s.Delimiter[0], false))
	if below, place := underTitles(text, s.Delimiter[0], rows); place > 0 && guessHeader(below) == areNames {
		s.HeaderRow = place
	} else if guessHeader(rows) != areNotNames {
		s.HeaderRow = first
	}
	return s, nil
}

// mostTitles is how many lines may stand over the names of a table, and half a table's width how
// wide they are at most.
const mostTitles = 8

// underTitles finds the first row that is as wide as most are where narrower lines stand over it, as
// a title and a date do, and the rows from it on; place is 0 where nothing stands over the table.
func underTitles(text []byte, delimiter byte, rows [][]string) (below [][]string, place int) {
	often := map[int]int{}
	for _, r := range rows {
		often[len(r)]++
	}
	width := 0
	for w, n := range often {
		if n > often[width] || n == often[width] && w > width {
			width = w
		}
	}
	at := slices.IndexFunc(rows, func(r []string) bool { return 2*len(r) > width })
	if width < 2 || at < 1 || at > mostTitles || len(rows[at]) != width {
		return nil, 0
	}
	lines := newSplitter(bytes.NewReader(text), delimiter, false)
	for {
		cells, err := lines.next()
		if err != nil {
			return nil, 0
		}
		if len(cells) == width {
			return rows[at:], lines.place()
		}
	}
}

// oneLine cuts a text that is a single line into its values, by the mark that makes the
// most of them; a line that is a sentence or a name is none.
func oneLine(text []byte) (values []string, mark string) {
	line := strings.TrimSpace(string(text))
	if strings.ContainsAny(line, "\r\n\"") {
		return nil, ""
	}
	for _, d := range []string{"\t", ";", ",", "|", " "} {
		parts := strings.Split(line, d)
		if d == " " {
			parts = strings.Fields(line)
			if !slices.ContainsFunc(parts, func(p string) bool { _, ok := survey.ParseNumber(p, true); return ok }) && !repeats(parts) {
				continue
			}
		}
		if len(parts) > len(values) && len(parts) > 1 {
			values, mark = parts, d
		}
	}
	return values, mark
}

func repeats(parts []string) bool {
	seen := map[string]bool{}
	for _, p := range parts {
		if seen[p] {
			return true
		}
		seen[p] = true
	}
	return false
}

// trimPartial drops a character that the end of the sample cut in two.
func trimPartial(b []byte) []byte {
	for i := 1; i <= 3 && i <= len(b); i++ {
		if utf8.RuneStart(b[len(b)-i]) {
			if !utf8.FullRune(b[len(b)-i:]) {
				return b[:len(b)-i]
			}
			break
		}
	}
	return b
}

// mostSampled bounds the rows, empty ones too, that a guess looks at.
const mostSampled = 100_000

// sample returns the first rows that are not empty, and the place of the first.
func sample(r interface {
	next() ([][]byte, error)
	place() int
}) (rows [][]string, first int, err error) {
	for n := 0; len(rows) < sniffRecords && n < mostSampled; n++ {
		cells, err := r.next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return rows, first, err
		}
		row := make([]string, len(cells))
		for i, c := range cells {
			row[i] = strings.TrimSpace(string(c))
		}
		if strings.Join(row, "") == "" {
			continue
		}
		if first == 0 {
			first = r.place()
		}
		rows = append(rows, row)
	}
	return rows, first, nil
}

// guessDelimiter takes the character that cuts most records into the same number
// of cells, two or more; with equal merit the one that makes more cells. A colon or
// a blank is only taken when every record agrees and no usual one parts any. A file
// of one column gets the first character that parts none of its lines.
func guessDelimiter(text []byte) string {
	best, bestScore := "", 0.0
	unused := ""
	for _, d := range Delimiters {
		rows, _, _ := sample(newSplitter(bytes.NewReader(text), d[0], false))
		if unused == "" && !slices.ContainsFunc(rows, func(r []string) bool { return len(r) > 1 }) {
			unused = d
		}
		isOdd := d == ":" || d == " "
		if isOdd && best != "" {
			continue
		}
		widths := map[int]int{}
		for _, r := range rows {
			widths[len(r)]++
		}
		for width, n := range widths {
			agree := float64(n) / float64(len(rows))
			if width < 2 || isOdd && (agree < 1 || len(rows) < 2 || d == " " && !numbersBehind(rows)) {
				continue
			}
			if score := agree*agree*100 + float64(min(width, 50)); agree >= 0.5 && score > bestScore {
				best, bestScore = d, score
			}
		}
	}
	switch {
	case best != "":
		return best
	case unused != "":
		return unused
	}
	return Delimiters[0]
}

// numbersBehind reports whether every row but perhaps the first holds only numbers
// behind its first cell, as a list of answers and counts parted by blanks does.
func numbersBehind(rows [][]string) bool {
	for i, r := range rows {
		for _, cell := range r[1:] {
			if _, ok := survey.ParseNumber(cell, true); !ok && i > 0 {
				return false
			}
		}
	}
	return true
}

// mayBeEither reports whether nothing in a single column tells if its first cell is the
// name or an answer: words throughout, of which the first does not come back, and others
// stand alone, too.
func mayBeEither(names []string, answers func(i int) string, rows int) bool {
	if len(names) != 1 || rows == 0 {
		return false
	}
	times := map[string]int{}
	for i := range rows {
		cell := strings.ToLower(strings.TrimSpace(answers(i)))
		if _, isNumber := survey.ParseNumber(cell, true); isNumber || cell == strings.ToLower(names[0]) {
			return false
		}
		times[cell]++
	}
	for _, n := range times {
		if n == 1 {
			return true
		}
	}
	return rows < surelyNamed
}

// surelyNamed is a number of answers, each given more than once, among which a first cell
// that stands alone is the name.
const surelyNamed = 20
