package study

import (
	"context"
	"encoding/json"
	"fmt"
	"math/big"
	"slices"

	"widetally/core/claim"
	"widetally/core/exact"
	"widetally/core/infer"
	"widetally/core/shares"
	"widetally/core/survey"
	"widetally/internal/store"
)

// ClaimView is a claim as the page shows it.
type ClaimView struct {
	store.Claim
	Aligned *shares.Aligned
	Slots   []survey.Slot // the answers in the test, in the question's order
	Changes []store.Change
	// Result and Reading are set once the test has been run; Refusal when the
	// core cannot run it on the answers as they are now.
	Result  *infer.GoodnessOfFit
	Reading *claim.Reading
	Refusal *infer.InputError
	// Differs lists what the result depends on that is not as it was at the first run.
	Differs []Difference
	// Damaged is set instead when a column that tells whom it is about is damaged.
	Damaged *store.DamagedError
	// Subgroup is the name of the subgroup that the claim is about, "" for everyone;
	// Units what the respondents it speaks of are called.
	Subgroup, Units string
}

type studyClaims struct {
	byQuestion map[uint64][]store.Claim
	changes    map[uint64][]store.Change
	withdrawn  []store.Claim
	testsRun   int // of claims withdrawn since, too
}

// countedAnew files a change to what is counted in a question under every claim
// about it, marked when the test had already been run.
func (all *studyClaims) countedAnew(change store.Change) {
	if change.Field != countingField {
		return
	}
	for _, c := range all.byQuestion[change.SubjectID] {
		if c.FirstInputs != "" {
			continue // what matters is found by comparing
		}
		if change.At.After(c.StatedAt) {
			change.AfterRun = c.FirstRunAt != nil && change.At.After(*c.FirstRunAt)
			all.changes[c.ID] = append(all.changes[c.ID], change)
		}
	}
}

func claimsOf(ctx context.Context, tx *store.Store, studyID uint64) (*studyClaims, error) {
	claims, err := tx.AllClaims(ctx, studyID)
	if err != nil {
		return nil, err
	}
	changes, err := tx.Changes(ctx, studyID)
	if err != nil {
		return nil, err
	}
	out := &studyClaims{byQuestion: map[uint64][]store.Claim{}, changes: map[uint64][]store.Change{}}
	for _, c := range claims {
		if c.FirstRunAt != nil {
			out.testsRun++
		}
		if c.WithdrawnAt != nil {
			out.withdrawn = append(out.withdrawn, c)
			continue
		}
		out.byQuestion[c.QuestionID] = append(out.byQuestion[c.QuestionID], c)
	}
	for _, change := range changes {
		switch change.Subject {
		case store.OfClaim:
			out.changes[change.SubjectID] = append(out.changes[change.SubjectID], change)
		case store.OfQuestion:
			out.countedAnew(change)
		}
	}
	return out, nil
}

// named lists the answers that take part in a test: proper ones, spellings
// counted under another one excepted, in the question's order.
func named(q survey.Question) (slots []survey.Slot, names []shares.Name) {
	for _, a := range q.Answers {
		if a.Missing == "" && a.SameAs == nil {
			slots = append(slots, a.Slot)
			names = append(names, shares.Name{Label: a.Label, Code: a.Code})
		}
	}
	return slots, names
}

// claimView runs a claim's test on the answers as they are, among the respondents
// that it is about.
func (s *Service) claimView(ctx context.Context, p *page, c store.Claim, v *QuestionView, column survey.Column, about survey.Respondents, damaged *store.DamagedError) (ClaimView, error) {
	out := ClaimView{Claim: c, Damaged: damaged, Changes: p.claims.changes[c.ID], Units: p.study.Units}
	if c.SubgroupID != nil {
		out.Subgroup = p.subs[*c.SubgroupID].Name
		out.Units = s.words.Text("claim.in_subgroup", map[string]string{"units": out.Units, "subgroup": out.Subgroup})
	}
	var names []shares.Name
	out.Slots, names = named(v.Question.Question)
	figures := make([]string, len(names))
	for i, slot := range out.Slots {
		figures[i] = c.Figures[slot]
	}
	out.Aligned = shares.Normalise(names, figures, c.Mode, c.Rescale)
	if c.FirstRunAt == nil || !out.Aligned.Usable() || damaged != nil {
		return out, nil
	}
	counts, err := survey.CountAnswers(v.Question.Question, column, about)
	if err != nil {
		return out, err
	}
	in := infer.GoodnessOfFitInput{Observed: make([]int64, len(names)), Shares: out.Aligned.Shares, Level: c.Level}
	labels := make([]string, len(names))
	for i, slot := range out.Slots {
		in.Observed[i], labels[i] = counts.BySlot[slot], names[i].Label
	}
	result, err := infer.ComputeGoodnessOfFit(in)
	if err != nil {
		out.Refusal, _ = err.(*infer.InputError)
		return out, nil
	}
	var exactTest *infer.ExactTest
	if result.ThinCells > 0 {
		if exactTest, err = exactBeside(ctx, in, result); err != nil {
			return out, err
		}
	}
	reading := claim.ReadGoodnessOfFit(result, claim.GoodnessOfFitContext{Units: out.Units, Question: v.Wording, Short: v.Short, Labels: labels, Source: c.Source,
		Kind: c.Kind, Mode: c.Mode, Role: c.Role, Aligned: out.Aligned, Everyone: counts.Everyone, Exact: exactTest, Weights: p.weights()})
	out.Result, out.Reading = result, &reading
	return out, p.differs(&out, c, v.Question.Question, counts)
}

