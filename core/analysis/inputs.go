package analysis

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"reflect"

	"widetally/core/claim"
	"widetally/core/shares"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Inputs is all that a result depends on, as it was when a test was run. Whether the result
// is still that one is told by comparing, not by listening to edits: a later file with the
// same answers changes nothing, and what a subgroup's questions count does.
type Inputs struct {
	// Observed holds how many gave each answer of the test, or each combination, by code.
	Observed map[string]int64 `json:"observed"`
	Missing  int64            `json:"missing"`
	// Numbers stands for all numbers that were given, as a hash; "" where there are answers
	// of a list.
	Numbers string `json:"numbers,omitempty"`
	// Asked is what the spec says, as far as the result depends on it.
	Asked string `json:"asked"`
	// Coding, Subgroup and Counts tell where a difference comes from: how the questions'
	// answers are counted, whom it is about, and what counts the rows.
	Coding   map[string]CodedAs `json:"coding"`
	Subgroup string             `json:"subgroup"`
	Counts   string             `json:"counts"`
	// Design stands for the design in force with all that estimates rest on; "" counts respondents.
	Design string `json:"design,omitempty"`
}

// CodedAs is how an answer counts that is no proper one.
type CodedAs struct {
	Missing string `json:"missing,omitempty"`
	SameAs  string `json:"sameAs,omitempty"`
}

// Difference names what a result depends on that is not as it was; the texts are under
// claim.differs.
type Difference string

// The differences.
const (
	ClaimDiffers    Difference = "claim"
	CodingDiffers   Difference = "coding"
	SubgroupDiffers Difference = "subgroup"
	CountsDiffer    Difference = "counts"
	DesignDiffers   Difference = "design"
	AnswersDiffer   Difference = "answers"
)

// between parts the codes of a combination.
const between = "\x1f"

// InputsOf gathers the inputs of a result. subgroup tells whom the spec's subgroup means,
// and countedBy what counts the rows.
func InputsOf(s Spec, c *Counted, subgroup, countedBy string) (Inputs, error) {
	in := Inputs{Observed: map[string]int64{}, Coding: map[string]CodedAs{}, Subgroup: subgroup, Counts: countedBy, Design: c.drawnInputs()}
	for i, q := range c.Questions {
		prefix := ""
		if i > 0 {
			prefix = fmt.Sprint(i) + between
		}
		for _, a := range q.Answers {
			as := CodedAs{Missing: a.Missing}
			if a.SameAs != nil {
				under, _ := q.Answer(*a.SameAs)
				as.SameAs = under.Code
			}
			if as != (CodedAs{}) {
				in.Coding[prefix+a.Code] = as
			}
		}
	}
	switch {
	case c.Crosstab != nil:
		if c.Crosstab.Layers == nil {
			everyone, proper := in.cells("", c.Crosstab, 0)
			in.Missing = everyone - proper
			break
		}
		everyone, proper := int64(0), int64(0)
		for k, layer := range c.Crosstab.Layers.Answers {
			if layer.Missing != "" {
				continue
			}
			all, counted := in.cells(layer.Code+between, c.Crosstab, k)
			everyone, proper = all, proper+counted
		}
		in.Missing = everyone - proper
	case c.Frequency != nil:
		for _, r := range c.Frequency.Rows {
			a, _ := c.Questions[0].Answer(r.Slot)
			in.Observed[a.Code] = r.Count
		}
		in.Missing = c.Frequency.Missing
	}
	for i, f := range c.Each {
		for k, row := range f.Rows {
			in.Observed[fmt.Sprint(i, between, c.Questions[i].Proper()[k].Code)] = row.Count
		}
		in.Missing += f.Missing
	}
	if c.Responses != nil {
		for k, n := range c.Responses.Chosen {
			in.Observed[fmt.Sprint(between, k)] = n
		}
	}
	for i, t := range c.Crosstabs {
		everyone, proper := in.cells(fmt.Sprint(i, between), t, 0)
		in.Missing += everyone - proper
	}
	for g, m := range c.ResponsesBy {
		for k, a := range c.Questions[0].Proper() {
			in.Observed[fmt.Sprint(g, between, a.Code)] = m.Frequency.Rows[k].Count
		}
		in.Observed[fmt.Sprint(g, between)] = m.Frequency.Answered
		in.Missing += m.Frequency.Missing
	}
	sum := sha256.New()
	numbers := func(s *tally.Summary) {
		if s == nil {
			return
		}
		for _, row := range s.Rows {
			fmt.Fprintf(sum, "%x %d\n", row.Value, row.Count)
		}
		if s.Rows == nil && s.SD != nil {
			fmt.Fprintf(sum, "n %d mean %x sd %x\n", s.N, s.Mean, *s.SD)
		} else if s.Rows == nil {
			fmt.Fprintf(sum, "n %d mean %x\n", s.N, s.Mean)
		}
	}
	if s.Settings.Needs() == NeedPatterns {
		for _, p := range c.Responses.Patterns {
			fmt.Fprintf(sum, "%x %d\n", p.Set, p.Count)
		}
		in.Numbers = hex.EncodeToString(sum.Sum(nil))
	}
	if c.Summary != nil || c.Summaries != nil {
		numbers(c.Summary)
		for i, s := range c.Summaries {
			fmt.Fprintf(sum, "list %d\n", i)
			numbers(s)
		}
		in.Numbers = hex.EncodeToString(sum.Sum(nil))
	}
	asked, err := askedText(s)
	in.Asked = asked
	return in, err
}

