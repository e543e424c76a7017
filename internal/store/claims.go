package store

import (
	"context"
	"slices"
	"time"

	"gorm.io/gorm"

	"widetally/core/claim"
	"widetally/core/shares"
	"widetally/core/survey"
)

// Claim is a claim about one question's shares, as stated.
type Claim struct {
	ID, StudyID, QuestionID uint64
	// Number counts the study's claims from 1 in the order in which they were
	// stated; a deleted claim keeps its number.
	Number     int
	SubgroupID *uint64 // whom the claim is about; nil means all
	Role       claim.Role
	Level      float64 // 0–1
	Mode       shares.Mode
	Rescale    bool
	Kind       claim.ReferenceKind
	Source     string
	SourceDate string // as written by the person, such as "January 2026"
	Figures    map[survey.Slot]string
	// Codes are those of the answers that bear figures, by which they are found again.
	Codes      map[survey.Slot]string
	StatedAt   time.Time
	FirstRunAt *time.Time
	// FirstInputs is, as JSON, what the result of the first run depended on; "" when it
	// was not noted.
	FirstInputs string
	// WithdrawnAt is set for a claim that has been deleted.
	WithdrawnAt *time.Time
	Version     int
}

type claimRow struct {
	ID            uint64
	StudyID       uint64
	QuestionID    uint64
	Number        int
	SubgroupID    *uint64
	Role          string
	Level         float64
	Mode          string
	Rescale       bool
	ReferenceKind string
	Source        string
	SourceDate    string
	StatedAt      time.Time
	FirstRunAt    *time.Time
	FirstInputs   *string
	DeletedAt     *time.Time
	Version       int
}

func (claimRow) TableName() string { return "claims" }

type shareRow struct {
	ClaimID uint64 `gorm:"primaryKey"`
	Slot    uint16 `gorm:"primaryKey;autoIncrement:false"`
	Figure  string
	Code    *string
}

func (shareRow) TableName() string { return "claim_shares" }

func (r claimRow) claim() Claim {
	c := Claim{ID: r.ID, StudyID: r.StudyID, QuestionID: r.QuestionID, Number: r.Number, SubgroupID: r.SubgroupID, Role: claim.Role(r.Role), Level: r.Level, Mode: shares.Mode(r.Mode),
		Rescale: r.Rescale, Kind: claim.ReferenceKind(r.ReferenceKind), Source: r.Source, SourceDate: r.SourceDate, StatedAt: r.StatedAt,
		FirstRunAt: r.FirstRunAt, WithdrawnAt: r.DeletedAt, Version: r.Version, Figures: map[survey.Slot]string{}, Codes: map[survey.Slot]string{}}
	if r.FirstInputs != nil {
		c.FirstInputs = *r.FirstInputs
	}
	return c
}

func (c *Claim) add(f shareRow) {
	c.Figures[survey.Slot(f.Slot)] = f.Figure
	if f.Code != nil {
		c.Codes[survey.Slot(f.Slot)] = *f.Code
	}
}

// Claims returns the claims of a study that are not withdrawn, in the order in
// which they were stated.
func (s *Store) Claims(ctx context.Context, studyID uint64) ([]Claim, error) {
	all, err := s.AllClaims(ctx, studyID)
	return slices.DeleteFunc(all, func(c Claim) bool { return c.WithdrawnAt != nil }), err
}

