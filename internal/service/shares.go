package service

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"widetally/core/shares"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/statistics"
)

// ShareSet is a set of shares of the shelf in one of its versions.
type ShareSet struct {
	shares.Set
	ID      uint64
	Version int
	At      time.Time
	Deleted bool
}

func shareSetOf(row study.ShareSet) (ShareSet, error) {
	out := ShareSet{ID: row.ID, Version: row.Version, At: row.CreatedAt, Deleted: row.Deleted}
	if err := json.Unmarshal([]byte(row.Definition), &out.Set); err != nil {
		return out, fmt.Errorf("service: shares %d: %w", row.ID, err)
	}
	return out, nil
}

// ShareSets lists the shelf.
func (s *Shares) ShareSets(ctx context.Context) ([]ShareSet, error) {
	rows, err := s.store.ShareSets(ctx)
	rows = slices.DeleteFunc(rows, func(row study.ShareSet) bool { return s.maySet(ctx, row.ID, study.ToSee) != nil })
	return setsOf(rows, err)
}

// ShareVersions lists the versions of a set, the newest first.
func (s *Shares) ShareVersions(ctx context.Context, id uint64) ([]ShareSet, error) {
	if err := s.maySet(ctx, id, study.ToSee); err != nil {
		return nil, err
	}
	rows, err := s.store.ShareVersions(ctx, id)
	return setsOf(rows, err)
}

func setsOf(rows []study.ShareSet, err error) ([]ShareSet, error) {
	if err != nil {
		return nil, err
	}
	out := make([]ShareSet, len(rows))
	for i, row := range rows {
		if out[i], err = shareSetOf(row); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// defined checks a set and writes it down.
func defined(set shares.Set) (string, error) {
	if problems := set.Check(); len(problems) > 0 {
		p := problems[0]
		v := map[string]string{"most": fmt.Sprint(shares.MaxSetText)}
		if p.Of != nil {
			names := make([]shares.Name, len(set.Answers))
			for i, a := range set.Answers {
				names[i] = shares.Name{Label: a.Label, Code: a.Code}
			}
			v = shares.ProblemValues(p.Aligned, names, *p.Of)
		}
		return "", invalid(p.Code, p.Pointer, v)
	}
	for pointer, text := range map[string]string{"/title": set.Title, "/publisher": set.Publisher, "/date": set.Date, "/place": set.Place, "/population": set.Population, "/note": set.Note, "/link": set.Link} {
		if _, err := plain(text, pointer, shares.MaxSetNote, false); err != nil {
			return "", err
		}
	}
	return jsonText(set)
}

// AddShareSet puts a set on the shelf.
func (s *Shares) AddShareSet(ctx context.Context, set shares.Set) (ShareSet, error) {
	definition, err := defined(set)
	if err != nil {
		return ShareSet{}, err
	}
	id, err := s.store.AddShareSet(ctx, definition)
	if err != nil {
		return ShareSet{}, err
	}
	return s.newest(ctx, id)
}

// EditShareSet makes another version of a set that is still at this one; claims keep theirs.
func (s *Shares) EditShareSet(ctx context.Context, id uint64, version int, set shares.Set) (ShareSet, error) {
	definition, err := defined(set)
	if err != nil {
		return ShareSet{}, err
	}
	if err := s.maySet(ctx, id, study.ToChange); err != nil {
		return ShareSet{}, err
	}
	if err := s.store.EditShareSet(ctx, id, version, definition); err != nil {
		return ShareSet{}, err
	}
	return s.newest(ctx, id)
}

func (s *Shares) newest(ctx context.Context, id uint64) (ShareSet, error) {
	all, err := s.ShareVersions(ctx, id)
	if err != nil {
		return ShareSet{}, err
	}
	return all[0], nil
}

// SetShareSetDeleted takes a set off the shelf or puts it back; claims that used it keep it.
func (s *Shares) SetShareSetDeleted(ctx context.Context, id uint64, deleted bool) error {
	if err := s.maySet(ctx, id, study.ToOwn); err != nil {
		return err
	}
	return s.store.SetShareSetDeleted(ctx, id, deleted)
}

// SharesFit is how a set goes with the answers of a question.
type SharesFit struct {
	Set     ShareSet
	Answers []survey.Answer
	shares.Fit
	Figures []string
}

// FitShares says which categories of a set go to which answers of a question: as proposed, or
// as from says.
func (s *Shares) FitShares(ctx context.Context, id, studyID, questionID uint64, from [][]int) (*SharesFit, error) {
	set, err := s.newest(ctx, id)
	if err != nil {
		return nil, err
	}
	d, err := s.dataset(ctx, studyID)
	if err != nil {
		return nil, err
	}
	q, ok := d.question(questionID)
	if !ok {
		return nil, study.ErrNotFound
	}
	out := &SharesFit{Set: set, Answers: q.Question.Proper()}
	names := make([]shares.Name, len(out.Answers))
	for i, a := range out.Answers {
		names[i] = shares.Name{Label: a.Label, Code: a.Code}
	}
	if from == nil {
		out.Fit = shares.Propose(names, set.Set)
	} else if out.Fit, ok = shares.Chosen(from, len(set.Answers)); !ok || len(from) != len(names) {
		return nil, invalid("set.fit", "/from", nil)
	}
	out.Figures = set.Set.Figures(out.Fit)
	return out, nil
}

// SharesOf puts the counts of a question on the shelf, as those of a sample.
func (s *Shares) SharesOf(ctx context.Context, studyID, questionID uint64, in *uint64) (ShareSet, error) {
	p, err := s.page(ctx, studyID, in)
	if err != nil {
		return ShareSet{}, err
	}
	q, ok := p.question(questionID)
	switch {
	case !ok:
		return ShareSet{}, study.ErrNotFound
	case !q.Kind.Coded():
		return ShareSet{}, invalid("claim.kind", "", nil)
	}
	v, err := s.view(ctx, p, q)
	if err != nil {
		return ShareSet{}, err
	}
	title := q.Short
	if title == "" {
		title = q.Wording
	}
	set := shares.Set{Title: cut(fmt.Sprintf("%s, %s", title, p.study.Name), shares.MaxSetText), Population: p.study.Units, Kind: shares.Survey, Scale: shares.Counts}
	if within := p.within(); within != "" {
		set.Population = cut(p.study.Units+", "+within, shares.MaxSetText)
	}
	for i, a := range q.Question.Proper() {
		n := v.Frequency.Rows[i].Count
		set.N += n
		set.Answers = append(set.Answers, shares.SetAnswer{Label: a.Label, Code: a.Code, Figure: fmt.Sprint(n)})
	}
	return s.AddShareSet(ctx, set)
}

func cut(text string, most int) string {
	if r := []rune(text); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return text
}

// OfficeTables lists what the statistics office offers.
func (s *Shares) OfficeTables(ctx context.Context) ([]statistics.Table, error) {
	return s.office.Tables(ctx)
}

// OfficeTable fetches one table of the statistics office.
func (s *Shares) OfficeTable(ctx context.Context, id string) (*statistics.Cube, error) {
	return s.office.Table(ctx, id)
}
