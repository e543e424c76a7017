// Package store keeps studies in MariaDB: questions, answers and claims as
// ordinary rows, columns of answers as compressed, checksummed chunks, and the
// file as it arrived beside them. It is the only package that knows GORM.
package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	gormigrate "github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// Errors that callers tell apart.
var (
	// ErrNotFound: no such study, question or claim, or it has been deleted.
	ErrNotFound = errors.New("store: not found")
	// ErrStale: the version on which an edit builds is no longer the newest.
	ErrStale = errors.New("store: changed by somebody else meanwhile")
)

// DamagedError says that stored answers do not match their checksum.
type DamagedError struct {
	QuestionID uint64
	Chunk      int
	Cause      error
}

func (e *DamagedError) Error() string {
	return fmt.Sprintf("store: chunk %d of question %d is damaged: %v", e.Chunk, e.QuestionID, e.Cause)
}

func (e *DamagedError) Unwrap() error { return e.Cause }

// Store is a connection to the database.
type Store struct{ db *gorm.DB }

// Open connects to the database at dsn (in the form of the Go driver) and brings
// its tables to the newest version.
func Open(ctx context.Context, dsn string) (*Store, error) {
	c, err := mysqlConfig(dsn)
	if err != nil {
		return nil, err
	}
	db, err := gorm.Open(mysql.New(mysql.Config{DSNConfig: c}), &gorm.Config{
		Logger: logger.Discard, TranslateError: true, SkipDefaultTransaction: true, PrepareStmt: true, NowFunc: now,
	})
	if err != nil {
		return nil, fmt.Errorf("store: connecting: %w", err)
	}
	pool, err := db.DB()
	if err != nil {
		return nil, fmt.Errorf("store: %w", err)
	}
	pool.SetMaxOpenConns(16)
	pool.SetMaxIdleConns(8)
	pool.SetConnMaxLifetime(30 * time.Minute)
	if err := gormigrate.New(db.WithContext(ctx), &gormigrate.Options{TableName: "migrations", IDColumnName: "id", IDColumnSize: 64, UseTransaction: false, ValidateUnknownMigrations: true}, migrations).Migrate(); err != nil {
		pool.Close()
		return nil, fmt.Errorf("store: bringing the tables up to date: %w", err)
	}
	return &Store{db}, nil
}

// Close gives the connections back.
func (s *Store) Close() error {
	pool, err := s.db.DB()
	if err != nil {
		return err
	}
	return pool.Close()
}

// InTx runs f in one transaction: all of it is kept, or nothing.
func (s *Store) InTx(ctx context.Context, f func(tx *Store) error) error {
	return s.db.WithContext(ctx).Transaction(func(db *gorm.DB) error { return f(&Store{db}) })
}

func (s *Store) with(ctx context.Context) *gorm.DB { return s.db.WithContext(ctx) }

// now is the time as the database keeps it: UTC, to the millisecond.
func now() time.Time { return time.Now().UTC().Truncate(time.Millisecond) }

func translate(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("store: %w", err)
	}
	return nil
}

// edited turns the outcome of an update guarded by a version into an error.
func edited(tx *gorm.DB) error {
	if tx.Error != nil {
		return translate(tx.Error)
	}
	if tx.RowsAffected == 0 {
		return ErrStale
	}
	return nil
}
