package service

import (
	"context"
	"maps"
	"regexp"
	"slices"
	"sync"
	"time"

	"widetally/core/people"
	"widetally/core/study"
)

// Live tells those who look at studies what becomes of them.
type Live struct {
	*base
	store liveRows

	mu       sync.Mutex
	watching int
	looking  bool
	now      *Now
	next     chan struct{} // closed as soon as there is another now
	closed   chan struct{}
	once     sync.Once
}

type liveRows interface {
	PutPresence(ctx context.Context, p people.Presence, longest time.Duration) error
	EndPresence(ctx context.Context, account uint64, tab string) error
	Presences(ctx context.Context, longest time.Duration) ([]people.Presence, error)
	Revisions(ctx context.Context) (map[uint64]uint64, error)
}

// Now is how all studies stand at a moment. It is not changed.
type Now struct {
	Revisions map[uint64]uint64
	Here      map[uint64][]people.Presence
	// Newest is the newest entry of the trail of those that changed while somebody watched.
	Newest map[uint64]study.Entry
}

// How often the studies are looked at while somebody watches, so that an edit appears within a second whichever
// process it went to; and after which time somebody who was not heard of is gone.
const (
	lookEvery  = 400 * time.Millisecond
	hereFor    = 50 * time.Second
	mostPlace  = 40
	lookAtMost = 5 * time.Second
)

func newLive(b *base, s liveRows) *Live {
	return &Live{base: b, store: s, next: make(chan struct{}), closed: make(chan struct{})}
}

// Close ends all watching.
func (s *Live) Close() { s.once.Do(func() { close(s.closed) }) }

// Watching is how many browsers watch at this process.
func (s *Live) Watching() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.watching
}

// Closed is closed when watching ends for everybody.
func (s *Live) Closed() <-chan struct{} { return s.closed }

// Watch begins to look at the studies; done ends it.
func (s *Live) Watch() (done func()) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.watching++
	if !s.looking { // one that is about to end may look on
		s.looking = true
		go s.look()
	}
	return func() {
		s.mu.Lock()
		defer s.mu.Unlock()
		s.watching--
	}
}

// Now is how the studies stand, nil before that is known, and a channel that is closed when they stand otherwise.
func (s *Live) Now() (*Now, <-chan struct{}) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.now, s.next
}

// look reads the state as long as somebody watches. A state that cannot be read is left as it was.
func (s *Live) look() {
	for {
		ctx, stop := context.WithTimeout(context.Background(), lookAtMost)
		s.mu.Lock()
		before := s.now
		s.mu.Unlock()
		if now, err := s.read(ctx, before); err == nil && now != nil {
			s.mu.Lock()
			s.now = now
			close(s.next)
			s.next = make(chan struct{})
			s.mu.Unlock()
		}
		stop()
		select {
		case <-s.closed:
			return
		case <-time.After(lookEvery):
		}
		s.mu.Lock()
		if s.watching == 0 {
			s.now, s.looking = nil, false
			s.mu.Unlock()
			return
		}
		s.mu.Unlock()
	}
}

// read is the state now, or nil where it is the one before.
func (s *Live) read(ctx context.Context, before *Now) (*Now, error) {
	revisions, err := s.store.Revisions(ctx)
	if err != nil {
		return nil, err
	}
	list, err := s.store.Presences(ctx, hereFor)
	if err != nil {
		return nil, err
	}
	now := &Now{Revisions: revisions, Here: map[uint64][]people.Presence{}, Newest: map[uint64]study.Entry{}}
	for _, p := range list {
		now.Here[p.StudyID] = append(now.Here[p.StudyID], p)
	}
	if before == nil {
		return now, nil
	}
	same := maps.EqualFunc(now.Here, before.Here, func(a, b []people.Presence) bool { return slices.Equal(a, b) })
	for id, revision := range revisions {
		if entry, known := before.Newest[id]; known {
			now.Newest[id] = entry
		}
		if before.Revisions[id] == revision {
			continue
		}
		same = false
		entries, err := s.base.store.Trail(ctx, id, study.Looked{Words: "history.", Most: 1})
		if err != nil {
			return nil, err
		}
		if len(entries) > 0 {
			now.Newest[id] = entries[0]
		}
	}
	if same && len(revisions) == len(before.Revisions) {
		return nil, nil
	}
	return now, nil
}

var tabName = regexp.MustCompile(`^[a-z0-9]{8,32}$`)

// Here notes where in a study who asks is: at a question, by its id, and whether it is being changed. A place of
// "" is none in particular.
func (s *Live) Here(ctx context.Context, studyID uint64, tab, place string, editing bool) error {
	if !tabName.MatchString(tab) || len(place) > mostPlace {
		return invalid("live.tab", "/tab", nil)
	}
	if err := s.may(ctx, studyID, study.ToSee); err != nil {
		return err
	}
	who := study.ActorOf(ctx)
	if who.Account == 0 { // everybody is the same
		return nil
	}
	return s.store.PutPresence(ctx, people.Presence{Tab: tab, StudyID: studyID, Account: who.Account, Place: place, Editing: editing}, hereFor)
}

// Gone notes that a tab of who asks was closed.
func (s *Live) Gone(ctx context.Context, studyID uint64, tab string) error {
	if err := s.may(ctx, studyID, study.ToSee); err != nil {
		return err
	}
	return s.store.EndPresence(ctx, study.ActorOf(ctx).Account, tab)
}

// Sees says whether who asks may see a study.
func (s *Live) Sees(ctx context.Context, studyID uint64) bool {
	return s.may(ctx, studyID, study.ToSee) == nil
}
