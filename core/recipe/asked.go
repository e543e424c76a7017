package recipe

import (
	"cmp"
	"fmt"
	"slices"

	"widetally/core/analysis"
)

// names refuses the name of a question that neither the recipe nor the file has.
func (p *Prepared) names() error {
	unknown := func(name string) bool {
		_, known := p.byName[name]
		return !known && !slices.ContainsFunc(p.Recipe.Questions, func(q Question) bool { return q.Name == name })
	}
	for i, a := range p.Recipe.Analyses {
		for k, key := range a.Spec.Questions {
			if unknown(string(key)) {
				return wrongText(fmt.Sprintf("/analyses/%d/ask/questions/%d", i, k), "no_question", string(key))
			}
		}
	}
	var err error
	p.Recipe.tabulated(func(name analysis.Key, at string) {
		if unknown(string(name)) {
			err = cmp.Or(err, wrongText(at, "no_question", string(name)))
		}
	})
	if err != nil || p.Recipe.Report == nil {
		return err
	}
	for i, piece := range p.Recipe.Report.Pieces {
		if piece.Tally != "" && unknown(piece.Tally) {
			return wrongText(fmt.Sprintf("/report/pieces/%d/tally", i), "no_question", piece.Tally)
		}
	}
	if c := p.Recipe.Report.Compared; c != nil && unknown(c.Question) {
		return wrongText("/report/compared/question", "no_question", c.Question)
	}
	return nil
}

// asked are the names of all questions that the recipe speaks of without describing them.
func (r Recipe) asked() map[string]bool {
	out := map[string]bool{r.Study.CountedBy: true}
	of := func(c *Condition) {
		var in func(c Condition)
		in = func(c Condition) {
			out[c.Question] = true
			for _, part := range c.Of {
				in(part)
			}
		}
		if c != nil {
			in(*c)
		}
	}
	for _, q := range r.Questions {
		if of(q.Base); q.Derive != nil {
			for _, name := range q.Derive.Sources {
				out[name] = true
			}
		}
	}
	for _, g := range r.Subgroups {
		of(&g.Condition)
	}
	for _, a := range r.Analyses {
		for _, key := range a.Spec.Questions {
			out[string(key)] = true
		}
	}
	r.tabulated(func(name analysis.Key, _ string) { out[string(name)] = true })
	if r.Design != nil {
		for _, key := range r.Design.Questions() {
			out[string(key)] = true
		}
	}
	if r.Report != nil {
		for _, piece := range r.Report.Pieces {
			out[piece.Tally] = true
		}
		if c := r.Report.Compared; c != nil {
			out[c.Question] = true
		}
	}
	delete(out, "")
	return out
}
