package main

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"time"

	"widetally/internal/operations"
	"widetally/internal/service"
	"widetally/internal/store"
)

// tellOperations tells at an address of its own how the application is; nil where none is given.
func tellOperations(ctx context.Context, addr string, cases *service.Places, kept *store.Store) (*operations.Metrics, error) {
	if addr == "" {
		return nil, nil //nolint:nilnil // nobody reads them
	}
	listener, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, usageError{fmt.Errorf("--operations %s: %w", addr, err)}
	}
	const patience = 10 * time.Second
	m := operations.New(map[string]func() float64{"watching": func() float64 { return float64(cases.Live.Watching()) }})
	m.Pools(kept.Pools())
	server := &http.Server{Handler: m.Handler(kept.Ready), ReadHeaderTimeout: patience, ReadTimeout: patience, WriteTimeout: patience}
	context.AfterFunc(ctx, func() { _ = server.Close() })
	go func() { _ = server.Serve(listener) }() // ends with the context
	fmt.Printf("How it is told at http://%s: /health, /ready, /metrics\n", listener.Addr())
	return m, nil
}
