package intake

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"io"
	"strings"
)

// File is an arrived file.
type File struct {
	R    io.ReaderAt
	Size int64
	// Memory bounds what reading it may hold at once, in bytes; 0 means 1 GB.
	Memory int64
	// Unpacked bounds what a member of an archive may be unpacked to, in bytes; 0 means 1 GB.
	Unpacked int64
}

func (f File) unpacked() int64 { return cmp.Or(f.Unpacked, maxUnpacked) }

// until gives the file only as long as the context lasts.
func (f File) until(ctx context.Context) File {
	f.R = readerUntil{f.R, ctx}
	return f
}

type readerUntil struct {
	io.ReaderAt
	ctx context.Context
}

func (r readerUntil) ReadAt(p []byte, off int64) (int, error) {
	if err := r.ctx.Err(); err != nil {
		return 0, err
	}
	return r.ReaderAt.ReadAt(p, off)
}

// reader reads the file from its beginning.
func (f File) reader() io.Reader { return io.NewSectionReader(f.R, 0, f.Size) }

// head returns up to n bytes from the beginning.
func (f File) head(n int64) ([]byte, error) {
	b := make([]byte, min(n, f.Size))
	if _, err := io.ReadFull(f.reader(), b); err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	return b, nil
}

// aboutRows estimates how many lines a text has from those at its beginning.
func (f File) aboutRows() int {
	head, err := f.head(64 << 10)
	if lines := bytes.Count(head, []byte("\n")); err == nil && lines > 0 {
		return int(min(MaxRows, f.Size*int64(lines)/int64(len(head))*21/20))
	}
	return 0
}

func (f File) isZip() bool {
	b, err := f.head(4)
	return err == nil && bytes.Equal(b, []byte("PK\x03\x04"))
}

// records yields the rows of a table one at a time, whatever form it came in. A
// row's cells are valid until the next call; an empty row is one empty cell.
type records interface {
	// next returns the cells of the next row, or io.EOF.
	next() ([][]byte, error)
	// place is the line or row number of the row that next gave last, from 1.
	place() int
	// done is the part of the file read so far, 0 to 1.
	done() float64
	close()
}

// memoryRows are rows that are held as text.
type memoryRows struct {
	rows [][]string
	at   int
}

func (m *memoryRows) next() ([][]byte, error) {
	if m.at >= len(m.rows) {
		return nil, io.EOF
	}
	row := m.rows[m.at]
	m.at++
	if len(row) == 0 {
		return [][]byte{nil}, nil
	}
	cells := make([][]byte, len(row))
	for i, c := range row {
		cells[i] = []byte(c)
	}
	return cells, nil
}

func (m *memoryRows) place() int    { return m.at }
func (m *memoryRows) done() float64 { return float64(m.at) / float64(max(1, len(m.rows))) }
func (m *memoryRows) close()        {}

// oneLine opens the values of a text's single line as rows of one cell.
func (f File) oneLine(s Settings) (*source, error) {
	raw, err := io.ReadAll(s.decode(f.reader()))
	if err != nil {
		return nil, err
	}
	m := &memoryRows{}
	parts := strings.Split(strings.TrimSpace(string(raw)), s.Delimiter)
	if s.Delimiter == " " {
		parts = strings.Fields(string(raw))
	}
	for _, p := range parts {
		m.rows = append(m.rows, []string{strings.TrimSpace(p)})
	}
	return &source{rows: m}, nil
}

// counting notes how many bytes went through.
type counting struct {
	r io.Reader
	n int64
}

func (c *counting) Read(p []byte) (int, error) {
	n, err := c.r.Read(p)
	c.n += int64(n)
	return n, err
}

// delimited are the records of delimited text.
type delimited struct {
	*splitter
	read *counting
	size int64
}

func (f File) delimited(s Settings) *delimited {
	read := &counting{r: f.reader()}
	return &delimited{newSplitter(s.decode(read), s.Delimiter[0], s.Encoding == UTF8), read, f.Size}
}

func (d *delimited) done() float64 { return float64(d.read.n) / float64(max(1, d.size)) }
func (d *delimited) close()        {}
