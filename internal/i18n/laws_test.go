package i18n

import (
	"fmt"
	"math"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
)

// conditionFails are the notes that say that a method's own condition does not hold.
var conditionFails = regexp.MustCompile(`^note\.(conditions\.poor|crossing\.poor|one_share\.poor|two_shares\.poor|ordered_groups\.few|layers\.room|paired\.few|chosen_items\.few|means\.few|means\.skewed|near\.poor)`)

// One decision is told of a claim everywhere, whatever the counts: the finding, the register, the
// way that decides, and the p of a reference in a report say the same; where a method's own
// condition does not hold the finding says so; no adjustment turns "not rejected" into "rejected".
func TestOneDecisionIsToldEverywhere(t *testing.T) {
	t.Parallel()
	c, err := Load("en")
	require.NoError(t, err)
	r := rand.New(rand.NewPCG(23, 1))
	claims := 0
	specs := allSpecs(t)
	for range 24 {
		size := []int{3, 12, 60, 900}[r.IntN(4)]
		counts := [][]int64{{0, 0, 0}, {0, 0, 0}}
		for i := range counts {
			for j := range counts[i] {
				counts[i][j] = int64(r.IntN(size))
			}
		}
		round := r.IntN(7)
		var outcomes []*document.Outcome
		var levels []float64
		for _, s := range specs {
			if !s.Settings.Tests() || r.IntN(4) > 0 {
				continue
			}
			var source analysis.Source = typed(counts)
			if s.Questions[0] == "set" || s.Questions[0] == "age" {
				source = columns(t, round)
			}
			counted, err := analysis.Count(t.Context(), s, source)
			require.NoError(t, err)
			o, err := analysis.Run(analysis.Work{Context: t.Context(), Steps: 100_000, Replicates: 2000}, s, counted)
			require.NoError(t, err)
			if o.Refusal != nil {
				continue
			}
			d, level := o.Document(claim.About{Units: document.Text("homes")}), s.Settings.SignificanceLevel()
			where := fmt.Sprint(s.Method, counts, s.Settings)
			require.NotNil(t, d.Outcome, where)
			outcomes, levels = append(outcomes, d.Outcome), append(levels, level)
			claims++
			p := d.Outcome.P
			assert.Equal(t, d.Outcome.Rejected, p.Log10 <= math.Log10(level), where)
			assert.Equal(t, d.Outcome.Rejected, strings.HasSuffix(d.Outcome.Text.ID, "rejected"), where)
			finding, ways, fact := tellers(d)
			assert.Equal(t, d.Outcome.Rejected, strings.Contains(finding[0].ID, "rejected"), where)
			if decides, told := ways[d.Outcome.P.Log10]; assert.True(t, told, "no way to decide has its p: "+where) {
				assert.Equal(t, d.Outcome.Rejected, decides, where)
			}
			assert.Equal(t, c.Write(p), c.Say(fact), where)
			for _, n := range d.Notes {
				if n.Caution && conditionFails.MatchString(n.ID) {
					assert.Greater(t, len(finding), 1, "the finding does not say what "+n.ID+" says: "+where)
				}
			}
		}
		for _, how := range []analysis.Adjustment{analysis.HolmAdjustment, analysis.BenjaminiHochberg} {
			for i, a := range how.Together(outcomes, levels) {
				assert.False(t, a.Rejected && !outcomes[i].Rejected, "adjusting rejects")
			}
		}
	}
	assert.Greater(t, claims, 500)
}

// tellers are what tells the decision of a claim: its finding, what each p-value among the ways to
// decide says, by its logarithm, and the p to which a report refers.
func tellers(d document.Document) (finding []document.Message, ways map[float64]bool, p document.Message) {
	ways = map[float64]bool{}
	for _, b := range d.Blocks {
		switch {
		case b.Kind == document.Sentence && finding == nil && strings.HasPrefix(b.Said[0].ID, "finding."):
			finding = b.Said
		case b.Kind == document.Agreement:
			for _, way := range b.Said[0].Values["ways"].List {
				if v := way.Message.Values["found"]; v.Kind == document.PExact {
					ways[v.Log10] = strings.HasSuffix(b.Said[0].Values["outcome"].Message.ID, "rejected")
				}
			}
		case b.Table != nil && b.Table.Caption.ID == "caption.decisions":
			for _, row := range b.Table.Rows {
				if v := row.Cells[0].Figures[0].Value; v.Kind == document.PExact {
					ways[v.Log10] = strings.HasSuffix(row.Cells[2].Figures[0].Value.Message.ID, "rejected")
				}
			}
		}
		for _, f := range b.Facts {
			if f.Key == "p" {
				p = f.Value
			}
		}
	}
	return finding, ways, p
}

