package store

import "context"

// PartKind says what a part of a study is.
type PartKind string

// The kinds: a list of answers that several questions share, and a named condition.
const (
	AnswerList PartKind = "list"
	Subgroup   PartKind = "subgroup"
)

// Part is a named definition that belongs to a study, as JSON.
type Part struct {
	ID         uint64
	StudyID    uint64
	Kind       PartKind
	Name       string
	Definition string
	Deleted    bool
	Version    int
}

func (Part) TableName() string { return "parts" }

// Parts returns a study's parts of a kind, deleted ones too, oldest first.
func (s *Store) Parts(ctx context.Context, studyID uint64, kind PartKind) ([]Part, error) {
	var out []Part
	err := s.with(ctx).Where("study_id = ? AND kind = ?", studyID, string(kind)).Order("id").Find(&out).Error
	return out, translate(err)
}

// Part returns one part of a study, deleted or not.
func (s *Store) Part(ctx context.Context, studyID, id uint64) (Part, error) {
	var p Part
	err := s.with(ctx).Where("study_id = ? AND id = ?", studyID, id).Take(&p).Error
	return p, translate(err)
}

// AddPart stores a new part and returns it with its id.
func (s *Store) AddPart(ctx context.Context, p Part) (Part, error) {
	p.ID, p.Version = 0, 1
	err := s.with(ctx).Create(&p).Error
	return p, translate(err)
}

// EditPart stores a part if the version is still p.Version.
func (s *Store) EditPart(ctx context.Context, p Part) error {
	return edited(s.with(ctx).Model(&Part{}).Where("id = ? AND version = ?", p.ID, p.Version).
		Updates(map[string]any{"name": p.Name, "definition": p.Definition, "deleted": p.Deleted, "version": p.Version + 1}))
}
