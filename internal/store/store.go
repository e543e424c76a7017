// Package store keeps studies in MariaDB: questions, answers and claims as
// ordinary rows, columns of answers as compressed, checksummed chunks, and the
// file as it arrived beside them. It is the only package that knows GORM.
package store

import (
	"context"
	"database/sql"
	sqldriver "database/sql/driver"
	"errors"
	"fmt"
	"net"
	"slices"
	"time"

	driver "github.com/go-sql-driver/mysql"
	"gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"widetally/core/study"
)

// Store is a connection to the database.
type Store struct {
	db    *gorm.DB
	bulk  *gorm.DB // its parameters are bytes
	turns *turns
}

// What one application takes from the server.
const (
	mostConnections     = 16
	mostBulkConnections = 4
)

// Open connects to the database at dsn (in the form of the Go driver) and brings
// its tables to the newest version.
func Open(ctx context.Context, dsn string) (*Store, error) {
	c, err := mysqlConfig(dsn)
	if err != nil {
		return nil, err
	}
	db, pool, err := connected(c, mostConnections)
	if err != nil {
		return nil, err
	}
	s := &Store{db: db, turns: &turns{by: map[uint64]*turn{}}}
	if err := migrate(ctx, db, pool); err != nil {
		return nil, errors.Join(fmt.Errorf("store: bringing the tables up to date: %w", translate(err)), s.Close())
	}
	// The server looks through every text that it is given, letter by letter, and a column of
	// answers that is sent in letters is one to it: that takes longer than storing it.
	c = c.Clone()
	c.Collation = "binary"
	c.InterpolateParams = false // columns would be sent as letters, each of which may have to be quoted
	if s.bulk, _, err = connected(c, mostBulkConnections); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

func connected(c *driver.Config, most int) (*gorm.DB, *sql.DB, error) {
	db, err := gorm.Open(mysql.New(mysql.Config{DSNConfig: c}), &gorm.Config{
		Logger: logger.Discard, TranslateError: true, SkipDefaultTransaction: true, NowFunc: now,
		// Statements are prepared for one run and closed. Kept ones would add up to the
		// server's limit, and the library lets a transaction wait for a statement that is
		// being prepared on a connection which is not to be had before it ends.
		PrepareStmt: false,
	})
	if err != nil {
		return nil, nil, fmt.Errorf("store: connecting: %w", err)
	}
	pool, err := db.DB()
	if err != nil {
		return nil, nil, fmt.Errorf("store: %w", err)
	}
	pool.SetMaxOpenConns(most)
	pool.SetMaxIdleConns(most / 2)
	pool.SetConnMaxLifetime(30 * time.Minute)
	return db, pool, nil
}

// Ready is nil where the database answers.
func (s *Store) Ready(ctx context.Context) error {
	pool, err := s.db.DB()
	if err == nil {
		err = pool.PingContext(ctx)
	}
	return translate(err)
}

// Pools are the pools of connections, by name.
func (s *Store) Pools() map[string]*sql.DB {
	out := map[string]*sql.DB{}
	for name, db := range map[string]*gorm.DB{"main": s.db, "bulk": s.bulk} {
		if pool, err := db.DB(); err == nil {
			out[name] = pool
		}
	}
	return out
}

// Close gives the connections back.
func (s *Store) Close() error {
	var errs []error
	for _, db := range []*gorm.DB{s.db, s.bulk} {
		if db == nil {
			continue
		}
		pool, err := db.DB()
		if err == nil {
			err = pool.Close()
		}
		errs = append(errs, err)
	}
	return errors.Join(errs...)
}

// now is the time as the database keeps it: UTC, to the millisecond.
func now() time.Time { return time.Now().UTC().Truncate(time.Millisecond) }

func translate(err error) error {
	var said *driver.MySQLError
	switch {
	case err == nil:
		return nil
	case errors.Is(err, gorm.ErrRecordNotFound):
		return study.ErrNotFound
	case errors.As(err, &said) && slices.Contains(fullDisk, said.Number):
		return fmt.Errorf("%w: %w", study.ErrFull, err)
	case serverGone(err):
		return fmt.Errorf("%w: %w", study.ErrGone, err)
	}
	return fmt.Errorf("store: %w", err)
}

// serverEnds are the server's errors for a connection that it ends: shutting down, killed.
var serverEnds = []uint16{1053, 1927, 1129, 1040}

// serverGone reports whether an error says that the server is not there.
func serverGone(err error) bool {
	var said *driver.MySQLError
	var network *net.OpError
	return errors.As(err, &network) || errors.Is(err, driver.ErrInvalidConn) || errors.Is(err, sqldriver.ErrBadConn) || errors.As(err, &said) && slices.Contains(serverEnds, said.Number)
}

// fullDisk are the server's errors for a disk without room: disk full, record file full,
// error from a handler of temporary tables, error writing a file.
var fullDisk = []uint16{1021, 1114, 1026, 3}

// edited turns the outcome of an update guarded by a version into an error.
func edited(tx *gorm.DB) error {
	if tx.Error != nil {
		return translate(tx.Error)
	}
	if tx.RowsAffected == 0 {
		return study.ErrStale
	}
	return nil
}