// cells takes down the combinations of proper answers of a layer, and returns how many
// respondents there are in all and in these.
func (in Inputs) cells(prefix string, t *tally.Crosstab, layer int) (everyone, proper int64) {
	for i, row := range t.Rows.Answers {
		for j, column := range t.Columns.Answers {
			if n := t.At(layer, i, j).N; row.Missing == "" && column.Missing == "" {
				in.Observed[prefix+row.Code+between+column.Code] = n
				proper += n
			}
		}
	}
	everyone, _, _ = t.Everyone()
	return everyone, proper
}

func askedText(s Spec) (string, error) {
	raw, err := json.Marshal(struct {
		Method     string `json:"method"`
		Questions  []Key  `json:"questions"`
		Subgroup   Key    `json:"subgroup"`
		Settings   any    `json:"settings"`
		Unweighted bool   `json:"unweighted,omitempty"`
	}{s.Method, s.Questions, s.Subgroup, s.Settings.Essence(), s.Unweighted})
	return string(raw), err
}

// Moved gives the inputs of the first run of a spec that now goes by other keys of questions and
// subgroup, in another study. Where they were asked otherwise than the spec is now, they stay
// asked otherwise. subgroup tells whom the spec's subgroup means now; "" keeps what it meant.
func (in Inputs) Moved(from, to Spec, subgroup string) (Inputs, error) {
	was, err := askedText(from)
	if err != nil {
		return in, err
	}
	if in.Asked == was {
		if in.Asked, err = askedText(to); err != nil {
			return in, err
		}
	}
	if subgroup != "" {
		in.Subgroup = subgroup
	}
	return in, nil
}

// Since lists what differs from the inputs of the first run; nil when the result is the
// same one.
func (in Inputs) Since(first Inputs) (out []Difference) {
	if in.Asked != first.Asked {
		out = append(out, ClaimDiffers)
	}
	if in.Design != first.Design {
		out = append(out, DesignDiffers)
	}
	if reflect.DeepEqual(in.Observed, first.Observed) && in.Missing == first.Missing && in.Numbers == first.Numbers {
		return out
	}
	before := len(out)
	if !reflect.DeepEqual(in.Coding, first.Coding) {
		out = append(out, CodingDiffers)
	}
	if in.Subgroup != first.Subgroup {
		out = append(out, SubgroupDiffers)
	}
	if in.Counts != first.Counts {
		out = append(out, CountsDiffer)
	}
	if len(out) == before {
		out = append(out, AnswersDiffer)
	}
	return out
}

