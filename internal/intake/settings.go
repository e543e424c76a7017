package intake

import "slices"

// Format is how a file holds its table.
type Format string

// The formats.
const (
	Delimited   Format = "delimited"
	XLSX        Format = "xlsx"
	ODS         Format = "ods"
	DataPackage Format = "package" // Data Package, version 2
)

// Shape is what the rows of a table mean.
type Shape string

// The shapes.
const (
	Rows    Shape = "rows"    // a row per respondent
	Counts  Shape = "counts"  // a row per combination of answers, with a count
	Grid    Shape = "grid"    // one question's answers down, another's across, counts within
	Two     Shape = "two"     // two numbers: yes and asked, or yes and no
	Classes Shape = "classes" // class intervals with frequencies
)

// Second says what the second of two numbers is.
type Second string

// The meanings.
const (
	SecondIsAsked Second = "asked"
	SecondIsNo    Second = "no"
)

// UpTo says how far a class written "18–24" goes.
type UpTo string

// The meanings: to the number itself, or to the beginning of the next class.
const (
	UpToUpper UpTo = "upper" // up to 24
	UpToNext  UpTo = "next"  // up to, not including, 25
)

// LastRow says what a last row is that looks like a total of those above it.
type LastRow string

// The meanings.
const (
	LastIsTotal      LastRow = "total"
	LastIsRespondent LastRow = "respondent"
)

// Encoding names how the bytes of a file stand for characters.
type Encoding string

// The encodings that are read.
const (
	UTF8        Encoding = "utf-8"
	UTF16LE     Encoding = "utf-16le"
	UTF16BE     Encoding = "utf-16be"
	Windows1252 Encoding = "windows-1252"
)

// Encodings lists them in the order in which they are offered.
var Encodings = []Encoding{UTF8, Windows1252, UTF16LE, UTF16BE}

// Delimiters lists the characters that may part cells, in the order in which
// they are tried.
var Delimiters = []string{",", ";", "\t", "|", ":", " "}

// Settings says how to read a file. Sniff guesses it; a person may overrule each
// part.
type Settings struct {
	Format    Format
	Encoding  Encoding // of delimited text
	Delimiter string   // of delimited text
	Part      string   // the sheet of a workbook, the resource of a package
	// HeaderRow is the line or row that holds the column names; what stands above
	// it is passed over. 0 means that there are no names.
	HeaderRow int
	// PadShort fills short lines with blank cells instead of refusing them.
	PadShort bool
	// FixNames gives empty and repeated column names a name of their own instead
	// of refusing them.
	FixNames bool
	// HeaderSaid is set once a person has said whether a single column begins with its
	// name, which its cells do not tell.
	HeaderSaid bool
	// OneLine reads the values that stand in one line as a column.
	OneLine bool
	// LastRow is "" until a person has said it; a total is left out.
	LastRow LastRow
	// Missing are codes that mean a missing answer in every column.
	Missing []string
	// BlankIsZero takes a count that is left blank for 0, which nobody else may say.
	BlankIsZero bool
	Shape       Shape
	// CountColumn is the name of the column that holds the counts, for Counts.
	CountColumn string
	// SharesColumn is the name of a column of shares beside the counts, for Counts; "" for none.
	SharesColumn string
	Second       Second // for Two
	UpTo         UpTo   // for Classes; "" until a person has said it
	// OpenFrom and OpenTo are the limits assumed for a first class without a lower
	// and a last one without an upper limit; nil leaves them open.
	OpenFrom, OpenTo *float64
}

func (s Settings) check() error {
	bad := !slices.Contains([]Format{Delimited, XLSX, ODS, DataPackage}, s.Format) ||
		s.Format == Delimited && (!slices.Contains(Encodings, s.Encoding) || !slices.Contains(Delimiters, s.Delimiter)) ||
		!slices.Contains([]Shape{Rows, Counts, Grid, Two, Classes}, s.Shape) ||
		s.Shape == Two && s.Second != SecondIsAsked && s.Second != SecondIsNo ||
		s.UpTo != "" && s.UpTo != UpToUpper && s.UpTo != UpToNext || s.HeaderRow < 0 ||
		s.LastRow != "" && s.LastRow != LastIsTotal && s.LastRow != LastIsRespondent
	if bad {
		return &Problem{Code: BadSettings}
	}
	return nil
}

// decimalComma tells whether numbers may bear a decimal comma: not where commas
// part the cells, nor in workbooks, whose numbers are stored as numbers.
func (s Settings) decimalComma() bool { return s.Format == Delimited && s.Delimiter != "," }
