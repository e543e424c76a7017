package intake

import (
	"sync"
	"sync/atomic"

	"widetally/core/survey"
)

// block is a number of rows whose cells stand one behind the other, parted by one byte.
type block struct {
	text []byte
	ends []uint32
	rows int
	left atomic.Int32 // gatherers that have not taken it yet
}

// Bounds of a block: small enough to stay in a core's own memory.
const (
	blockRows  = 512
	blockBytes = slabBytes
)

// gatherers is how many goroutines gather columns, each its share of them.
const gatherers = 2

// blocks hands rows over to other goroutines, a block at a time, which add them to
// the columns' builders one column after the other: cutting lines and gathering
// columns go on side by side.
type blocks struct {
	builders []*survey.Builder
	now      *block
	full     [gatherers]chan *block
	empty    chan *block
	last     []byte // the last row that was handed over
	done     sync.WaitGroup
	held     [gatherers]atomic.Int64
	// over is set once the builders hold more than they may; further rows are dropped.
	over atomic.Bool
}

// gatherInto starts gathering into builders that may together hold most bytes.
func gatherInto(builders []*survey.Builder, most int64) *blocks {
	const spare = 4
	b := &blocks{builders: builders, now: &block{}, empty: make(chan *block, spare+1)}
	for range spare {
		b.empty <- &block{}
	}
	for mine := range gatherers {
		b.full[mine] = make(chan *block, spare)
		b.done.Go(func() {
			for n := range b.full[mine] {
				held := int64(0)
				for i := mine; i < len(builders) && !b.over.Load(); i += gatherers {
					builders[i].AddColumn(n.text, n.ends, i, len(builders))
					held += builders[i].Held()
				}
				b.held[mine].Store(held)
				if b.held[0].Load()+b.held[1].Load() > most {
					b.over.Store(true)
				}
				if n.left.Add(-1) == 0 {
					n.clear()
					b.empty <- n
				}
			}
		})
	}
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

func (b *blocks) next() {
	if b.now.rows++; b.now.rows == blockRows || len(b.now.text) >= blockBytes {
		b.flush()
	}
}

// flush hands over what there is.
func (b *blocks) flush() {
	n := b.now
	if n.rows == 0 {
		return
	}
	b.last = n.lastRow(b.last[:0], len(b.builders))
	n.left.Store(gatherers)
	for _, full := range b.full {
		full <- n
	}
	b.now = <-b.empty
}

// lastRow appends the last row, its cells parted by a byte each.
func (n *block) lastRow(out []byte, width int) []byte {
	from := uint32(0)
	if before := (n.rows-1)*width - 1; before >= 0 {
		from = n.ends[before] + 1
	}
	for i, end := range n.ends[(n.rows-1)*width : n.rows*width] {
		if i > 0 {
			out = append(out, betweenCells)
		}
		out = append(out, n.text[from:end]...)
		from = end + 1
	}
	return out
}

const betweenCells = 0

// finish waits until everything is gathered.
func (b *blocks) finish() {
	b.flush()
	for _, full := range b.full {
		close(full)
	}
	b.done.Wait()
}
