package battery

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/tally"
)

// Estimate is the shares of a population, a row for each question in the order of the first one's
// answers; a row without shares is that of a question which nobody answered.
type Estimate struct {
	tally.Battery
	Counts [][]int64
}

// RunDesigned implements analysis.Designed.
func (*Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	e := &Estimate{Counts: batteryCounts(c)}
	answers := c.Questions[0].Proper()
	nets := c.Questions[0].Kind.Ranked() && len(answers) >= 4
	for i, q := range c.Questions {
		cells := c.EachCells[i]
		if cells == nil {
			e.add(nil, nil, nil, 0)
			continue
		}
		byCode := map[string]int{}
		for k, a := range q.Proper() {
			byCode[a.Code] = k
		}
		estimated := cells.Shares()
		shares := make([]float64, len(answers))
		for j, a := range answers {
			shares[j] = estimated.Share[byCode[a.Code]]
		}
		var bottom, top *float64
		if nets {
			net := func(from int) *float64 {
				p := cells.Merged(2, func(cell int) int {
					for _, a := range answers[from : from+2] {
						if byCode[a.Code] == cell {
							return 1
						}
					}
					return 0
				}).Shares().Share[1]
				return &p
			}
			bottom, top = net(0), net(len(answers)-2)
		}
		e.add(shares, bottom, top, cells.N)
	}
	return &analysis.Outcome{Result: e}, nil
}

func (e *Estimate) add(shares []float64, bottom, top *float64, n int64) {
	e.Shares, e.BottomTwo, e.TopTwo, e.N = append(e.Shares, shares), append(e.BottomTwo, bottom), append(e.TopTwo, top), append(e.N, n)
}

// DocumentDesigned implements analysis.Designed.
func (*Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	e := o.Result.(*Estimate)
	c := batteryOf(o.Counted.Questions, about)
	c.By = &o.Counted.Sampled
	return c.Document(&e.Battery, e.Counts)
}
