package intake

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"widetally/core/survey"
)

// Table is a file as read, before anything is kept. With Problems it cannot be kept
// as it is.
type Table struct {
	Settings Settings
	// Names are the columns as they stand in the file, First its first rows.
	Names   []string
	First   [][]string
	Columns []survey.Built
	Rows    int
	// CountColumn is the place in Columns of the column that says how many
	// respondents each row stands for, or −1.
	CountColumn int
	// Problems keep the file from being taken as it is; Ragged counts all lines of
	// another width, of which the first are listed among the problems; Padded those
	// that the settings allowed to be filled.
	Problems       []Problem
	Ragged, Padded int
	// Left names the totals that are left out, the first ones.
	Left []string
	// Parts are the sheets or resources to choose from.
	Parts []string
	// Shares are those of a column beside the counts; nil for none.
	Shares *TypedShares
	// Offers are other ways in which the same table could be meant.
	Offers []Offer

	memory  *memory        // left for what reading holds
	headers map[int]string // in full, of those that are too long for a name
}

// Offer is another shape that a table seems to have.
type Offer struct {
	Shape       Shape
	CountColumn string
	// SharesColumn holds shares beside the counts; "" for none.
	SharesColumn string
	// Bare says that the counts stand alone, with no names of their answers.
	Bare bool
}

// Progress hears how far reading has come: rows so far, and the part of the file
// from 0 to 1.
type Progress func(rows int, done float64)

// Read reads a file into columns in one pass. What keeps it from being read at all
// is the error, a *Problem; what only keeps it from being kept as it is stands in
// the table. progress may be nil.
func Read(ctx context.Context, f File, s Settings, progress Progress) (*Table, error) {
	if err := s.check(); err != nil {
		return nil, err
	}
	if progress == nil {
		progress = func(int, float64) {}
	}
	held := f.memory()
	src, err := open(f.until(ctx), s, held)
	if err != nil {
		return nil, err
	}
	defer src.rows.close()
	t := &Table{Settings: s, CountColumn: -1, memory: held}
	if s.Shape == Rows || s.Shape == Counts {
		err = t.stream(ctx, src, progress)
	} else {
		err = t.whole(ctx, src)
	}
	if err != nil {
		return nil, err
	}
	if src.parts != nil {
		t.Parts = src.parts()
	}
	t.declareMissing()
	for _, c := range t.Columns {
		if rows := c.Data.Rows(); rows != t.Rows && len(t.Problems) == 0 {
			return nil, fmt.Errorf("intake: column %q has %d rows of %d", c.Name, rows, t.Rows) // never half a table
		}
	}
	if !slices.ContainsFunc(t.Problems, func(p Problem) bool { return p.Code != AskTotal && p.Code != AskNames }) {
		t.Offers = offers(t)
	}
	return t, nil
}

// source is an opened table with what its file says about the columns.
type source struct {
	rows      records
	part      string          // the sheet or resource opened
	parts     func() []string // those to choose from; asked once the rows are read
	described map[string]survey.Question
	missing   map[string][]string // codes that mean missing, by column
	padShort  bool                // a short row is no slip in this format
	about     int                 // rows to expect, 0 when nobody knows
	bytes     int64               // that all rows take
}

func open(f File, s Settings, m *memory) (*source, error) {
	switch s.Format {
	case XLSX:
		return openXLSX(f, s.Part, m)
	case ODS:
		return openODS(f, s.Part)
	case DataPackage:
		return openPackage(f, s.Part)
	}
	if s.OneLine {
		return f.oneLine(s)
	}
	return &source{rows: f.delimited(s), about: f.aboutRows(), bytes: f.Size}, nil
}

