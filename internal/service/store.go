package service

import (
	"context"
	"io"
	"time"

	"widetally/core/study"
	"widetally/core/survey"
)

// Store is what the use cases need of the place where studies are kept: for each thing of a
// study the rows that hold it, and transactions over them. A function that works on one of
// them asks for that one alone.
type Store interface {
	transactions
	studyRows
	questionRows
	columnRows
	partRows
	analysisRows
	editRows
	fileRows
	shareRows
}

type shareRows interface {
	ShareSets(ctx context.Context) ([]study.ShareSet, error)
	ShareVersions(ctx context.Context, id uint64) ([]study.ShareSet, error)
	AddShareSet(ctx context.Context, definition string) (uint64, error)
	EditShareSet(ctx context.Context, id uint64, version int, definition string) error
	SetShareSetDeleted(ctx context.Context, id uint64, deleted bool) error
}

// transactions hold together what is done with the context that they give: all of it is
// kept, or nothing, and it may be tried again.
type transactions interface {
	InBulk(ctx context.Context, f func(ctx context.Context) error) error
	// Change is a transaction that changes a study: one after another, counted in its revision.
	Change(ctx context.Context, studyID uint64, f func(ctx context.Context, st study.Study) error) error
	// Snapshot reads the state at one moment.
	Snapshot(ctx context.Context, f func(ctx context.Context) error) error
}

type studyRows interface {
	Studies(ctx context.Context) ([]study.Study, error)
	Study(ctx context.Context, id uint64) (study.Study, error)
	AddStudy(ctx context.Context, st study.Study) (study.Study, error)
	EditStudy(ctx context.Context, st study.Study) error
	SetStudyData(ctx context.Context, st study.Study) error
	TouchStudy(ctx context.Context, id uint64) error
	SetStudyDeleted(ctx context.Context, id uint64, deleted bool) error
	Purge(ctx context.Context, before time.Time) (int64, error)
}

type questionRows interface {
	Questions(ctx context.Context, studyID uint64) ([]study.Question, error)
	AllQuestions(ctx context.Context, studyID uint64) (map[uint64]study.Question, error)
	Question(ctx context.Context, studyID, id uint64) (study.Question, error)
	AddQuestion(ctx context.Context, q study.Question) (uint64, error)
	AddQuestions(ctx context.Context, questions []study.Question) ([]uint64, error)
	EditQuestions(ctx context.Context, questions []study.Question, answered func(i int) bool) error
}

type columnRows interface {
	LoadColumn(ctx context.Context, questionID uint64, generation int, rows int64) (survey.Column, error)
	SaveColumn(ctx context.Context, questionID uint64, generation int, c survey.Column) error
	SaveColumns(ctx context.Context, columns []study.Column, saved func(columns int)) error
	RepairColumn(ctx context.Context, questionID uint64, generation int, anew survey.Column) (exact bool, err error)
	NextGeneration(ctx context.Context, questionID uint64) (int, error)
}

type partRows interface {
	Parts(ctx context.Context, studyID uint64, kind study.PartKind) ([]study.Part, error)
	Part(ctx context.Context, studyID, id uint64) (study.Part, error)
	AddPart(ctx context.Context, p study.Part) (study.Part, error)
	EditPart(ctx context.Context, p study.Part) error
}

type analysisRows interface {
	Analyses(ctx context.Context, studyID uint64) ([]study.Analysis, error)
	AllAnalyses(ctx context.Context, studyID uint64) ([]study.Analysis, error)
	Analysis(ctx context.Context, studyID, id uint64) (study.Analysis, error)
	AddAnalysis(ctx context.Context, a study.Analysis, numbered bool) (study.Analysis, error)
	// KeepAnalysis stores one that was made elsewhere, with its number and its times.
	KeepAnalysis(ctx context.Context, a study.Analysis) (id uint64, err error)
	EditAnalysis(ctx context.Context, a study.Analysis, numbered bool) (study.Analysis, error)
	PutSpec(ctx context.Context, a study.Analysis, uses []study.Use) error
	MarkRun(ctx context.Context, id uint64, inputs string) error
	SetAnalysisDeleted(ctx context.Context, studyID, id uint64, deleted bool) error
	// Changes is what was changed, for an analysis to tell.
	Changes(ctx context.Context, studyID uint64) ([]study.Change, error)
}

type editRows interface {
	Edits(ctx context.Context, studyID uint64, most int) ([]study.Edit, error)
	EditByID(ctx context.Context, studyID, id uint64) (study.Edit, error)
	NextEdit(ctx context.Context, studyID uint64, from study.EditState) (study.Edit, []study.Snapshot, error)
	PeekEdit(ctx context.Context, studyID uint64, from study.EditState) (study.Edit, error)
	AddEdit(ctx context.Context, e study.Edit, touched []study.Snapshot) (id uint64, err error)
	SetEditState(ctx context.Context, id uint64, state study.EditState) error
	SettleEdits(ctx context.Context, studyID uint64) error
	AddChanges(ctx context.Context, studyID uint64, changes []study.Change) error
	// KeepChanges stores changes that were made elsewhere, with their times.
	KeepChanges(ctx context.Context, studyID uint64, changes []study.Change) error
}

type fileRows interface {
	Files(ctx context.Context, studyID uint64) ([]study.File, error)
	// SaveFile notes a file that waits beside the database, FileWaiting finds it there, and
	// PackFile takes it over.
	SaveFile(ctx context.Context, file study.File) (id uint64, err error)
	FileWaiting(ctx context.Context, name string) (study.File, error)
	PackFile(ctx context.Context, file study.File, in io.Reader) error
	WriteFile(ctx context.Context, file study.File, w io.Writer) error
	FilePieces(ctx context.Context, file study.File) (stored, needed int64, err error)
	SetFileDigest(ctx context.Context, id uint64, sum string) error
	DescribeFile(ctx context.Context, studyID uint64, settings, arrival string) error
	FileOfEdit(ctx context.Context, studyID, editID uint64) error
}
