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

// parted counts the rows of the sample in parts, by their size and that of what is kept of each alone; a
// part begins with a block.
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
				blocks := (n + block - 1) / block
				count(part, part*blocks/parts*block, min(n, (part+1)*blocks/parts*block))
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

// heaviest is the largest weight in the base of a block that begins with a row, where it is larger than one
// that is known.
func heaviest[T uint8 | int32](s *Sample, from int, cell []T, outside T, known float64) float64 {
	if s.peaks[from/block] <= known {
		return known
	}
	for k, w := range s.Weights[from : from+len(cell)] {
		if w > known && cell[k] != outside {
			known = w
		}
	}
	return known
}
