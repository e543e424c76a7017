package study

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"widetally/core/claim"
	"widetally/core/shares"
	"widetally/core/survey"
	"widetally/internal/store"
)

// MaxLevel is the highest significance level: above it a confidence level was meant.
const MaxLevel = 0.5

// Statement is a claim about shares as a person states it.
type Statement struct {
	Role       claim.Role
	Level      float64 // 0–1
	Mode       shares.Mode
	Rescale    bool
	Kind       claim.ReferenceKind
	Source     string
	SourceDate string
	// Figures are the shares as typed, by the slot of their answer.
	Figures map[survey.Slot]string
	// SubgroupID is the subgroup that the claim is about; nil means everyone.
	SubgroupID *uint64
}

// State keeps a new claim about a question, runs its test at once where run says so, and
// returns its id. Both happen, or neither.
func (s *Service) State(ctx context.Context, studyID, questionID uint64, in Statement, run bool) (id uint64, err error) {
	err = s.editDraft(ctx, studyID, func(d *draft) error {
		q, err := d.question(questionID)
		if err != nil {
			return err
		}
		c := store.Claim{StudyID: studyID, QuestionID: questionID}
		if err := in.fill(&c, q); err != nil {
			return err
		}
		if err := knownSubgroup(ctx, d.tx, studyID, in.SubgroupID); err != nil {
			return err
		}
		if c, err = d.tx.AddClaim(ctx, c); err != nil || !run {
			id = c.ID
			return err
		}
		id = c.ID
		return d.run(c)
	})
	return id, err
}

// run notes that a claim's test is run.
func (d *draft) run(c store.Claim) error {
	inputs, err := d.runInputs(c)
	if err != nil {
		return err
	}
	return d.tx.MarkRun(d.ctx, c.ID, inputs)
}

func knownSubgroup(ctx context.Context, tx *store.Store, studyID uint64, id *uint64) error {
	if id == nil {
		return nil
	}
	part, err := tx.Part(ctx, studyID, *id)
	if errors.Is(err, store.ErrNotFound) || err == nil && (part.Deleted || part.Kind != store.Subgroup) {
		return invalid("claim.subgroup", "/subgroupId", nil)
	}
	return err
}

// withQuestion finds a claim as get does, and the question that it is about.
func withQuestion(ctx context.Context, tx *store.Store, studyID, id uint64, get func(ctx context.Context, studyID, id uint64) (store.Claim, error)) (c store.Claim, q store.Question, err error) {
	if c, err = get(ctx, studyID, id); err != nil {
		return c, q, err
	}
	q, err = tx.Question(ctx, studyID, c.QuestionID)
	return c, q, err
}

// EditClaim changes what a claim says if it is still at this version. Each change
// is kept, and marked when the test had already been run. It returns the question.
func (s *Service) EditClaim(ctx context.Context, studyID, id uint64, version int, in Statement) (questionID uint64, err error) {
	err = s.edit(ctx, studyID, func(tx *store.Store) error {
		c, q, err := withQuestion(ctx, tx, studyID, id, tx.Claim)
		if err != nil {
			return err
		}
		questionID = q.ID
		before := c
		if err := knownSubgroup(ctx, tx, studyID, in.SubgroupID); err != nil {
			return err
		}
		if err := in.fill(&c, q); err != nil {
			return err
		}
		c.Version = version
		if err := tx.EditClaim(ctx, c); err != nil {
			return err
		}
		return tx.AddChanges(ctx, studyID, claimChanges(before, c, q))
	})
	return questionID, err
}

// RunClaim runs a claim's test; the time of the first run is kept. It returns the
// question.
func (s *Service) RunClaim(ctx context.Context, studyID, id uint64) (questionID uint64, err error) {
	err = s.editDraft(ctx, studyID, func(d *draft) error {
		c, err := d.tx.Claim(ctx, studyID, id)
		if err != nil {
			return err
		}
		questionID = c.QuestionID
		return d.run(c)
	})
	return questionID, err
}

// DeleteClaim withdraws a claim, which stays in the register; RestoreClaim brings it back.
func (s *Service) DeleteClaim(ctx context.Context, studyID, id uint64) error {
	return s.edit(ctx, studyID, func(tx *store.Store) error { return tx.SetClaimDeleted(ctx, studyID, id, true) })
}

