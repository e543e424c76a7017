package claim

import (
	"widetally/core/shares"
)

// ReferenceKind says where expected shares come from, which decides whether they
// may be taken as known.
type ReferenceKind = shares.Kind

// The kinds of reference that sentences tell apart.
const (
	Register  = shares.Register
	Survey    = shares.Survey
	Target    = shares.Target
	Theory    = shares.Theory
	OwnSample = "sample" // counts of another group entered as shares
)

// ReferenceKinds lists the kinds in the order in which they are offered.
var ReferenceKinds = shares.Kinds
