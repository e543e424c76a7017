package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
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
func (s *Store) with(ctx context.Context) *gorm.DB {
	if tx, within := ctx.Value(txKey{}).(*gorm.DB); within {
		return tx.WithContext(ctx)
	}
	return s.db.WithContext(ctx)
}

// begin runs f in a transaction of its own, which is tried again as long as retried says. The context that f is
// given carries it: what is done with that context belongs to the transaction, what is done with another does not.
func (s *Store) begin(ctx context.Context, db *gorm.DB, f func(ctx context.Context) error, opt ...*sql.TxOptions) error {
	return s.retried(ctx, func() error { return once(ctx, db, f, opt...) })
}

// once runs f in one transaction. A node of a cluster ends a transaction that another one came before, and
// does not always say so: the statements that follow would begin a new one. So a transaction sets a mark when it begins and
// takes it away before it is committed, which fails where it is no longer the one that it was.
func once(ctx context.Context, db *gorm.DB, f func(ctx context.Context) error, opt ...*sql.TxOptions) (err error) {
	reads := len(opt) > 0 && opt[0].ReadOnly
	tx := db.WithContext(ctx).Begin(opt...)
	if tx.Error != nil {
		return tx.Error
	}
	kept := false
	defer func() { // however f ends
		if !kept {
			tx.Rollback()
		}
	}()
	if !reads {
		if err := tx.Exec("SAVEPOINT proof").Error; err != nil {
			return err
		}
	}
	if err := f(context.WithValue(ctx, txKey{}, tx)); err != nil {
		return err
	}
	if !reads {
		if err := tx.Exec("RELEASE SAVEPOINT proof").Error; err != nil {
			return err
		}
	}
	err = tx.Commit().Error
	kept = err == nil
	switch {
	case reads:
		return nil // what was read is whole
	case err != nil && lostWhileKeeping(err):
		return fmt.Errorf("%w: %w", study.ErrUnsure, err)
	case err != nil && !lostToOthers(err) && !serverGone(err):
		return translate(err)
	}
	return err
}

// InTx runs f in one transaction: all of it is kept, or nothing. f works with the context
// that it is given. It is run again when the server ends the transaction for the sake of
// another one or is gone for a moment, so it must leave nothing behind outside the transaction but what a further
// run overwrites. ErrUnsure where the server went while it was keeping it.
func (s *Store) InTx(ctx context.Context, f func(ctx context.Context) error) error {
	return s.begin(ctx, s.changing, f)
}

// InBulk is InTx for much data. Texts may be stored, but nothing is to be found by one: it would
// be compared as bytes, without its index.
func (s *Store) InBulk(ctx context.Context, f func(ctx context.Context) error) error {
	return s.begin(ctx, s.bulk, f)
}

// within is InTx, unless the context carries a transaction already.
func (s *Store) within(ctx context.Context, f func(ctx context.Context) error) error {
	return s.withinOf(ctx, s.changing, f)
}

func (s *Store) withinOf(ctx context.Context, db *gorm.DB, f func(ctx context.Context) error) error {
	if _, carried := ctx.Value(txKey{}).(*gorm.DB); carried {
		return f(ctx)
	}
	return s.begin(ctx, db, f)
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
	return keptWith(ctx, s.InTx(ctx, func(ctx context.Context) error {
		var r studyRow
		err := s.with(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Where("id = ? AND deleted_at IS NULL", studyID).Take(&r).Error
		if err != nil {
			return translate(err)
		}
		if err := f(ctx, r.study()); err != nil {
			return err
		}
		return translate(s.with(ctx).Model(&studyRow{}).Where("id = ?", studyID).UpdateColumn("revision", gorm.Expr("revision + 1")).Error)
	}))
}

// keptWith notes in a context that a change was kept.
func keptWith(ctx context.Context, err error) error {
	if err == nil {
		study.NoteKept(ctx)
	}
	return err
}

// Snapshot runs f on the state of the database at one moment, so that what it reads
// fits together however many edits go on beside it.
func (s *Store) Snapshot(ctx context.Context, f func(ctx context.Context) error) error {
	return s.begin(ctx, s.db, f, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
}

// How often a transaction is tried that lost against others, and the longest pause
// before the next try; pauses double from the first and vary, so that those who met
// once do not meet again. Who finds the server gone waits for so long for it, or another, to be back.
const (
	mostTries  = 12
	firstPause = 4 * time.Millisecond
	mostPause  = 500 * time.Millisecond
	patience   = 1500 * time.Millisecond
)

func (s *Store) retried(ctx context.Context, try func() error) error {
	began, pause := time.Now(), firstPause
	for n := 1; ; n++ {
		err := try()
		switch {
		case err == nil:
			return nil
		case errors.Is(err, study.ErrUnsure):
			return err
		case ctx.Err() != nil:
			// The driver tells of a request that was cancelled as a lost connection, too.
			return errors.Join(ctx.Err(), err)
		case serverGone(err):
			if time.Since(began)+pause > patience {
				return translate(err)
			}
			s.shed(err)
		case !lostToOthers(err):
			return err
		case n >= mostTries:
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

// shed closes the connections to a node that is not part of its cluster at the moment, so that others are made to
// one that is.
func (s *Store) shed(err error) {
	var said *driver.MySQLError
	if !errors.As(err, &said) || said.Number != errNotReady {
		return
	}
	for _, pool := range s.pools {
		most := pool.Stats().MaxOpenConnections
		pool.SetMaxIdleConns(0)
		pool.SetMaxIdleConns(most / 2)
	}
}

// patient is a pool whose statements outside of a transaction are tried again where that changes nothing
// but whether they succeed.
type patient struct {
	*sql.DB
	store *Store
}

// GetDBConn implements gorm.GetDBConnector.
func (p patient) GetDBConn() (*sql.DB, error) { return p.DB, nil }

// QueryContext implements gorm.ConnPool.
func (p patient) QueryContext(ctx context.Context, query string, args ...any) (rows *sql.Rows, err error) {
	reads := strings.HasPrefix(strings.TrimSpace(query), "SELECT")
	err = p.store.retried(ctx, func() error {
		rows, err = p.DB.QueryContext(ctx, query, args...) //nolint:sqlclosecheck,rowserrcheck // by whoever asked
		return unsure(err, reads)
	})
	return rows, err
}

// ExecContext implements gorm.ConnPool.
func (p patient) ExecContext(ctx context.Context, query string, args ...any) (done sql.Result, err error) {
	err = p.store.retried(ctx, func() error {
		done, err = p.DB.ExecContext(ctx, query, args...)
		return unsure(err, false)
	})
	return done, err
}

// unsure says of a statement that may have been kept that this is not known.
func unsure(err error, reads bool) error {
	if err != nil && !reads && lostWhileKeeping(err) {
		return fmt.Errorf("%w: %w", study.ErrUnsure, err)
	}
	return err
}
