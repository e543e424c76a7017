package tally

import "time"

// timed tells how many seconds something takes.
func timed(f func()) float64 {
	start := time.Now()
	f()
	return time.Since(start).Seconds()
}
