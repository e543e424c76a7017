// Command widetally serves the application.
//
//	widetally serve     on an empty shelf
//	widetally demo      with the demo study
//	widetally analyse   asks a file what a spec asks, with no database
//	widetally office    a small simulated statistics office, with a few invented tables
//
// Flags of the first two: -addr, the address to listen on (127.0.0.1:8420; a taken port is said
// and the next free one used), -data, the folder for everything that is kept, and -office, the
// address of a statistics office; the demo runs the simulated one where none is given.
// Environment: WIDETALLY_DSN names a MariaDB to use instead of a private server;
// WIDETALLY_HOSTS lists further host names under which the application is reached.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/signal"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/internal/demo"
	"widetally/internal/httpapi"
	"widetally/internal/i18n"
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

func main() {
	if err := run(os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, "widetally:", err)
		os.Exit(1)
	}
}

func run(args []string) error {
	command := "serve"
	if len(args) > 0 && !strings.HasPrefix(args[0], "-") {
		command, args = args[0], args[1:]
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM, syscall.SIGHUP)
	defer stop()
	switch command {
	case "analyse":
		return analyse(ctx, args, os.Stdout)
	case "office":
		return office(ctx, args)
	case "serve", "demo":
	default:
		return fmt.Errorf("unknown command %q; there are serve, demo, analyse and office", command)
	}
	flags := flag.NewFlagSet(command, flag.ContinueOnError)
	addr := flags.String("addr", "127.0.0.1:8420", "address to listen on")
	data := flags.String("data", ".data/"+command, "folder for everything that is kept")
	tables := flags.String("office", "", "address of a statistics office, such as http://127.0.0.1:8430")
	if err := flags.Parse(args); err != nil {
		if errors.Is(err, flag.ErrHelp) {
			return nil
		}
		return err
	}
	if *tables == "" && command == "demo" {
		listener, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			return err
		}
		*tables = "http://" + listener.Addr().String()
		go func() { _ = openOffice(ctx, listener, statistics.StandIn{}) }()
	}
	return serve(ctx, *addr, *data, *tables, command == "demo")
}

func serve(ctx context.Context, addr, data, tables string, withDemo bool) error {
	dsn, gone, stopDatabase, err := database(ctx, data)
	if errors.Is(err, mariadb.ErrInUse) {
		where, _ := os.ReadFile(filepath.Join(data, "address"))
		return fmt.Errorf("%w; it is at %s", err, strings.TrimSpace(string(where)))
	}
	if err != nil {
		return err
	}
	defer stopDatabase()
	kept, err := store.Open(ctx, dsn)
	if err != nil {
		return err
	}
	defer kept.Close()
	catalogue, err := i18n.Load("en")
	if err != nil {
		return err
	}
	cases, err := service.New(kept, catalogue, service.Options{ArrivalsDir: filepath.Join(data, "arrivals"), Office: tables})
	if err != nil {
		return err
	}
	if withDemo {
		if err := demo.Load(ctx, cases, filepath.Join(data, "demo.making")); err != nil {
			return err
		}
	}
	listener, err := listen(addr)
	if err != nil {
		return err
	}
	address := "http://" + listener.Addr().String()
	if err := os.WriteFile(filepath.Join(data, "address"), []byte(address+"\n"), 0o600); err != nil {
		return err
	}
	log := slog.New(slog.NewTextHandler(os.Stderr, nil))
	app := httpapi.New(httpapi.Config{Study: cases, Web: web.Files(), Charts: web.Charts(), Hosts: strings.Fields(os.Getenv("WIDETALLY_HOSTS")), Log: log})
	served := make(chan error, 1)
	go func() { served <- app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	fmt.Printf("\nWide Tally is at %s\nCtrl-C stops it.\n\n", address)
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

// listen takes the address, or the next free port after it.
func listen(addr string) (net.Listener, error) {
	host, portText, err := net.SplitHostPort(addr)
	if err != nil {
		return nil, fmt.Errorf("the address %q cannot be read; write it like 127.0.0.1:8420", addr)
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
