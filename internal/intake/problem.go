// Package intake reads answers as they arrive: bytes in, columns of answers out,
// with everything that is wrong said by line and column.
package intake

import "fmt"

// Code names what is wrong with a file; the texts are in the catalogue under
// problem.intake.
type Code string

// The problems of delimited text.
const (
	Empty         Code = "empty"
	HeaderOnly    Code = "header_only"
	Binary        Code = "binary"
	Workbook      Code = "workbook"
	NotUTF8       Code = "not_utf8"
	OpenQuote     Code = "open_quote"
	AfterQuote    Code = "after_quote"
	LongCell      Code = "long_cell"
	TooManyCells  Code = "too_many_columns"
	TooManyRows   Code = "too_many_rows"
	ShortLine     Code = "short_line"
	LongLine      Code = "long_line"
	EmptyName     Code = "empty_name"
	DuplicateName Code = "duplicate_name"
	BadSettings   Code = "bad_settings"
)

// Problem is one thing that keeps a file from being read. Line and Column are
// 1-based, 0 where they do not apply; Found and Wanted are counts of cells or
// bytes, Text an excerpt.
type Problem struct {
	Code          Code
	Line, Column  int
	Found, Wanted int
	Text          string
}

// Error makes a fatal problem an error.
func (p *Problem) Error() string {
	return fmt.Sprintf("intake: %s at line %d, column %d", p.Code, p.Line, p.Column)
}

// Limits of what is read.
const (
	MaxColumns   = 5_000
	MaxRows      = 20_000_000
	MaxCell      = 64 << 10
	maxName      = 200
	maxReported  = 20 // ragged lines listed; all are counted
	previewRows  = 12
	sampleBytes  = 256 << 10
	sniffRecords = 60
)
