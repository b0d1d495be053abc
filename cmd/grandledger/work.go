package main

import (
	"context"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"grandledger/core/problem"
	"grandledger/jobs"
	"grandledger/store"
	"grandledger/store/cluster"
)

func workCommand() *cobra.Command {
	var data string
	c := &cobra.Command{
		Use:   "work",
		Short: "Help with large linkages: take shards from the database of a Grand Ledger that serves, on this host or another",
		Long: "Help with large linkages: take shards from the database of a Grand Ledger that serves.\n\nOn the host that serves, give the same --data; elsewhere give the database by DATABASE_URL. " +
			"Any number of processes may help; one that is killed loses nothing, its shard goes to another.",
		Args: files(),
	}
	c.Flags().StringVar(&data, "data", "", "the data directory of the process that serves (default "+dataDir()+")")
	c.RunE = work(func(cmd *cobra.Command, _ []string) error {
		if data == "" {
			data = dataDir()
		}
		return help(cmd.Context(), data)
	})
	return c
}

func help(ctx context.Context, data string) error {
	url := os.Getenv("DATABASE_URL")
	if url == "" {
		var ok bool
		if url, ok = cluster.Running(data); !ok {
			return problem.New("Start 'grandledger serve' first, or set DATABASE_URL", "no database is running in %s", data)
		}
	}
	s, err := store.Open(ctx, url)
	if err != nil {
		return err
	}
	defer s.Close()
	host, err := os.Hostname()
	if err != nil {
		return err
	}
	name := fmt.Sprintf("%s %d", host, os.Getpid())
	q, err := jobs.Open(ctx, s, jobs.Options{Helper: name})
	if err != nil {
		return err
	}
	if err := q.Start(ctx); err != nil {
		return err
	}
	fmt.Printf("Working as %s\nCtrl-C ends it\n", name)
	<-ctx.Done()
	return q.Stop(context.WithoutCancel(ctx))
}
