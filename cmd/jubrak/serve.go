package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"jubrak/app/api"
	"jubrak/demo"
	"jubrak/web"
)

func serveCommand() *cobra.Command {
	var addr, data string
	c := &cobra.Command{
		Use: "serve", Short: "Start the application", Args: exactly(0, "no arguments"),
		RunE: func(c *cobra.Command, _ []string) error { return serve(c.Context(), addr, data, false) },
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:7878", "address on this machine")
	c.Flags().StringVar(&data, "data", dataDir(), "folder for projects")
	return c
}

func demoCommand() *cobra.Command {
	var addr, data string
	c := &cobra.Command{
		Use: "demo", Short: "Start the application on a data folder filled with the demo", Args: exactly(0, "no arguments"),
		RunE: func(c *cobra.Command, _ []string) error { return serve(c.Context(), addr, data, true) },
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:7878", "address on this machine")
	c.Flags().StringVar(&data, "data", filepath.Join(dataDir(), "demo"), "folder for the demo's projects")
	return c
}

// serve runs the application until ctx ends, then lets open requests finish.
func serve(ctx context.Context, addr, data string, seed bool) error {
	host, _, err := net.SplitHostPort(addr)
	if ip := net.ParseIP(host); err != nil || (host != "localhost" && (ip == nil || !ip.IsLoopback())) {
		return fmt.Errorf("%w: --addr must be an address of this machine alone, such as 127.0.0.1:7878", errUsage)
	}
	log := slog.New(slog.NewTextHandler(os.Stderr, nil))
	work, closeAll, err := openData(data)
	if err != nil {
		return err
	}
	defer closeAll()
	if err := work.Restore(); err != nil {
		return err
	}
	if seed {
		if err := demo.Seed(ctx, work); err != nil {
			return err
		}
	}
	listener, err := net.Listen("tcp", addr)
	if err != nil {
		return fmt.Errorf("%s is taken or not allowed; choose another with --addr (%w)", addr, err)
	}
	server := &http.Server{
		Handler:           api.New(work, web.Files(), log),
		ReadHeaderTimeout: 10 * time.Second,
		BaseContext:       func(net.Listener) context.Context { return ctx },
	}
	fmt.Printf("Jubrak is at http://%s\n", listener.Addr())
	ended := make(chan error, 1)
	go func() { ended <- server.Serve(listener) }()
	select {
	case err := <-ended:
		return err
	case <-ctx.Done():
	}
	log.Info("closing")
	grace, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	if err := server.Shutdown(grace); err != nil && !errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return nil
}
