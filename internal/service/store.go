package service

import (
	"context"
	"time"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
)

// Store is the place where studies are kept. Nobody asks for all of it: each place of the
// application has the part that it needs.
type Store interface {
	dataRows
	draftRows
	shelfRows
	fileRows
	uploadRows
	answerRows
	undoRows
	shareRows
	peopleRows
	liveRows
	remarkRows
	jobRows
	writingRows
}

// What the places need.
type (
	// dataRows is what the shared data set reads, and what a change begins with.
	dataRows interface {
		changer
		snapshots
		studyReader
		questionReader
		columnReader
		partReader
		analysisReader
		editReader
		trailRows
	}
	// draftRows is what an edit under way reads and writes.
	draftRows interface {
		studyWriter
		questionReader
		questionWriter
		columnReader
		columnWriter
		partReader
		partWriter
		analysisReader
		analysisWriter
		editReader
		editWriter
		fileReader
		fileWriter
	}
	// makerRows is what stores a study in pieces and then shows it.
	makerRows interface {
		bulk
		BeginStudy(ctx context.Context, st study.Study) (study.Study, error)
		ShowStudy(ctx context.Context, st study.Study) error
		EndStudy(ctx context.Context, id uint64) error
	}
	// keptRows is what a file becomes.
	keptRows interface {
		makerRows
		studyWriter
		questionWriter
		columnWriter
		analysisWriter
		fileWriter
	}
	// shelfRows is the shelf of studies.
	shelfRows interface {
		keptRows
		studyReader
		studyShelf
	}
	// fileRows is a whole study as a file that leaves and comes back.
	fileRows interface {
		keptRows
		studyReader
		studyShelf
		questionReader
		partReader
		partWriter
		analysisReader
		analysisKeeper
		editReader
		fileReader
		shareRows
	}
	uploadRows interface {
		questionReader
		fileReader
	}
	answerRows interface {
		snapshots
		studyWriter
		questionReader
		columnReader
		columnRepairer
		editWriter
		fileReader
	}
	undoRows interface {
		studyWriter
		questionReader
		questionWriter
		editReader
		editWriter
		editLine
	}
)

// bulk holds together what is done with the context that it gives: all of it is kept, or nothing,
// and it may be tried again.
type bulk interface {
	InBulk(ctx context.Context, f func(ctx context.Context) error) error
}

// changer is a transaction that changes a study: one after another, counted in its revision.
type changer interface {
	Change(ctx context.Context, studyID uint64, f func(ctx context.Context, st study.Study) error) error
}

// snapshots reads the state at one moment.
type snapshots interface {
	Snapshot(ctx context.Context, f func(ctx context.Context) error) error
}

type studyReader interface {
	Study(ctx context.Context, id uint64) (study.Study, error)
}

type studyWriter interface {
	SetStudyData(ctx context.Context, st study.Study) error
	TouchStudy(ctx context.Context, id uint64) error
}

type studyShelf interface {
	Studies(ctx context.Context) ([]study.Study, error)
	EditStudy(ctx context.Context, st study.Study) error
	SetStudyDeleted(ctx context.Context, id uint64, deleted bool) error
	Purge(ctx context.Context, before time.Time) (int64, error)
}

type questionReader interface {
	Questions(ctx context.Context, studyID uint64) ([]study.Question, error)
	AllQuestions(ctx context.Context, studyID uint64) (map[uint64]study.Question, error)
	Question(ctx context.Context, studyID, id uint64) (study.Question, error)
}

type questionWriter interface {
	AddQuestion(ctx context.Context, q study.Question) (uint64, error)
	AddQuestions(ctx context.Context, questions []study.Question) ([]uint64, error)
	EditQuestions(ctx context.Context, questions []study.Question, answered func(i int) bool) error
}

type columnReader interface {
	pieceReader
	LoadColumn(ctx context.Context, questionID uint64, generation int, rows int64) (survey.Column, error)
}

