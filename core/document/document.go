package document

import "encoding/json"

// Document is what may be shown of a result: its blocks in the order in which they are
// read, and the notes that stand beside them.
type Document struct {
	Blocks []Block
	Notes  []Note
	// Outcome is what a register says of it in a word; nil for what is only described.
	Outcome *Outcome
	// Ticks are the expected shares that stand in the tally of the question itself.
	Ticks *Ticks
}

// Place is the kind of a block, beside which a note can stand.
type Place string

// The blocks.
const (
	Basis      Place = "basis"      // of whom it speaks, and which were left out
	Hypotheses Place = "hypotheses" // in words and symbols
	Heading    Place = "heading"    // over a part of several like it
	Sentence   Place = "sentence"   // the finding
	Choices    Place = "choices"    // other ways to look at it
	Agreement  Place = "agreement"  // that all ways to decide come to the same, in the place of their table
	Figures    Place = "table"
	Chart      Place = "chart"
	Facts      Place = "facts"
	Working    Place = "working"
	WriteUp    Place = "write_up"
	Shares     Place = "shares"     // no block: notes on the expected shares
	Conditions Place = "conditions" // no block: notes on what the method needs
	Decision   Place = "decision"   // no block: notes on what was decided
)

// Block is one piece. Which of the fields is set follows from Kind.
type Block struct {
	Kind Place
	// Said is the text of a basis, of hypotheses, of an agreement, of a sentence (its parts one
	// behind the other), the lines of the working, and those of a write-up.
	Said    []Message
	Facts   []Fact
	Table   *Table
	Chart   *Picture
	Choices *Choice
}

// Fact is a figure with its name. Key tells facts apart for who looks for one.
type Fact struct {
	Key   string
	Name  Message
	Value Message
}

// Note is something noticed, beside the block that it speaks of, with its remedy. The id of its
// message is that of the rule that speaks.
type Note struct {
	Message
	Beside  Place
	Caution bool
	Remedy  *Remedy
}

// Remedy is what one press does: a change of the settings of the analysis itself, as a
// JSON merge patch (RFC 7386).
type Remedy struct {
	Label  Message
	Change json.RawMessage
	// Ask opens the form of another method in the place of a change; nil for none.
	Ask *Ask
	// Merge opens the answers of the first question to be merged.
	Merge bool
	// Answer is the code of an answer that the first question is given; "" for none.
	Answer string
}

// Choice offers ways to look at a result, each a change of its settings.
type Choice struct {
	Label   Message
	Options []Option
	Entries []Entry
	// Folded choices are rarely needed and open when they are asked for.
	Folded bool
}

// Entry is a member of the settings that is typed. It is sent as it is written; the settings
// read it.
type Entry struct {
	Label Message
	// Member is its path in the settings, the parts separated by points.
	Member string
	// Text is what stands in it, as it may be typed.
	Text string
	// Most bounds its length in characters.
	Most int
}

// Option is one way to look.
type Option struct {
	Label  Message
	Chosen bool
	Change json.RawMessage
	// Ask opens the form of another method in the place of a change; nil for none.
	Ask *Ask
}

// Ask is what could be asked next: a method of one of the questions, named by its place,
// among those of whom Among holds.
type Ask struct {
	Method   string
	Question int
	Among    []Who
	// Others are the further questions by their places, and Settings what is filled in already.
	Others   []int
	Settings json.RawMessage
}

// Who names respondents by the answer that they gave to a question, which goes by its place
// in the spec; without a code, by having given a proper one.
type Who struct {
	Question int
	Code     string
}

// Mark says of a cell that it stands out once all are looked at.
type Mark string

// The marks.
const (
	More  Mark = "more"
	Fewer Mark = "fewer"
)

// Table is a table of figures. A cell holds several; which are shown is the table's
// choice, and a renderer may show others.
type Table struct {
	Caption Message
	Stub    Message   // the heading over the rows' names
	Columns []Message // the headings
	// Over are headings over several columns, line by line from the top; each line has all columns.
	Over [][]Spanning
	Rows []Row
	// Strips says that each row has the parts that make up its 100 %.
	Strips *Message // the heading over them
	// Shown are the roles of the figures to be shown in a cell, the main one first.
	Shown []Role
	// Whole says of what the main figures are percents, where their role does not: of each row, each
	// column or everyone; "" where they are none.
	Whole Role
}

// Spanning is a heading over so many columns; without an id it is empty.
type Spanning struct {
	Label   Message
	Columns int
}

// Row is a row of a table.
type Row struct {
	Name  Message
	Cells []Cell
	Total bool // a row of totals
	Faint bool // takes no part
	// Head marks a row that has a name alone, over the rows that belong to it.
	Head bool
	// Strip holds the parts of the row, 0–100 each, in the order of the columns.
	Strip []float64
}

