package trend

import (
	"math"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
)

// noRolling asks for no average.
const noRolling = "none"

// rollings are the numbers of waves that an average can be of.
var rollings = []string{"2", "3", "4", "5", "6", "8", "12"}

// averaged calls f for each wave that an average of so many waves ends at, with the waves that it is of: those that
// somebody answered in, and none over a break or over a wave that lacks the answer.
func (row Row) averaged(n []int64, over, broken int, answer bool, f func(wave int, of []int)) {
	for last := over - 1; over > 1 && last < len(n); last++ {
		first := last - over + 1
		if broken > first && broken <= last {
			continue
		}
		of := make([]int, over)
		there := true
		for i := range of {
			of[i] = first + i
			there = there && row.Waves[first+i] != nil && !(answer && lacks(row, n, first+i))
		}
		if there {
			f(last, of)
		}
	}
}

// roll gives the row its rolling averages, the mean of the shares of so many waves up to each, all waves alike: of
// waves with different respondents the interval is made of those of the shares (Zou and Donner 2008, of Wilson's).
func (row *Row) roll(n []int64, over, broken int, answer bool) {
	if over < 2 {
		return
	}
	row.Rolling = make([]*Point, len(n))
	k := float64(over)
	row.averaged(n, over, broken, answer, func(wave int, of []int) {
		mean, variance, below, above := 0.0, 0.0, 0.0, 0.0
		for _, w := range of {
			p := row.Waves[w]
			mean += p.Share / k
			variance += p.StandardError * p.StandardError
			below += (p.Share - p.Interval.Lower) * (p.Share - p.Interval.Lower)
			above += (p.Interval.Upper - p.Share) * (p.Interval.Upper - p.Share)
		}
		interval := infer.Interval{Lower: mean - math.Sqrt(below)/k, Upper: mean + math.Sqrt(above)/k}
		row.Rolling[wave] = &Point{mean, math.Sqrt(variance) / k, cutTo01(&interval)}
	})
}

// rollBy is roll by the covariance of the shares of waves, which place gives the rows of.
func (row *Row) rollBy(
	n []int64, over, broken int, answer bool, covariance [][]float64, place map[int]int, df, confidence float64,
) {
	if over < 2 {
		return
	}
	row.Rolling = make([]*Point, len(n))
	k := float64(over)
	row.averaged(n, over, broken, answer, func(wave int, of []int) {
		mean, variance := 0.0, 0.0
		for _, w := range of {
			mean += row.Waves[w].Share / k
			for _, v := range of {
				variance += covariance[place[w]][place[v]]
			}
		}
		se := math.Sqrt(math.Max(0, variance)) / k
		row.Rolling[wave] = &Point{mean, se, cutTo01(infer.TInterval(mean, se, df, confidence))}
	})
}

// rolled is the table of rolling averages; nil where none are asked for or can be told.
func (t Trend) rolled(r *Result) *document.Table {
	v := t.values()
	out := &document.Table{
		Caption: document.Say("caption.trend_rolling", v), Stub: document.Say("column.answer", nil),
		Shown: []document.Role{document.Main},
	}
	var at []int
	for w := range t.WaveLabels {
		if slices.ContainsFunc(r.Rows, func(row Row) bool { return w < len(row.Rolling) && row.Rolling[w] != nil }) {
			at = append(at, w)
			out.Columns = append(out.Columns, document.Say("column.trend_rolling", document.Values{
				"first": document.Text(t.WaveLabels[w-t.Rolling+1]), "last": document.Text(t.WaveLabels[w]),
			}))
		}
	}
	if len(at) == 0 {
		return nil
	}
	for i, row := range r.Rows {
		line := document.Row{Name: claim.Plain(t.name(i))}
		for _, w := range at {
			p := row.Rolling[w]
			if p == nil {
				line.Cells = append(line.Cells, document.Cell{Faint: true})
				continue
			}
			cell := document.One(document.Of(document.Bare, 100*p.Share))
			cell.Said = t.average(i, w, p)
			line.Cells = append(line.Cells, cell)
		}
		out.Rows = append(out.Rows, line)
	}
	return out
}

// average says a rolling average.
func (t Trend) average(row, wave int, p *Point) document.Message {
	v := t.values()
	v["answer"] = t.name(row)
	v["first"], v["last"] = document.Text(t.WaveLabels[wave-t.Rolling+1]), document.Text(t.WaveLabels[wave])
	v["percent"] = document.Of(document.Percent, 100*p.Share)
	if p.Interval == nil {
		return document.Say("read.trend.average_alone", v)
	}
	v["lower"] = document.Of(document.Percent, 100*p.Interval.Lower)
	v["upper"] = document.Of(document.Percent, 100*p.Interval.Upper)
	return document.Say("read.trend.average", v)
}
