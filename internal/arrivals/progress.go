package arrivals

import (
	"context"
	"slices"
	"sync"
	"time"
)

// Stage says what is being done with an arrived file.
type Stage string

// The stages.
const (
	Idle    Stage = "idle"
	Waiting Stage = "waiting" // for others to be done
	Reading Stage = "reading"
	Keeping Stage = "keeping"
)

// Progress is how far work on an arrived file has come.
type Progress struct {
	Stage Stage
	Rows  int
	Done  float64 // 0 to 1
	// Left is the time that the rest takes if it goes on as it has; 0 while unknown.
	Left time.Duration
}

// progress is shared by those that work on a file, which may read it and wait to keep it
// at the same time, and those that watch.
type progress struct {
	mu    sync.Mutex
	now   Progress
	since time.Time
	under []*work
	// stopped is set for good once the file has been discarded.
	stopped bool
}

type work struct {
	stage  Stage
	cancel context.CancelFunc
}

// begin starts a stage, which stop ends by cancelling the context. The stage shown is
// that of the work begun last.
func (p *progress) begin(ctx context.Context, stage Stage) (context.Context, func()) {
	ctx, cancel := context.WithCancel(ctx)
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.stopped {
		cancel()
	}
	mine := &work{stage, cancel}
	p.under = append(p.under, mine)
	p.now, p.since = Progress{Stage: stage, Rows: p.now.Rows}, time.Now()
	return ctx, func() {
		cancel()
		p.mu.Lock()
		defer p.mu.Unlock()
		p.under = slices.DeleteFunc(p.under, func(w *work) bool { return w == mine })
		p.now.Stage = Idle
		if n := len(p.under); n > 0 {
			p.now.Stage = p.under[n-1].stage
		}
	}
}

// busy reports whether anything works on the file.
func (p *progress) busy() bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	return len(p.under) > 0
}

func (p *progress) at(rows int, done float64) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.now.Rows, p.now.Done = rows, done
	if spent := time.Since(p.since); done > 0.02 && done <= 1 {
		p.now.Left = time.Duration(float64(spent) * (1 - done) / done)
	}
}

func (p *progress) stop() {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.stopped = true
	for _, w := range p.under {
		w.cancel()
	}
}

// Begin starts a stage of work on the file; discarding it ends the context.
func (w File) Begin(ctx context.Context, stage Stage) (within context.Context, end func()) {
	return w.progress.begin(ctx, stage)
}

// At tells how many rows are done, and which part of all work, 0 to 1.
func (w File) At(rows int, done float64) { w.progress.at(rows, done) }

// Progress tells how far work on an arrived file has come.
func (a *Room) Progress(id string) (Progress, error) {
	w, err := a.Get(id)
	if err != nil {
		return Progress{}, err
	}
	w.progress.mu.Lock()
	defer w.progress.mu.Unlock()
	if w.progress.now.Stage == "" {
		return Progress{Stage: Idle}, nil
	}
	return w.progress.now, nil
}
