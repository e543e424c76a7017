package trend

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/survey"
)

// columns are questions of a file by their names: single ones by their slots, identifiers by their texts.
func columns(t *testing.T, use, wave []uint8, ids []string, waves int) analysis.Columns {
	t.Helper()
	single := func(name string, answers int, slots []uint8) survey.Source {
		q := survey.Question{Name: name, Wording: name, Kind: survey.Single, Answers: []survey.Answer{{Slot: survey.Blank, Missing: "blank"}}}
		for i := range answers {
			q.Answers = append(q.Answers, survey.Answer{Slot: survey.Slot(i + 1), Code: fmt.Sprint(i + 1), Label: fmt.Sprint(name, i+1)})
		}
		return survey.Source{Question: q, Column: survey.Column{U8: slots}}
	}
	id := survey.Source{Question: survey.Question{Name: "id", Kind: survey.Identifier, Answers: []survey.Answer{{Slot: survey.Blank, Missing: "blank"}}}, Column: survey.Column{Text: ids}}
	of, err := analysis.NewTable([]survey.Source{single("use", 3, use), single("wave", waves, wave), id}, "")
	require.NoError(t, err)
	return of
}

func run(t *testing.T, from analysis.Source, s *Settings, questions ...analysis.Key) (*Result, document.Document) {
	t.Helper()
	spec := analysis.Spec{Method: "trend", Version: 1, Questions: questions, Settings: s}
	c, err := analysis.Count(t.Context(), spec, from)
	require.NoError(t, err)
	o, err := analysis.Run(analysis.Work{Context: t.Context()}, spec, c)
	require.NoError(t, err)
	require.NoError(t, o.Refusal)
	return o.Result.(*Result), o.Document(claim.About{Units: document.Text("homes")})
}

// Who is recognised in both waves makes the change surer: the variance is that of the differences of the same
// respondents, here b + c less (b − c)²/n over n(n − 1), with the clusters less one degrees of freedom.
func TestAPanelIsComparedWithItself(t *testing.T) {
	t.Parallel()
	var use, wave []uint8
	var ids []string
	// Both yes 40, first alone 6, then alone 18, neither 36.
	for i, n := range map[[2]uint8]int{{1, 1}: 40, {1, 2}: 6, {2, 1}: 18, {2, 2}: 36} {
		for range n {
			ids = append(ids, fmt.Sprint("h", len(ids)), fmt.Sprint("h", len(ids)))
			use, wave = append(use, i[0], i[1]), append(wave, 1, 2)
		}
	}
	of := columns(t, use, wave, ids, 2)
	s := &Settings{Success: []string{"1"}, Level: 0.05}
	panel, d := run(t, of, s, "use", "wave", "id")
	c := panel.Rows[0].Changes[0]
	se := math.Sqrt((24 - 12*12/100.0) / (100 * 99))
	assert.InDelta(t, 0.12, c.Difference, 1e-12)
	assert.InDelta(t, 0.12/se, *c.Statistic, 1e-9)
	assert.InDelta(t, 99, c.DF, 0)
	assert.Contains(t, noted(d), "note.trend.panel_two")
	assert.NotContains(t, noted(d), "note.trend.apart")
	apart, d := run(t, of, s, "use", "wave")
	assert.Less(t, math.Abs(*apart.Rows[0].Changes[0].Statistic), math.Abs(*c.Statistic))
	assert.Contains(t, noted(d), "note.trend.apart")
	// By a design the panel is its clusters, and weights of one change nothing.
	by := of
	by.Design = &analysis.Drawn{Weight: "w"}
	get := by.Get
	by.Get = func(k analysis.Key) (survey.Source, error) {
		if k == "w" {
			w := survey.Source{Question: survey.Question{Name: "w", Kind: survey.Weight, Answers: []survey.Answer{{Slot: survey.Blank, Missing: "blank"}}}}
			for range use {
				w.Column.F64 = append(w.Column.F64, 2)
			}
			return w, nil
		}
		return get(k)
	}
	designed, _ := run(t, by, s, "use", "wave", "id")
	assert.InDelta(t, *c.Statistic, *designed.Rows[0].Changes[0].Statistic, 1e-9)
}

func noted(d document.Document) (out []string) {
	for _, n := range d.Notes {
		out = append(out, n.ID)
	}
	return out
}

// An answer that a wave lacks is told as none, never as 0; a wave from which on the question was another one breaks the
// line, and changes over it are not told.
func TestWhatIsNotCompared(t *testing.T) {
	t.Parallel()
	var use, wave []uint8
	for w, counts := range [][3]int{{50, 50, 0}, {60, 30, 10}, {70, 20, 10}} {
		for answer, n := range counts {
			for range n {
				use, wave = append(use, uint8(answer+1)), append(wave, uint8(w+1))
			}
		}
	}
	of := columns(t, use, wave, make([]string, len(use)), 3)
	r, d := run(t, of, &Settings{Success: []string{}, Level: 0.05, Break: "2", Why: "a new wording"}, "use", "wave")
	assert.Equal(t, 3, r.Tests, "of nine changes those from the second wave to the third")
	var tables []*document.Table
	var picture *document.Picture
	for _, b := range d.Blocks {
		if b.Table != nil {
			tables = append(tables, b.Table)
		}
		if b.Chart != nil {
			picture = b.Chart
		}
	}
	assert.Equal(t, "trend.lacks", tables[0].Rows[2].Cells[0].Figures[0].Value.Message.ID)
	for _, cell := range []int{0, 2} { // 2 − 1 and 3 − 1 go over the break, 3 − 2 does not
		assert.Equal(t, "trend.broken", tables[1].Rows[0].Cells[cell].Figures[0].Value.Message.ID)
	}
	assert.InDelta(t, 10, tables[1].Rows[0].Cells[1].Figures[0].Value.Number, 1e-9)
	whole := 0
	for _, l := range picture.Plot.Lines {
		if !l.Thin {
			whole++
			assert.Len(t, l.Points, 2, "the line goes from the second wave to the third alone")
		}
	}
	assert.Equal(t, 1, whole)
	assert.Subset(t, noted(d), []string{"note.trend.lacking", "note.trend.broken_since"})

	for want, s := range map[string]*Settings{"trend.break": {Level: 0.05, Break: "1"}, "trend.break_needed": {Level: 0.05, Why: "x"}} {
		_, err := analysis.Count(t.Context(), analysis.Spec{Method: "trend", Version: 1, Questions: []analysis.Key{"use", "wave"}, Settings: s}, of)
		var refused *analysis.SpecError
		require.ErrorAs(t, err, &refused)
		assert.Equal(t, want, refused.Code)
	}
}

