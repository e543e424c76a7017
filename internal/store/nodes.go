package store

import (
	"context"
	"database/sql"
	sqldriver "database/sql/driver"
	"errors"
	"fmt"
	"io"
	"net"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	driver "github.com/go-sql-driver/mysql"
)

// How long a server may take: until it answers the first word, and how long one that is being waited
// for may be silent before it is asked whether it is still there. Two of them are what somebody waits
// who is told that the database is gone.
const (
	dialTime  = 1500 * time.Millisecond
	silence   = 500 * time.Millisecond
	askTime   = 1200 * time.Millisecond
	lookEvery = 100 * time.Millisecond
	lateBy    = 4 * lookEvery
)

// nodes are the servers at which the database is to be had, in the order in which they are tried: one, or
// those of a cluster. A server that has stopped without a word (its machine lost, its network cut) is
// found by asking it, on a connection of its own, as soon as somebody waits for it; all that wait are told.
type nodes struct {
	each []*node
	stop context.CancelFunc
	done sync.WaitGroup
}

type node struct {
	address string
	ask     *sql.DB // of one connection
	mu      sync.Mutex
	open    map[*line]struct{}
	lost    time.Time // since when it has been found gone; zero where it answers
}

// line is a connection that notes since when its server has been waited for.
type line struct {
	net.Conn
	of    *node
	mu    sync.Mutex
	since time.Time
}

func (l *line) waited(since time.Time) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.since = since
}

func (l *line) Write(p []byte) (int, error) {
	l.waited(time.Now())
	defer l.waited(time.Time{})
	return l.Conn.Write(p)
}

func (l *line) Read(p []byte) (int, error) {
	l.waited(time.Now())
	defer l.waited(time.Time{})
	return l.Conn.Read(p)
}

// SyscallConn lets the driver see whether a connection of the pool has been closed by the server meanwhile.
func (l *line) SyscallConn() (syscall.RawConn, error) {
	conn, ok := l.Conn.(syscall.Conn)
	if !ok {
		return nil, errors.ErrUnsupported
	}
	return conn.SyscallConn()
}

func (l *line) Close() error {
	l.of.mu.Lock()
	delete(l.of.open, l)
	l.of.mu.Unlock()
	return l.Conn.Close()
}

func (l *line) silent() bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	return !l.since.IsZero() && time.Since(l.since) > silence
}

var severalAddresses = regexp.MustCompile(`^(.*@tcp\()([^()]*,[^()]*)(\)/.*)$`)

// addresses splits an address of a database that names several servers into one of each.
func addresses(dsn string) (out []string) {
	parts := severalAddresses.FindStringSubmatch(dsn)
	if parts == nil {
		return []string{dsn}
	}
	for _, one := range strings.Split(parts[2], ",") {
		out = append(out, parts[1]+strings.TrimSpace(one)+parts[3])
	}
	return out
}

// findNodes reads an address of a database, in which several servers may be named: user:password@tcp(a:3306,b:3306)/name.
func findNodes(dsn string) (*nodes, []*driver.Config, error) {
	ctx, stop := context.WithCancel(context.Background())
	out := &nodes{stop: stop}
	var configs []*driver.Config
	for _, one := range addresses(dsn) {
		c, err := driver.ParseDSN(one)
		if err != nil {
			stop()
			return nil, nil, fmt.Errorf("store: the database address cannot be read (user:password@tcp(host:3306)/name, several as host:3306,other:3306): %w", err)
		}
		n := &node{address: c.Addr, open: map[*line]struct{}{}}
		c.Timeout, c.Logger = dialTime, &driver.NopLogger{}
		dialer := &net.Dialer{Timeout: dialTime}
		c.DialFunc = func(ctx context.Context, network, address string) (net.Conn, error) {
			conn, err := dialer.DialContext(ctx, network, address)
			if err != nil {
				return nil, err
			}
			l := &line{Conn: conn, of: n}
			n.mu.Lock()
			defer n.mu.Unlock()
			n.open[l] = struct{}{}
			return l, nil
		}
		asking := c.Clone()
		asking.DialFunc = dialer.DialContext
		ask, err := driver.NewConnector(asking)
		if err != nil {
			stop()
			return nil, nil, fmt.Errorf("store: %w", err)
		}
		n.ask = sql.OpenDB(ask)
		n.ask.SetMaxOpenConns(1)
		out.each, configs = append(out.each, n), append(configs, c)
	}
	out.done.Go(func() { out.watch(ctx) })
	return out, configs, nil
}

func (s *nodes) close() {
	s.stop()
	s.done.Wait()
	for _, n := range s.each {
		n.ask.Close()
	}
}

