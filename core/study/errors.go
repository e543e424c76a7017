package study

import (
	"errors"
	"fmt"
)

// Errors that callers tell apart.
var (
	// ErrNotFound: no such study, question or claim, or it has been deleted.
	ErrNotFound = errors.New("study: not found")
	// ErrNotAllowed: whoever asks may not see or change this study.
	ErrNotAllowed = errors.New("study: not allowed")
	// ErrStale: the version on which an edit builds is no longer the newest.
	ErrStale = errors.New("study: changed by somebody else meanwhile")
	// ErrBusy: others held what an edit needs, however often it was tried.
	ErrBusy = errors.New("study: too much is being changed at once")
	// ErrGone: what keeps the studies does not answer.
	ErrGone = errors.New("study: the database is gone")
	// ErrUnsure: what keeps the studies went while it was keeping something; it may be there.
	ErrUnsure = errors.New("study: it is not known whether it was kept")
	// ErrPacking: another process is still packing a kept file.
	ErrPacking = errors.New("study: the file is being packed")
	// ErrTooMuch: more than the database takes at once.
	ErrTooMuch = errors.New("study: too much at once for the database")
	// ErrFull: the disk on which studies are kept has no room.
	ErrFull = errors.New("study: the disk is full")
)

// DamagedError says that stored answers do not match their checksum.
type DamagedError struct {
	QuestionID uint64
	Name       string // of the question, where the caller knew it
	Chunk      int
	Cause      error
}

func (e *DamagedError) Error() string {
	return fmt.Sprintf("study: chunk %d of question %d is damaged: %v", e.Chunk, e.QuestionID, e.Cause)
}

func (e *DamagedError) Unwrap() error { return e.Cause }

// FileDamagedError says that a kept file is not whole any more.
type FileDamagedError struct {
	Name  string
	Cause error
}

func (e *FileDamagedError) Error() string {
	return fmt.Sprintf("study: the kept file %q is damaged: %v", e.Name, e.Cause)
}

func (e *FileDamagedError) Unwrap() error { return e.Cause }

// mostAgain bounds how often something is done again of which it is not known whether it was kept.
const mostAgain = 4

// Again does something that can be done twice with one outcome, as long as it is not known whether it was kept.
func Again(do func() error) error {
	for n := 1; ; n++ {
		if err := do(); n == mostAgain || !errors.Is(err, ErrUnsure) {
			return err
		}
	}
}
