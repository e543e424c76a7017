package recipe

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Noticed is something of the file that is not as the recipe has it; the rest runs.
type Noticed struct {
	// Pointer is where the recipe speaks of it; "" for a column that it does not know.
	Pointer string
	Column  string
	Message document.Message
}

// Prepared is a file read as a recipe says: its questions with their answers, a source of counts
// for all that is asked.
type Prepared struct {
	Recipe    Recipe
	Rows      int
	Questions []survey.Source
	Noticed   []Noticed
	// Times is how many respondents each row stands for; nil for one each.
	Times  []int64
	groups map[string]survey.Sample
	byName map[string]int
}

// Prepare reads the columns of a file as a recipe says. What the file lacks or has besides is
// noticed; an error is a mistake of the recipe itself, an *Error.
func Prepare(r Recipe, columns []survey.Built, rows int) (*Prepared, error) {
	r = r.Filled()
	if err := r.Check(); err != nil {
		return nil, err
	}
	p := &Prepared{Recipe: r, Rows: rows, groups: map[string]survey.Sample{}, byName: map[string]int{}}
	if err := p.columns(columns); err != nil {
		return nil, err
	}
	if name := r.Study.CountedBy; name != "" {
		s, ok := p.find(name)
		if !ok {
			return nil, wrongText("/study/countedBy", "counts_lacking", name)
		}
		if s.Question.Kind != survey.Count {
			return nil, wrongText("/study/countedBy", "counts_kind", name)
		}
		if row, bad := survey.BadCount(s.Column); bad {
			return nil, wrong(
				"/study/countedBy",
				"no_count",
				document.Values{"row": document.N(int64(row + 1)), "text": document.Text(name)},
			)
		}
		for row, x := range s.Column.F64 {
			slot, missing := survey.MissingSlot(x)
			if a, _ := s.Question.Answer(slot); missing && a.Code != "" {
				return nil, wrong(
					"/study/countedBy",
					"missing_count",
					document.Values{"row": document.N(int64(row + 1)), "text": document.Text(name), "code": document.Text(a.Code)},
				)
			}
		}
		p.Times = s.Column.Multiplicities()
	}
	if err := p.derived(); err != nil {
		return nil, err
	}
	if err := p.bases(); err != nil {
		return nil, err
	}
	if err := p.design(); err != nil {
		return nil, err
	}
	if err := p.subgroups(); err != nil {
		return nil, err
	}
	return p, p.names()
}

// design looks whether the file has the columns of the design.
func (p *Prepared) design() error {
	d := p.Recipe.Design
	if d == nil {
		return nil
	}
	lacking := func(at string, key analysis.Key) error {
		if _, ok := p.find(string(key)); key != "" && !ok {
			return wrongText("/design/"+at, "design_lacking", string(key))
		}
		return nil
	}
	all := func(at string, keys []analysis.Key) (err error) {
		for i, key := range keys {
			err = cmp.Or(err, lacking(fmt.Sprintf("%s/%d", at, i), key))
		}
		return err
	}
	return cmp.Or(
		lacking("weight", d.Weight), all("strata", d.Strata),
		lacking("cluster", d.Cluster), lacking("population", d.Population),
		all("replicates", d.Replicates),
	)
}

// notice notes something of a column, by a message below recipe.noticed.
func (p *Prepared) notice(pointer, column, id string, more document.Values) {
	values := document.Values{"column": document.Text(column)}
	maps.Copy(values, more)
	p.Noticed = append(p.Noticed, Noticed{pointer, column, document.Say("recipe.noticed."+id, values)})
}

func (p *Prepared) add(s survey.Source) {
	p.byName[s.Question.Name] = len(p.Questions)
	p.Questions = append(p.Questions, s)
}

func (p *Prepared) find(name string) (survey.Source, bool) {
	i, ok := p.byName[name]
	if !ok {
		return survey.Source{}, false
	}
	return p.Questions[i], true
}

// named finds a question; ids count from 1 in the order in which the questions were made.
func (p *Prepared) named(name string) (uint64, survey.Question, bool) {
	i, ok := p.byName[name]
	if !ok {
		return 0, survey.Question{}, false
	}
	return uint64(i + 1), p.Questions[i].Question, true //nolint:gosec // a place in a list
}

func (p *Prepared) byID(id uint64) (survey.Source, error) {
	if id == 0 || id > uint64(len(p.Questions)) {
		return survey.Source{}, fmt.Errorf("recipe: there is no question %d", id)
	}
	return p.Questions[id-1], nil
}

