package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"os"
	"os/signal"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"

	"github.com/spf13/cobra"

	"glossator/server"
	"glossator/store"
)

func serveCommand() *cobra.Command {
	var db, host string
	var port int
	c := &cobra.Command{
		Use:     "serve",
		Short:   "Serves your own database to the browser",
		Example: "  glossator serve --db my-patches.db",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if db == "" {
				dir, err := os.UserConfigDir()
				if err != nil {
					return fmt.Errorf("there is no folder for your data: name a file with --db: %w", err)
				}
				db = filepath.Join(dir, "glossator", "glossator.db")
				if err := os.MkdirAll(filepath.Dir(db), 0o700); err != nil {
					return err
				}
			}
			st, err := store.Open(db)
			if err != nil {
				return err
			}
			defer func() { _ = st.Close() }()
			fmt.Fprintf(cmd.OutOrStdout(), "Your data: %s\n", db)
			sounds := "" // where there is no folder for caches a temporary one will do
			if dir, err := os.UserCacheDir(); err == nil {
				sounds = filepath.Join(dir, "glossator", "sounds")
			}
			return listen(cmd, st, sounds, host, port)
		},
	}
	c.Flags().StringVar(&db, "db", "", "database file; made where there is none (default: your configuration folder)")
	address(c, &host, &port)
	return c
}

func demoCommand() *cobra.Command {
	var host string
	var port int
	c := &cobra.Command{
		Use:   "demo",
		Short: "Serves the demo data from a fresh temporary database",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			dir, err := os.MkdirTemp("", "glossator-demo-")
			if err != nil {
				return err
			}
			defer func() { _ = os.RemoveAll(dir) }()
			st, err := store.Open(filepath.Join(dir, "demo.db"))
			if err != nil {
				return err
			}
			defer func() { _ = st.Close() }()
			if _, err := server.LoadSample(st); err != nil {
				return err
			}
			return listen(cmd, st, filepath.Join(dir, "sounds"), host, port)
		},
	}
	address(c, &host, &port)
	return c
}

func address(c *cobra.Command, host *string, port *int) {
	c.Flags().StringVar(host, "host", "127.0.0.1", "address to listen on; others than loopback let the network in")
	c.Flags().IntVar(port, "port", 8737, "port; 0 takes a free one")
}

// listen serves until an interrupt and prints the address once it answers.
func listen(cmd *cobra.Command, st *store.Store, sounds, host string, port int) error {
	if strings.TrimSpace(host) == "" {
		return usageError{errors.New("--host: expected an address, such as 127.0.0.1: none would mean all of them")}
	}
	if ip := net.ParseIP(host); ip != nil && ip.IsUnspecified() {
		return fmt.Errorf("--host %s: name the address that the other device will use, such as 192.168.1.20: requests under any other name are refused", host)
	}
	ctx, stop := signal.NotifyContext(cmd.Context(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	l, err := net.Listen("tcp", net.JoinHostPort(host, strconv.Itoa(port)))
	if err != nil {
		return fmt.Errorf("%w: choose another with --port", err)
	}
	log := slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelWarn}))
	shown := l.Addr().(*net.TCPAddr)
	at := net.JoinHostPort(host, strconv.Itoa(shown.Port))
	address := ""
	if !shown.IP.IsLoopback() {
		address = "http://" + at + "/"
	}
	srv := server.New(server.Config{Store: st, Sounds: sounds, Hosts: []string{host}, Log: log, Address: address, Version: Version})
	if ip := net.ParseIP(host); ip != nil && !ip.IsLoopback() {
		fmt.Fprintln(cmd.ErrOrStderr(), "Careful: this address can be reached from the network, and there is no password.")
	}
	printAddress(cmd.OutOrStdout(), at)
	if err := srv.Serve(ctx, l); err != nil && !errors.Is(err, context.Canceled) {
		return err
	}
	return nil
}

func printAddress(w io.Writer, hostport string) {
	fmt.Fprintf(w, "Glossator is at http://%s/ (stop it with Ctrl+C)\n", hostport)
}
