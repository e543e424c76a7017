package people

// Thing is what is shared with people.
type Thing string

// The things: a study, and a set of shares of the shelf.
const (
	Study Thing = "study"
	Set   Thing = "set"
)

// Shared names one of them.
type Shared struct {
	Thing Thing
	ID    uint64
}

// Group is people who are given a role together.
type Group struct {
	ID      uint64
	Name    string
	Members []Account
}

// GroupRole is the role of a group in a thing. A group owns nothing.
type GroupRole struct {
	Group uint64
	Name  string
	Role  Role
}

// MostGroups bounds the groups that there are.
const MostGroups = 500
