package service

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/core/analysis"
	"widetally/core/study"
	"widetally/core/survey"
)

// A design is proposed from kinds and names, and never guessed where two columns could be the same part.
func TestWhatLooksLikeADesign(t *testing.T) {
	t.Parallel()
	columns := func(list ...string) (out []study.Question) {
		for i := 0; i < len(list); i += 2 {
			q := study.Question{Question: survey.Question{Name: list[i], Kind: survey.Kind(list[i+1])}}
			q.ID = uint64(len(out) + 1)
			out = append(out, q)
		}
		return out
	}
	replicates := func(prefix string, n int) (out []string) {
		for i := range n {
			out = append(out, fmt.Sprint(prefix, i+1), string(survey.Weight))
		}
		return out
	}
	for name, c := range map[string]struct {
		questions []study.Question
		want      Proposed
		said      []string
	}{
		"nothing":           {columns("ward", "single", "age", "discrete"), Proposed{}, nil},
		"a weight":          {columns("ward", "single", "w", "weight"), Proposed{Weight: 2}, []string{"w"}},
		"two weights":       {columns("w", "weight", "v", "weight"), Proposed{}, nil},
		"strata and places": {columns("w", "weight", "stratum", "single", "street", "text"), Proposed{Weight: 1, Strata: []uint64{2}, Cluster: 3}, []string{"w", "stratum", "street"}},
		"a place alone":     {columns("w", "weight", "street", "text"), Proposed{Weight: 1}, []string{"w"}},
		"a unit":            {columns("psu", "identifier", "w", "weight"), Proposed{Weight: 2, Cluster: 1}, []string{"w", "psu"}},
		"a number of units": {columns("psu", "choose_all"), Proposed{}, nil},
		"replicates":        {columns(append([]string{"w", "weight", "stratum", "single"}, replicates("rw", 4)...)...), Proposed{Weight: 1, Replicates: []uint64{3, 4, 5, 6}}, []string{"w", "rw…"}},
		"too few":           {columns(append([]string{"w", "weight"}, replicates("rw", 3)...)...), Proposed{}, nil},
		"two sets":          {columns(append(append([]string{"w", "weight"}, replicates("rw", 4)...), replicates("bsw", 4)...)...), Proposed{Weight: 1}, []string{"w", "rw…", "bsw…"}},
	} {
		assert.Equal(t, c.want, proposed(c.questions, replicateSets(c.questions)), name)
		assert.Equal(t, c.said, looksDrawn(c.questions), name)
	}
}

// A design goes along to another study where all that it names is there, each in its part.
func TestADesignMoves(t *testing.T) {
	t.Parallel()
	d := Design{Off: true, Drawn: analysis.Drawn{Weight: "1", Strata: []analysis.Key{"2", "3"}, Cluster: "4", Population: "5", Fraction: "5 %"}}
	moved, ok := d.moved(func(key analysis.Key) (analysis.Key, bool) { return "x" + key, true })
	assert.True(t, ok)
	assert.Equal(t, []analysis.Key{"x1", "x2", "x3", "x4", "x5"}, moved.Drawn.Questions())
	assert.Equal(t, "5 %", moved.Drawn.Fraction)
	assert.True(t, moved.Off)
	_, ok = d.moved(func(key analysis.Key) (analysis.Key, bool) { return key, key != "5" })
	assert.False(t, ok)
	for key, as := range map[analysis.Key]role{"1": asWeight, "2": asPart, "4": asPart, "5": asPopulation} {
		assert.Equal(t, as, roleOf(d.Drawn, key), key)
	}
}
