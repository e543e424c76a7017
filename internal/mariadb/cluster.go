package mariadb

import (
	"bufio"
	"bytes"
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"syscall"

	"github.com/go-sql-driver/mysql"
)

// Programs are where a cluster's programs are.
type Programs struct {
	root     string // below which they were unpacked; "" where they are installed
	provider string // Galera itself
}

// ErrNoCluster is returned where Galera is not to be had.
var ErrNoCluster = errors.New("a database cluster needs Galera; run make setup-cluster, or install galera-4, rsync and mariadb-server")

// FindPrograms finds the programs of a cluster: those that are installed, or those that make setup-cluster has unpacked below
// the repository's folder.
func FindPrograms(repository string) (Programs, error) {
	for _, root := range []string{"", filepath.Join(repository, "build", "cluster")} {
		if root != "" {
			var err error
			if root, err = filepath.Abs(root); err != nil {
				return Programs{}, fmt.Errorf("mariadb: %w", err)
			}
		}
		for _, lib := range []string{"/usr/lib/galera/libgalera_smm.so", "/usr/lib/libgalera_smm.so"} {
			p := Programs{root, filepath.Join(root, lib)}
			if _, err := os.Stat(p.provider); err != nil {
				continue
			}
			if _, err := p.Find("wsrep_sst_rsync"); err == nil {
				return p, nil
			}
		}
	}
	return Programs{}, ErrNoCluster
}

func (p Programs) folders() (out []string) {
	for _, dir := range []string{"/usr/bin", "/usr/sbin"} {
		out = append(out, filepath.Join(p.root, dir))
	}
	return out
}

// Find finds one of them.
func (p Programs) Find(program string) (string, error) {
	for _, dir := range p.folders() {
		at := filepath.Join(dir, program)
		if info, err := os.Stat(at); err == nil && !info.IsDir() {
			return at, nil
		}
	}
	return find(program)
}

// Command makes a command of one of them.
func (p Programs) Command(program string, args ...string) (*exec.Cmd, error) {
	at, err := p.Find(program)
	if err != nil {
		return nil, err
	}
	c := exec.Command(at, args...)
	c.Env = p.env()
	return c, nil
}

func (p Programs) env() []string {
	env := append(os.Environ(), "PATH="+strings.Join(append(p.folders(), os.Getenv("PATH"), "/usr/sbin"), ":"))
	if p.root != "" {
		env = append(env, "LD_LIBRARY_PATH="+filepath.Join(p.root, "usr/lib/x86_64-linux-gnu")+":"+filepath.Join(p.root, "lib/x86_64-linux-gnu"))
	}
	return env
}

// Member is a node of a cluster: its ports on loopback and those of all.
type Member struct {
	Name string
	// Port is where the database is, Group where the nodes speak with each other (and one more, to hand over what a
	// node missed), Transfer where a whole state is taken over.
	Port, Group, Transfer int
	peers                 []int
	founds                bool // whether it begins the cluster anew
	fast                  bool
	programs              Programs
}

var recovered = regexp.MustCompile(`Recovered position:? *([0-9a-f-]+:[0-9]+)`)

// args are those that make a server a node. Where it was killed, how far it had come is asked first, so that it need not
// take over everything.
func (m *Member) args(s *Server, program string) ([]string, error) {
	as, err := m.handOver(s.dir)
	if err != nil {
		return nil, err
	}
	var all []string
	for _, p := range m.peers {
		all = append(all, loopback(p))
	}
	// Who has been silent for so long is left out by the others, which do nothing until then. The other times stay as they are: with
	// shorter ones two nodes that lose the third may lose each other, too, and stop.
	const timing = "evs.keepalive_period=PT0.5S;evs.suspect_timeout=PT2.5S;"
	args := []string{"--wsrep-on=ON", "--wsrep-provider=" + m.programs.provider, "--wsrep-cluster-name=widetally", "--wsrep-cluster-address=gcomm://" + strings.Join(all, ","),
		"--wsrep-node-name=" + m.Name, "--wsrep-node-address=" + loopback(m.Group), "--wsrep-node-incoming-address=" + loopback(m.Port), "--wsrep-sst-receive-address=" + loopback(m.Transfer),
		"--wsrep-sst-method=rsync", "--user=" + as.Username, "--wsrep-slave-threads=2", "--binlog-format=ROW", "--default-storage-engine=InnoDB", "--innodb-autoinc-lock-mode=2",
		"--wsrep-provider-options=" + timing + fmt.Sprintf("gmcast.listen_addr=tcp://%s;base_port=%d;ist.recv_addr=%s;gcache.size=128M;gcache.page_size=64M", loopback(m.Group), m.Group, loopback(m.Group+1))}
	if m.fast {
		args = append(args, "--innodb-flush-log-at-trx-commit=2")
	}
	if m.founds {
		args = append(args, "--wsrep-new-cluster")
		state := s.path("data/grastate.dat")
		raw, err := os.ReadFile(state)
		if errors.Is(err, os.ErrNotExist) {
			return args, nil
		}
		if err != nil {
			return nil, fmt.Errorf("mariadb: %w", err)
		}
		return args, os.WriteFile(state, bytes.Replace(raw, []byte("safe_to_bootstrap: 0"), []byte("safe_to_bootstrap: 1"), 1), 0o600)
	}
	if _, err := os.Stat(s.path("data/grastate.dat")); err != nil {
		return args, nil
	}
	ask := exec.Command(program, "--no-defaults", "--wsrep-recover", "--wsrep-on=ON", "--wsrep-provider="+m.programs.provider, "--datadir="+s.path("data"), "--user="+as.Username, "--log-error=",
		"--tmpdir="+s.path("tmp"), "--innodb-log-file-size=192M", "--skip-networking", "--socket=recover.sock", "--pid-file="+s.path("recover.pid"))
	ask.Env, ask.Dir = m.programs.env(), s.dir
	out, _ := ask.CombinedOutput() // without a position everything is taken over
	if at := recovered.FindSubmatch(out); at != nil {
		args = append(args, "--wsrep-start-position="+string(at[1]))
	}
	return args, nil
}

