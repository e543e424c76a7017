package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"time"

	"github.com/spf13/cobra"

	"widetally/internal/statistics"
)

// officeCommand runs the simulated statistics office.
func officeCommand() *cobra.Command {
	var addr string
	var s statistics.StandIn
	c := &cobra.Command{
		Use: "office", Short: "Run a small simulated statistics office, with a few invented tables", Args: exactly(0),
		Example: "  widetally office --slow 10s",
		RunE: func(c *cobra.Command, _ []string) error {
			listener, err := listen(addr)
			if err != nil {
				return err
			}
			fmt.Printf("\nThe statistics office is at http://%s\nCtrl-C stops it.\n\n", listener.Addr())
			return openOffice(c.Context(), listener, s)
		},
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:8430", "address to listen on")
	c.Flags().DurationVar(&s.Slow, "slow", 0, "how long each answer takes, such as 10s")
	c.Flags().BoolVar(&s.Fail, "fail", false, "answer every request with an error")
	c.Flags().BoolVar(&s.Broken, "broken", false, "answer with half a document")
	return c
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
