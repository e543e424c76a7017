package analysis

import (
	"context"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/survey"
	"widetally/core/tally"
)

// BatteryRequest is the counts of several questions by the same answers, a row each.
type BatteryRequest struct {
	Counts [][]int64 `json:"counts"`
	// Nets asks for the first two and the last two answers together.
	Nets bool `json:"nets,omitempty"`
}

const batteryName = "battery"

var battery = figures(batteryName, "Several questions with the same answers, side by side, with nets", nil, BatteryRequest{},
	func(_ context.Context, in *BatteryRequest) (*tally.Battery, error) {
		if len(in.Counts) > mostRows || len(in.Counts) > 0 && len(in.Counts)*len(in.Counts[0]) > maxCells {
			return nil, refuse("battery", TooManyCells, -1)
		}
		return tally.ShareRows(in.Counts, in.Nets)
	})

// mostRows bounds the questions of a battery.
const mostRows = 100

// BatterySettings asks for questions that share a list of answers, a row each.
type BatterySettings struct{ describing }

var askedBattery = &Asked{Version: 1, Seldom: true, Questions: []Part{TheQuestion}, More: TheBattery, Inputs: []Input{}, Texts: "battery", Lines: []Line{},
	New: func() Settings { return &BatterySettings{} }}

// Check implements Settings: the questions have the answers of the first, in any order.
func (*BatterySettings) Check(q []survey.Question) []Problem {
	if len(q) < 2 || len(q) > mostRows {
		return []Problem{{Code: "battery.questions", Pointer: "/questions", Values: document.Values{"most": document.N(mostRows)}}}
	}
	for _, other := range q[1:] {
		if !slices.Equal(sortedCodes(q[0]), sortedCodes(other)) {
			return []Problem{{Code: "battery.answers", Pointer: "/questions", Values: document.Values{"question": document.Text(other.Wording)}}}
		}
	}
	return nil
}

func sortedCodes(q survey.Question) []string {
	out := codesOf(q)
	slices.Sort(out)
	return out
}

// Essence implements Settings.
func (s *BatterySettings) Essence() any { return *s }

func batteryOf(q []survey.Question, about claim.About) claim.Battery {
	c := claim.Battery{About: about}
	first := codesOf(q[0])
	slices.Reverse(first)
	for i, one := range q {
		c.Questions = append(c.Questions, named(one))
		c.Turned = append(c.Turned, i > 0 && len(first) > 1 && slices.Equal(codesOf(one), first))
	}
	for _, a := range q[0].Proper() {
		c.Labels = append(c.Labels, a.Label)
	}
	return c
}

// Statement implements Settings.
func (*BatterySettings) Statement(q []survey.Question, about claim.About) document.Message {
	return batteryOf(q, about).Statement()
}

func (*BatterySettings) needs() need { return eachFrequencies }

// batteryCounts are the counts of every question, in the order of the first one's answers.
func batteryCounts(c *Counted) (out [][]int64) {
	for i, q := range c.Questions {
		byCode := map[string]int64{}
		for k, a := range q.Proper() {
			byCode[a.Code] = c.Each[i].Rows[k].Count
		}
		var row []int64
		for _, a := range c.Questions[0].Proper() {
			row = append(row, byCode[a.Code])
		}
		out = append(out, row)
	}
	return out
}

func (*BatterySettings) run(work Work, c *Counted) (*Outcome, error) {
	return outcomeOf(work, batteryName, &BatteryRequest{Counts: batteryCounts(c), Nets: c.Questions[0].Kind.Ranked()})
}

func (*BatterySettings) document(o *Outcome, about claim.About) document.Document {
	return batteryOf(o.Counted.Questions, about).Document(o.Result.(*tally.Battery), batteryCounts(o.Counted))
}
