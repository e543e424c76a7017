package people

import (
	"strconv"
	"strings"
)

const actorPrefix = "account-"

// ActorID is the id under which what an account does is noted.
func ActorID(account uint64) string { return actorPrefix + strconv.FormatUint(account, 10) }

// AccountOf is the account of an actor's id; false for what is none.
func AccountOf(actor string) (uint64, bool) {
	number, is := strings.CutPrefix(actor, actorPrefix)
	n, err := strconv.ParseUint(number, 10, 64)
	return n, is && err == nil
}
