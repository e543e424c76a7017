// Package store keeps studies in MariaDB: questions, answers and claims as
// ordinary rows, columns of answers as compressed, checksummed chunks, and the
// file as it arrived beside them. It is the only package that knows GORM.
package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	driver "github.com/go-sql-driver/mysql"
	"gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"widetally/core/study"
)

// Store is a connection to the database.
type Store struct {
	db       *gorm.DB // statements by themselves, and snapshots
	changing *gorm.DB // transactions that change something
	bulk     *gorm.DB // those of much data; its parameters are bytes
	nodes    *nodes
	pools    map[string]*sql.DB
	turns    *turns
}

// What one application takes from the server.
const (
	mostConnections         = 12
	mostChangingConnections = 8
	mostBulkConnections     = 4
)

// Open connects to the database at dsn (in the form of the Go driver; several servers of a cluster are
// named as tcp(a:3306,b:3306) and tried in turn) and brings its tables to the newest version.
func Open(ctx context.Context, dsn string) (_ *Store, err error) {
	s := &Store{turns: &turns{by: map[uint64]*turn{}}, pools: map[string]*sql.DB{}}
	defer func() {
		if err != nil {
			err = errors.Join(err, s.Close())
		}
	}()
	var configs []*driver.Config
	if s.nodes, configs, err = findNodes(dsn); err != nil {
		return nil, err
	}
	clustered, err := s.nodes.clustered(ctx)
	if err != nil {
		return nil, translate(err)
	}
	if s.db, err = s.connected("main", configs, mostConnections, func(c *driver.Config) { settings(c, clustered) }); err != nil {
		return nil, err
	}
	// What follows a transaction that the server has ended unasked is never kept statement by statement.
	chained := func(c *driver.Config) { settings(c, clustered); c.Params["autocommit"] = "0" }
	if s.changing, err = s.connected("changing", configs, mostChangingConnections, chained); err != nil {
		return nil, err
	}
	// The server looks through every text that it is given, letter by letter, and a column of
	// answers that is sent in letters is one to it: that takes longer than storing it.
	if s.bulk, err = s.connected("bulk", configs, mostBulkConnections, func(c *driver.Config) {
		chained(c)
		c.Collation = "binary"
		c.InterpolateParams = false // columns would be sent as letters, each of which may have to be quoted
	}); err != nil {
		return nil, err
	}
	if err := s.migrate(ctx); err != nil {
		return nil, fmt.Errorf("store: bringing the tables up to date: %w", translate(err))
	}
	return s, nil
}

// settings are those of every connection.
func settings(c *driver.Config, clustered bool) {
	if c.Params == nil {
		c.Params = map[string]string{}
	}
	// A transaction sees what others have committed and locks only the rows that it
	// changes, not the gaps between them; what must fit together is read in a Snapshot.
	c.Params["tx_isolation"] = "'READ-COMMITTED'"
	c.Params["innodb_lock_wait_timeout"] = "10"
	if clustered {
		// What is read here is at least as new as what was acknowledged at any other node.
		c.Params["wsrep_sync_wait"] = "3"
	}
	c.ParseTime = true
	c.Collation = "utf8mb4_bin"
	c.MaxAllowedPacket = 64 << 20
	// Values are put into the statement, quoted by the driver: what a node of a cluster ends during a prepared
	// SELECT goes unreported, and a statement takes one round instead of three.
	c.InterpolateParams = true
	// Matched rows, so that an edit that changes nothing is not held for stale.
	c.ClientFoundRows = true
}

func (s *Store) connected(name string, configs []*driver.Config, most int, set func(*driver.Config)) (*gorm.DB, error) {
	c, err := s.nodes.kind(configs, set)
	if err != nil {
		return nil, err
	}
	s.pools[name] = c.pool(most)
	db, err := gorm.Open(mysql.New(mysql.Config{Conn: patient{s.pools[name], s}}), &gorm.Config{
		Logger: logger.Discard, TranslateError: true, SkipDefaultTransaction: true, NowFunc: now,
		// Statements are prepared for one run and closed. Kept ones would add up to the
		// server's limit, and the library lets a transaction wait for a statement that is
		// being prepared on a connection which is not to be had before it ends.
		PrepareStmt: false,
	})
	if err != nil {
		return nil, fmt.Errorf("store: connecting: %w", err)
	}
	return db, nil
}

// Ready is nil where the database answers.
func (s *Store) Ready(ctx context.Context) error {
	return translate(s.pools["main"].QueryRowContext(ctx, "SELECT 1").Scan(new(int)))
}

// Pools are the pools of connections, by name.
func (s *Store) Pools() map[string]*sql.DB { return s.pools }

// Close gives the connections back.
func (s *Store) Close() error {
	var errs []error
	for _, pool := range s.pools {
		errs = append(errs, pool.Close())
	}
	if s.nodes != nil {
		s.nodes.close()
	}
	return errors.Join(errs...)
}

// now is the time as the database keeps it: UTC, to the millisecond.
func now() time.Time { return time.Now().UTC().Truncate(time.Millisecond) }

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
