package survey

import (
	"regexp"
	"strings"
)

var totalName = regexp.MustCompile(`(?i)^(?:(?:grand |row |column )?totals?|sum|Σ)[:.]?$`)

// IsTotalName reports whether a name is one that only a total bears: total, sum, grand total …
// Letter case, spaces around it and a colon behind it do not matter.
func IsTotalName(name string) bool { return totalName.MatchString(strings.TrimSpace(name)) }
