package analysis

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"

	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
)

// Designed is what the settings of a method have that has a form for designed samples.
type Designed interface {
	Settings
	// RunDesigned computes from the cells of the spec's questions.
	RunDesigned(work Work, counted *Counted) (*Outcome, error)
	// DocumentDesigned is what may be shown of it.
	DocumentDesigned(o *Outcome, about claim.About) document.Document
}

// EstimatesMissing is what settings have that estimate how many of all who were asked gave no answer.
type EstimatesMissing interface{ EstimatesMissing() }

// DesignChecked is what settings have of which it depends on the design in force whether they can be asked.
type DesignChecked interface {
	// CheckDesign lists what keeps them from being asked where a design is in force, or none is.
	CheckDesign(inForce bool, q []survey.Question) []Problem
}

// CheckBy lists what keeps a spec from being asked of questions where a design is in force, or none is.
func (s Spec) CheckBy(inForce bool, q []survey.Question) []Problem {
	out := s.Check(q)
	if checked, ok := s.Settings.(DesignChecked); ok && len(out) == 0 {
		out = append(out, checked.CheckDesign(inForce && !s.Unweighted, q)...)
	}
	return out
}

// Serves reports whether a method has a form for designed samples, or is about no answers at all.
func Serves(s Settings) bool {
	_, designed := s.(Designed)
	return designed || s.Needs() == NeedNothing
}

// estimate counts the cells of a spec's questions by the design that is in force.
func (c *Counted) estimate(ctx context.Context, s Spec, from Source, d Drawn) error {
	switch {
	case !Serves(s.Settings) && d.effect > 0:
		return Refused("design.no_form_typed", "/method", nil)
	case !Serves(s.Settings):
		return Refused("design.no_form", "/method", nil)
	}
	var err error
	c.Sampled = d.Sampled(func(key Key) string {
		q, failed := from.Question(ctx, key)
		if failed != nil && err == nil {
			err = failed
		}
		return q.Name
	})
	if errors.Is(err, ErrUnknownKey) {
		return Refused("design.gone", "/design", nil)
	}
	if err != nil {
		return err
	}
	if err = c.by(ctx, s, from); err == nil {
		c.Sampled.Names, err = from.StrataNames(ctx)
	}
	var refused *infer.InputError
	switch {
	case errors.As(err, &refused) && refused.Reason == design.EmptyBase:
		return Refused("compute."+string(infer.NoObservations), "/questions", nil)
	case errors.As(err, &refused):
		return DesignRefused(refused)
	case errors.Is(err, ErrUnknownKey):
		return Refused("design.gone", "/design", nil)
	}
	return err
}

// by counts what the settings need by the design.
func (c *Counted) by(ctx context.Context, s Spec, from Source) (err error) {
	told := func(b design.Base, largest float64) {
		if b.N > c.Sampled.Base.N {
			c.Sampled.Base, c.Sampled.Largest = b, largest/b.Sum
		}
	}
	cells := func(keys ...Key) (*design.Cells, error) {
		of, err := from.Cells(ctx, keys, s.Subgroup)
		if err == nil {
			told(of.Base, of.Largest)
		}
		return of, err
	}
	drawing := func(number, groups Key) (*Drawing, error) {
		of, err := from.Drawing(ctx, number, groups, s.Subgroup)
		if err != nil {
			return nil, err
		}
		b, largest, err := of.base()
		if err == nil {
			told(b, largest)
		}
		return of, err
	}
	items := func(groups Key) (err error) {
		if c.Items, err = from.Items(ctx, s.Questions[0], groups, s.Subgroup); err != nil {
			return err
		}
		for _, of := range c.Items {
			if of != nil && groups == "" {
				told(of.Base, of.Largest)
			} else if of != nil && c.Sampled.Base.N == 0 {
				c.Sampled.Base = of.Base
			}
		}
		if c.Sampled.Base.N == 0 {
			return RefuseInput("design", design.EmptyBase, -1)
		}
		return nil
	}
	switch q := s.Questions; s.Settings.Needs() {
	case NeedDescriptives:
		c.Drawing, err = drawing(q[0], "")
	case NeedDescriptivesBy:
		c.Drawing, err = drawing(q[0], q[1])
	case NeedEachDescriptives:
		c.Sampled.Several = true
		for _, key := range q {
			of, err := drawing(key, "")
			if err = some(err); err != nil {
				return err
			}
			c.Drawings = append(c.Drawings, of)
		}
	case NeedEachFrequencies:
		c.Sampled.Several = true
		for _, key := range q {
			of, err := cells(key)
			if err = some(err); err != nil {
				return err
			}
			c.EachCells = append(c.EachCells, of)
		}
	case NeedEachCrosstab:
		c.Sampled.Several = true
		for _, key := range q[1:] {
			of, err := cells(key, q[0])
			if err = some(err); err != nil {
				return err
			}
			c.EachCells = append(c.EachCells, of)
		}
	case NeedTrend:
		if c.Cells = c.Panel; c.Panel != nil && from.Drawn().Cluster == "" && from.Drawn().Replicates == nil {
			told(c.Panel.Base, c.Panel.Largest)
			break
		}
		c.Cells, err = cells(q[0], q[1])
	case NeedResponses, NeedPatterns:
		return items("")
	case NeedResponsesBy:
		return items(q[1])
	default:
		c.Cells, err = cells(q...)
	}
	_, estimates := s.Settings.(EstimatesMissing)
	if estimates && err == nil && c.Frequency.Missing > 0 && c.Sampled.Effect == 0 {
		c.Whole, err = from.Cells(ctx, nil, s.Subgroup)
	}
	if err == nil && c.Sampled.Base.N == 0 {
		return RefuseInput("design", design.EmptyBase, -1)
	}
	return err
}

// some takes a base that is empty as one of several that may be.
func some(err error) error {
	if Empty(err) {
		return nil
	}
	return err
}

// DesignRefused says with its row why the answers do not bear a design.
func DesignRefused(why *infer.InputError) error {
	return Refused("design."+string(why.Reason), "/design", document.Values{"row": document.N(int64(why.Index + 1))})
}

// drawnInputs tells of the design what a result depends on; "" where none is in force.
func (c *Counted) drawnInputs() string {
	if !c.Designed() {
		return ""
	}
	sum := sha256.New()
	for _, cells := range append(c.EachCells, c.Cells, c.Panel) {
		if cells != nil {
			fmt.Fprintln(sum, cells.Digest())
		}
	}
	for _, drawing := range append(c.Drawings, c.Drawing) {
		if drawing != nil {
			fmt.Fprintln(sum, drawing.digest())
		}
	}
	for _, items := range c.Items {
		if items != nil {
			fmt.Fprintln(sum, items.Base, items.Count, items.Total, items.Covariance)
		}
	}
	if c.Whole != nil {
		fmt.Fprintln(sum, c.Whole.Digest())
	}
	digest := hex.EncodeToString(sum.Sum(nil))
	if c.Items == nil && c.EachCells == nil && c.Drawings == nil && c.Whole == nil { // as it is stored since there are designs
		if c.Cells != nil {
			digest = c.Cells.Digest()
		} else {
			digest = c.Drawing.digest()
		}
	}
	return fmt.Sprintf(
		"%s | %s | %s | %s",
		c.Sampled.Weight,
		strings.Join(c.Sampled.Strata, ", "),
		c.Sampled.Cluster,
		digest,
	)
}