// stream reads a row at a time into one builder a column.
func (t *Table) stream(ctx context.Context, src *source, progress Progress) error {
	var builders []*survey.Builder
	counts := -1
	var sums totals
	var gather *blocks
	lastPlace := 0
	one := func() {
		if t.Rows++; t.Rows%4096 == 0 {
			progress(t.Rows, src.rows.done())
		}
	}
	var held [][]byte // a row that is a total if it is the last
	var slab func(text *splitter, width int) int
	if t.Settings.Shape == Rows && t.Settings.LastRow != LastIsTotal {
		slab = func(text *splitter, width int) int {
			gather.flush()
			rows := text.slab(gather.now, width)
			gather.flush()
			if t.Rows += rows; rows > 0 {
				lastPlace = src.rows.place()
				progress(t.Rows, src.rows.done())
			}
			return rows
		}
	}
	err := t.scan(ctx, src, func(names []string) error {
		for i, name := range names {
			b := survey.NewBuilder(t.Settings.decimalComma())
			b.Missing(src.missing[name])
			b.Missing(t.Settings.Missing)
			b.Grow(int(min(int64(src.about), src.bytes/int64(len(names))))) // a row has its commas at least
			builders = append(builders, b)
			if t.Settings.Shape == Counts && name == t.Settings.CountColumn {
				counts = i
			}
		}
		if t.Settings.Shape == Counts && counts < 0 {
			return &Problem{Code: NoCounts, Text: t.Settings.CountColumn}
		}
		gather = gatherInto(builders, t.memory.left)
		return nil
	}, func(place int, cells [][]byte) {
		if counts >= 0 && !t.counted(cells, counts, place, &sums) {
			return
		}
		if t.Settings.Shape == Rows && t.Settings.LastRow == LastIsTotal {
			if held != nil {
				gather.add(held)
				one()
			}
			held = cloneCells(cells)
			return
		}
		lastPlace = place
		gather.add(cells)
		one()
	}, slab, func() bool { return gather != nil && gather.over.Load() })
	if looksTotal(held) {
		t.leave(inOneLine(held))
	} else if held != nil {
		gather.add(held)
		t.Rows++
	}
	if gather != nil {
		gather.finish()
	}
	if err == nil && gather != nil && gather.over.Load() {
		err = &Problem{Code: TooMuchMemory}
	}
	if err != nil {
		return err
	}
	if t.Rows == 0 {
		return &Problem{Code: HeaderOnly, Line: max(1, t.Settings.HeaderRow)}
	}
	if last := bytes.Split(gather.last, []byte{betweenCells}); t.Settings.Shape == Rows && t.Settings.LastRow == "" && looksTotal(last) {
		t.report(Problem{Code: AskTotal, Line: lastPlace, Text: inOneLine(last)})
	}
	t.CountColumn = counts
	if counts >= 0 {
		sums.check(t)
	}
	if len(builders) == 1 && t.Settings.HeaderRow > 0 && !t.Settings.HeaderSaid && t.Settings.Format == Delimited && t.Settings.Shape == Rows &&
		t.Rows <= 100_000 && mayBeEither(t.Names, builders[0].Cell, t.Rows) {
		t.report(Problem{Code: AskHeader, Line: t.Settings.HeaderRow, Text: t.Names[0]})
	}
	t.askHeader(builders)
	sharesAt := -1
	var figures []string
	if t.Settings.Shape == Counts && t.Settings.SharesColumn != "" {
		if sharesAt = slices.Index(t.Names, t.Settings.SharesColumn); sharesAt < 0 || sharesAt == counts {
			return &Problem{Code: NoCounts, Text: t.Settings.SharesColumn}
		}
		for row := range t.Rows {
			figures = append(figures, builders[sharesAt].Cell(row))
		}
	}
	for i, b := range builders {
		if ctx.Err() != nil {
			return fmt.Errorf("intake: %w", ctx.Err())
		}
		t.Columns = append(t.Columns, finish(b, t.Names[i], i == counts, counts >= 0, src.described))
		if full := t.headers[i]; full != "" && t.Columns[i].Wording == t.Names[i] {
			t.Columns[i].Wording = full
		}
		builders[i] = nil
		if err := t.memory.take(int64(t.Columns[i].Data.Bytes())); err != nil {
			return err
		}
	}
	switch {
	case sharesAt >= 0:
		return t.takeShares(sharesAt, func(row int) string { return figures[row] })
	case counts == 0 && len(t.Columns) == 1:
		t.bareCounts()
	}
	return nil
}

// finish makes a column: as its file describes it, as its form demands, or as it
// seems to be.
func finish(b *survey.Builder, name string, isCount, besideCounts bool, described map[string]survey.Question) survey.Built {
	d, isDescribed := described[name]
	switch {
	case isCount:
		c := b.As(name, survey.Count)
		c.Reason = survey.FromForm
		return c
	case isDescribed && d.Kind != "" && b.Fits(d.Kind):
		c := b.As(name, d.Kind)
		c.Question, c.Reason = survey.Describe(c.Question, d), survey.Declared
		return c
	case isDescribed:
		c := b.Finish(name)
		d.Kind = c.Kind
		c.Question = survey.Describe(c.Question, d)
		return c
	case besideCounts:
		return b.FinishDistinct(name)
	}
	return b.Finish(name)
}