// Digest names an outcome: specs and counts with the same digest have the same one.
func Digest(s Spec, c *Counted) (string, error) {
	settings, err := json.Marshal(s.Settings)
	if err != nil {
		return "", err
	}
	in, err := InputsOf(s, c, "", "")
	if err != nil {
		return "", err
	}
	var order [][]string // the figures follow the order of the answers and the limits of classes
	for _, q := range c.Questions {
		var codes []string
		for _, a := range q.Proper() {
			codes = append(codes, a.Code)
			if a.From != nil && a.To != nil {
				codes = append(codes, fmt.Sprint(*a.From, " ", *a.To))
			}
			if a.Score != nil {
				codes = append(codes, fmt.Sprint("score ", *a.Score))
			}
		}
		order = append(order, codes)
	}
	var cells []int64 // those of missing answers can be shown, too
	if c.Crosstab != nil {
		for _, cell := range c.Crosstab.Cells {
			cells = append(cells, cell.N)
		}
	}
	panel := ""
	if c.Panel != nil {
		panel = fmt.Sprint(c.Panel.Digest(), c.Overlap)
	}
	raw, err := json.Marshal(
		[]any{s.Method, s.Version, json.RawMessage(settings), in.Observed, in.Missing, in.Numbers, order, cells, in.Design, panel},
	)
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(sum[:]), err
}

// ReadInputs reads inputs as they are kept with an analysis. Those of claims that were
// stated before specs were, which knew the goodness of fit alone, are read as what they would be
// now.
func (r *Registry) ReadInputs(raw string, s Spec) (Inputs, error) {
	var in struct {
		Inputs
		Claim string `json:"claim"`
	}
	if err := json.Unmarshal([]byte(raw), &in); err != nil {
		return in.Inputs, fmt.Errorf("analysis: inputs: %w", err)
	}
	if in.Claim == "" {
		return in.Inputs, nil
	}
	var role claim.Role
	var level float64
	var scale shares.Scale
	var rescale bool
	var subgroup *uint64
	var figures map[string]string
	if err := json.Unmarshal([]byte(in.Claim), &[]any{&role, &level, &scale, &rescale, &subgroup, &figures}); err != nil {
		return in.Inputs, fmt.Errorf("analysis: inputs: %w", err)
	}
	expected := ExpectedShares{Scale: scale, Rescale: rescale, Figures: []CategoryFigure{}}
	for code, figure := range figures {
		expected.Figures = append(expected.Figures, CategoryFigure{code, figure})
	}
	settings, err := json.Marshal(map[string]any{"shares": expected, "role": role, "level": level})
	if err != nil {
		return in.Inputs, fmt.Errorf("analysis: inputs: %w", err)
	}
	m, _ := r.Find("goodness-of-fit")
	old := Spec{Method: m.Name, Version: m.Asked.Version, Questions: s.Questions}
	if subgroup != nil {
		old.Subgroup = Key(fmt.Sprint(*subgroup))
	}
	if old.Settings, err = m.Asked.read(settings); err != nil {
		return in.Inputs, err
	}
	in.Asked, err = askedText(old)
	return in.Inputs, err
}

// UsesCode reports whether a spec names an answer of one of its questions.
func (s Spec) UsesCode(question Key, code string) bool {
	for i, key := range s.Questions {
		if key != question {
			continue
		}
		for _, c := range s.Settings.Codes(i) {
			if c == code {
				return true
			}
		}
	}
	return false
}

// Lacks lists the codes that a spec names of a question and that it no longer has.
func (s Spec) Lacks(at int, q survey.Question) (out []string) {
	for _, code := range s.Settings.Codes(at) {
		found := false
		for _, a := range q.Answers {
			found = found || a.Code == code
		}
		if !found || !q.Kind.Coded() {
			out = append(out, code)
		}
	}
	return out
}
