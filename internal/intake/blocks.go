package intake

import (
	"sync/atomic"

	"widetally/core/survey"
)

// block is a number of rows whose cells stand one behind the other, parted by one byte.
type block struct {
	text []byte
	ends []uint32
	rows int
}

// Bounds of a block: small enough to stay in a core's own memory.
const (
	blockRows  = 512
	blockBytes = 256 << 10
)

// blocks hands rows over to another goroutine, a block at a time, which adds them to
// the columns' builders one column after the other: cutting lines and gathering
// columns go on side by side.
type blocks struct {
	builders []*survey.Builder
	now      *block
	full     chan *block
	empty    chan *block
	done     chan struct{}
	// over is set once the builders hold more than they may; further rows are dropped.
	over atomic.Bool
}

// gatherInto starts gathering into builders that may together hold most bytes.
func gatherInto(builders []*survey.Builder, most int64) *blocks {
	const spare = 3
	b := &blocks{builders: builders, now: &block{}, full: make(chan *block, spare), empty: make(chan *block, spare+1), done: make(chan struct{})}
	for range spare {
		b.empty <- &block{}
	}
	go func() {
		defer close(b.done)
		for n := range b.full {
			held := int64(0)
			for i, builder := range builders {
				if b.over.Load() {
					break
				}
				builder.AddColumn(n.text, n.ends, i, len(builders))
				held += builder.Held()
			}
			if held > most {
				b.over.Store(true)
			}
			n.text, n.ends, n.rows = n.text[:0], n.ends[:0], 0
			b.empty <- n
		}
	}()
	return b
}

// add takes a row's cells, as many as there are builders.
func (b *blocks) add(cells [][]byte) {
	n := b.now
	for _, c := range cells {
		n.text = append(n.text, c...)
		n.ends = append(n.ends, uint32(len(n.text)))
		n.text = append(n.text, 0)
	}
	b.next()
}

// addLine takes a row as it stood, with the ends of its cells, one byte between them.
func (b *blocks) addLine(line []byte, ends []uint32) {
	n := b.now
	base := uint32(len(n.text))
	n.text = append(append(n.text, line...), 0)
	for _, e := range ends {
		n.ends = append(n.ends, base+e)
	}
	b.next()
}

func (b *blocks) next() {
	n := b.now
	if n.rows++; n.rows == blockRows || len(n.text) >= blockBytes {
		b.full <- n
		b.now = <-b.empty
	}
}

// finish waits until everything is gathered.
func (b *blocks) finish() {
	if b.now.rows > 0 {
		b.full <- b.now
	}
	close(b.full)
	<-b.done
}
