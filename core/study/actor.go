package study

import (
	"context"
	"slices"
)

// Actor is who does something. Where nobody signs in everything is done by the computer at which it is
// done.
type Actor struct {
	ID string
	// Account is that of somebody who has signed in; 0 where nobody does. Administrator says that it keeps
	// the accounts, and whatever study nobody owns.
	Account       uint64
	Administrator bool
	// Name is what others read; "" for what the catalogue names.
	Name string
	Via  Way
	// Token bounds what a script may that acts for somebody; nil where they act themselves.
	Token *Scope
	// Address is that of the computer that a request came from; "" for what is done here.
	Address string
}

// Way is how somebody came in.
type Way string

// The ways.
const (
	ViaPage     Way = "page"     // in the browser, or by another program that calls the server
	ViaTerminal Way = "terminal" // by a command
	ViaToken    Way = "token"    // by a script, with a token
	ViaLink     Way = "link"     // by who was given a link to look at one thing
)

// ThisComputer is the id of whoever uses the computer on which the studies are.
const ThisComputer = "this-computer"

type actorKey struct{}

// WithActor gives what is done in a context to somebody.
func WithActor(ctx context.Context, a Actor) context.Context {
	return context.WithValue(ctx, actorKey{}, a)
}

// ActorOf is who acts in a context: this computer where nobody was named.
func ActorOf(ctx context.Context) Actor {
	if a, named := ctx.Value(actorKey{}).(Actor); named {
		return a
	}
	return Actor{ID: ThisComputer, Via: ViaTerminal}
}

// Access is what somebody wants of a study.
type Access string

// The kinds of access: to see the topline, claims and reports; to see the answers one by one, and files that
// hold them; to ask and report; to change answers and codebook; to share, to delete and to hand over.
const (
	ToSee        Access = "see"
	ToSeeAnswers Access = "answers"
	ToAsk        Access = "ask"
	ToChange     Access = "change"
	ToOwn        Access = "own"
)

// Scope bounds what is done for somebody: kinds of access, in one study or, where that is 0, in all.
type Scope struct {
	Study uint64
	May   []Access
}

// Lets reports whether a scope has access of a kind to a study.
func (s *Scope) Lets(studyID uint64, to Access) bool {
	return s == nil || (s.Study == 0 || s.Study == studyID) && slices.Contains(s.May, to)
}
