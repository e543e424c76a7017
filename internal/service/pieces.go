package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"widetally/core/study"
	"widetally/core/survey"
)

// Large columns are never held as a whole to be counted: they are read and counted piece by piece. Where several processes serve
// the database, they share the parts of a count.
const (
	// largeRows is from how many rows on.
	largeRows = 4 << 20
	// pieceRows are read at once, a multiple of what the store holds in a chunk.
	pieceRows = 1 << 20
	// partRows are counted by one process.
	partRows = 16 * pieceRows
)

// countRows are the rows by which processes share counts.
type countRows interface {
	Countings(ctx context.Context, of study.Counting) ([]study.Counting, error)
	WantCounts(ctx context.Context, parts []study.Counting) error
	TakeCount(ctx context.Context, of study.Counting, worker string, silence time.Duration) (study.Counting, error)
	PutCount(ctx context.Context, c study.Counting) error
	PutWhole(ctx context.Context, c study.Counting) error
	DropCount(ctx context.Context, c study.Counting) error
}

// pieceReader reads a part of a column.
type pieceReader interface {
	LoadPiece(ctx context.Context, questionID uint64, generation int, rows, from, to int64) (survey.Column, error)
}

// inPieces counts rows of a column piece by piece; the next piece is read while one is counted.
func (s *base) inPieces(ctx context.Context, c study.Counting, of survey.Sample) (*survey.Distribution, error) {
	type piece struct {
		column   survey.Column
		from, to int64
		err      error
	}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	read := make(chan piece, 1)
	end := c.From + c.Rows
	go func() {
		defer close(read)
		for from := c.From; from < end; from += pieceRows {
			p := piece{from: from, to: min(end, from+pieceRows)}
			p.column, p.err = s.store.LoadPiece(ctx, c.QuestionID, c.Generation, c.All, from, p.to)
			select {
			case read <- p:
			case <-ctx.Done():
				return
			}
		}
	}()
	var all *survey.Distribution
	for p := range read {
		if p.err != nil {
			return nil, p.err
		}
		d, err := survey.Distribute(p.column, c.Slots, of.Part(int(p.from), int(p.to)))
		if err != nil {
			return nil, &study.DamagedError{QuestionID: c.QuestionID, Cause: err}
		}
		all = all.Plus(d)
	}
	return all, ctx.Err()
}

// countLarge counts a large column among a sample: in parts that processes share, where it is that of all rows.
func (s *base) countLarge(ctx context.Context, q study.Question, rows int64, of survey.Sample) (d *survey.Distribution, err error) {
	whole := study.Counting{QuestionID: q.ID, Generation: q.Generation, Slots: q.Slots(), Rows: rows, All: rows}
	if s.jobs != nil && of.Subset == nil && of.Frequency == nil {
		d, err = s.jobs.count(ctx, whole)
	} else {
		d, err = s.inPieces(ctx, whole, of)
	}
	var damaged *study.DamagedError
	if errors.As(err, &damaged) {
		damaged.Name = q.Name
	}
	return d, err
}

// countSilence is after how long a part is counted by another process.
const countSilence = 30 * time.Second

// shareEvery is how often a process that waits for others looks, and one that has time for what others want.
const shareEvery = 400 * time.Millisecond

// count counts a column together with the other processes; what one has counted all know.
func (j *jobs) count(ctx context.Context, whole study.Counting) (*survey.Distribution, error) {
	for {
		parts, err := j.store.Countings(ctx, whole)
		if err != nil {
			return nil, err
		}
		if len(parts) == 0 {
			if err := j.store.WantCounts(ctx, partsOf(whole)); err != nil {
				return nil, err
			}
			continue
		}
		if d, ok := sumOf(parts); ok {
			if parts[0].Part >= 0 {
				whole.Worker, whole.Result = j.worker, jsonOf(d)
				_ = study.Again(func() error { return j.store.PutWhole(ctx, whole) }) // else it is counted again
			}
			return d, nil
		}
		switch did, err := j.countOne(ctx, whole); {
		case err != nil:
			return nil, errors.Join(err, j.store.DropCount(context.WithoutCancel(ctx), whole))
		case did:
			continue
		}
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-time.After(shareEvery / 8):
		}
	}
}

func partsOf(whole study.Counting) (out []study.Counting) {
	for from := int64(0); from < whole.All; from += partRows {
		p := whole
		p.Part, p.From, p.Rows = len(out), from, min(partRows, whole.All-from)
		out = append(out, p)
	}
	return out
}

// sumOf is the sum of parts; ok is false as long as one is lacking.
func sumOf(parts []study.Counting) (all *survey.Distribution, ok bool) {
	for _, p := range parts {
		var d survey.Distribution
		if p.Result == nil || json.Unmarshal(p.Result, &d) != nil {
			return nil, false
		}
		all = all.Plus(&d)
	}
	return all, true
}

func jsonOf(d *survey.Distribution) []byte {
	raw, err := json.Marshal(d)
	if err != nil {
		panic(fmt.Sprintf("service: a distribution: %v", err)) // numbers are finite
	}
	return raw
}

// countOne counts a part that nobody counts; did is false where there is none.
func (j *jobs) countOne(ctx context.Context, of study.Counting) (did bool, err error) {
	part, err := j.store.TakeCount(ctx, of, j.worker, countSilence)
	if errors.Is(err, study.ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	d, err := j.studies.inPieces(ctx, part, survey.Sample{})
	if err != nil {
		return false, err
	}
	part.Result = jsonOf(d)
	return true, j.store.PutCount(ctx, part)
}

// help counts what other processes want, as long as nothing waits for its turn here.
func (j *jobs) help() {
	j.at.Go(func() {
		for {
			select {
			case <-j.ctx.Done():
				return
			case <-time.After(shareEvery):
			}
			for j.ctx.Err() == nil {
				done, ok := j.studies.turns.free()
				if !ok {
					break
				}
				did, err := j.countOne(j.ctx, study.Counting{})
				done()
				if err != nil || !did {
					break
				}
			}
		}
	})
}
