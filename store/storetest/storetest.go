// Package storetest gives tests a real PostgreSQL: one throw-away cluster for the
// tests of a package, or the one that TEST_DATABASE_URL names, with a database of its
// own for each test.
package storetest

import (
	"context"
	"fmt"
	"net/url"
	"os"
	"sync/atomic"
	"testing"

	"github.com/jackc/pgx/v5"

	"grandledger/store/cluster"
)

var (
	server string
	count  atomic.Int64
)

// Main runs the tests of a package with a cluster; call it from TestMain.
func Main(m *testing.M) {
	os.Exit(func() int {
		if server = os.Getenv("TEST_DATABASE_URL"); server == "" {
			c, stop, err := cluster.Throwaway(context.Background())
			if err != nil {
				fmt.Fprintln(os.Stderr, err)
				return 1
			}
			server = c.URL
			defer func() {
				if err := stop(); err != nil {
					fmt.Fprintln(os.Stderr, err)
				}
			}()
		}
		return m.Run()
	}())
}

// Database makes an empty database and gives its address; it is dropped with the test.
func Database(t testing.TB) string {
	t.Helper()
	name := fmt.Sprintf("t_%d_%d", os.Getpid(), count.Add(1))
	do(t, "create database "+name)
	t.Cleanup(func() { do(t, "drop database "+name+" with (force)") })
	u, err := url.Parse(server)
	if err != nil {
		t.Fatal(err)
	}
	u.Path = "/" + name
	return u.String()
}

func do(t testing.TB, sql string) {
	t.Helper()
	ctx := context.Background()
	config, err := pgx.ParseConfig(server)
	if err != nil {
		t.Fatal(err)
	}
	delete(config.RuntimeParams, "pool_max_conns")
	conn, err := pgx.ConnectConfig(ctx, config)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close(ctx)
	if _, err := conn.Exec(ctx, sql); err != nil {
		t.Fatal(err)
	}
}
