// Package say holds the constructors of messages, generated from the catalogue: a message that is
// not there, a value that its text does not say, or one of another kind does not compile. kinds.json
// names the messages, with the kinds of those of their values that are not messages themselves; the
// kinds are those of document.Value. What is composed of parts, such as a finding by its role and its
// outcome, is said with document.Say, and checked by a test against the catalogue.
package say

//go:generate go run widetally/internal/messages -kinds kinds.json -out say_gen.go
