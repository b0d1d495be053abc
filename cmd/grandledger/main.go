// Command grandledger is the one binary of Grand Ledger: it serves the application and
// has a subcommand for each job of the core, which reads and writes open formats
// without a database. A file named "-" is standard input or output. The balance goes
// to standard error.
//
// Exit status: 0 when all went well, 1 for bad data, 2 for wrong usage, 3 for
// a check of a procedure that does not hold.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"runtime"
	"runtime/debug"
	"syscall"

	"github.com/spf13/cobra"

	"grandledger/core/table"
	"grandledger/procedure"
)

func main() {
	// Never touched, so it takes no memory: it keeps the collector, which runs whenever the heap has
	// grown by a share, from running all the time while the heap is small.
	ballast := make([]byte, 256<<20)
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(table.GCPercent)
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	status := run(ctx, os.Args[1:])
	runtime.KeepAlive(ballast)
	os.Exit(status)
}

func run(ctx context.Context, args []string) int {
	root := &cobra.Command{
		Use:           "grandledger",
		Short:         "Deduplicate, cluster, match, reconcile and join tables; every change an entry that balances",
		SilenceErrors: true,
		SilenceUsage:  true,
	}
	root.CompletionOptions.DisableDefaultCmd = true
	root.AddCommand(serveCommand(), convertCommand(), tallyCommand(), dedupeCommand(), compareCommand(), variantsCommand(), applyCommand(), crosswalkCommand(), linkCommand(), identifyCommand(), settleCommand(), workCommand(), standinCommand(), joinCommand(), runCommand())
	root.SetArgs(args)
	err := root.ExecuteContext(ctx)
	var bad failed
	var unmet procedure.Unmet
	switch {
	case err == nil:
		return 0
	case errors.As(err, &unmet):
		fmt.Fprintln(os.Stderr, "grandledger:", err)
		return 3
	case errors.As(err, &bad):
		fmt.Fprintln(os.Stderr, "grandledger:", bad.error)
		return 1
	}
	fmt.Fprintf(os.Stderr, "grandledger: %v. Try 'grandledger --help'\n", err)
	return 2
}

// failed marks an error of the work itself; all other errors are wrong usage.
type failed struct{ error }

func (f failed) Unwrap() error { return f.error }

// work wraps a command's function so that what it returns is told from wrong usage.
func work(f func(cmd *cobra.Command, args []string) error) func(*cobra.Command, []string) error {
	return func(cmd *cobra.Command, args []string) error {
		err := f(cmd, args)
		var u usage
		if err == nil || errors.As(err, &u) {
			return err
		}
		return failed{err}
	}
}

// usage marks an error in how a command was called.
type usage struct{ error }

func misuse(format string, args ...any) error { return usage{fmt.Errorf(format, args...)} }
