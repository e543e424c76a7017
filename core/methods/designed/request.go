// Package designed gives the figures of designed samples and of weighting to who sends the columns of
// a file: what is drawn, what is answered, row by row.
package designed

import (
	"bytes"
	"encoding/json"
	"math"
	"slices"
	"strconv"
	"strings"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/infer"
)

// Number is a number as written: 1.5, "1.5", or a ratio such as "7/3".
type Number string

// UnmarshalJSON keeps the digits as they are written.
func (n *Number) UnmarshalJSON(raw []byte) error {
	if len(raw) > 0 && raw[0] == '"' {
		var s string
		err := json.Unmarshal(raw, &s)
		*n = Number(s)
		return err
	}
	var plain json.Number
	err := json.Unmarshal(raw, &plain)
	*n = Number(plain)
	return err
}

// Schema describes what is taken.
func (Number) Schema() map[string]any {
	return map[string]any{
		"type":        []string{"number", "string"},
		"description": "a number as written, such as 1.5 or \"7/3\"",
	}
}

// maxNumber bounds numbers, so that sums of squares stay finite.
const maxNumber = 1e100

// float reads a number within ±1e100.
func (n Number) float() (float64, bool) {
	above, below, ratio := strings.Cut(string(n), "/")
	x, ok := decimal(above)
	if ratio && ok {
		var y float64
		y, ok = decimal(below)
		ok = ok && y != 0
		x /= y
	}
	return x, ok && math.Abs(x) <= maxNumber
}

func decimal(s string) (float64, bool) {
	s = strings.TrimSpace(s)
	if s == "" || len(s) > 64 || strings.Trim(s, "0123456789.+-eE") != "" { // ParseFloat would also take names
		return 0, false
	}
	x, err := strconv.ParseFloat(s, 64)
	return x, err == nil
}

// Label is the name of a stratum or a cluster, a text or a number.
type Label string

// UnmarshalJSON reads a text or a number as it is written.
func (l *Label) UnmarshalJSON(raw []byte) error {
	var n Number
	err := n.UnmarshalJSON(raw)
	*l = Label(n)
	return err
}

// Schema describes what is taken.
func (Label) Schema() map[string]any {
	return map[string]any{"type": []string{"string", "number"}, "description": "the name of a stratum or a cluster"}
}

// Fractions are sampling fractions: one of all strata, or one for each by its name.
type Fractions struct {
	each      Number
	byStratum map[Label]Number
}

// UnmarshalJSON reads a number or an object.
func (f *Fractions) UnmarshalJSON(raw []byte) error {
	if bytes.HasPrefix(bytes.TrimSpace(raw), []byte("{")) {
		return json.Unmarshal(raw, &f.byStratum)
	}
	return json.Unmarshal(raw, &f.each)
}

// MarshalJSON writes what was read.
func (f Fractions) MarshalJSON() ([]byte, error) {
	if f.byStratum != nil {
		return json.Marshal(f.byStratum)
	}
	return json.Marshal(f.each)
}

// Schema describes what is taken.
func (Fractions) Schema() map[string]any {
	one := Number("").Schema()
	return map[string]any{
		"anyOf":       []any{one, map[string]any{"type": "object", "additionalProperties": one}},
		"description": "the sampling fraction of every stratum, or of each by its name",
	}
}

// Drawn says of each row how it was drawn.
type Drawn struct {
	// Weights are 0 or more; absent: 1 each. A row of weight 0 is no part of the sample.
	Weights []*Number `json:"weights,omitempty"`
	// Strata and Clusters are names; absent: one stratum called all, and each row a cluster.
	Strata   []*Label `json:"strata,omitempty"`
	Clusters []*Label `json:"clusters,omitempty"`
	// Fractions are the shares of the clusters of a stratum that are in the sample; absent: 0.
	Fractions *Fractions `json:"fractions,omitempty"`
	// SinglePSU says what becomes of a stratum with one cluster.
	SinglePSU design.SinglePSU `json:"singlePsu,omitempty"`
}

// Part is which rows an estimate is about, and how sure it is to be.
type Part struct {
	// Domain holds 1 for the rows of the subgroup and 0 for the others; absent: all.
	Domain []int `json:"domain,omitempty"`
	// Level is the confidence of intervals.
	Level Number `json:"level,omitempty"`
}

// defaults of requests.
var (
	drawn = Drawn{SinglePSU: design.RefuseSingle}
	part  = Part{Level: "0.95"}
)

func refuse(why infer.Reason, at int) error { return analysis.RefuseInput("design", why, at) }

