package store

import (
	"context"
	"database/sql"
	"errors"
	"time"

	gormigrate "github.com/go-gormigrate/gormigrate/v2"
)

// migrationWait is how long a start waits for another one that migrates.
const migrationWait = 5 * time.Minute

// Who migrates has a lease, which is renewed as long as it lives. One that was not renewed for so long is
// watched once more for that time before another takes it, since a cluster does nothing else while tables change.
const (
	leaseTime  = 6 * time.Second
	leaseRenew = leaseTime / 4
)

var errOtherStart = errors.New("another start has been changing the tables for too long; wait for it, or end it, and start again")

// migrate brings the tables up to date. Two applications that start at once do it one after the other: those at
// one server by a lock of the server's, which is gone with who holds it, those at several nodes of a cluster by a row that
// only one of them can come to hold.
func (s *Store) migrate(ctx context.Context) error {
	conn, err := s.pools["main"].Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	const name = "CONCAT('widetally ', MD5(DATABASE()))"
	var got sql.NullInt64
	if err := conn.QueryRowContext(ctx, "SELECT GET_LOCK("+name+", ?)", int(migrationWait.Seconds())).Scan(&got); err != nil {
		return err
	}
	if got.Int64 != 1 {
		return errOtherStart
	}
	defer func() { _, _ = conn.ExecContext(context.WithoutCancel(ctx), "DO RELEASE_LOCK("+name+")") }()
	l := &lease{store: s}
	if err := l.take(ctx, conn); err != nil {
		return err
	}
	ctx, stop := context.WithCancel(ctx)
	renewed := make(chan struct{})
	go func() {
		defer close(renewed)
		l.renew(ctx, stop)
	}()
	err = gormigrate.New(s.db.WithContext(ctx), &gormigrate.Options{TableName: "migrations", IDColumnName: "id", IDColumnSize: 64, ValidateUnknownMigrations: true}, migrations()).Migrate()
	stop()
	<-renewed
	return errors.Join(err, l.free(context.WithoutCancel(ctx)))
}

// lease is the right to change the tables.
type lease struct {
	store  *Store
	holder string
}

// leaseRow is its row; there is one.
type leaseRow struct {
	Holder  string // "" for nobody
	Node    string // at which the holder is
	Renewed int64
	Old     bool // whether it was not renewed in time
}

func (l *lease) row(ctx context.Context) (r leaseRow, err error) {
	err = l.store.with(ctx).Raw("SELECT holder, node, renewed, renewed_at < UTC_TIMESTAMP(3) - INTERVAL ? SECOND AS old FROM starts WHERE id = 1 FOR UPDATE", leaseTime.Seconds()).Take(&r).Error
	return r, err
}

// take waits for the lease.
func (l *lease) take(ctx context.Context, conn *sql.Conn) error {
	for _, statement := range []string{
		"CREATE TABLE IF NOT EXISTS starts (id TINYINT UNSIGNED PRIMARY KEY, holder VARCHAR(64) NOT NULL, node VARCHAR(255) NOT NULL, renewed BIGINT UNSIGNED NOT NULL, renewed_at DATETIME(3) NOT NULL)",
		"INSERT IGNORE INTO starts VALUES (1, '', '', 0, UTC_TIMESTAMP(3))",
	} {
		if err := l.store.db.WithContext(ctx).Exec(statement).Error; err != nil {
			return err
		}
	}
	var node string
	if err := conn.QueryRowContext(ctx, "SELECT UUID(), LEFT(CONCAT(@@hostname, ' ', @@datadir), 255)").Scan(&l.holder, &node); err != nil {
		return err
	}
	seen, since := int64(-1), time.Now()
	for began := time.Now(); time.Since(began) < migrationWait; {
		mine := false
		err := l.store.InTx(ctx, func(ctx context.Context) error {
			mine = false
			r, err := l.row(ctx)
			if err != nil {
				return err
			}
			if r.Renewed != seen {
				seen, since = r.Renewed, time.Now()
			}
			// One that another at this server held is gone with it, since its lock is ours.
			if r.Holder != "" && r.Node != node && (!r.Old || time.Since(since) < leaseTime) {
				return nil
			}
			mine = true
			return l.store.with(ctx).Exec("UPDATE starts SET holder = ?, node = ?, renewed = renewed + 1, renewed_at = UTC_TIMESTAMP(3) WHERE id = 1", l.holder, node).Error
		})
		if err != nil || mine {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(leaseRenew / 6):
		}
	}
	return errOtherStart
}

// renew renews the lease until the context ends, and stops what depends on it where another has taken it.
func (l *lease) renew(ctx context.Context, stop func()) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(leaseRenew):
		}
		r := l.store.db.WithContext(ctx).Exec("UPDATE starts SET renewed = renewed + 1, renewed_at = UTC_TIMESTAMP(3) WHERE id = 1 AND holder = ?", l.holder)
		if r.Error == nil && r.RowsAffected == 0 {
			stop()
			return
		}
	}
}

func (l *lease) free(ctx context.Context) error {
	return l.store.db.WithContext(ctx).Exec("UPDATE starts SET holder = '', node = '', renewed = renewed + 1, renewed_at = UTC_TIMESTAMP(3) WHERE id = 1 AND holder = ?", l.holder).Error
}