// RestoreClaim brings a withdrawn claim back and returns its question. Its figures go to
// the answers that have the codes they were given for; without one of them the claim
// cannot come back as it was and is refused.
func (s *Service) RestoreClaim(ctx context.Context, studyID, id uint64) (questionID uint64, err error) {
	err = s.edit(ctx, studyID, func(tx *store.Store) error {
		c, q, err := withQuestion(ctx, tx, studyID, id, tx.AnyClaim)
		if err != nil {
			return err
		}
		questionID = q.ID
		moved := c
		moved.Figures, moved.Codes = map[survey.Slot]string{}, map[survey.Slot]string{}
		var gone []string
		for slot, figure := range c.Figures {
			code := c.Codes[slot]
			at := slices.IndexFunc(q.Answers, func(a survey.Answer) bool { return a.Code == code })
			if at < 0 || !q.Kind.Coded() {
				gone = append(gone, code)
				continue
			}
			now := q.Answers[at].Slot
			moved.Figures[now], moved.Codes[now] = figure, code
		}
		if len(gone) > 0 {
			slices.Sort(gone)
			return invalid("claim.answers_gone", "", map[string]string{"n": fmt.Sprint(c.Number), "list": strings.Join(gone, ", "), "name": q.Name})
		}
		if err := tx.PutFigures(ctx, moved); err != nil {
			return err
		}
		return tx.SetClaimDeleted(ctx, studyID, id, false)
	})
	return questionID, err
}

// fill checks a statement and takes it over into a claim.
func (in Statement) fill(c *store.Claim, q store.Question) (err error) {
	switch {
	case !q.Kind.Coded():
		return invalid("claim.kind", "/mode", nil)
	case in.Role != claim.ClaimIsNull && in.Role != claim.ClaimIsAlternative:
		return invalid("claim.role", "/role", nil)
	case !(in.Level > 0 && in.Level < 1):
		return invalid("claim.level", "/level", nil)
	case in.Level > MaxLevel:
		return invalid("claim.level_high", "/level", map[string]string{"level": fmt.Sprintf("%.6g", 100*in.Level), "rest": fmt.Sprintf("%.6g", math.Round(1e8*(1-in.Level))/1e6)})
	case !slices.Contains(claim.ReferenceKinds, in.Kind):
		return invalid("claim.reference", "/referenceKind", nil)
	case !slices.Contains(shares.Modes, in.Mode):
		return invalid("claim.mode", "/mode", nil)
	}
	if c.Source, err = plain(in.Source, "/source", maxSource, in.Mode != shares.Equal); err != nil {
		return err
	}
	if c.SourceDate, err = plain(in.SourceDate, "/sourceDate", maxDate, false); err != nil {
		return err
	}
	slots, names := named(q.Question)
	figures := make([]string, len(slots))
	c.Figures, c.Codes = map[survey.Slot]string{}, map[survey.Slot]string{}
	for i, slot := range slots {
		figures[i] = in.Figures[slot]
		if in.Mode != shares.Equal {
			c.Figures[slot], c.Codes[slot] = figures[i], names[i].Code
		}
	}
	if a := shares.Normalise(names, figures, in.Mode, in.Rescale); !a.Usable() {
		p := a.Problems[0]
		field := "/figures"
		if p.Answer >= 0 {
			field += "/" + strconv.Itoa(int(slots[p.Answer]))
		}
		return &InvalidError{Code: ProblemCode(a, p), Field: field, Values: ProblemValues(a, names, p)}
	}
	c.SubgroupID = in.SubgroupID
	c.Role, c.Level, c.Mode, c.Rescale, c.Kind = in.Role, in.Level, in.Mode, in.Rescale, in.Kind
	return nil
}

// claimChanges lists what differs between two states of a claim.
func claimChanges(before, after store.Claim, q store.Question) []store.Change {
	var out []store.Change
	note := func(field, a, b string) {
		if a != b {
			out = append(out, store.Change{Subject: store.OfClaim, SubjectID: before.ID, Field: field, Old: a, New: b, AfterRun: before.FirstRunAt != nil})
		}
	}
	note("role", string(before.Role), string(after.Role))
	note("level", fmt.Sprint(before.Level), fmt.Sprint(after.Level))
	note("mode", string(before.Mode), string(after.Mode))
	note("rescale", strconv.FormatBool(before.Rescale), strconv.FormatBool(after.Rescale))
	note("reference", string(before.Kind), string(after.Kind))
	note("source", before.Source, after.Source)
	note("sourceDate", before.SourceDate, after.SourceDate)
	note("subgroup", subgroupText(before.SubgroupID), subgroupText(after.SubgroupID))
	for _, a := range q.Answers {
		if b, f := before.Figures[a.Slot], after.Figures[a.Slot]; b != f {
			note("share", a.Label+": "+b, a.Label+": "+f)
		}
	}
	return out
}

func subgroupText(id *uint64) string {
	if id == nil {
		return ""
	}
	return "#" + strconv.FormatUint(*id, 10)
}
