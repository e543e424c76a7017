// Package store keeps studies in MariaDB: questions, answers and claims as
// ordinary rows, columns of answers as compressed, checksummed chunks, and the
// file as it arrived beside them. It is the only package that knows GORM.
package store

import (
	"context"
	"errors"
	"fmt"
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
	turns *turns
}

// mostConnections is what one application takes from the server.
const mostConnections = 16

// Open connects to the database at dsn (in the form of the Go driver) and brings
// its tables to the newest version.
func Open(ctx context.Context, dsn string) (*Store, error) {
	c, err := mysqlConfig(dsn)
	if err != nil {
		return nil, err
	}
	db, err := gorm.Open(mysql.New(mysql.Config{DSNConfig: c}), &gorm.Config{
		Logger: logger.Discard, TranslateError: true, SkipDefaultTransaction: true, NowFunc: now,
		// Statements are prepared for one run and closed. Kept ones would add up to the
		// server's limit, and the library lets a transaction wait for a statement that is
		// being prepared on a connection which is not to be had before it ends.
		PrepareStmt: false,
	})
	if err != nil {
		return nil, fmt.Errorf("store: connecting: %w", err)
	}
	pool, err := db.DB()
	if err != nil {
		return nil, fmt.Errorf("store: %w", err)
	}
	pool.SetMaxOpenConns(mostConnections)
	pool.SetMaxIdleConns(mostConnections / 2)
	pool.SetConnMaxLifetime(30 * time.Minute)
	if err := migrate(ctx, db, pool); err != nil {
		pool.Close()
		return nil, fmt.Errorf("store: bringing the tables up to date: %w", translate(err))
	}
	return &Store{db, &turns{by: map[uint64]*turn{}}}, nil
}

// Close gives the connections back.
func (s *Store) Close() error {
	pool, err := s.db.DB()
	if err != nil {
		return err
	}
	return pool.Close()
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
	}
	return fmt.Errorf("store: %w", err)
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
