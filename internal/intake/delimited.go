package intake

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
)

// Preview is what a look at the whole file found, before anything is kept.
type Preview struct {
	Settings Settings
	Names    []string
	Rows     int // respondents, without the header
	First    [][]string
	// Problems keep the file from being taken as it is; Ragged counts all lines
	// of another width, of which the first are listed among the problems.
	Problems []Problem
	Ragged   int
}

// Table is a file as read.
type Table struct {
	Columns []Column
	Rows    int
}

// Look reads a whole delimited file and reports what it holds and what is wrong
// with it. Fatal problems come as the error, a *Problem.
func Look(ctx context.Context, r io.Reader, s Settings) (*Preview, error) {
	p := &Preview{Settings: s}
	err := scan(ctx, r, s, func(names []string, problems []Problem) error {
		p.Names, p.Problems = names, problems
		return nil
	}, func(line int, cells [][]byte, bad *Problem) error {
		p.Rows++
		if len(p.First) < previewRows {
			row := make([]string, len(cells))
			for i, c := range cells {
				row[i] = excerptCell(c)
			}
			p.First = append(p.First, row)
		}
		if bad != nil {
			p.Ragged++
			if p.Ragged <= maxReported {
				p.Problems = append(p.Problems, *bad)
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	if p.Rows == 0 {
		return nil, &Problem{Code: HeaderOnly, Line: 1}
	}
	return p, nil
}

// Read reads a delimited file into columns. The first problem is the error, a
// *Problem. progress, which may be nil, is called with the rows read so far.
func Read(ctx context.Context, r io.Reader, s Settings, progress func(rows int)) (*Table, error) {
	var names []string
	var builders []*columnBuilder
	t := &Table{}
	err := scan(ctx, r, s, func(n []string, problems []Problem) error {
		if len(problems) > 0 {
			return &problems[0]
		}
		names = n
		for range n {
			builders = append(builders, newColumnBuilder(s.Delimiter != ","))
		}
		return nil
	}, func(_ int, cells [][]byte, bad *Problem) error {
		if bad != nil {
			return bad
		}
		for i, b := range builders {
			b.add(cells[i])
		}
		t.Rows++
		if progress != nil && t.Rows%8192 == 0 {
			progress(t.Rows)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	if t.Rows == 0 {
		return nil, &Problem{Code: HeaderOnly, Line: 1}
	}
	for i, b := range builders {
		t.Columns = append(t.Columns, b.finish(names[i]))
		builders[i] = nil
	}
	return t, nil
}

// scan runs through the records of a file. header gets the column names once,
// with what is wrong with them; row gets each record, its cells brought to the
// width of the header where the settings allow, and the problem otherwise. An
// empty line counts as a respondent only in a file of one column; a trailing
// empty line never does.
func scan(ctx context.Context, r io.Reader, s Settings, header func([]string, []Problem) error, row func(line int, cells [][]byte, bad *Problem) error) error {
	if err := s.check(); err != nil {
		return err
	}
	sp := newSplitter(s.decode(r), s.Delimiter[0], s.Encoding == UTF8)
	width, rows, pendingBlank := 0, 0, 0
	blank := [][]byte{nil}
	for {
		cells, err := sp.next()
		if errors.Is(err, io.EOF) {
			if width == 0 {
				return &Problem{Code: Empty}
			}
			return nil
		}
		if err != nil {
			return err
		}
		if width == 0 {
			if len(cells) == 1 && len(cells[0]) == 0 {
				continue // empty lines above the first record
			}
			width = len(cells)
			names, problems := columnNames(cells, s, sp.start)
			if err := header(names, problems); err != nil {
				return err
			}
			if s.Header {
				continue
			}
		}
		if len(cells) == 1 && len(cells[0]) == 0 {
			pendingBlank++
			continue
		}
		if width == 1 {
			for ; pendingBlank > 0; pendingBlank-- {
				if err := row(sp.start, blank, nil); err != nil {
					return err
				}
			}
		}
		pendingBlank = 0
		if rows++; rows > MaxRows {
			return &Problem{Code: TooManyRows, Line: sp.start, Wanted: MaxRows}
		}
		if rows%4096 == 0 && ctx.Err() != nil {
			return fmt.Errorf("intake: %w", ctx.Err())
		}
		fitted, bad := fit(cells, width, s, sp.start)
		if err := row(sp.start, fitted, bad); err != nil {
			return err
		}
	}
}

// fit brings a record to the header's width: blank cells past it are dropped,
// short records filled if the settings say so.
func fit(cells [][]byte, width int, s Settings, line int) ([][]byte, *Problem) {
	found := len(cells)
	for len(cells) > width && len(cells[len(cells)-1]) == 0 {
		cells = cells[:len(cells)-1]
	}
	switch {
	case len(cells) > width:
		return cells, &Problem{Code: LongLine, Line: line, Found: found, Wanted: width, Text: excerpt(cells[width])}
	case len(cells) < width && !s.PadShort:
		return cells, &Problem{Code: ShortLine, Line: line, Found: found, Wanted: width}
	}
	for len(cells) < width {
		cells = append(cells, nil)
	}
	return cells, nil
}

func columnNames(cells [][]byte, s Settings, line int) ([]string, []Problem) {
	names := make([]string, len(cells))
	var problems []Problem
	taken := map[string]int{}
	for i, c := range cells {
		name := ""
		if s.Header {
			name = strings.Join(strings.Fields(string(c)), " ")
			if r := []rune(name); len(r) > maxName {
				name = string(r[:maxName])
			}
		}
		if name == "" {
			if s.Header && !s.FixNames {
				problems = append(problems, Problem{Code: EmptyName, Line: line, Column: i + 1})
			}
			name = fmt.Sprintf("column %d", i+1)
		}
		key := strings.ToLower(name)
		if first, again := taken[key]; again {
			if !s.FixNames {
				problems = append(problems, Problem{Code: DuplicateName, Line: line, Column: i + 1, Found: first + 1, Text: name})
			}
			for n := 2; again; n++ {
				key = strings.ToLower(fmt.Sprintf("%s (%d)", name, n))
				if _, again = taken[key]; !again {
					name = fmt.Sprintf("%s (%d)", name, n)
				}
			}
		}
		taken[key] = i
		names[i] = name
	}
	return names, problems
}

// excerptCell shortens a cell for a preview.
func excerptCell(c []byte) string {
	const most = 60
	s := strings.ToValidUTF8(string(c[:min(len(c), 4*most)]), "�")
	if r := []rune(s); len(r) > most {
		return string(r[:most]) + "…"
	}
	return s
}
