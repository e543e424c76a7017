// Command try brings files in through the API as they are, each into a study of its own, and
// compares every table with what the standard library counts: for files that others wrote.
package main

import (
	"context"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"widetally/internal/mariadb"
)

func main() {
	if len(os.Args) < 2 {
		fmt.Fprintln(os.Stderr, "name files with a row per respondent: make try FILES=…")
		os.Exit(2)
	}
	different, err := run(os.Args[1:])
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
	}
	if err != nil || different > 0 {
		os.Exit(1)
	}
}

func run(files []string) (different int, err error) {
	dir, err := os.MkdirTemp("", "widetally try ")
	if err != nil {
		return 0, err
	}
	defer os.RemoveAll(dir)
	ctx := context.Background()
	server, err := mariadb.Start(ctx, dir, mariadb.Options{Throwaway: true})
	if err != nil {
		return 0, err
	}
	defer server.Stop()
	stopped := make(chan os.Signal, 1)
	signal.Notify(stopped, os.Interrupt, syscall.SIGTERM, syscall.SIGPIPE)
	go func() { // the server is no child that ends with its parent
		<-stopped
		server.Stop()
		_ = os.RemoveAll(dir)
		os.Exit(1)
	}()
	api, end, err := serve(ctx, server.DSN(), dir)
	if err != nil {
		return 0, err
	}
	defer end()
	tables := 0
	for _, file := range files {
		told, err := api.try(file)
		if err != nil {
			return different, fmt.Errorf("%s: %w", file, err)
		}
		fmt.Println(told)
		tables, different = tables+told.tables, different+len(told.differences)
	}
	fmt.Printf("%d files, %d tables, %d differ\n", len(files), tables, different)
	return different, nil
}