// columns takes those that the recipe knows, as it knows them.
func (p *Prepared) columns(columns []survey.Built) error {
	used := map[string]bool{}
	for i, q := range p.Recipe.Questions {
		if q.Derive != nil {
			continue
		}
		at := fmt.Sprintf("/questions/%d", i)
		k := survey.Named(q.Name, len(columns), func(i int) string { return columns[i].Name })
		if k < 0 {
			p.notice(at, q.Name, "lacking", nil)
			continue
		}
		used[columns[k].Name] = true
		if q.Kind == "" {
			q.Kind = columns[k].Kind
		}
		as := q.question()
		read, err := survey.ReadAs(as, columns[k])
		if err != nil {
			p.notice(at, q.Name, "unreadable", document.Values{"kind": document.Term("ui.topline.kinds." + string(q.Kind))})
			continue
		}
		answers, column, added, err := survey.Refit(as.Answers, read.Answers, read.Data, false)
		if err != nil {
			return fmt.Errorf("recipe: %w", err)
		}
		if len(q.Answers) > 0 && len(added) > 0 && q.Kind.Coded() {
			p.notice(at, q.Name, "further", document.Values{"n": document.N(int64(len(added))), "list": shortList(added)})
		}
		as.Answers = answers
		p.add(survey.Source{Question: as, Column: column})
	}
	asked := p.Recipe.asked()
	for _, c := range columns {
		switch {
		case used[c.Name]:
		case asked[c.Name] || len(p.Recipe.Questions) == 0:
			p.add(survey.Source{Question: c.Question, Column: c.Data})
		default:
			p.notice("", c.Name, "unknown", nil)
		}
	}
	return nil
}

// shortList quotes the first of a list.
func shortList(list []string) document.Value {
	const most = 8
	out := document.Quotes(document.Listed, list[:min(len(list), most)])
	if len(list) > most {
		out.List = append(out.List, document.Text("…"))
	}
	return out
}

// conditionWrong says why a condition cannot be asked.
func conditionWrong(at string, err error) error {
	var bad *survey.ConditionError
	if !errors.As(err, &bad) {
		return err
	}
	return wrong(at, "condition", document.Values{"why": document.Term("problem.condition." + bad.Why)})
}

// derived makes the questions that are made from others, once these are there.
func (p *Prepared) derived() error {
	waiting := []int{}
	for i, q := range p.Recipe.Questions {
		if q.Derive != nil {
			waiting = append(waiting, i)
		}
	}
	for again := true; again; {
		again = false
		for _, i := range slices.Clone(waiting) {
			q := p.Recipe.Questions[i]
			if slices.ContainsFunc(q.Derive.Sources, func(name string) bool { _, ok := p.byName[name]; return !ok }) {
				continue
			}
			if err := p.derive(i, q); err != nil {
				return err
			}
			waiting, again = slices.DeleteFunc(waiting, func(k int) bool { return k == i }), true
		}
	}
	for _, i := range waiting {
		q := p.Recipe.Questions[i]
		for k, name := range q.Derive.Sources {
			if !slices.ContainsFunc(p.Recipe.Questions, func(o Question) bool { return o.Name == name }) {
				return wrongText(fmt.Sprintf("/questions/%d/derive/sources/%d", i, k), "no_question", name)
			}
		}
		p.notice(fmt.Sprintf("/questions/%d", i), q.Name, "cannot_be_made", nil)
	}
	return nil
}

func (p *Prepared) derive(i int, q Question) error {
	at := fmt.Sprintf("/questions/%d/derive", i)
	d, _, err := q.Derive.derivation(at, p.named)
	if err != nil {
		return err
	}
	var sources []survey.Source
	for _, id := range d.Sources {
		s, _ := p.byID(id) // found above
		sources = append(sources, s)
	}
	kind, made, column, err := survey.Derive(d, sources, survey.Sample{Frequency: p.Times})
	var bad *survey.DerivationError
	if errors.As(err, &bad) {
		return wrong(at, "derivation", document.Values{"why": document.Term("problem.derivation." + bad.Why)})
	}
	if err != nil {
		return fmt.Errorf("recipe: %w", err)
	}
	if q.Kind == "" {
		q.Kind = kind
	}
	as := q.question()
	if as.Answers, column, _, err = survey.Refit(as.Answers, made, column, true); err != nil {
		return fmt.Errorf("recipe: %w", err)
	}
	as.Derivation = &d
	p.add(survey.Source{Question: as, Column: column})
	return nil
}