// between reads a number between two, both excluded.
func (n Number) between(least, most float64, why infer.Reason) (float64, error) {
	x, ok := n.float()
	if !ok || !(x > least && x < most) {
		return 0, refuse(why, -1)
	}
	return x, nil
}

// columnOf reads numbers; null is NaN.
func columnOf(numbers []*Number) ([]float64, error) {
	if numbers == nil {
		return nil, nil
	}
	out := make([]float64, len(numbers))
	for i, n := range numbers {
		if n == nil {
			out[i] = math.NaN()
			continue
		}
		x, ok := n.float()
		if !ok {
			return nil, refuse(infer.NotFinite, i)
		}
		out[i] = x
	}
	return out, nil
}

// codes numbers labels in the order in which they come; null is design.None.
func codes(labels []*Label, known map[Label]int) []int {
	if labels == nil {
		return nil
	}
	out := make([]int, len(labels))
	for i, l := range labels {
		if l == nil {
			out[i] = design.None
			continue
		}
		c, seen := known[*l]
		if !seen {
			c = len(known)
			known[*l] = c
		}
		out[i] = c
	}
	return out
}

// oneStratum is the name of the stratum where there are none.
const oneStratum = "all"

// columns reads how so many rows were drawn.
func (d Drawn) columns(rows int) (c design.Columns, err error) {
	c = design.Columns{Rows: rows, Single: d.SinglePSU}
	if !slices.Contains(design.SinglePSUs, d.SinglePSU) {
		return c, refuse(analysis.UnknownName, -1)
	}
	if c.Weights, err = columnOf(d.Weights); err != nil {
		return c, err
	}
	strata := map[Label]int{}
	c.Strata, c.Clusters = codes(d.Strata, strata), codes(d.Clusters, map[Label]int{})
	if c.Strata == nil {
		strata[oneStratum] = 0
	}
	if d.Fractions != nil {
		c.Fractions, err = d.Fractions.read(strata)
	}
	return c, err
}

// read gives the fraction of each stratum by its code. One that is none becomes NaN, for the design to
// refuse in its turn.
func (f Fractions) read(strata map[Label]int) ([]float64, error) {
	out := make([]float64, len(strata))
	for name, code := range strata {
		figure, given := f.byStratum[name]
		if f.byStratum == nil {
			figure, given = f.each, true
		}
		if given {
			x, ok := figure.float()
			if !ok {
				x = math.NaN()
			}
			out[code] = x
		}
	}
	for name := range f.byStratum {
		if _, known := strata[name]; !known {
			return nil, refuse(UnknownStratum, -1)
		}
	}
	return out, nil
}

// sample reads the design of so many rows.
func (d Drawn) sample(rows int) (*design.Sample, error) {
	c, err := d.columns(rows)
	if err != nil {
		return nil, err
	}
	return design.New(c)
}

// Reasons of this package.
const (
	UnknownStratum infer.Reason = "unknown_stratum"
	UnknownAnswer  infer.Reason = "unknown_answer"
	NotZeroOrOne   infer.Reason = "not_zero_or_one"
	P0OutOfRange   infer.Reason = "p0_out_of_range"
	NotPositive    infer.Reason = "share_not_positive"
	TableTooSmall  infer.Reason = "table_too_small"
)

// in reports which rows belong to a subgroup, of so many.
func (p Part) in(rows int) (func(row int) bool, error) {
	if p.Domain == nil {
		return func(int) bool { return true }, nil
	}
	if err := zeroOrOne(p.Domain, rows); err != nil {
		return nil, err
	}
	return func(row int) bool { return p.Domain[row] == 1 }, nil
}

func zeroOrOne(column []int, rows int) error {
	if len(column) != rows {
		return refuse(design.ColumnLength, -1)
	}
	for i, x := range column {
		if x != 0 && x != 1 {
			return refuse(NotZeroOrOne, i)
		}
	}
	return nil
}

// confidence is that of the intervals.
func (p Part) confidence() (float64, error) { return p.Level.between(0, 1, infer.LevelRange) }

// answers reads categories of which there are k; null is design.None.
func answers(categories []*int, k int) ([]int, error) {
	out := make([]int, len(categories))
	for i, c := range categories {
		out[i] = design.None
		if c != nil {
			if *c < 0 || *c >= k {
				return nil, refuse(UnknownAnswer, i)
			}
			out[i] = *c
		}
	}
	return out, nil
}

// Bounds of a request: cells of a table, and PSUs times squared cells.
const (
	maxCells = 400
	maxWork  = 500_000_000
)

func bounded(rows, cells int) error {
	if cells < 1 || cells > maxCells || rows*cells*cells > maxWork {
		return refuse(analysis.TooManyCells, -1)
	}
	return nil
}
