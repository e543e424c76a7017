package main

import (
	"cmp"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/url"
	"os"
	"path/filepath"
	"runtime/debug"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/spf13/cobra"

	"widetally/internal/demo"
	"widetally/internal/httpapi"
	"widetally/internal/i18n"
	"widetally/internal/institution"
	"widetally/internal/mariadb"
	"widetally/internal/service"
	"widetally/internal/statistics"
	"widetally/internal/store"
	"widetally/web"
)

const (
	portsTried   = 50
	shutdownTime = 10 * time.Second
)

// serveCommand serves the application, on an empty shelf or with the demo study.
func serveCommand(withDemo bool) *cobra.Command {
	var addr, data, tables string
	var memory int
	var reach reached
	c := &cobra.Command{
		Use: "serve", Short: "Serve the application on an empty shelf", Args: exactly(0),
		Example: "  widetally serve --addr 127.0.0.1:8420 --data ~/surveys",
		RunE: func(c *cobra.Command, _ []string) error {
			ctx := c.Context()
			if tables == "" && withDemo {
				listener, err := net.Listen("tcp", "127.0.0.1:0")
				if err != nil {
					return err
				}
				tables = "http://" + listener.Addr().String()
				go func() { _ = openOffice(ctx, listener, statistics.StandIn{}) }()
			}
			return serve(c, addr, data, tables, memory, withDemo, reach)
		},
	}
	if withDemo {
		c.Use, c.Short, c.Example = "demo", "Serve the application with the demo study", "  widetally demo\n  widetally demo --team --data .data/team"
		c.Flags().BoolVar(&reach.team, "team", false, "with a few people who sign in, each with another role")
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:8420", "address to listen on; a taken port is said and the next free one used")
	c.Flags().StringVar(&data, "data", ".data/"+c.Use, "folder for everything that is kept")
	c.Flags().StringVar(&tables, "office", "", "address of a statistics office, such as http://127.0.0.1:8430; the demo runs a simulated one")
	c.Flags().StringSliceVar(&reach.origins, "origin", nil, "the addresses at which others reach it, such as https://tally.example; people sign in then")
	c.Flags().StringSliceVar(&reach.proxies, "proxy", nil, "the addresses of proxies that pass requests on, which are believed where these come from")
	c.Flags().StringVar(&reach.certificate, "tls-cert", "", "a certificate file (PEM), where no proxy has one")
	c.Flags().StringVar(&reach.key, "tls-key", "", "the key of the certificate (PEM)")
	c.Flags().StringVar(&reach.institution.Issuer, "institution", "", "the address of an institution by which people can sign in (OpenID Connect), such as https://id.fernmouth.example")
	c.Flags().StringVar(&reach.institution.Name, "institution-name", "", "what people call it; its address where it is left out")
	c.Flags().StringVar(&reach.institution.ClientID, "institution-client", "widetally", "the id by which it knows this application; its key is read from WIDETALLY_INSTITUTION_KEY")
	c.Flags().StringVar(&reach.operations, "operations", "", "address such as 127.0.0.1:9420 at which /health, /ready and /metrics tell how it is; nobody signs in there")
	c.Flags().IntVar(&memory, "memory", usualMemory, "MB of memory that the application may take, the database server not counted")
	return c
}

// Of the memory that the application may take, in MB.
const (
	usualMemory = 2048
	leastMemory = 256
)

// reached is how others reach the application.
type reached struct {
	origins, proxies []string
	certificate, key string
	// institution is one by which people can sign in; its issuer is "" where there is none.
	institution institution.Settings
	// operations is the address at which it is told how the application is; "" for nowhere.
	operations string
	// team has the demo begin with a few people who sign in at its own address.
	team bool
}

// check refuses what would let others in without signing in, or over a line that others read.
func (r reached) check(addr string) error {
	host, _, err := splitAddress(addr)
	if err != nil {
		return err
	}
	ip := net.ParseIP(host)
	here := host == "localhost" || ip != nil && ip.IsLoopback()
	if !here && len(r.origins) == 0 {
		return usageError{fmt.Errorf("%s would let everybody in the network read and change the studies, since nobody signs in; say with --origin https://… how others reach it, or use 127.0.0.1", addr)}
	}
	if (r.certificate == "") != (r.key == "") {
		return usageError{errors.New("--tls-cert and --tls-key belong together")}
	}
	if r.institution.Issuer != "" && len(r.origins) == 0 && !r.team {
		return usageError{errors.New("--institution needs --origin: people sign in where others reach it")}
	}
	for _, text := range r.origins {
		at, ok := httpapi.Origin(text)
		if !ok {
			return usageError{fmt.Errorf("--origin %s is no address such as https://tally.example", text)}
		}
		u, _ := url.Parse(at) // as it was read
		if ip := net.ParseIP(u.Hostname()); u.Scheme == "http" && u.Hostname() != "localhost" && (ip == nil || !ip.IsLoopback()) {
			return usageError{fmt.Errorf("--origin %s would send passwords over a line that others read; use https, with --tls-cert and --tls-key or behind a proxy", text)}
		}
	}
	return nil
}

// by is the institution by which people can sign in; nil for none.
func (r reached) by() *institution.Institution {
	if r.institution.Issuer == "" {
		return nil
	}
	s := r.institution
	s.Name = cmp.Or(s.Name, s.Issuer)
	s.ClientKey = cmp.Or(s.ClientKey, os.Getenv("WIDETALLY_INSTITUTION_KEY"))
	return institution.New(s)
}

func serve(c *cobra.Command, addr, data, tables string, memory int, withDemo bool, reach reached) error {
	if memory < leastMemory {
		return fmt.Errorf("--memory %d is too little; it needs at least %d MB", memory, leastMemory)
	}
	if err := reach.check(addr); err != nil {
		return err
	}
	ctx := c.Context()
	words, err := languagesOf(c)
	if err != nil {
		return err
	}
	cases, kept, gone, closeAll, err := openKept(ctx, words.First(), data, tables, memory)
	if err != nil {
		return err
	}
	defer closeAll()
	if len(reach.origins) > 0 {
		known, err := cases.People.Known(ctx)
		if err != nil {
			return err
		}
		if !known {
			return usageError{fmt.Errorf("nobody has an account yet; make the first one with: widetally user add EMAIL --name NAME --data %s", data)}
		}
	}
	if withDemo {
		load := demo.Load
		if reach.team {
			load = demo.LoadTeam
		}
		if err := load(ctx, cases, filepath.Join(data, "demo.making")); err != nil {
			return err
		}
	}
	listener, err := listen(addr)
	if err != nil {
		return err
	}
	if reach.team {
		reach.origins = []string{"http://" + listener.Addr().String()}
		if reach.institution, err = simulatedInstitution(ctx, reach.origins[0]); err != nil {
			return err
		}
	}
	address := "http://" + listener.Addr().String()
	if reach.certificate != "" {
		pair, err := tls.LoadX509KeyPair(reach.certificate, reach.key)
		if err != nil {
			return fmt.Errorf("the certificate cannot be used: %w", err)
		}
		listener = tls.NewListener(listener, &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12})
		address = "https://" + listener.Addr().String()
	}
	if err := os.WriteFile(filepath.Join(data, "address"), []byte(address+"\n"), 0o600); err != nil {
		return err
	}
	log := slog.New(slog.NewTextHandler(os.Stderr, nil))
	metrics, err := tellOperations(ctx, reach.operations, cases, kept)
	if err != nil {
		return err
	}
	app := httpapi.New(httpapi.Config{Places: cases, Words: words, Web: web.Files(), Charts: web.Charts(), Hosts: strings.Fields(os.Getenv("WIDETALLY_HOSTS")), Origins: reach.origins, Institution: reach.by(), Metrics: metrics, Proxies: reach.proxies, AnswerBytes: memory << 20 / 32, Log: log})
	served := make(chan error, 1)
	go func() { served <- app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	if len(reach.origins) > 0 {
		address = strings.Join(reach.origins, " and ")
	}
	fmt.Printf("\nWide Tally is at %s\nCtrl-C stops it.\n\n", address)
	if reach.team {
		fmt.Printf("Sign in with the password “%s” as\n", demo.TeamPassword)
		for _, one := range demo.Team {
			fmt.Printf("  %-26s %s\n", one.Email, one.Role)
		}
		fmt.Println()
	}
	select {
	case err := <-served:
		return err
	case <-gone:
		err = errors.New("the database server ended unexpectedly; start again, nothing that was saved is lost")
	case <-ctx.Done():
		fmt.Println("\nStopping.")
	}
	_ = app.ShutdownWithTimeout(shutdownTime)
	return err
}

// open opens what is kept in a folder: the use cases, which take so many MB of memory, a
// channel that is closed if the database ends, and what closes all.
func open(ctx context.Context, words *i18n.Catalogue, data, tables string, memory int) (cases *service.Places, gone <-chan struct{}, closeAll func(), err error) {
	cases, _, gone, closeAll, err = openKept(ctx, words, data, tables, memory)
	return cases, gone, closeAll, err
}

// openKept does so for who asks the store how it is, too.
func openKept(ctx context.Context, words *i18n.Catalogue, data, tables string, memory int) (cases *service.Places, kept *store.Store, gone <-chan struct{}, closeAll func(), err error) {
	dsn, gone, stopDatabase, err := database(ctx, data)
	if errors.Is(err, mariadb.ErrInUse) {
		where, _ := os.ReadFile(filepath.Join(data, "address"))
		return nil, nil, nil, nil, fmt.Errorf("%w; it is at %s", err, strings.TrimSpace(string(where)))
	}
	if err != nil {
		return nil, nil, nil, nil, err
	}
	kept, err = store.Open(ctx, dsn)
	if err != nil {
		stopDatabase()
		return nil, nil, nil, nil, err
	}
	closeAll = func() {
		if cases != nil {
			cases.Close()
		}
		kept.Close()
		stopDatabase()
	}
	// Half for reading a file, a fifth for what is remembered; the rest is room to work in.
	limit := int64(memory) << 20
	debug.SetMemoryLimit(limit * 9 / 10)
	cases, err = service.New(kept, words, registry, service.Options{Several: os.Getenv("WIDETALLY_DSN") != "", ArrivalsDir: filepath.Join(data, "arrivals"), Office: tables, CacheBytes: int(limit / 8), ReadingBytes: limit / 2})
	if err == nil {
		err = cases.TakeUp(ctx)
	}
	if err != nil {
		closeAll()
		return nil, nil, nil, nil, err
	}
	return cases, kept, gone, closeAll, nil
}

// database returns the address of the database, a channel closed if its server
// ends, and what stops it.
func database(ctx context.Context, data string) (dsn string, gone <-chan struct{}, stop func(), err error) {
	if dsn := os.Getenv("WIDETALLY_DSN"); dsn != "" {
		return dsn, nil, func() {}, os.MkdirAll(data, 0o700)
	}
	server, err := mariadb.Start(ctx, filepath.Join(data, "db"), mariadb.Options{})
	if err != nil {
		return "", nil, nil, err
	}
	return server.DSN(), server.Exited(), server.Stop, nil
}

func splitAddress(addr string) (host, port string, err error) {
	if host, port, err = net.SplitHostPort(addr); err != nil {
		err = fmt.Errorf("the address %q cannot be read; write it like 127.0.0.1:8420", addr)
	}
	return host, port, err
}

// listen takes the address, or the next free port after it.
func listen(addr string) (net.Listener, error) {
	host, portText, err := splitAddress(addr)
	if err != nil {
		return nil, err
	}
	port, err := strconv.Atoi(portText)
	if err != nil {
		return nil, fmt.Errorf("the port %q is no number", portText)
	}
	for i := range portsTried {
		var l net.Listener
		l, err = net.Listen("tcp", net.JoinHostPort(host, strconv.Itoa(port+i)))
		if err == nil {
			return l, nil
		}
		if !errors.Is(err, syscall.EADDRINUSE) {
			break
		}
		fmt.Printf("Port %d is taken, trying the next one.\n", port+i)
	}
	return nil, fmt.Errorf("cannot listen on %s: %w", addr, err)
}