// Known answers of claims at the edge of what their tests can: the test that holds there decides.
func TestTheTestThatHoldsDecides(t *testing.T) {
	t.Parallel()
	c, err := Load("en")
	require.NoError(t, err)
	for _, k := range []struct {
		name, method, settings string
		from                   analysis.Typed
		questions              []string
		p                      string
		rejected               bool
	}{
		{"3 of 1,000 against 0.1 %: binomial", "one-proportion", `{"success":["1"],"claimed":"0.1 %","direction":"greater","role":"alternative","level":0.05}`, one("", 3, 997), []string{"q"}, "0.0802", false},
		{"5, 1, 1 against 29, 35, 36: multinomial", "goodness-of-fit", `{"role":"null","level":0.05,"shares":{"scale":"percents","figures":[{"code":"1","figure":"29"},{"code":"2","figure":"35"},{"code":"3","figure":"36"}],"source":{"kind":"register","title":"x"}}}`, one("", 5, 1, 1), []string{"q"}, "0.0750", false},
		{"4, 1 and 1, 5: Fisher", "crosstab", `{"reading":"row","test":{"role":"null","level":0.05}}`, two(false, "", "a", "b", [][]int64{{4, 1}, {1, 5}}), []string{"q", "g"}, "0.0801", false},
	} {
		t.Run(k.name, func(t *testing.T) {
			d := documentOf(t, k.method, k.settings, k.from, k.questions...)
			_, _, p := tellers(d)
			assert.Equal(t, k.p, c.Write(d.Outcome.P))
			assert.Equal(t, k.p, c.Say(p))
			assert.Equal(t, k.rejected, d.Outcome.Rejected)
		})
	}
}

// No sentence is of an impossible size, and none contradicts another, whatever the counts.
func TestNoSentenceIsImpossible(t *testing.T) {
	t.Parallel()
	c, err := Load("en")
	require.NoError(t, err)
	r := rand.New(rand.NewPCG(23, 4))
	for range 150 {
		size := []int{3, 20, 700}[r.IntN(3)]
		n := 2 + r.IntN(4)
		counts := make([]int64, n)
		for i := range counts {
			counts[i] = int64(r.IntN(size))
		}
		counts[0]++
		d := documentOf(t, "goodness-of-fit", `{"role":"null","level":0.05,"shares":{"scale":"equal","source":{}}}`, one("", counts...), "q")
		marks, stands := 0, map[string]bool{}
		for _, note := range d.Notes {
			stands[note.ID] = true
			if w, ok := note.Values["w"]; ok {
				assert.LessOrEqual(t, w.Number, math.Sqrt(float64(n-1))+1e-9, "w beyond the largest: "+c.Say(note.Message))
			}
		}
		for _, b := range d.Blocks {
			if b.Table != nil {
				for _, row := range b.Table.Rows {
					for _, cell := range row.Cells {
						if cell.Mark != "" {
							marks++
						}
					}
				}
			}
		}
		if n == 2 {
			assert.Equal(t, d.Outcome.Rejected, marks > 0, "two answers are one question: %v", counts)
			assert.False(t, stands["note.goodness_of_fit.none_stands"] || stands["note.goodness_of_fit.one_stands"])
		}
		if stands["note.goodness_of_fit.none_stands"] {
			assert.Zero(t, marks)
		}
	}
	for _, k := range []struct{ claimed, direction string }{{"58 %", "greater"}, {"40 %", "less"}} {
		d := documentOf(t, "one-proportion", fmt.Sprintf(`{"success":["1"],"claimed":%q,"direction":%q,"role":"null","level":0.05}`, k.claimed, k.direction), one("", 600, 640), "q")
		for _, note := range d.Notes {
			if strings.HasPrefix(note.ID, "note.one_proportion.not_proving") {
				assert.NotContains(t, c.Say(note.Message), k.claimed+" among others", "it lies outside the interval")
			}
		}
	}
}

