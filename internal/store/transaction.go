package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync"
	"time"

	driver "github.com/go-sql-driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"widetally/core/study"
)

// turns lets the changes that this application makes to a study wait for each other
// before they take a connection, so that many editors of one study keep nobody else
// waiting.
type turns struct {
	mu sync.Mutex
	by map[uint64]*turn
}

type turn struct {
	free    chan struct{}
	waiting int
}

func (t *turns) take(ctx context.Context, id uint64) (release func(), err error) {
	t.mu.Lock()
	mine := t.by[id]
	if mine == nil {
		mine = &turn{free: make(chan struct{}, 1)}
		t.by[id] = mine
	}
	mine.waiting++
	t.mu.Unlock()
	leave := func() {
		t.mu.Lock()
		defer t.mu.Unlock()
		if mine.waiting--; mine.waiting == 0 {
			delete(t.by, id)
		}
	}
	select {
	case mine.free <- struct{}{}:
		return func() { <-mine.free; leave() }, nil
	case <-ctx.Done():
		leave()
		return nil, ctx.Err()
	}
}

// txKey is the key of the transaction that a context carries.
type txKey struct{}

// with is the connection that belongs to a context: the transaction that it carries, or any.
func (s *Store) with(ctx context.Context) *gorm.DB { return carried(ctx, s.db) }

func carried(ctx context.Context, otherwise *gorm.DB) *gorm.DB {
	if tx, within := ctx.Value(txKey{}).(*gorm.DB); within {
		return tx.WithContext(ctx)
	}
	return otherwise.WithContext(ctx)
}

// begin runs f in a transaction of its own. The context that f is given carries it: what is
// done with that context belongs to the transaction, what is done with another does not.
func begin(ctx context.Context, db *gorm.DB, f func(ctx context.Context) error, opt ...*sql.TxOptions) error {
	return retried(ctx, func() error {
		return db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
			return f(context.WithValue(ctx, txKey{}, tx))
		}, opt...)
	})
}

// InTx runs f in one transaction: all of it is kept, or nothing. f works with the context
// that it is given. It is run again when the server ends the transaction for the sake of
// another one, so it must leave nothing behind outside the transaction but what a further
// run overwrites.
func (s *Store) InTx(ctx context.Context, f func(ctx context.Context) error) error {
	return begin(ctx, s.db, f)
}

// InBulk is InTx for much data. Texts may be stored, but nothing is to be found by one: it would
// be compared as bytes, without its index.
func (s *Store) InBulk(ctx context.Context, f func(ctx context.Context) error) error {
	return begin(ctx, s.bulk, f)
}

// Change runs f in a transaction that changes a study; its row is taken for update
// first, so that changes of one study happen one after another and each sees all that
// the ones before it did, and its revision is counted up with them. ErrNotFound when there is no such study.
func (s *Store) Change(ctx context.Context, studyID uint64, f func(ctx context.Context, st study.Study) error) error {
	release, err := s.turns.take(ctx, studyID)
	if err != nil {
		return err
	}
	defer release()
	return s.InTx(ctx, func(ctx context.Context) error {
		var r studyRow
		err := s.with(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Where("id = ? AND deleted_at IS NULL", studyID).Take(&r).Error
		if err != nil {
			return translate(err)
		}
		if err := f(ctx, r.study()); err != nil {
			return err
		}
		return translate(s.with(ctx).Model(&studyRow{}).Where("id = ?", studyID).UpdateColumn("revision", gorm.Expr("revision + 1")).Error)
	})
}

// Snapshot runs f on the state of the database at one moment, so that what it reads
// fits together however many edits go on beside it.
func (s *Store) Snapshot(ctx context.Context, f func(ctx context.Context) error) error {
	return begin(ctx, s.db, f, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
}

// How often a transaction is tried that lost against others, and the longest pause
// before the next try; pauses double from the first and vary, so that those who met
// once do not meet again.
const (
	mostTries  = 12
	firstPause = 4 * time.Millisecond
	mostPause  = 500 * time.Millisecond
)

// The server's errors for a transaction that may simply be tried again: deadlock, lock
// wait timeout, record changed since it was read.
const (
	errDeadlock = 1213
	errLockWait = 1205
	errChanged  = 1020
)

func retried(ctx context.Context, try func() error) error {
	pause := firstPause
	for n := 1; ; n++ {
		err := try()
		var said *driver.MySQLError
		if !errors.As(err, &said) || said.Number != errDeadlock && said.Number != errLockWait && said.Number != errChanged {
			if err != nil && ctx.Err() != nil {
				// The driver tells of a request that was cancelled as a lost connection, too.
				return errors.Join(ctx.Err(), err)
			}
			if serverGone(err) && !errors.Is(err, study.ErrGone) {
				return fmt.Errorf("%w: %w", study.ErrGone, err)
			}
			return err
		}
		if n == mostTries {
			return errors.Join(study.ErrBusy, err)
		}
		select {
		case <-ctx.Done():
			return errors.Join(ctx.Err(), err)
		case <-time.After(pause/2 + rand.N(pause)):
		}
		pause = min(2*pause, mostPause)
	}
}
