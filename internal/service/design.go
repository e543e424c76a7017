package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
	"widetally/core/study"
	"widetally/core/survey"
)

// Design is how the respondents of a study were drawn, and whether its figures estimate the population
// by that. One that names no question says nothing.
type Design struct {
	Drawn analysis.Drawn `json:"drawn"`
	// Off counts respondents all the same.
	Off bool `json:"off,omitempty"`
}

// DesignView is the design as the codebook shows it.
type DesignView struct {
	Design
	// Said tells it in words; nil where there is none.
	Said []document.Message
	// Weights are the questions that can weight, Parts those that can be strata or clusters, Numbers those
	// that can tell how many there are in a stratum, and Sets those that hold replicate weights.
	Weights, Parts, Numbers []uint64
	Sets                    []ReplicateSet
	// Proposed is what the questions look like where no design is stated.
	Proposed Proposed
	// Problem is what keeps it from being used as the answers are now; nil for none.
	Problem *analysis.Problem
}

// ReplicateSet is questions that hold replicate weights, by what their names begin with.
type ReplicateSet struct {
	Name      string
	Questions []uint64
}

// Proposed is a design that questions look like by their kinds and their names; it holds only when
// somebody states it.
type Proposed struct {
	Weight, Cluster    uint64 // 0 for none
	Strata, Replicates []uint64
}

// fewestReplicates is from how many columns of one name on they are taken to be replicate weights.
const fewestReplicates = 4

// replicateSets finds the questions that hold replicate weights.
func replicateSets(questions []study.Question) (sets []ReplicateSet) {
	at := map[string]int{}
	for _, q := range questions {
		name, _, ok := survey.NamesReplicate(q.Name)
		if !ok || !plays(q.Question, asReplicate) {
			continue
		}
		i, known := at[name]
		if !known {
			i = len(sets)
			at[name], sets = i, append(sets, ReplicateSet{Name: name})
		}
		sets[i].Questions = append(sets[i].Questions, q.ID)
	}
	return slices.DeleteFunc(sets, func(s ReplicateSet) bool { return len(s.Questions) < fewestReplicates })
}

// proposed is the design that questions look like: the only question that holds weights but those of
// replicates, and what is called as strata and clusters are, or else the replicates.
func proposed(questions []study.Question, sets []ReplicateSet) (out Proposed) {
	replicates := map[uint64]bool{}
	for _, set := range sets {
		for _, id := range set.Questions {
			replicates[id] = true
		}
	}
	weights := 0
	for _, q := range questions {
		switch {
		case q.Kind == survey.Weight && !replicates[q.ID]:
			weights++
			out.Weight = q.ID
		case survey.NamesStratum(q.Name) && plays(q.Question, asPart):
			out.Strata = append(out.Strata, q.ID)
		case survey.NamesCluster(q.Name) && plays(q.Question, asPart) && out.Cluster == 0:
			out.Cluster = q.ID
		}
	}
	if weights > 1 {
		out.Weight = 0
	}
	for _, q := range questions { // a place is a cluster where there are strata
		if out.Strata != nil && out.Cluster == 0 && survey.NamesPlace(q.Name) && plays(q.Question, asPart) {
			out.Cluster = q.ID
		}
	}
	if len(sets) == 1 {
		out.Strata, out.Cluster, out.Replicates = nil, 0, sets[0].Questions
	}
	return out
}

// looksDrawn names the questions of a file that look like the design of a sample, replicate weights by what
// they begin with; nil for none.
func looksDrawn(questions []study.Question) (names []string) {
	numbered := make([]study.Question, len(questions))
	for i, q := range questions {
		numbered[i] = q
		numbered[i].ID = uint64(i + 1) //nolint:gosec // a place in a list
	}
	sets := replicateSets(numbered)
	is := proposed(numbered, sets)
	for _, id := range append(append([]uint64{is.Weight}, is.Strata...), is.Cluster) {
		if id > 0 {
			names = append(names, numbered[id-1].Name)
		}
	}
	for _, set := range sets {
		names = append(names, set.Name+"…")
	}
	return names
}

