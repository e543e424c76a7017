package study

import "context"

// Actor is who does something. As long as there are no accounts everything is done by the
// computer at which it is done.
type Actor struct {
	ID string
	// Name is what others read; "" for what the catalogue names.
	Name string
	Via  Way
}

// Way is how somebody came in.
type Way string

// The ways.
const (
	ViaPage     Way = "page"     // in the browser, or by another program that calls the server
	ViaTerminal Way = "terminal" // by a command
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

// The kinds of access.
const (
	ToSee    Access = "see"
	ToChange Access = "change"
)
