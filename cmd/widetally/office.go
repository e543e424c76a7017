package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"net"
	"net/http"
	"time"

	"widetally/internal/statistics"
)

// office runs the simulated statistics office until ctx ends.
func office(ctx context.Context, args []string) error {
	flags := flag.NewFlagSet("office", flag.ContinueOnError)
	addr := flags.String("addr", "127.0.0.1:8430", "address to listen on")
	slow := flags.Duration("slow", 0, "how long each answer takes, such as 10s")
	fail := flags.Bool("fail", false, "answer every request with an error")
	broken := flags.Bool("broken", false, "answer with half a document")
	if err := flags.Parse(args); err != nil {
		if errors.Is(err, flag.ErrHelp) {
			return nil
		}
		return err
	}
	listener, err := listen(*addr)
	if err != nil {
		return err
	}
	fmt.Printf("\nThe statistics office is at http://%s\nCtrl-C stops it.\n\n", listener.Addr())
	return openOffice(ctx, listener, statistics.StandIn{Slow: *slow, Fail: *fail, Broken: *broken})
}

// openOffice serves the office on a listener until ctx ends.
func openOffice(ctx context.Context, listener net.Listener, s statistics.StandIn) error {
	server := &http.Server{Handler: s, ReadHeaderTimeout: 10 * time.Second, WriteTimeout: time.Minute}
	stopped := context.AfterFunc(ctx, func() { _ = server.Close() })
	defer stopped()
	if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}
