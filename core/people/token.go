package people

import (
	"time"

	"widetally/core/study"
)

// Token lets a script act for somebody, known by its hash.
type Token struct {
	Hash    string
	Account uint64
	Name    string
	Scope   TokenScope
	// Study is the only one for which it serves; 0 for all.
	Study                uint64
	CreatedAt, ExpiresAt time.Time
	// SeenAt is when it was used last; nil before.
	SeenAt *time.Time
}

// TokenScope is what a token lets a script do, never more than whom it acts for.
type TokenScope string

// The scopes, the narrowest first: to see what is counted; the answers too; to ask and report; to change. None
// shares, deletes, or keeps accounts.
const (
	TokenSees    TokenScope = "see"
	TokenAnswers TokenScope = "answers"
	TokenAsks    TokenScope = "ask"
	TokenChanges TokenScope = "change"
)

// TokenScopes lists them, the narrowest first.
var TokenScopes = []TokenScope{TokenSees, TokenAnswers, TokenAsks, TokenChanges}

// May are the kinds of access of a scope; none for one that there is not.
func (s TokenScope) May() []study.Access {
	all := []study.Access{study.ToSee, study.ToSeeAnswers, study.ToAsk, study.ToChange}
	for i, one := range TokenScopes {
		if one == s {
			return all[:i+1]
		}
	}
	return nil
}

// How long a token serves, in days.
const (
	MostTokenDays = 366
	MostTokens    = 50
)