// Layers that go opposite ways do not read as nothing, and their sentences can be compared.
func TestOppositeLayersAreTold(t *testing.T) {
	t.Parallel()
	spec := `{"reading":"row","test":{"role":"null","level":0.05}}`
	d := documentOf(t, "mantel-haenszel", spec, layeredTables([][]int64{{60, 40}, {38, 62}}, [][]int64{{40, 60}, {62, 38}}), "q", "g", "l")
	finding, _, _ := tellers(d)
	require.Greater(t, len(finding), 1)
	assert.Equal(t, "finding.mantel_haenszel.differ_kept", finding[1].ID)
	var said []string
	for _, b := range d.Blocks {
		if b.Kind == document.Sentence && strings.HasPrefix(b.Said[0].ID, "read.") {
			v := b.Said[0].Values
			said = append(said, v["group"].Text+v["answer"].Text+v["group2"].Text)
		}
	}
	require.Len(t, said, 3)
	assert.Equal(t, said[0], said[1])
	assert.Equal(t, said[0], said[2])
}

// A skewed mean is called so, and is offered what rests on no shape.
func TestSkewedNumbersAreTold(t *testing.T) {
	t.Parallel()
	values := append(ones(30), 5000)
	d := documentOf(t, "one-mean", `{"claimed":2,"direction":"different","role":"null","level":0.05}`, numbersOf(values...), "q")
	ids := map[string]bool{}
	for _, n := range d.Notes {
		ids[n.ID] = true
	}
	assert.True(t, ids["note.means.skewed"])
	finding, _, _ := tellers(d)
	assert.Equal(t, "finding.doubt.skewed", finding[1].ID)
	offered := false
	for _, b := range d.Blocks {
		for _, f := range b.Facts {
			offered = offered || f.Name.ID == "fact.median_interval"
		}
	}
	assert.True(t, offered)
}

func ones(n int) (out []float64) {
	for range n {
		out = append(out, 1)
	}
	return out
}

func layeredTables(tables ...[][]int64) analysis.Typed {
	out := two(false, "", "a", "b", tables[0])
	out.Questions = append(out.Questions, analysis.TypedQuestion{Key: "l"})
	for i := range tables {
		out.Questions[2].Categories = append(out.Questions[2].Categories, analysis.TypedCategory{Code: fmt.Sprint(i)})
	}
	out.Crosstabs[0].Layers, out.Crosstabs[0].Counts = "l", tables
	return out
}

// documentOf runs a spec on typed counts.
func documentOf(t *testing.T, method, settings string, from analysis.Typed, questions ...string) document.Document {
	t.Helper()
	s, o := outcomeOf(t, method, settings, from, questions...)
	require.NoError(t, o.Refusal, s)
	return o.Document(claim.About{Units: document.Text("homes")})
}

// A crossing read the other way tells the figures of that way, and every figure says of what.
func TestFiguresFollowTheReading(t *testing.T) {
	t.Parallel()
	c, err := Load("en")
	require.NoError(t, err)
	table := [][]int64{{30, 70}, {10, 15}}
	for reading, want := range map[string]struct{ points, name string }{
		"row":    {"−10.0", "“g1” less “g2”, answering “1”"}, // 30 of 100 and 10 of 25
		"column": {"−7.4", "“1” less “2”, answering “g1”"},   // 30 of 40 and 70 of 85
		"total":  {"−10.0", "“g1” less “g2”, answering “1”"},
	} {
		d := documentOf(t, "crosstab", fmt.Sprintf(`{"reading":%q,"test":{"role":"null","level":0.05}}`, reading), two(false, "", "a", "b", table), "q", "g")
		for _, b := range d.Blocks {
			for _, f := range b.Facts {
				if f.Key == "points" {
					assert.Contains(t, c.Say(f.Name), want.name, reading)
					assert.True(t, strings.HasPrefix(c.Say(f.Value), want.points), "%s: %s", reading, c.Say(f.Value))
				}
			}
		}
	}
}