// bases reads the conditions under which questions were asked.
func (p *Prepared) bases() error {
	for i, q := range p.Recipe.Questions {
		k, there := p.byName[q.Name]
		if q.Base == nil || !there {
			continue
		}
		at := fmt.Sprintf("/questions/%d/base", i)
		c, err := p.conditioned(*q.Base, at)
		if err != nil || c == nil {
			return err
		}
		p.Questions[k].Question.Base = c
	}
	return nil
}

// conditioned reads a condition; nil where the file lacks a column that it names, which is
// noticed.
func (p *Prepared) conditioned(in Condition, at string) (*survey.Condition, error) {
	if lacking := p.lacking(in); lacking != "" {
		if slices.ContainsFunc(p.Recipe.Questions, func(q Question) bool { return q.Name == lacking }) {
			p.notice(at, lacking, "condition", nil)
			return nil, nil
		}
	}
	c, err := in.condition(at, p.named)
	if err != nil {
		return nil, err
	}
	if err := c.Check(func(id uint64) (survey.Question, bool) { s, err := p.byID(id); return s.Question, err == nil }); err != nil {
		return nil, conditionWrong(at, err)
	}
	return &c, nil
}

func (p *Prepared) lacking(c Condition) string {
	if _, ok := p.byName[c.Question]; c.Question != "" && !ok {
		return c.Question
	}
	for _, part := range c.Of {
		if l := p.lacking(part); l != "" {
			return l
		}
	}
	return ""
}

func (p *Prepared) subgroups() error {
	for i, g := range p.Recipe.Subgroups {
		c, err := p.conditioned(g.Condition, fmt.Sprintf("/subgroups/%d/condition", i))
		if err != nil {
			return err
		}
		if c == nil {
			continue
		}
		subset, err := c.Evaluate(p.Rows, p.byID)
		if err != nil {
			return fmt.Errorf("recipe: %w", err)
		}
		p.groups[g.Name] = survey.Sample{Subset: subset, Frequency: p.Times}
	}
	return nil
}

// Source counts in the prepared columns, by their names.
func (p *Prepared) Source() analysis.Columns {
	return analysis.Columns{
		Design: p.Recipe.Design,
		KeyOf: func(id uint64) analysis.Key {
			s, _ := p.byID(id)
			return analysis.Key(s.Question.Name)
		},
		Get: func(key analysis.Key) (survey.Source, error) {
			if s, ok := p.find(string(key)); ok {
				return s, nil
			}
			return survey.Source{}, analysis.ErrUnknownKey
		},
		Sample: func(key analysis.Key) (survey.Sample, error) {
			if key == "" {
				return survey.Sample{Frequency: p.Times}, nil
			}
			if s, ok := p.groups[string(key)]; ok {
				return s, nil
			}
			return survey.Sample{}, analysis.ErrUnknownKey
		},
	}
}

// Respondents is how many the rows stand for.
func (p *Prepared) Respondents() int64 { return survey.Sample{Frequency: p.Times}.Number(p.Rows) }

// Question gives a question by its name.
func (p *Prepared) Question(name string) (survey.Question, bool) {
	s, ok := p.find(name)
	return s.Question, ok
}

// Tally counts a question in a subgroup, "" for everyone; ok is false where the file lacks one
// of them.
func (p *Prepared) Tally(name, among string) (*tally.Frequency, bool, error) {
	from := p.Source()
	s, ok := p.find(name)
	if !ok {
		return nil, false, nil
	}
	of, err := from.Sample(analysis.Key(among))
	if err != nil {
		return nil, false, nil //nolint:nilerr // noticed already
	}
	f, err := tally.Tabulate(s.Question, s.Column, of)
	return f, err == nil, err
}

// Number describes a question of numbers in a subgroup, "" for everyone; nil for what is none, or where
// nobody gave one.
func (p *Prepared) Number(name, among string) (*tally.Numeric, error) {
	s, ok := p.find(name)
	if !ok || !s.Question.Kind.Numeric() {
		return nil, nil
	}
	of, err := p.Source().Sample(analysis.Key(among))
	if err != nil {
		return nil, nil //nolint:nilerr // noticed already
	}
	d, err := survey.Distribute(s.Column, s.Question.Slots(), of)
	if err != nil {
		return nil, fmt.Errorf("recipe: %w", err)
	}
	return tally.Summarise(s.Question.Numbers(d)), nil
}
