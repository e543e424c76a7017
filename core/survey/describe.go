package survey

import "slices"

// Describe applies what a codebook says about a question: wording, note, section and
// kind where it gives them; labels, missing reasons and scores of its answers, matched
// by code, in its order. An answer that it lists and nobody chose gets a slot and its
// place; answers that it does not list keep their label and stand behind. The kind is
// only noted: Recode reads a column as another kind.
func Describe(q Question, d Question) Question {
	if d.Wording != "" {
		q.Wording = d.Wording
	}
	if d.Short != "" {
		q.Short = d.Short
	}
	if d.Note != "" {
		q.Note = d.Note
	}
	if d.Section != "" {
		q.Section = d.Section
	}
	if d.Kind != "" {
		q.Kind = d.Kind
	}
	if len(d.Answers) == 0 {
		return q
	}
	left := slices.Clone(q.Answers)
	next := Slot(0)
	for _, a := range q.Answers {
		next = max(next, a.Slot)
	}
	var out []Answer
	used := map[string]bool{}
	for _, said := range d.Answers {
		if used[said.Code] {
			continue
		}
		used[said.Code] = true
		a := Answer{Code: said.Code, Label: said.Label}
		if i := slices.IndexFunc(left, func(x Answer) bool { return x.Code == said.Code }); i >= 0 {
			a = left[i]
			left = slices.Delete(left, i, i+1)
		} else if q.Kind.Measured() && said.Missing == "" || q.Kind.Textual() || int(next)+1 >= MostAnswers {
			continue
		} else {
			next++
			a.Slot = next
		}
		if said.Label != "" {
			a.Label = said.Label
		} else if a.Label == "" {
			a.Label = a.Code
		}
		if said.Missing != "" || a.Slot != Blank {
			a.Missing = said.Missing
		}
		if said.Score != nil {
			a.Score = said.Score
		}
		if said.From != nil || said.To != nil {
			a.From, a.To = said.From, said.To
		}
		out = append(out, a)
	}
	// Missing answers stand last, those of the codebook before the others.
	q.Answers = nil
	for _, wantMissing := range []bool{false, true} {
		for _, a := range append(slices.Clone(out), left...) {
			if (a.Missing != "") == wantMissing {
				q.Answers = append(q.Answers, a)
			}
		}
	}
	return q
}
