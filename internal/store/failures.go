package store

import (
	sqldriver "database/sql/driver"
	"errors"
	"fmt"
	"net"
	"slices"
	"strings"

	driver "github.com/go-sql-driver/mysql"
	"gorm.io/gorm"

	"widetally/core/study"
)

// translate says of an error of the database which of those it is that callers tell apart.
func translate(err error) error {
	var said *driver.MySQLError
	switch {
	case err == nil:
		return nil
	case errors.Is(err, gorm.ErrRecordNotFound):
		return study.ErrNotFound
	case errors.Is(err, study.ErrUnsure), errors.Is(err, study.ErrGone), errors.Is(err, study.ErrFull), errors.Is(err, study.ErrTooMuch):
		return err
	case errors.As(err, &said) && slices.Contains(fullDisk, said.Number):
		return fmt.Errorf("%w: %w", study.ErrFull, err)
	case errors.As(err, &said) && (slices.Contains(tooMuch, said.Number) || said.Number == errUnknown && strings.Contains(said.Message, "writeset")):
		return fmt.Errorf("%w: %w", study.ErrTooMuch, err)
	case serverGone(err):
		return fmt.Errorf("%w: %w", study.ErrGone, err)
	}
	return fmt.Errorf("store: %w", err)
}

// serverEnds are the server's errors for a connection that it ends: shutting down, killed, too many; and that of
// a node which is not part of its cluster at the moment.
var serverEnds = []uint16{1053, 1927, 1129, 1040, errNotReady}

const errNotReady = 1047

// serverGone reports whether an error says that the server is not there.
func serverGone(err error) bool {
	var said *driver.MySQLError
	var network *net.OpError
	return errors.As(err, &network) || errors.Is(err, driver.ErrInvalidConn) || errors.Is(err, sqldriver.ErrBadConn) || errors.As(err, &said) && slices.Contains(serverEnds, said.Number)
}

// lostWhileKeeping reports whether an error of COMMIT leaves it open whether it was kept: the connection went, or the node was cut off
// from its cluster while it passed the transaction on.
func lostWhileKeeping(err error) bool {
	var said *driver.MySQLError
	if errors.As(err, &said) && said.Number == errAtCommit {
		return strings.Contains(said.Message, "Not connected")
	}
	return serverGone(err) && !notSent(err)
}

// notSent reports whether an error says that nothing had reached the server, or that it refused to begin.
func notSent(err error) bool {
	var said *driver.MySQLError
	var network *net.OpError
	return errors.Is(err, sqldriver.ErrBadConn) || errors.As(err, &network) && network.Op == "dial" || errors.As(err, &said) && slices.Contains(serverEnds, said.Number)
}

// The server's errors for a transaction that may simply be tried again: deadlock, lock
// wait timeout, record changed since it was read; and the one for a savepoint that is no longer there, which
// only a transaction meets that the server has ended.
const (
	errDeadlock = 1213
	errLockWait = 1205
	errChanged  = 1020
	errNoProof  = 1305
)

// lostToOthers reports whether the server ended a transaction for the sake of another one.
func lostToOthers(err error) bool {
	var said *driver.MySQLError
	return errors.As(err, &said) && slices.Contains([]uint16{errDeadlock, errLockWait, errChanged, errNoProof}, said.Number)
}

// fullDisk are the server's errors for a disk without room: disk full, record file full,
// error from a handler of temporary tables, error writing a file.
var fullDisk = []uint16{1021, 1114, 1026, 3}

// tooMuch are the errors of a cluster for a transaction that is larger than it passes on: an error during
// COMMIT, more than its log holds, a packet that is too large. It says the first thing at times without a number of its own.
var tooMuch = []uint16{errAtCommit, 1197, 1153}

const (
	errAtCommit = 1180
	errUnknown  = 1105
)