// AllClaims returns a study's claims, withdrawn ones too.
func (s *Store) AllClaims(ctx context.Context, studyID uint64) ([]Claim, error) {
	var rows []claimRow
	if err := s.with(ctx).Where("study_id = ?", studyID).Order("id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	var figures []shareRow
	err := s.with(ctx).Where("claim_id IN (SELECT id FROM claims WHERE study_id = ?)", studyID).Find(&figures).Error
	if err != nil {
		return nil, translate(err)
	}
	out, at := make([]Claim, len(rows)), map[uint64]int{}
	for i, r := range rows {
		out[i], at[r.ID] = r.claim(), i
	}
	for _, f := range figures {
		out[at[f.ClaimID]].add(f)
	}
	return out, nil
}

// Claim returns one claim of a study that is not withdrawn.
func (s *Store) Claim(ctx context.Context, studyID, id uint64) (Claim, error) {
	c, err := s.AnyClaim(ctx, studyID, id)
	if err == nil && c.WithdrawnAt != nil {
		err = ErrNotFound
	}
	return c, err
}

// AnyClaim returns one claim of a study, withdrawn or not.
func (s *Store) AnyClaim(ctx context.Context, studyID, id uint64) (Claim, error) {
	var r claimRow
	if err := s.with(ctx).Where("id = ? AND study_id = ?", id, studyID).Take(&r).Error; err != nil {
		return Claim{}, translate(err)
	}
	var figures []shareRow
	if err := s.with(ctx).Where("claim_id = ?", id).Find(&figures).Error; err != nil {
		return Claim{}, translate(err)
	}
	c := r.claim()
	for _, f := range figures {
		c.add(f)
	}
	return c, nil
}

// AddClaim stores a new claim, stated now, and returns it.
func (s *Store) AddClaim(ctx context.Context, c Claim) (Claim, error) {
	number, err := s.nextClaimNumber(ctx, c.StudyID)
	if err != nil {
		return Claim{}, err
	}
	r := claimRow{StudyID: c.StudyID, QuestionID: c.QuestionID, Number: number, SubgroupID: c.SubgroupID, Role: string(c.Role), Level: c.Level, Mode: string(c.Mode), Rescale: c.Rescale,
		ReferenceKind: string(c.Kind), Source: c.Source, SourceDate: c.SourceDate, StatedAt: now(), Version: 1}
	if err := s.with(ctx).Create(&r).Error; err != nil {
		return Claim{}, translate(err)
	}
	c.ID, c.Number, c.StatedAt, c.Version = r.ID, r.Number, r.StatedAt, 1
	return c, s.saveFigures(ctx, c)
}

// nextClaimNumber counts a study's claims on its row, which stays locked until the
// transaction ends, so that no number is given twice.
func (s *Store) nextClaimNumber(ctx context.Context, studyID uint64) (int, error) {
	row := s.with(ctx).Model(&studyRow{}).Where("id = ?", studyID)
	if err := row.UpdateColumn("last_claim", gorm.Expr("last_claim + 1")).Error; err != nil {
		return 0, translate(err)
	}
	var number int
	err := s.with(ctx).Model(&studyRow{}).Where("id = ?", studyID).Select("last_claim").Scan(&number).Error
	return number, translate(err)
}

// EditClaim stores what a claim says if the version is still c.Version. When it
// was stated and first run stays.
func (s *Store) EditClaim(ctx context.Context, c Claim) error {
	err := edited(s.with(ctx).Model(&claimRow{}).Where("id = ? AND version = ? AND deleted_at IS NULL", c.ID, c.Version).
		Updates(map[string]any{"subgroup_id": c.SubgroupID, "role": string(c.Role), "level": c.Level, "mode": string(c.Mode), "rescale": c.Rescale,
			"reference_kind": string(c.Kind), "source": c.Source, "source_date": c.SourceDate, "version": c.Version + 1}))
	if err != nil {
		return err
	}
	return s.PutFigures(ctx, c)
}

func (s *Store) saveFigures(ctx context.Context, c Claim) error {
	rows := make([]shareRow, 0, len(c.Figures))
	for slot, figure := range c.Figures {
		code := c.Codes[slot]
		rows = append(rows, shareRow{c.ID, uint16(slot), figure, &code})
	}
	if len(rows) == 0 {
		return nil
	}
	return translate(s.with(ctx).CreateInBatches(rows, 500).Error)
}

// PutFigures stores the figures of a claim anew, under the slots that they bear.
func (s *Store) PutFigures(ctx context.Context, c Claim) error {
	if err := s.with(ctx).Where("claim_id = ?", c.ID).Delete(&shareRow{}).Error; err != nil {
		return translate(err)
	}
	return s.saveFigures(ctx, c)
}

// MarkRun notes the time of the first run and what its result depended on; later runs
// leave both as they are.
func (s *Store) MarkRun(ctx context.Context, id uint64, inputs string) error {
	return translate(s.with(ctx).Model(&claimRow{}).Where("id = ? AND first_run_at IS NULL", id).UpdateColumns(map[string]any{"first_run_at": now(), "first_inputs": inputs}).Error)
}

// SetClaimDeleted deletes a claim or brings a deleted one back.
func (s *Store) SetClaimDeleted(ctx context.Context, studyID, id uint64, deleted bool) error {
	q := s.with(ctx).Model(&claimRow{}).Where("study_id = ? AND id = ?", studyID, id)
	var value any
	if deleted {
		q, value = q.Where("deleted_at IS NULL"), now()
	} else {
		q = q.Where("deleted_at IS NOT NULL")
	}
	q = q.UpdateColumn("deleted_at", value)
	if q.Error == nil && q.RowsAffected == 0 {
		return ErrNotFound
	}
	return translate(q.Error)
}
