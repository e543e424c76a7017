package recipe

import (
	"fmt"
	"maps"

	"widetally/core/survey"
)

// Before is what was prepared with every subgroup of the wave that the report is about as it is of the wave since which
// it tells what changed, and which subgroups those are; nil where no waves are compared or the file has not both.
func (p *Prepared) Before() (before *Prepared, moved map[string]bool, err error) {
	if p.Recipe.Report == nil || p.Recipe.Report.Compared == nil {
		return nil, nil, nil
	}
	c := p.Recipe.Report.Compared
	id, q, ok := p.named(c.Question)
	wave, since := slotsOf(q, []string{c.Wave}), slotsOf(q, []string{c.Since})
	if !ok || len(wave) != 1 || len(since) != 1 {
		return nil, nil, nil
	}
	out := *p
	out.groups, moved = maps.Clone(p.groups), map[string]bool{}
	for i, g := range p.Recipe.Subgroups {
		if _, is := p.groups[g.Name]; !is {
			continue
		}
		of, err := g.Condition.condition(fmt.Sprintf("/subgroups/%d/condition", i), p.named)
		if err != nil {
			return nil, nil, err
		}
		if slot, given := of.Given(id); !given || slot != wave[0] {
			continue
		}
		subset, err := of.Giving(id, since[0]).Evaluate(p.Rows, p.byID)
		if err != nil {
			return nil, nil, fmt.Errorf("recipe: %w", err)
		}
		out.groups[g.Name], moved[g.Name] = survey.Sample{Subset: subset, Frequency: p.Times}, true
	}
	return &out, moved, nil
}

// Wave is what the waves that are compared are called.
func (p *Prepared) Wave() (wave, since string) {
	q, _ := p.Question(p.Recipe.Report.Compared.Question)
	for _, a := range q.Answers {
		switch a.Code {
		case p.Recipe.Report.Compared.Wave:
			wave = a.Label
		case p.Recipe.Report.Compared.Since:
			since = a.Label
		}
	}
	return wave, since
}
