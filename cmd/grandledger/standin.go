package main

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/spf13/cobra"

	"grandledger/core/authority"
	"grandledger/standin"
)

func standinCommand() *cobra.Command {
	var addr, id, name string
	var trouble standin.Trouble
	c := &cobra.Command{
		Use:   "standin FILE",
		Short: "Serve a file as an authority over HTTP on this machine, to try one out: slow, erring or refusing as is wished",
		Args:  files("FILE"),
	}
	f := c.Flags()
	f.StringVar(&addr, "addr", "127.0.0.1:8470", "where to serve; a loopback address")
	f.StringVar(&id, "id", "", "the column of identifiers; found where it is left out")
	f.StringVar(&name, "name", "", "the column of names")
	f.DurationVar(&trouble.Latency, "latency", 0, "before each answer")
	f.IntVar(&trouble.Errors, "errors", 0, "one answer in so many is an error")
	f.IntVar(&trouble.Rate, "rate", 0, "requests a second that are answered")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		if name == "" {
			return misuse("--name is needed")
		}
		t, err := read(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		r, err := authority.Open(t, id, []string{name})
		if err != nil {
			return err
		}
		a, err := standin.New(args[0], "entry", t, r.ID, name, trouble)
		if err != nil {
			return err
		}
		l, err := listen(addr)
		if err != nil {
			return err
		}
		h := &http.Server{Handler: a, ReadHeaderTimeout: 10 * time.Second}
		context.AfterFunc(cmd.Context(), func() { h.Close() })
		fmt.Printf("An authority of %d entries answers at http://%s\nCtrl-C ends it\n", t.Rows(), l.Addr())
		if err := h.Serve(l); !errors.Is(err, http.ErrServerClosed) {
			return err
		}
		return nil
	})
	return c
}
