package study

import "time"

// Remark is what somebody wrote into the margin of a question or an analysis, or an answer to it.
type Remark struct {
	ID, StudyID uint64
	QuestionID  uint64
	// AnalysisID is 0 for one beside the question itself.
	AnalysisID uint64
	// To is the remark that it answers; 0 for one that begins.
	To   uint64
	Text string
	// Author is the id of who wrote it.
	Author string
	At     time.Time
	// ResolvedAt is when it was settled, by ResolvedBy; nil while it is open. Answers have none.
	ResolvedAt *time.Time
	ResolvedBy string
}