// Cell is a cell of a table: its figures by role.
type Cell struct {
	Figures []Figure
	Mark    Mark
	// Said is what the cell means, as a sentence; without an id where nothing is said.
	Said Message
	// Who are the respondents of the cell: all of these hold. Nil where nobody tells.
	Who []Who
	// Faint cells stand for nobody, or are sums.
	Faint bool
	// Few cells rest on few respondents: their figures stand in brackets.
	Few bool
}

// Role says what a figure of a cell is.
type Role string

// The roles of figures.
const (
	Main             Role = "main" // the only figure of its cell
	Observed         Role = "observed"
	RowPercent       Role = "row_percent"
	ColumnPercent    Role = "column_percent"
	TotalPercent     Role = "total_percent"
	Expected         Role = "expected"
	ObservedLess     Role = "difference"
	Pearson          Role = "pearson"
	AdjustedResidual Role = "adjusted"
	Contribution     Role = "contribution"
	StandardError    Role = "standard_error"
	// Above is the letters of the columns over which the column of a cell stands out.
	Above Role = "above"
)

// Figure is one figure of a cell.
type Figure struct {
	Role  Role
	Value Value
}

// One is a cell with one figure.
func One(v Value) Cell { return Cell{Figures: []Figure{{Main, v}}} }

// Outcome is what a register says.
type Outcome struct {
	Text Message
	P    Value
	// Rejected tells the decision that the text says.
	Rejected bool
}

// Ticks are expected shares by the code of their answer.
type Ticks struct {
	Source string // "" for all equal
	Shares []ShareTick
	Sum    float64
}

// ShareTick is where one answer's share stands, and how many points the observed one is over it.
type ShareTick struct {
	Code   string
	Share  float64
	Points float64
}

// Picture is a chart as data; how it is drawn is the drawing module's.
type Picture struct {
	Kind PictureKind
	// Alt says in words what the picture shows.
	Alt  Message
	Axis Message
	// Title stands over the picture; without an id there is none.
	Title Message
	// Size is how large it is drawn, compared with the usual: 1 for that.
	Size float64
	// Curve, for a density with its tails.
	Curve *Curve
	// Whiskers, for intervals one under the other.
	Whiskers *Whiskers
	// Plot, for numbers along an axis.
	Plot *Plot
}

// PictureKind names a kind of picture.
type PictureKind string

// The pictures.
const (
	CurvePicture    PictureKind = "curve"
	WhiskersPicture PictureKind = "whiskers"
	PlotPicture     PictureKind = "plot"
)

// Curve is a density with a statistic, critical values and the tails.
type Curve struct {
	X, Density []float64
	Top        float64 // height of the drawing
	Statistic  float64
	// Outside is set when the statistic lies beyond the last X.
	Outside bool
	// Label and Critical are the texts at the statistic and at each critical value.
	Label    Message
	Critical []Line
	// Tails are what p is made of, Rejection where the hypothesis is rejected.
	Tails, Rejection []Span
}

// Line is a labelled line at a value.
type Line struct {
	At    float64
	Label Message
}

// Span is a piece of an axis; an end that is ±Inf reaches to the end of the drawing.
type Span struct{ From, To float64 }

// Whiskers are intervals with their estimate, and a line at what they are compared with.
type Whiskers struct {
	Rows      []Whisker
	Reference *Line   // nil for none
	From, To  float64 // of the axis
}

// Whisker is one interval, 0–100.
type Whisker struct {
	Name                   Message
	Lower, Estimate, Upper float64
	Text                   Message
}

// Plot is bars, lines, points and boxes over one axis of numbers. The axis of the picture is
// the one across.
type Plot struct {
	From, To float64 // of the axis across
	Top      float64 // of the axis up, which begins at 0
	// Up names the axis up; without an id it is not drawn.
	Up Message
	// Bars touch where their limits do.
	Bars []Bar
	// Names stand along the axis across in the place of its numbers; Legend names the tones.
	Names  []Line
	Legend []Message
	Lines  []PlotLine
	// Points are heights over places across.
	Points []Point
	Boxes  []PlotBox
	// Rows says that the boxes stand one under the other, each with the name of its place.
	Rows []Message
	// Flat says that the bars stand along the axis across, so that their height means nothing.
	Flat bool
	// Ticks are what bars are compared with, Tick says what they are.
	Ticks []Tick
	Tick  Message
}

// Bar stands over From … To, on Base. Tone is its place among the answers of the legend.
type Bar struct {
	From, To     float64
	Base, Height float64
	Tone         int
	// Label is the figure at its end; without an id there is none.
	Label Message
}

// Tick is a line across a bar, at a height that it is compared with.
type Tick struct {
	From, To, At float64
}

// PlotLine joins its points; Thin marks what is drawn for comparison.
type PlotLine struct {
	Points []Point
	Thin   bool
}

// Point is a place in a plot.
type Point struct{ X, Y float64 }

// PlotBox is a box with its median and its whiskers along the axis across, drawn at a height.
type PlotBox struct{ At, Lower, Quartile1, Median, Quartile3, Upper float64 }