// inForce is the design by which the population is estimated; nil where respondents are counted.
func (d Design) inForce() *analysis.Drawn {
	if d.Off || len(d.Drawn.Questions()) == 0 {
		return nil
	}
	return &d.Drawn
}

// designOf reads the design of a study.
func designOf(parts []study.Part) (study.Part, Design, error) {
	for _, p := range parts {
		if p.Deleted {
			continue
		}
		var d Design
		if err := json.Unmarshal([]byte(p.Definition), &d); err != nil {
			return p, d, fmt.Errorf("service: design %d: %w", p.ID, err)
		}
		return p, d, nil
	}
	return study.Part{Kind: study.Design, Name: "design"}, Design{}, nil
}

// inForce is the design in force in a dataset.
func (d *dataset) inForce() *analysis.Drawn { return d.design.inForce() }

// designView tells the design of a dataset in words, with what keeps it from being used.
func (s *base) designView(ctx context.Context, d *dataset) (DesignView, error) {
	out := DesignView{Design: d.design}
	for _, q := range d.questions {
		if plays(q.Question, asWeight) {
			out.Weights = append(out.Weights, q.ID)
		}
		if plays(q.Question, asPart) {
			out.Parts = append(out.Parts, q.ID)
		}
		if plays(q.Question, asPopulation) {
			out.Numbers = append(out.Numbers, q.ID)
		}
	}
	out.Sets = replicateSets(d.questions)
	if len(d.design.Drawn.Questions()) == 0 {
		out.Proposed = proposed(d.questions, out.Sets)
	}
	if len(d.design.Drawn.Questions()) == 0 {
		return out, nil
	}
	by := d.design.Drawn.Sampled(func(key analysis.Key) string {
		id, _ := idOf(key)
		q, _ := d.question(id)
		return q.Name
	})
	sample, err := d.sampled.once(func() (*design.Sample, error) {
		return d.design.Drawn.Sample(s.source(ctx, d).Get, int(d.study.Rows))
	})
	if refused := designRefused(err); refused != nil {
		out.Said, out.Problem = by.Drawn(), &refused.Problem
		return out, nil
	}
	var damaged *study.DamagedError
	if errors.As(err, &damaged) {
		out.Said, out.Problem = by.Drawn(), &analysis.Problem{Code: "http.damaged", Values: document.Values{"name": document.Text(damaged.Name)}}
		return out, nil
	}
	if err != nil {
		return out, err
	}
	by.Base.PSUs, by.Base.Strata, by.Base.DF = sample.PSUs(), sample.Strata(), sample.DF()
	by.Base.Replicates = sample.Replicates()
	out.Said = append(by.Drawn(), by.Freedom())
	if sample.Shared > 0 {
		out.Said = append(out.Said, say.BasisDesignedShared(int64(sample.Shared)))
	}
	return out, nil
}

// designRefused is why a design cannot be used; nil for another error, and for none.
func designRefused(err error) *analysis.SpecError {
	var refused *analysis.SpecError
	if errors.As(err, &refused) {
		return refused
	}
	if errors.Is(err, analysis.ErrUnknownKey) {
		errors.As(analysis.Refused("design.gone", "/design", nil), &refused)
		return refused
	}
	var input *infer.InputError
	if errors.As(err, &input) {
		errors.As(analysis.DesignRefused(input), &refused)
	}
	return refused
}

// Design tells how the respondents of a study were drawn.
func (s *Codebooks) Design(ctx context.Context, studyID uint64) (DesignView, error) {
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return DesignView{}, err
	}
	return s.designView(ctx, d)
}

// role is the part that a question plays in a design.
type role int

const (
	asWeight role = iota
	asPart        // stratum or cluster
	asPopulation
	asReplicate
)

// roleOf is the part that a question plays.
func roleOf(d analysis.Drawn, key analysis.Key) role {
	switch {
	case key == d.Weight:
		return asWeight
	case key == d.Population:
		return asPopulation
	case slices.Contains(d.Replicates, key):
		return asReplicate
	}
	return asPart
}

