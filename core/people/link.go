package people

import (
	"time"

	"widetally/core/study"
)

// Link lets whoever has it look at one thing of a study, known by its hash.
type Link struct {
	Hash    string
	StudyID uint64
	Shows   LinkKind
	// By is the account that made it.
	By                   uint64
	CreatedAt, ExpiresAt time.Time
	// SeenAt is when it was used last; nil before.
	SeenAt *time.Time
}

// LinkKind is what a link shows: the report as a page, or the topline as it is at the moment.
type LinkKind string

// The kinds.
const (
	LinkReport  LinkKind = "report"
	LinkTopline LinkKind = "topline"
)

// LinkKinds lists them.
var LinkKinds = []LinkKind{LinkReport, LinkTopline}

// MostLinkDays bounds how long a link serves, MostLinks how many a study has.
const (
	MostLinkDays = 366
	MostLinks    = 50
)

// Actor is whoever looks by the link: of no account, and let in to see that one study alone.
func (l Link) Actor() study.Actor {
	scope := &study.Scope{Study: l.StudyID, May: []study.Access{study.ToSee}}
	return study.Actor{ID: "link-" + l.Hash[:12], Account: NoAccount, Via: study.ViaLink, Token: scope}
}

// NoAccount is the account of who has none, where people sign in; no study lets it in.
const NoAccount = 1<<64 - 1
