// Package people holds the rules of accounts: who may do what with a study.
package people

import (
	"slices"
	"strings"
	"time"

	"widetally/core/study"
)

// Account is a person who signs in. Email is in small letters and nobody else's.
type Account struct {
	ID            uint64
	Email, Name   string
	Administrator bool
	CreatedAt     time.Time
	// DisabledAt is when it was closed; nil while it is open.
	DisabledAt *time.Time
}

// Actor is the account as who does something on a page.
func (a Account) Actor() study.Actor {
	return study.Actor{ID: ActorID(a.ID), Account: a.ID, Administrator: a.Administrator, Name: a.Name, Via: study.ViaPage}
}

// Role is what somebody may do with a study.
type Role string

// The roles, the widest first: an owner shares and deletes, an editor changes answers and codebook, an analyst
// asks and reports, and a reader sees what was asked but no single answers.
const (
	Owner   Role = "owner"
	Editor  Role = "editor"
	Analyst Role = "analyst"
	Reader  Role = "reader"
	// Nobody is the role of who has none.
	Nobody Role = ""
)

// Roles lists them, the widest first.
var Roles = []Role{Owner, Editor, Analyst, Reader}

// may are the kinds of access of each role.
var may = map[Role][]study.Access{
	Owner:   {study.ToSee, study.ToSeeAnswers, study.ToAsk, study.ToChange, study.ToOwn},
	Editor:  {study.ToSee, study.ToSeeAnswers, study.ToAsk, study.ToChange},
	Analyst: {study.ToSee, study.ToSeeAnswers, study.ToAsk},
	Reader:  {study.ToSee},
}

// May reports whether a role has access of a kind.
func (r Role) May(to study.Access) bool { return slices.Contains(may[r], to) }

// Wider is the wider of two roles.
func Wider(a, b Role) Role {
	for _, r := range Roles {
		if r == a || r == b {
			return r
		}
	}
	return Nobody
}

// Member is somebody with a role in a study.
type Member struct {
	Account Account
	Role    Role
}

// Session is a browser in which somebody has signed in, known by the hash of its token.
type Session struct {
	Hash                         string
	Account                      uint64
	CreatedAt, SeenAt, ExpiresAt time.Time
	// Agent and Address are what the browser said of itself, and where it was.
	Agent, Address string
}

// How long a session lasts: from when it was last used, and at most.
const (
	IdleTime    = 12 * time.Hour
	LongestTime = 14 * 24 * time.Hour
	InvitedFor  = 7 * 24 * time.Hour
)

// Email is an address as accounts are known by it; false for what cannot be one.
func Email(text string) (string, bool) {
	const most = 190
	text = strings.ToLower(strings.TrimSpace(text))
	name, host, found := strings.Cut(text, "@")
	ok := found && name != "" && host != "" && len(text) <= most && !strings.ContainsAny(text, " \t\r\n<>\",;") && !strings.Contains(host, "@")
	return text, ok
}

// Identity is who an institution says that somebody is: by a subject that it never gives to anybody else. Verified
// says that it vouches for the email.
type Identity struct {
	Issuer, Subject string
	Email, Name     string
	Verified        bool
}
