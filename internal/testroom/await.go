package testroom

import (
	"testing"
	"time"
)

// bound is for a whole wait, on a machine many times slower than any of today.
const bound = 10 * time.Minute

// Await waits until something is so, however long that takes.
func Await(t testing.TB, what string, is func() bool) {
	t.Helper()
	for began := time.Now(); !is(); time.Sleep(5 * time.Millisecond) {
		if time.Since(began) > bound {
			t.Fatalf("waited in vain for %s", what)
		}
	}
}
