// Cluster tries the application as a large desk runs it, on loopback: three nodes of a database cluster, two processes with the
// demo, and a proxy before them. Everything ends with it; what was kept is there again the next time (make cluster).
package main

import (
	"bufio"
	"cmp"
	"context"
	"errors"
	"flag"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"strings"
	"syscall"

	"widetally/internal/mariadb"
)

func main() {
	program := flag.String("program", "build/widetally", "the application")
	data := flag.String("data", ".data/cluster", "folder for everything that is kept")
	addr := flag.String("addr", "127.0.0.1:8450", "address of the proxy")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := run(ctx, *program, *data, *addr); err != nil {
		fmt.Fprintln(os.Stderr, "cluster:", err)
		os.Exit(1)
	}
}

// processes are those of the application.
const processes = 2

func run(ctx context.Context, program, data, addr string) error {
	programs, err := mariadb.FindPrograms(".")
	if err != nil {
		return err
	}
	fmt.Println("Starting three nodes of a database cluster; the first time takes half a minute.")
	db, err := mariadb.StartCluster(ctx, filepath.Join(data, "db"), 3, programs, mariadb.Options{}, false)
	if err != nil {
		return err
	}
	defer db.Stop()
	for i := range 3 {
		fmt.Printf("  database node n%d, process %d: %s\n", i+1, db.Process(i), db.Address(i))
	}
	var apps []*app
	defer func() {
		for _, a := range apps {
			a.stop()
		}
	}()
	for i := range processes {
		// All write through the first node as long as it is there: one that is written at is the calmest cluster.
		a, err := startApp(ctx, program, filepath.Join(data, fmt.Sprintf("app%d", i+1)), db.DSN(), i == 0)
		if err != nil {
			return err
		}
		apps = append(apps, a)
		fmt.Printf("  application %d, process %d: http://%s, how it is at http://%s/ready\n", i+1, a.cmd.Process.Pid, a.address, a.operations)
	}
	proxy, err := startProxy(programs, data, addr, apps)
	if err != nil {
		return err
	}
	defer proxy.stop()
	fmt.Printf("\nWide Tally is at http://%s\nEnd any of these processes and go on working. Ctrl-C stops all.\n\n", addr)
	select {
	case <-ctx.Done():
		fmt.Println("\nStopping.")
		return nil
	case <-proxy.done:
		return errors.New("the proxy has ended")
	}
}

// child is a process that ends with this one.
type child struct {
	cmd  *exec.Cmd
	done chan struct{}
}

func (c *child) start() error {
	c.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true} // Ctrl-C reaches this process alone, which ends them in order
	if err := c.cmd.Start(); err != nil {
		return err
	}
	c.done = make(chan struct{})
	return nil
}

func (c *child) wait() { _ = c.cmd.Wait(); close(c.done) }

func (c *child) stop() {
	_ = c.cmd.Process.Signal(syscall.SIGTERM)
	<-c.done
}

// app is a process of the application.
type app struct {
	child
	address, operations string
}

func startApp(ctx context.Context, program, data, dsn string, demo bool) (*app, error) {
	how := "serve"
	if demo {
		how = "demo"
	}
	a := &app{}
	a.cmd = exec.Command(program, how, "--addr", "127.0.0.1:0", "--data", data, "--operations", "127.0.0.1:0")
	a.cmd.Env = append(os.Environ(), "WIDETALLY_DSN="+dsn)
	log, err := logTo(data)
	if err != nil {
		return nil, err
	}
	a.cmd.Stderr = log
	out, err := a.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := a.start(); err != nil {
		return nil, err
	}
	known := make(chan struct{})
	go func() {
		told := false
		for lines := bufio.NewScanner(out); lines.Scan(); {
			if _, after, is := strings.Cut(lines.Text(), "How it is told at http://"); is {
				a.operations, _, _ = strings.Cut(after, ":/")
				a.operations, _, _ = strings.Cut(a.operations, ": ")
			}
			if _, after, is := strings.Cut(lines.Text(), "Wide Tally is at http://"); is && !told {
				a.address, told = after, true
				close(known)
			}
		}
		a.wait()
		log.Close()
	}()
	select {
	case <-known:
		return a, nil
	case <-a.done:
		return nil, fmt.Errorf("the application ended at its start; %s tells why", log.Name())
	case <-ctx.Done():
		a.stop()
		return nil, ctx.Err()
	}
}

func logTo(data string) (*os.File, error) {
	if err := os.MkdirAll(data, 0o700); err != nil {
		return nil, err
	}
	return os.OpenFile(filepath.Join(data, "log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
}

// proxySettings passes each request to the process that has least to do and is ready; a question that fails with its process is asked
// of the other.
const proxySettings = `global
  maxconn 4000
defaults
  mode http
  timeout connect 2s
  timeout client 10m
  timeout server 10m
  timeout check 3s
  retries 2
  option redispatch
  option forwardfor
  retry-on conn-failure empty-response 503
frontend desk
  bind %s
  default_backend apps
backend apps
  balance leastconn
  http-request disable-l7-retry unless METH_GET
  option httpchk GET /ready
  default-server inter 500ms fastinter 200ms downinter 500ms rise 1 fall 2
%s`

func startProxy(programs mariadb.Programs, data, addr string, apps []*app) (*child, error) {
	if l, err := net.Listen("tcp", addr); err != nil {
		return nil, err
	} else if err := l.Close(); err != nil {
		return nil, err
	}
	var servers strings.Builder
	for i, a := range apps {
		_, port, err := net.SplitHostPort(a.operations)
		if err != nil {
			return nil, err
		}
		fmt.Fprintf(&servers, "  server app%d %s check port %s\n", i+1, a.address, port)
	}
	file := filepath.Join(data, "haproxy.cfg")
	if err := os.WriteFile(file, fmt.Appendf(nil, proxySettings, addr, servers.String()), 0o600); err != nil {
		return nil, err
	}
	cmd, err := programs.Command("haproxy", "-db", "-f", file)
	if err != nil {
		return nil, err
	}
	log, err := logTo(data)
	if err != nil {
		return nil, err
	}
	cmd.Stdout, cmd.Stderr = log, log
	c := &child{cmd: cmd}
	if err := c.start(); err != nil {
		return nil, cmp.Or(err, log.Close())
	}
	go func() {
		c.wait()
		log.Close()
	}()
	return c, nil
}
