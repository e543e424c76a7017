package study

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"time"

	"widetally/core/document"
)

// Entry is a line of the audit trail of a study: who did what, when and from where. It is never changed.
type Entry struct {
	// StudyID is 0 for what concerns the accounts.
	StudyID uint64
	// Number counts the entries of a trail from 1.
	Number uint64
	// At is in UTC, to the millisecond.
	At time.Time
	// Actor is the id of who did it, Name what they were called then; "" for who is named by the catalogue.
	Actor, Name string
	Via         Way
	// Address is that of the computer it came from; "" where it was done by a command.
	Address string
	// What is the id of a message, and Values its values as document.StoreValues writes them.
	What, Values string
	// Seal holds the entry and all before it: the hash of both.
	Seal string
}

// Said is what was done.
func (e Entry) Said() (document.Message, error) {
	values, err := document.ReadValues([]byte(e.Values))
	return document.Say(e.What, values), err
}

// Sealed is the seal that an entry has behind one with the seal before, "" for the first: SHA-256 over that
// seal and the entry, each entry bound to all before it (Haber and Stornetta, 1991).
func (e Entry) Sealed(before string) string {
	raw, err := json.Marshal([]any{before, e.StudyID, e.Number, e.At.UTC().UnixMilli(), e.Actor, e.Name, e.Via,
		e.Address, e.What, e.Values})
	if err != nil {
		panic(err) // nothing but texts and numbers
	}
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(sum[:])
}

// BrokenError says at which entry a trail is no longer the one that was written.
type BrokenError struct {
	StudyID, Number uint64
	Lacking         bool // it is not there
}

func (e *BrokenError) Error() string {
	what := "was changed"
	if e.Lacking {
		what = "is not there"
	}
	return fmt.Sprintf("entry %d of the trail of study %d %s", e.Number, e.StudyID, what)
}

// Verify looks whether entries, in order from one behind the seal before, are those that were written. It gives
// the last seal, behind which more can follow; the error is a *BrokenError.
func Verify(entries []Entry, studyID, number uint64, before string) (seal string, err error) {
	for i, e := range entries {
		want := number + uint64(i) + 1
		switch {
		case e.StudyID != studyID || e.Number != want:
			return before, &BrokenError{studyID, want, true}
		case e.Sealed(before) != e.Seal:
			return before, &BrokenError{studyID, want, false}
		}
		before = e.Seal
	}
	return before, nil
}

// Looked is which entries of a trail are wanted; what is empty chooses none out.
type Looked struct {
	Actor    string
	Words    string // in the ids of what was done, such as "trail.left"
	From, To time.Time
	// Before is the number of the entry before which they lie; 0 for the newest. Most bounds how many.
	Before uint64
	Most   int
}