// handOver gives a node's folder to who runs it, and tells who that is: whoever runs this, but nobody in place of the
// administrator, since the program by which states are taken over refuses to write as such.
func (m *Member) handOver(dir string) (*user.User, error) {
	as, err := user.Current()
	if err == nil && as.Uid == "0" {
		if as, err = user.Lookup("nobody"); err == nil {
			uid, _ := strconv.Atoi(as.Uid)
			gid, _ := strconv.Atoi(as.Gid)
			err = filepath.WalkDir(dir, func(path string, _ os.DirEntry, err error) error {
				if err != nil {
					return err
				}
				return os.Lchown(path, uid, gid)
			})
		}
	}
	if err != nil {
		return nil, fmt.Errorf("mariadb: %w", err)
	}
	return as, nil
}

func loopback(port int) string { return net.JoinHostPort("127.0.0.1", strconv.Itoa(port)) }

var errNotSynced = errors.New("the node is not part of its cluster yet")

// synced is nil where a node has all that its cluster has, and is with the majority.
func synced(ctx context.Context, db *sql.DB) error {
	rows, err := db.QueryContext(ctx, "SHOW GLOBAL STATUS WHERE variable_name IN ('wsrep_cluster_status', 'wsrep_local_state_comment')")
	if err != nil {
		return err
	}
	defer rows.Close()
	ok := 0
	for rows.Next() {
		var name, value string
		if err := rows.Scan(&name, &value); err != nil {
			return err
		}
		if value == "Primary" || value == "Synced" {
			ok++
		}
	}
	if err := rows.Err(); err != nil {
		return err
	}
	if ok != 2 {
		return errNotSynced
	}
	return nil
}

// Cluster is a database cluster on loopback, for trying out and for tests.
type Cluster struct {
	nodes []*Server
	opts  []Options
	dirs  []string
}

// StartCluster starts a cluster of so many nodes below a folder; what it kept before is there again. With fast set the nodes
// write to the disk once a second, which is enough where they do not lose power at once.
func StartCluster(ctx context.Context, dir string, n int, programs Programs, opt Options, fast bool) (*Cluster, error) {
	c := &Cluster{}
	ports, err := freePorts(4 * n)
	if err != nil {
		return nil, err
	}
	secret, err := sharedSecret(filepath.Join(dir, "password"))
	if err != nil {
		return nil, err
	}
	var peers []int
	for i := range n {
		peers = append(peers, ports[4*i+1])
	}
	for i := range n {
		name := "n" + strconv.Itoa(i+1)
		one := opt
		one.Member = &Member{Name: name, Port: ports[4*i], Group: ports[4*i+1], Transfer: ports[4*i+3], peers: peers, fast: fast, programs: programs}
		c.opts, c.dirs, c.nodes = append(c.opts, one), append(c.dirs, filepath.Join(dir, name)), append(c.nodes, nil)
		if err := os.MkdirAll(c.dirs[i], 0o700); err != nil {
			return nil, fmt.Errorf("mariadb: %w", err)
		}
		if err := os.WriteFile(filepath.Join(c.dirs[i], "password"), []byte(secret), 0o600); err != nil {
			return nil, fmt.Errorf("mariadb: %w", err)
		}
	}
	first := c.newest()
	for i := range n {
		i = (first + i) % n
		c.opts[i].Member.founds = i == first
		err = c.Start(ctx, i)
		c.opts[i].Member.founds = false
		if err != nil {
			c.Stop()
			return nil, err
		}
	}
	return c, nil
}

