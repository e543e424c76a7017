// Package intake reads answers as they arrive: bytes in, columns of answers out,
// with everything that is wrong said by line and column.
package intake

import "fmt"

// Code names what is wrong with a file; the texts are in the catalogue under
// problem.intake.
type Code string

// The problems.
const (
	Empty         Code = "empty"
	HeaderOnly    Code = "header_only"
	Binary        Code = "binary"
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
	OtherZip      Code = "other_zip"    // an archive that holds nothing that is read
	BadWorkbook   Code = "bad_workbook" // damaged, encrypted or too large unpacked
	// TooMuchUnpacked: a member of an archive is larger than what is unpacked here.
	TooMuchUnpacked Code = "too_much_unpacked"
	// TooMuchMemory: the answers need more memory than reading a file may take.
	TooMuchMemory Code = "too_much_memory"
	// Texts of a codebook or header that are too long to be kept; Text names the
	// question. The codes end in the parts of survey.LengthError.
	LongName    Code = "long_name"
	LongWording Code = "long_wording"
	LongShort   Code = "long_short"
	LongNote    Code = "long_note"
	LongSection Code = "long_section"
	LongLabel   Code = "long_label"
	LongMissing Code = "long_missing"
	NoPart      Code = "no_part"      // no sheet or resource of that name
	BadPackage  Code = "bad_package"  // the descriptor cannot be used
	MissingFile Code = "missing_file" // the descriptor names a file that has not arrived
	BlankCount  Code = "blank_count"  // a count that was left blank
	AskHeader   Code = "ask_header"   // nobody has said whether a column begins with its name
	AskNames    Code = "ask_names"    // nobody has said whether a first line holds names, of which Text comes back as an answer
	AskTotal    Code = "ask_total"    // nobody has said whether the last row is a total
	BadCount    Code = "bad_count"    // a count that is not whole or below 0
	NoCounts    Code = "no_counts"    // the count column is not there
	WrongTotal  Code = "wrong_total"  // a total that is not the sum
	ManyTotals  Code = "many_totals"  // totals of a list that is too long or too manifold to check them
	TooSmall    Code = "too_small"    // a grid or list without figures
	NotTwo      Code = "not_two"      // no two numbers
	MoreYes     Code = "more_yes"     // more yes than asked
	BadClass    Code = "bad_class"    // a class that cannot be read
	ClassOrder  Code = "class_order"  // classes overlap or run backwards
	AskUpTo     Code = "ask_up_to"    // nobody has said yet how far "18–24" goes
	AnswerTwice Code = "answer_twice" // a name given twice in a grid or list
	ManyAnswers Code = "many_answers" // a grid or classes with more answers than a question has
	BadCodebook Code = "bad_codebook" // no codebook in a form that is read
)

// Problem is one thing that keeps a file from being read. Line and Column are
// 1-based, 0 where they do not apply; Found and Wanted are counts of cells, bytes
// or respondents, Text an excerpt.
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
	MaxColumns    = 5_000
	MaxRows       = 20_000_000
	MaxCell       = 64 << 10
	maxReported   = 20 // ragged lines listed; all are counted
	previewRows   = 12
	sampleBytes   = 256 << 10
	sniffRecords  = 60
	maxWorkbook   = 128 << 20 // bytes of a packed workbook
	maxGridCells  = 1_000_000
	maxDescriptor = 8 << 20
)

// maxUnpacked bounds what a member of an archive may be unpacked to, in bytes.
const maxUnpacked int64 = 1 << 30
