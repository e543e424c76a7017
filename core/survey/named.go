package survey

import "strings"

// Named finds the place of a name among others: the same name, or the only one that differs from
// it in letter case alone; −1 for none. “How” and “how” can stand side by side.
func Named(name string, n int, at func(i int) string) int {
	found, more := -1, false
	for i := range n {
		switch other := at(i); {
		case other == name:
			return i
		case strings.EqualFold(other, name):
			more = found >= 0
			found = i
		}
	}
	if more {
		return -1
	}
	return found
}