// An exact test that stands beside a claim on the page takes a moment at most, and is
// simulated beyond. The seed is fixed, so that the page shows the same figures each time.
const (
	exactSteps      = 5_000_000
	exactReplicates = 20_000
	exactSeed       = 1
)

func exactBeside(ctx context.Context, in infer.GoodnessOfFitInput, r *infer.GoodnessOfFit) (*infer.ExactTest, error) {
	o := infer.ExactOptions{Work: exactSteps, Replicates: exactReplicates, Seed: exactSeed}
	if r.Answers > 2 && exact.MultinomialSteps(r.N, r.Answers) > exactSteps {
		o.Way = infer.SimulatedOnly
	}
	return infer.ComputeExactGoodnessOfFit(ctx, in, o)
}

// differs notes what is not as it was when a claim's test was first run.
func (p *page) differs(out *ClaimView, c store.Claim, q survey.Question, counts *survey.Counts) error {
	if c.FirstInputs == "" {
		return nil
	}
	var first claimInputs
	if err := json.Unmarshal([]byte(c.FirstInputs), &first); err != nil {
		return fmt.Errorf("study: claim %d: %w", c.ID, err)
	}
	find := func(id uint64) (store.Question, bool) {
		at := slices.IndexFunc(p.questions, func(q store.Question) bool { return q.ID == id })
		if at < 0 {
			return store.Question{}, false
		}
		return p.questions[at], true
	}
	subgroup, countedBy := "", ""
	if c.SubgroupID != nil {
		var err error
		if subgroup, err = subgroupInputs(p.subs[*c.SubgroupID], find); err != nil {
			return err
		}
	}
	if id := p.study.CountQuestion; id != nil {
		by, _ := find(*id)
		countedBy = by.Name
	}
	now, err := inputsOf(c, q, counts, subgroup, countedBy)
	if err != nil {
		return fmt.Errorf("study: %w", err)
	}
	out.Differs = now.since(first)
	return nil
}

// ShareCheck is what entered shares amount to, before anything is stated.
type ShareCheck struct {
	Slots    []survey.Slot
	Names    []shares.Name
	Figures  []string // as typed, after pasted lines were matched by name
	Aligned  *shares.Aligned
	Problems []shares.Problem // of matching and of the figures
	Loose    []int
}

// CheckShares matches pasted lines to the answers of a question by name, or takes
// figures by slot, and says whether they can be used.
func (s *Service) CheckShares(ctx context.Context, studyID, questionID uint64, mode shares.Mode, rescale bool, figures map[survey.Slot]string, pasted string) (*ShareCheck, error) {
	if !slices.Contains(shares.Modes, mode) {
		return nil, invalid("claim.mode", "/mode", nil)
	}
	if _, err := s.store.Study(ctx, studyID); err != nil {
		return nil, err
	}
	q, err := s.store.Question(ctx, studyID, questionID)
	if err != nil {
		return nil, err
	}
	if !q.Kind.Coded() {
		return nil, invalid("claim.kind", "/mode", nil)
	}
	c := &ShareCheck{}
	c.Slots, c.Names = named(q.Question)
	if pasted != "" {
		c.Figures, c.Loose, c.Problems = shares.Match(c.Names, shares.ParseLines(pasted))
	} else {
		c.Figures = make([]string, len(c.Slots))
		for i, slot := range c.Slots {
			c.Figures[i] = figures[slot]
		}
	}
	c.Aligned = shares.Normalise(c.Names, c.Figures, mode, rescale)
	c.Problems = append(c.Problems, c.Aligned.Problems...)
	return c, nil
}

// ProblemCode is the message of a problem with shares, below "problem.".
func ProblemCode(a *shares.Aligned, p shares.Problem) string {
	code := "shares." + string(p.Kind)
	if p.Kind == shares.SumOff {
		if a.Gap.Sign() < 0 {
			return code + "_short"
		}
		return code + "_over"
	}
	return code
}

// ProblemValues are the values of that message.
func ProblemValues(a *shares.Aligned, names []shares.Name, p shares.Problem) map[string]string {
	v := map[string]string{"text": p.Text, "sum": shares.Format(a.Sum)}
	if p.Answer >= 0 {
		v["answer"] = names[p.Answer].Label
	}
	if p.Kind == shares.SumOff {
		v["target"] = shares.Format(a.Target)
		v["gap"] = shares.Format(new(big.Rat).Abs(a.Gap))
	}
	return v
}
