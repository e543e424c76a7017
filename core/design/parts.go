package design

import (
	"runtime"
	"sync"
	"sync/atomic"
)

const (
	// mostParts is in how many parts rows are counted at once. Their sums are added in their order, so
	// that figures are the same on any number of processors.
	mostParts = 8
	// fewestRows is how many a part has at least, and mostSums how many sums all parts keep together.
	fewestRows = 1 << 16
	mostSums   = 1 << 22
)

// parted counts the rows of the sample in parts, by their size and that of what is kept of each alone.
func (s *Sample) parted(sums int, count func(part, from, before int)) {
	n := len(s.Rows)
	parts := max(1, min(mostParts, n/fewestRows, mostSums/max(1, sums)))
	if parts == 1 {
		count(0, 0, n)
		return
	}
	var next atomic.Int64
	var done sync.WaitGroup
	for range min(parts, runtime.GOMAXPROCS(0)) {
		done.Go(func() {
			for {
				part := int(next.Add(1)) - 1
				if part >= parts {
					return
				}
				count(part, part*n/parts, (part+1)*n/parts)
			}
		})
	}
	done.Wait()
}

// turn lets parts add what they counted in their order. The zero value begins with part 0.
type turn struct {
	mu   sync.Mutex
	at   int
	wait *sync.Cond
}

// next adds a part when those before it have been added.
func (t *turn) next(part int, add func()) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.wait == nil {
		t.wait = sync.NewCond(&t.mu)
	}
	for t.at != part {
		t.wait.Wait()
	}
	add()
	t.at++
	t.wait.Broadcast()
}