// plays reports whether a question can play its part in a design.
func plays(q survey.Question, as role) bool {
	if as == asPart {
		return q.Kind != survey.ChooseAll && q.Kind != survey.Summarised && q.Kind != survey.Weight
	}
	return q.Kind.Measured() || q.Kind == survey.Discrete
}

// SetDesign says how the respondents of a study were drawn, and whether its figures estimate the
// population by that. A design that the answers do not bear is refused with the row.
func (s *Codebooks) SetDesign(ctx context.Context, studyID uint64, to Design) error {
	title := Title{ID: "design", Values: document.Values{}}
	return s.change(ctx, studyID, title, func(d *draft) error {
		parts, err := d.store.Parts(d.ctx, studyID, study.Design)
		if err != nil {
			return err
		}
		part, before, err := designOf(parts)
		if err != nil || reflect.DeepEqual(before, to) {
			return err
		}
		if !reflect.DeepEqual(before.Drawn, to.Drawn) {
			if err := d.checkDesign(to.Drawn); err != nil {
				return err
			}
		}
		switch {
		case len(to.Drawn.Questions()) == 0:
			title.Values["what"] = document.Term("history_design.none")
		case reflect.DeepEqual(before.Drawn, to.Drawn) && to.Off:
			title.Values["what"] = document.Term("history_design.off")
		case reflect.DeepEqual(before.Drawn, to.Drawn):
			title.Values["what"] = document.Term("history_design.on")
		default:
			title.Values["what"] = document.Term("history_design.stated")
		}
		if part.Definition, err = jsonText(to); err != nil {
			return err
		}
		_, err = d.part(part)
		return err
	})
}

// checkDesign refuses a design that names what cannot play its part, or that the answers do not bear.
func (d *draft) checkDesign(drawn analysis.Drawn) error {
	seen := map[analysis.Key]bool{}
	for _, key := range drawn.Questions() {
		id, ok := idOf(key)
		if !ok {
			return invalid("spec.question", "/design", map[string]string{"text": string(key)})
		}
		q, err := d.question(id)
		if errors.Is(err, study.ErrNotFound) {
			return invalid("spec.question", "/design", map[string]string{"text": string(key)})
		}
		if err != nil {
			return err
		}
		if seen[key] || !plays(q.Question, roleOf(drawn, key)) {
			return invalid("design.question", "/design", map[string]string{"name": q.Name})
		}
		seen[key] = true
	}
	if len(seen) == 0 {
		return nil
	}
	if d.study.CountQuestion != nil {
		return invalid("design.counted_rows", "/design", nil)
	}
	_, err := drawn.Sample(func(key analysis.Key) (survey.Source, error) {
		id, _ := idOf(key)
		return d.source(id)
	}, int(d.study.Rows))
	if refused := designRefused(err); refused != nil {
		return refused
	}
	return err
}

// inForce is the design in force within a transaction.
func (d *draft) inForce() (*analysis.Drawn, error) {
	parts, err := d.store.Parts(d.ctx, d.study.ID, study.Design)
	if err != nil {
		return nil, err
	}
	_, is, err := designOf(parts)
	return is.inForce(), err
}

// moved gives a design the keys of its questions in another study; ok is false where one is lacking.
func (d Design) moved(to func(analysis.Key) (analysis.Key, bool)) (Design, bool) {
	out, ok := d, true
	move := func(key analysis.Key) analysis.Key {
		if key == "" {
			return ""
		}
		moved, there := to(key)
		ok = ok && there
		return moved
	}
	all := func(keys []analysis.Key) (moved []analysis.Key) {
		for _, key := range keys {
			moved = append(moved, move(key))
		}
		return moved
	}
	is := d.Drawn
	out.Drawn.Weight, out.Drawn.Cluster, out.Drawn.Population = move(is.Weight), move(is.Cluster), move(is.Population)
	out.Drawn.Strata, out.Drawn.Replicates = all(is.Strata), all(is.Replicates)
	return out, ok
}