// watch asks each server that somebody waits for in vain, or that was found gone, whether it is there.
func (s *nodes) watch(ctx context.Context) {
	var asking sync.WaitGroup
	defer asking.Wait()
	busy := make([]chan struct{}, len(s.each))
	for i := range busy {
		busy[i] = make(chan struct{}, 1)
	}
	// A machine that has no time for this process has none for a server beside it either: what is not answered then tells nothing.
	var late atomic.Int64
	last := time.Now()
	for tick := time.NewTicker(lookEvery); ; {
		select {
		case <-ctx.Done():
			tick.Stop()
			return
		case <-tick.C:
		}
		if now := time.Now(); now.Sub(last) > lateBy {
			late.Store(now.UnixNano())
		}
		last = time.Now()
		for i, n := range s.each {
			if !n.doubtful() {
				continue
			}
			select {
			case busy[i] <- struct{}{}:
				asking.Go(func() {
					began := time.Now()
					within, cancel := context.WithTimeout(ctx, askTime)
					err := n.ask.PingContext(within)
					silent := within.Err() != nil
					cancel()
					if ctx.Err() == nil && (!silent || late.Load() < began.UnixNano()) {
						n.settle(err == nil)
					}
					<-busy[i]
				})
			default:
			}
		}
	}
}

// doubtful reports whether it is not known that a server is there.
func (n *node) doubtful() bool {
	n.mu.Lock()
	defer n.mu.Unlock()
	for l := range n.open {
		if l.silent() {
			return true
		}
	}
	return !n.lost.IsZero()
}

// settle notes whether a server is there; where it is not, who waits for it waits no longer.
func (n *node) settle(there bool) {
	n.mu.Lock()
	defer n.mu.Unlock()
	if there {
		n.lost = time.Time{}
		return
	}
	if n.lost.IsZero() {
		n.lost = time.Now()
	}
	for l := range n.open {
		_ = l.Conn.Close() // which ends its reads
	}
}

func (n *node) gone() bool {
	n.mu.Lock()
	defer n.mu.Unlock()
	return !n.lost.IsZero()
}

// answers asks a server for a word. A node that is not part of its cluster's majority gives none.
func answers(ctx context.Context, conn sqldriver.Conn) error {
	rows, err := conn.(sqldriver.QueryerContext).QueryContext(ctx, "SELECT 1", nil)
	if err != nil {
		return err
	}
	defer rows.Close()
	if err := rows.Next(make([]sqldriver.Value, 1)); !errors.Is(err, io.EOF) {
		return err
	}
	return nil
}

// connector gives connections of one kind to the first server that answers.
type connector struct {
	nodes *nodes
	each  []sqldriver.Connector
}

// kind makes a connector of connections that are set up as the settings of a kind say.
func (s *nodes) kind(configs []*driver.Config, set func(c *driver.Config)) (*connector, error) {
	out := &connector{nodes: s}
	for _, c := range configs {
		c = c.Clone()
		set(c)
		one, err := driver.NewConnector(c)
		if err != nil {
			return nil, fmt.Errorf("store: %w", err)
		}
		out.each = append(out.each, one)
	}
	return out, nil
}

// errSilent says that a server was found gone a moment ago.
var errSilent = &net.OpError{Op: "dial", Net: "tcp", Err: errors.New("the server does not answer")}

// Connect implements driver.Connector.
func (c *connector) Connect(ctx context.Context) (sqldriver.Conn, error) {
	var errs []error
	for i, one := range c.each {
		if c.nodes.each[i].gone() {
			errs = append(errs, errSilent)
			continue
		}
		within, cancel := context.WithTimeout(ctx, dialTime)
		conn, err := one.Connect(within)
		if err == nil && len(c.each) > 1 {
			if err = answers(within, conn); err != nil {
				conn.Close()
			}
		}
		if err == nil {
			cancel()
			return conn, nil
		}
		if within.Err() != nil && ctx.Err() == nil {
			err = errSilent
		}
		cancel()
		errs = append(errs, fmt.Errorf("%s: %w", c.nodes.each[i].address, err))
	}
	return nil, errors.Join(errs...)
}

// Driver implements driver.Connector.
func (c *connector) Driver() sqldriver.Driver { return c.each[0].Driver() }

// pool makes a pool of such connections.
func (c *connector) pool(most int) *sql.DB {
	out := sql.OpenDB(c)
	out.SetMaxOpenConns(most)
	out.SetMaxIdleConns(most / 2)
	out.SetConnMaxLifetime(30 * time.Minute)
	return out
}

// clustered reports whether the first server that answers is a node of a cluster.
func (s *nodes) clustered(ctx context.Context) (bool, error) {
	var errs []error
	for _, n := range s.each {
		var name, on string
		within, cancel := context.WithTimeout(ctx, 2*dialTime)
		err := n.ask.QueryRowContext(within, "SHOW GLOBAL VARIABLES LIKE 'wsrep_on'").Scan(&name, &on)
		cancel()
		if err == nil || errors.Is(err, sql.ErrNoRows) {
			return on == "ON", nil
		}
		errs = append(errs, fmt.Errorf("%s: %w", n.address, err))
	}
	return false, errors.Join(errs...)
}