func sharedSecret(file string) (string, error) {
	if raw, err := os.ReadFile(file); err == nil && len(raw) >= 32 {
		return string(raw), nil
	}
	raw := make([]byte, 24)
	if _, err := rand.Read(raw); err != nil {
		return "", fmt.Errorf("mariadb: %w", err)
	}
	if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
		return "", fmt.Errorf("mariadb: %w", err)
	}
	secret := hex.EncodeToString(raw)
	return secret, os.WriteFile(file, []byte(secret), 0o600)
}

// freePorts finds free ports, every fourth pair of which follow each other.
func freePorts(n int) (out []int, err error) {
	for len(out) < n {
		p, err := freePort()
		if err != nil {
			return nil, err
		}
		l, err := net.Listen("tcp", loopback(p+1))
		if err != nil {
			continue
		}
		l.Close()
		if len(out)%4 == 1 {
			out = append(out, p, p+1)
			continue
		}
		out = append(out, p)
	}
	return out, nil
}

// newest is the node that was ended last, where all were ended in order.
func (c *Cluster) newest() int {
	at, most := 0, int64(-2)
	for i, dir := range c.dirs {
		f, err := os.Open(filepath.Join(dir, "data", "grastate.dat"))
		if err != nil {
			continue
		}
		for lines := bufio.NewScanner(f); lines.Scan(); {
			text, is := strings.CutPrefix(lines.Text(), "seqno:")
			if n, err := strconv.ParseInt(strings.TrimSpace(text), 10, 64); is && err == nil && n > most {
				at, most = i, n
			}
		}
		f.Close()
	}
	return at
}

// Start starts a node that is not running, and waits until it has all that the others have.
func (c *Cluster) Start(ctx context.Context, i int) (err error) {
	c.nodes[i], err = Start(ctx, c.dirs[i], c.opts[i])
	return err
}

// StopNode ends a node in order.
func (c *Cluster) StopNode(i int) {
	if c.nodes[i] != nil {
		c.nodes[i].Stop()
		c.nodes[i] = nil
	}
}

// Kill ends a node at once.
func (c *Cluster) Kill(i int) {
	if s := c.nodes[i]; s != nil {
		_ = s.cmd.Process.Kill()
		<-s.exited
		s.lock.Close()
		c.nodes[i] = nil
	}
}

// Freeze has a node stop without a word, as a machine does whose network is gone; Thaw has it go on.
func (c *Cluster) Freeze(i int) { _ = c.nodes[i].cmd.Process.Signal(syscall.SIGSTOP) }

// Thaw has a frozen node go on.
func (c *Cluster) Thaw(i int) { _ = c.nodes[i].cmd.Process.Signal(syscall.SIGCONT) }

// Isolate cuts the network between a node and the others, or mends it.
func (c *Cluster) Isolate(ctx context.Context, i int, cut bool) error {
	db, err := sql.Open("mysql", c.nodes[i].rootDSN())
	if err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	defer db.Close()
	_, err = db.ExecContext(ctx, fmt.Sprintf("SET GLOBAL wsrep_provider_options = 'gmcast.isolate=%d'", map[bool]int{true: 1}[cut]))
	return err
}

// rootDSN is the address for the server's own administrator, through its socket.
func (s *Server) rootDSN() string {
	c := mysql.NewConfig()
	me, _ := user.Current()
	c.User, c.Net, c.Addr = me.Username, "unix", s.path("data/server.sock")
	return c.FormatDSN()
}

// DSN is the address of these nodes, in the order in which they are to be tried; of all without any.
func (c *Cluster) DSN(nodes ...int) string {
	var at []string
	for i := range c.nodes {
		if len(nodes) == 0 {
			at = append(at, loopback(c.opts[i].Member.Port))
		}
	}
	for _, i := range nodes {
		at = append(at, loopback(c.opts[i].Member.Port))
	}
	secret, _ := os.ReadFile(filepath.Join(c.dirs[0], "password"))
	return account + ":" + string(secret) + "@tcp(" + strings.Join(at, ",") + ")/" + database
}

// Running reports whether a node was started and not ended.
func (c *Cluster) Running(i int) bool { return c.nodes[i] != nil }

// Stop ends all nodes in order.
func (c *Cluster) Stop() {
	for i := len(c.nodes) - 1; i >= 0; i-- {
		c.StopNode(i)
	}
}

// Process is the id of a node's process.
func (c *Cluster) Process(i int) int { return c.nodes[i].cmd.Process.Pid }

// Address is where a node is.
func (c *Cluster) Address(i int) string { return loopback(c.opts[i].Member.Port) }