type columnWriter interface {
	SaveColumn(ctx context.Context, questionID uint64, generation int, c survey.Column) error
	SaveColumns(ctx context.Context, columns []study.Column, saved func(columns int)) error
	NextGeneration(ctx context.Context, questionID uint64) (int, error)
}

type columnRepairer interface {
	RepairColumn(ctx context.Context, questionID uint64, generation int, anew survey.Column) (exact bool, err error)
}

type partReader interface {
	Parts(ctx context.Context, studyID uint64, kind study.PartKind) ([]study.Part, error)
	Part(ctx context.Context, studyID, id uint64) (study.Part, error)
}

type partWriter interface {
	AddPart(ctx context.Context, p study.Part) (study.Part, error)
	EditPart(ctx context.Context, p study.Part) error
}

type analysisReader interface {
	Analyses(ctx context.Context, studyID uint64) ([]study.Analysis, error)
	AllAnalyses(ctx context.Context, studyID uint64) ([]study.Analysis, error)
	Analysis(ctx context.Context, studyID, id uint64) (study.Analysis, error)
	// Changes is what was changed, for an analysis to tell.
	Changes(ctx context.Context, studyID uint64) ([]study.Change, error)
}

type analysisWriter interface {
	AddAnalysis(ctx context.Context, a study.Analysis, numbered bool) (study.Analysis, error)
	EditAnalysis(ctx context.Context, a study.Analysis, numbered bool) (study.Analysis, error)
	PutSpec(ctx context.Context, a study.Analysis, uses []study.Use) error
	MarkRun(ctx context.Context, id uint64, inputs string) error
	SetAnalysisDeleted(ctx context.Context, studyID, id uint64, deleted bool) error
}

// analysisKeeper stores what was made elsewhere, with its number and its times.
type analysisKeeper interface {
	KeepAnalysis(ctx context.Context, a study.Analysis) (id uint64, err error)
	KeepChanges(ctx context.Context, studyID uint64, changes []study.Change) error
}

type editReader interface {
	Edits(ctx context.Context, studyID uint64, most int) ([]study.Edit, error)
	EditByID(ctx context.Context, studyID, id uint64) (study.Edit, error)
	PeekEdit(ctx context.Context, studyID uint64, from study.EditState) (study.Edit, error)
}

type editWriter interface {
	AddEdit(ctx context.Context, e study.Edit, touched []study.Snapshot) (id uint64, err error)
	AddChanges(ctx context.Context, studyID uint64, changes []study.Change) error
}

// editLine goes along the line of undo.
type editLine interface {
	NextEdit(ctx context.Context, studyID uint64, from study.EditState) (study.Edit, []study.Snapshot, error)
	SetEditState(ctx context.Context, id uint64, state study.EditState) error
	SettleEdits(ctx context.Context, studyID uint64) error
}

// trailRows is the audit trail.
type trailRows interface {
	Note(ctx context.Context, studyID uint64, what document.Message) error
	Trail(ctx context.Context, studyID uint64, of study.Looked) ([]study.Entry, error)
	VerifyTrails(ctx context.Context, tell func(studyID, entries uint64, seal string, err error)) error
}

type fileReader interface {
	Files(ctx context.Context, studyID uint64) ([]study.File, error)
}

type fileWriter interface {
	DescribeFile(ctx context.Context, studyID uint64, settings, arrival string) error
	FileOfEdit(ctx context.Context, studyID, editID uint64) error
}

// shareRows is the shelf of shares.
type shareRows interface {
	ShareSets(ctx context.Context) ([]study.ShareSet, error)
	ShareVersions(ctx context.Context, id uint64) ([]study.ShareSet, error)
	AddShareSet(ctx context.Context, definition string) (uint64, error)
	EditShareSet(ctx context.Context, id uint64, version int, definition string) error
	SetShareSetDeleted(ctx context.Context, id uint64, deleted bool) error
}