// report notes a problem, the first of each run only up to the limit.
func (t *Table) report(p Problem) {
	if len(t.Problems) < maxReported {
		t.Problems = append(t.Problems, p)
	}
}

// scan runs through the rows. header gets the column names once; row gets each
// record, brought to the header's width; slab, which may be nil, takes as many records at once
// as need no such care, and tells how many. An empty row counts as a respondent only
// in a table of one column; a trailing empty row never does.
func (t *Table) scan(ctx context.Context, src *source, header func([]string) error, row func(place int, cells [][]byte), slab func(text *splitter, width int) int, full func() bool) error {
	s := t.Settings
	s.PadShort = s.PadShort || src.padShort
	width, pendingBlank := 0, 0
	blank := [][]byte{nil}
	text, _ := src.rows.(*delimited)
	for n := 1; ; n++ {
		if text != nil && width > 1 && slab != nil && len(t.First) == previewRows && t.Rows < MaxRows-slabBytes && (full == nil || !full()) && ctx.Err() == nil && slab(text.splitter, width) > 0 {
			continue
		}
		cells, err := src.rows.next()
		if errors.Is(err, io.EOF) {
			if width == 0 {
				return &Problem{Code: Empty}
			}
			return nil
		}
		if err != nil {
			return err
		}
		if n%1024 == 0 && ctx.Err() != nil {
			return fmt.Errorf("intake: %w", ctx.Err())
		}
		if full != nil && full() {
			return &Problem{Code: TooMuchMemory, Line: src.rows.place()}
		}
		if src.rows.place() < s.HeaderRow {
			continue
		}
		isBlank := len(cells) == 1 && len(cells[0]) == 0
		if width == 0 {
			if isBlank {
				continue // empty lines above the first record
			}
			if src.padShort {
				cells = trimRight(cells)
			}
			width = len(cells)
			t.names(cells, src.rows.place())
			if err := header(t.Names); err != nil {
				return err
			}
			if s.HeaderRow > 0 {
				continue
			}
		}
		if isBlank {
			pendingBlank++
			continue
		}
		if width == 1 {
			for ; pendingBlank > 0; pendingBlank-- {
				row(src.rows.place(), blank)
			}
		}
		pendingBlank = 0
		if t.Rows >= MaxRows {
			return &Problem{Code: TooManyRows, Line: src.rows.place(), Wanted: MaxRows}
		}
		if len(t.First) < previewRows {
			t.First = append(t.First, excerpts(cells))
		}
		row(src.rows.place(), t.fit(cells, width, s.PadShort, src.rows.place()))
	}
}

// fit brings a record to the header's width: blank cells past it are dropped, short
// records filled; what the settings do not allow is reported.
func (t *Table) fit(cells [][]byte, width int, pad bool, place int) [][]byte {
	found := len(cells)
	for len(cells) > width && len(cells[len(cells)-1]) == 0 {
		cells = cells[:len(cells)-1]
	}
	switch {
	case len(cells) > width:
		t.Ragged++
		t.report(Problem{Code: LongLine, Line: place, Found: found, Wanted: width, Text: excerpt(cells[width])})
		return cells[:width]
	case len(cells) < width && !pad:
		t.Ragged++
		t.report(Problem{Code: ShortLine, Line: place, Found: found, Wanted: width})
	case len(cells) < width:
		t.Padded++
	}
	for len(cells) < width {
		cells = append(cells, nil)
	}
	return cells
}

func trimRight(cells [][]byte) [][]byte {
	for len(cells) > 1 && len(cells[len(cells)-1]) == 0 {
		cells = cells[:len(cells)-1]
	}
	return cells
}

func excerpts(cells [][]byte) []string {
	row := make([]string, len(cells))
	for i, c := range cells {
		const most = 60
		s := strings.ToValidUTF8(string(c[:min(len(c), 4*most)]), "�")
		if r := []rune(s); len(r) > most {
			s = string(r[:most]) + "…"
		}
		row[i] = s
	}
	return row
}