// A rolling average is the mean of the shares of so many waves, each counting alike; it is none over a break or a wave
// that lacks the answer. The intervals are worked out apart, from Wilson's of 20, 30 and 50 of 100.
func TestRollingAverages(t *testing.T) {
	t.Parallel()
	r, err := Compute(Request{Waves: [][]int64{{20, 80}, {30, 70}, {50, 50}, {100, 100}}, Rolling: 3, Level: 0.05})
	require.NoError(t, err)
	row := r.Rows[0]
	assert.Nil(t, row.Rolling[1])
	p := row.Rolling[2]
	assert.InDelta(t, (0.2+0.3+0.5)/3, p.Share, 1e-15, "waves count alike, however many answered")
	assert.InDelta(t, math.Sqrt(0.2*0.8/100+0.3*0.7/100+0.5*0.5/100)/3, p.StandardError, 1e-15)
	assert.InDelta(t, 0.28589023459, p.Interval.Lower, 1e-10)
	assert.InDelta(t, 0.38741756707, p.Interval.Upper, 1e-10)
	assert.InDelta(t, (0.3+0.5+0.5)/3, row.Rolling[3].Share, 1e-15)
	for _, k := range []struct {
		what    string
		in      Request
		told    []bool
		refused bool
	}{
		{"not over a break", Request{Waves: [][]int64{{20, 80}, {30, 70}, {50, 50}, {60, 40}}, Rolling: 2, Break: 2}, []bool{false, true, false, true}, false},
		{"nor over a wave that lacks the answer", Request{Waves: [][]int64{{20, 80}, {0, 70}, {50, 50}, {60, 40}}, Rolling: 2}, []bool{false, false, false, true}, false},
		{"nor over one of nobody", Request{Waves: [][]int64{{20, 80}, {0, 0}, {50, 50}, {60, 40}}, Rolling: 2}, []bool{false, false, false, true}, false},
		{"of one wave", Request{Waves: [][]int64{{20, 80}, {30, 70}}, Rolling: 1}, nil, true},
		{"of more than there are", Request{Waves: [][]int64{{20, 80}, {30, 70}}, Rolling: 3}, nil, true},
	} {
		k.in.Level = 0.05
		r, err := Compute(k.in)
		if k.refused {
			require.Error(t, err, k.what)
			continue
		}
		require.NoError(t, err, k.what)
		for w, is := range k.told {
			assert.Equal(t, is, r.Rows[0].Rolling[w] != nil, "%s: wave %d", k.what, w)
		}
	}

	// By a panel the variance has the covariance of the waves: who answers alike in both counts but once.
	var use, wave []uint8
	var ids []string
	for i := range 100 {
		for w := range 2 {
			ids, use, wave = append(ids, fmt.Sprint(i)), append(use, uint8(1+i%2)), append(wave, uint8(1+w))
		}
	}
	panel, d := run(t, columns(t, use, wave, ids, 2), &Settings{Level: 0.05, Rolling: "2"}, "use", "wave", "id")
	assert.InDelta(t, panel.Rows[0].Waves[0].StandardError, panel.Rows[0].Rolling[1].StandardError, 1e-12)
	assert.Contains(t, noted(d), "note.trend.rolling")
	assert.NotContains(t, noted(d), "note.trend.noted")
	remarked := columns(t, use, wave, ids, 2)
	get := remarked.Get
	remarked.Get = func(k analysis.Key) (survey.Source, error) {
		s, err := get(k)
		s.Question.Note = "In 2 it was asked otherwise."
		return s, err
	}
	_, d = run(t, remarked, &Settings{Level: 0.05}, "use", "wave")
	assert.Contains(t, noted(d), "note.trend.noted", "what was noted of the question stands beside it")
	none, _ := run(t, columns(t, use, wave, ids, 2), &Settings{Level: 0.05, Rolling: "none"}, "use", "wave")
	assert.Nil(t, none.Rows[0].Rolling)
	_, err = analysis.Count(t.Context(), analysis.Spec{Method: "trend", Version: 1, Questions: []analysis.Key{"use", "wave"}, Settings: &Settings{Level: 0.05, Rolling: "3"}}, columns(t, use, wave, ids, 2))
	var refused *analysis.SpecError
	require.ErrorAs(t, err, &refused)
	assert.Equal(t, "trend.rolling", refused.Code)
}
