// Package said is a document whose messages are said in a language: what every renderer is given,
// the page, the terminal, reports and recipes.
package said

import (
	"encoding/json"

	"widetally/core/document"
	"widetally/core/survey"
	"widetally/internal/chart"
)

// Document is a document with its messages said.
type Document struct {
	Blocks  []Block  `json:"blocks"`
	Notes   []Note   `json:"notes"`
	Outcome *Outcome `json:"outcome"`
	Ticks   *Ticks   `json:"ticks"`
}

// Block is one piece of a document.
type Block struct {
	Kind document.Place `json:"kind"`
	// Lines are the texts of the block: those of a sentence are read as one.
	Lines []string `json:"lines"`
	// Formulas are the lines of a working in TeX, "" for words alone.
	Formulas []string `json:"formulas"`
	// Styles are the write-up in each style; nil for other blocks.
	Styles  *WriteUps   `json:"styles"`
	Facts   []Fact      `json:"facts"`
	Table   *Table      `json:"table"`
	Chart   *chart.Data `json:"chart"`
	Choices *Choices    `json:"choices"`
}

// Fact is a figure with its name.
type Fact struct {
	Key   string `json:"key"`
	Name  string `json:"name"`
	Value string `json:"value"`
}

// Figure is one figure of a cell.
type Figure struct {
	Role   document.Role `json:"role"`
	Text   string        `json:"text"`
	Number *float64      `json:"number"`
	// Kind is that of its value.
	Kind document.ValueKind `json:"-"`
	// Plain says that it is a plain number, of so many decimals; −1 for as many as it takes.
	Plain    bool `json:"-"`
	Decimals int  `json:"-"`
}

// Cell is a cell of a table: its figures by role.
type Cell struct {
	Figures []Figure      `json:"figures"`
	Mark    document.Mark `json:"mark"`
	// MarkText says the mark in words, for who does not see it.
	MarkText string `json:"markText"`
	// Said is what the cell means, as a sentence; "" where nothing is said.
	Said string `json:"said"`
	// Who are its respondents; empty where nobody tells.
	Who   []Who `json:"who"`
	Faint bool  `json:"faint"`
	// Few says that its figures rest on few respondents, and stand in brackets.
	Few bool `json:"few"`
}

// Row is a row of a table.
type Row struct {
	Name  string    `json:"name"`
	Cells []Cell    `json:"cells"`
	Total bool      `json:"total"`
	Faint bool      `json:"faint"`
	Head  bool      `json:"head"`
	Strip []float64 `json:"strip"`
}

// Table is a table of figures.
type Table struct {
	Caption string   `json:"caption"`
	Stub    string   `json:"stub"`
	Columns []string `json:"columns"`
	// Over are headings over several columns, line by line from the top.
	Over   [][]Spanning    `json:"over"`
	Rows   []Row           `json:"rows"`
	Strips *string         `json:"strips"`
	Shown  []document.Role `json:"shown"`
	// Whole says of what the main figures are percents, where their role does not.
	Whole document.Role `json:"-"`
}

// Spanning is a heading over so many columns; "" is none.
type Spanning struct {
	Text    string `json:"text"`
	Columns int    `json:"columns"`
}

// Choices offer ways to look at a result.
type Choices struct {
	Label   string   `json:"label"`
	Options []Option `json:"options"`
	Entries []Entry  `json:"entries"`
	// Folded choices open when they are asked for.
	Folded bool `json:"folded"`
}

// Entry is a member of the settings that is typed.
type Entry struct {
	Label  string `json:"label"`
	Member string `json:"member"`
	Text   string `json:"text"`
	Most   int    `json:"most"`
}

// Option is one way to look.
type Option struct {
	Label  string          `json:"label"`
	Chosen bool            `json:"chosen"`
	Change json.RawMessage `json:"change"`
	Ask    *Ask            `json:"ask"`
}

// Ask opens the form of another method; questions go by their place in the spec.
type Ask struct {
	Method   string `json:"method"`
	Question int    `json:"question"`
	Among    []Who  `json:"among"`
	Others   []int  `json:"others"`
	// Settings are what is filled in already.
	Settings json.RawMessage `json:"settings"`
}

// Who are the respondents that gave an answer; "" for any proper one.
type Who struct {
	Question int    `json:"question"`
	Code     string `json:"code"`
}

// Outcome is what a register says.
type Outcome struct {
	Text string `json:"text"`
	P    string `json:"p"`
}

// Tick is where one answer's share stands.
type Tick struct {
	Code   string  `json:"code"`
	Share  float64 `json:"share"`
	Points float64 `json:"points"`
}

// Ticks are expected shares by the code of their answer.
type Ticks struct {
	Source string  `json:"source"`
	Shares []Tick  `json:"shares"`
	Sum    float64 `json:"sum"`
}

// Note is something noticed, with its remedy.
type Note struct {
	// ID is the rule that speaks; "" for a note that cannot be answered.
	ID    string         `json:"id"`
	Place document.Place `json:"place"`
	// Base is "answered" or "everyone" for a note that speaks of the percents of one
	// base alone, "" for one that always holds.
	Base    string  `json:"base"`
	Text    string  `json:"text"`
	Caution bool    `json:"caution"`
	Remedy  *Remedy `json:"remedy"`
	// Seen is set once somebody has answered it, with the reason that was given.
	Seen *string `json:"seen"`
}

// Remedy is what one press would do about a note or a suspicion.
type Remedy struct {
	Action    string      `json:"action"`
	Label     string      `json:"label"`
	Code      string      `json:"code"`
	Other     string      `json:"other"`
	Reason    string      `json:"reason"`
	Kind      survey.Kind `json:"kind"`
	Separator string      `json:"separator"`
	// Change is one of the settings of the analysis, for the action "change".
	Change json.RawMessage `json:"change,omitempty"`
	// Ask opens the form of another method, for the action "ask".
	Ask *Ask `json:"ask,omitempty"`
}

// WriteUps are the same in the styles of writing it up.
type WriteUps struct {
	Plain   []string `json:"plain"`
	Journal []string `json:"journal"`
	Minimal []string `json:"minimal"`
}
