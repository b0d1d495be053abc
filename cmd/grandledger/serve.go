package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"syscall"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"

	"grandledger/core/problem"
	"grandledger/demo"
	"grandledger/server"
	"grandledger/standin"
	"grandledger/store"
	"grandledger/store/cluster"
)

func serveCommand() *cobra.Command {
	var addr, data string
	var withDemo bool
	var from, services []string
	c := &cobra.Command{
		Use:   "serve",
		Short: "Serve the application on this machine",
		Long: "Serve the application on this machine.\n\nA private PostgreSQL cluster is kept in the data directory. With DATABASE_URL set, that " +
			"database is used instead.",
		Args: files(),
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:8460", "where to serve; a loopback address")
	c.Flags().StringVar(&data, "data", "", "the data directory (default "+dataDir()+")")
	c.Flags().BoolVar(&withDemo, "demo", false, "make the demo book")
	c.Flags().StringArrayVar(&from, "files-from", nil, "a directory from which files may be brought in by path; may be given several times")
	c.Flags().StringArrayVar(&services, "authority-at", nil, "an authority, as host:port, that may be asked though its address is private; may be given several times")
	c.RunE = work(func(cmd *cobra.Command, _ []string) error {
		if data == "" {
			data = dataDir()
		}
		return serve(cmd.Context(), addr, data, from, services, withDemo)
	})
	return c
}

// dataDir is where data is kept when nothing is said.
func dataDir() string {
	if os.Getuid() == 0 {
		return "/var/lib/grandledger" // the user postgres cannot walk down to /root
	}
	if dir := os.Getenv("XDG_DATA_HOME"); dir != "" {
		return filepath.Join(dir, "grandledger")
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return "grandledger-data"
	}
	return filepath.Join(home, ".local", "share", "grandledger")
}

func serve(ctx context.Context, addr, data string, from, services []string, withDemo bool) (err error) {
	listener, err := listen(addr)
	if err != nil {
		return err
	}
	defer listener.Close()
	release, err := claim(data)
	if err != nil {
		return err
	}
	defer release()

	url := os.Getenv("DATABASE_URL")
	if url == "" {
		c, err := cluster.Start(ctx, data)
		if err != nil {
			return err
		}
		defer func() {
			if stopErr := c.Stop(); err == nil {
				err = stopErr
			}
		}()
		url = c.URL
	}
	s, err := store.Open(ctx, url)
	if err != nil {
		return err
	}
	defer s.Close()
	if withDemo {
		if err := demo.Open(ctx, s); err != nil {
			return err
		}
	}
	registered := false
	if withDemo {
		if stop := serveRegister(ctx); stop != nil {
			defer stop()
			registered = true
			services = append(services, demoRegister)
		}
	}
	srv, err := server.New(ctx, s, filepath.Join(data, "uploads"), from, services)
	if err != nil {
		return err
	}
	h := &http.Server{Handler: srv.Handler(), ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute,
		BaseContext: func(net.Listener) context.Context { return ctx }}
	asked := ctx // ends when somebody asks for the end
	work, ctx := errgroup.WithContext(ctx)
	work.Go(func() error { return srv.Run(ctx) })
	work.Go(func() error {
		if err := h.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			return err
		}
		return nil
	})
	work.Go(func() error {
		<-ctx.Done()
		patience, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
		defer cancel()
		if err := h.Shutdown(patience); err != nil {
			return h.Close()
		}
		return nil
	})
	fmt.Printf("Grand Ledger is open at http://%s\nCtrl-C closes it\n", listener.Addr())
	if registered {
		fmt.Printf("The demo's vessel register answers at http://%s\n", demoRegister)
	}
	if err := work.Wait(); asked.Err() == nil || !errors.Is(err, context.Canceled) {
		return err
	}
	return nil // the end was asked for while it was still beginning
}

// demoRegister is where the demo's vessel register answers, an authority to be asked.
const demoRegister = "127.0.0.1:8470"

// serveRegister starts it, and gives what ends it; nil where the address is taken, which the demo does without.
func serveRegister(ctx context.Context) func() error {
	a, err := demo.Register(ctx, standin.Trouble{Latency: 20 * time.Millisecond})
	if err != nil {
		return nil
	}
	l, err := net.Listen("tcp", demoRegister)
	if err != nil {
		return nil
	}
	h := &http.Server{Handler: a, ReadHeaderTimeout: 10 * time.Second}
	go h.Serve(l)
	return h.Close
}

// listen takes the address, which must be on the loopback.
func listen(addr string) (net.Listener, error) {
	host, _, err := net.SplitHostPort(addr)
	if err != nil {
		return nil, misuse("--addr %q is not an address such as 127.0.0.1:8460", addr)
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return nil, misuse("--addr %q is not on this machine's loopback, the only place Grand Ledger serves", addr)
	}
	l, err := net.Listen("tcp", addr)
	if errors.Is(err, syscall.EADDRINUSE) {
		return nil, problem.New("Close the other program, or choose another address with --addr", "the address %s is taken", addr)
	}
	return l, err
}

// claim makes sure that one process at a time works in a data directory.
func claim(data string) (release func() error, err error) {
	if err := os.MkdirAll(data, 0o711); err != nil {
		return nil, fmt.Errorf("the data directory cannot be made: %w", err)
	}
	f, err := os.OpenFile(filepath.Join(data, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		f.Close()
		return nil, problem.New("Close it, or choose another directory with --data", "another Grand Ledger works in %s", data)
	}
	return f.Close, nil
}
