package service

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"time"

	"widetally/core/study"
	"widetally/internal/arrivals"
)

// jobRows are the rows by which processes that serve one database pass on what is to be made of arrived files.
type jobRows interface {
	arrivals.Board
	countRows
	TakeJob(ctx context.Context, a study.Arrival, silence time.Duration) (taken bool, err error)
	EndJob(ctx context.Context, a study.Arrival) error
	LeftJobs(ctx context.Context, silence time.Duration) ([]study.Arrival, error)
}

// jobs are the studies that are being made of arrived files, where several processes serve the database: what one leaves that
// has ended, another completes.
type jobs struct {
	studies *Studies
	store   jobRows
	worker  string // this process
	stop    context.CancelFunc
	ctx     context.Context
	at      sync.WaitGroup
}

func newJobs(s *Studies, store jobRows) *jobs {
	j := &jobs{studies: s, store: store, worker: rand.Text()}
	j.ctx, j.stop = context.WithCancel(context.Background())
	return j
}

func (j *jobs) close() {
	j.stop()
	j.at.Wait()
}

// job is what is to be made, and for whom.
type job struct {
	Study NewStudy
	For   study.Actor
}

// How often is looked for what others have left, and for what is made elsewhere.
const (
	leftEvery = time.Second
	madeEvery = 150 * time.Millisecond
)

// watch takes up what other processes leave.
func (j *jobs) watch() {
	j.at.Go(func() {
		for {
			select {
			case <-j.ctx.Done():
				return
			case <-time.After(leftEvery):
			}
			left, err := j.store.LeftJobs(j.ctx, arrivals.Silence)
			if err != nil {
				continue // until the database is back
			}
			for _, a := range left {
				var is job
				if json.Unmarshal([]byte(a.Job), &is) != nil {
					continue // of a newer version
				}
				j.at.Go(func() { _, _ = j.take(study.WithActor(j.ctx, is.For), is.Study, a) })
			}
		}
	})
}

// create makes a study, or waits for another process that does, and takes it over where that has ended.
func (j *jobs) create(ctx context.Context, in NewStudy) (made study.Study, err error) {
	who := study.ActorOf(ctx)
	text, err := jsonText(job{in, who})
	if err != nil {
		return made, fmt.Errorf("service: %w", err)
	}
	for {
		a, err := j.store.Arrival(ctx, in.ArrivalID, arrivals.Silence)
		if err == nil && (a.Author != who.ID || a.Job != "" && !sameStudy(a.Job, text)) {
			err = study.ErrNotFound // of somebody else, or another study is being made of it
		}
		switch {
		case err != nil:
			return made, err
		case a.StudyID != nil: // made already: whoever asked has not heard it
			return j.studies.seen(ctx, *a.StudyID)
		}
		a.Job = text
		if made, err = j.take(ctx, in, a); !errors.Is(err, errTaken) {
			return made, err
		}
		select {
		case <-ctx.Done():
			return made, ctx.Err()
		case <-time.After(madeEvery):
		}
	}
}

// sameStudy reports whether two jobs are to make the same study.
func sameStudy(one, other string) bool {
	type wanted struct{ Study json.RawMessage }
	var a, b wanted
	return json.Unmarshal([]byte(one), &a) == nil && json.Unmarshal([]byte(other), &b) == nil && string(a.Study) == string(b.Study)
}

// errTaken says that another process is at it.
var errTaken = errors.New("service: another process makes it")

// take makes a study unless another process does.
func (j *jobs) take(ctx context.Context, in NewStudy, a study.Arrival) (made study.Study, err error) {
	a.Worker = j.worker + " " + rand.Text()[:8] // asked twice, the second waits for the first
	taken, err := j.store.TakeJob(ctx, a, arrivals.Silence)
	if err == nil && !taken {
		err = errTaken
	}
	if err != nil {
		return made, err
	}
	w, err := j.studies.room.Get(ctx, a.ID)
	if err != nil {
		return made, err
	}
	within, end := w.Begin(ctx, arrivals.Waiting) // by which others know that it is being made
	defer end()
	made, err = j.studies.create(within, in, w, func(ctx context.Context, st study.Study) error {
		done := a
		done.StudyID = &st.ID
		return j.store.EndJob(ctx, done)
	})
	if err != nil && j.ctx.Err() == nil { // else another process goes on with it
		_ = j.store.EndJob(context.WithoutCancel(ctx), a) // it can be asked for otherwise
	}
	return made, err
}
