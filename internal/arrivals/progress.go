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
	// tell, which may be nil, tells other processes how far it has come, as long as it is worked on; it returns false
	// where one of them has discarded the file.
	tell func(Progress) (there bool)
	// next has them told of a further stage at once.
	next chan struct{}
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
	if p.tell != nil && len(p.under) == 1 {
		go p.telling()
	} else if p.tell != nil {
		select {
		case p.next <- struct{}{}:
		default:
		}
	}
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

// tellEvery is how often others are told.
const tellEvery = 300 * time.Millisecond

func (p *progress) telling() {
	for {
		p.mu.Lock()
		now, over := p.now, len(p.under) == 0
		p.mu.Unlock()
		if !p.tell(now) {
			p.stop()
		}
		if over {
			return
		}
		select {
		case <-p.next:
		case <-time.After(tellEvery):
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
func (a *Room) Progress(ctx context.Context, id string) (Progress, error) {
	w, err := a.Get(ctx, id)
	if err != nil {
		return Progress{}, err
	}
	if a.board != nil && !w.progress.busy() {
		return a.elsewhere(ctx, id)
	}
	w.progress.mu.Lock()
	defer w.progress.mu.Unlock()
	if w.progress.now.Stage == "" {
		return Progress{Stage: Idle}, nil
	}
	return w.progress.now, nil
}
