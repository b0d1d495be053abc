package cluster

import (
	"context"
	"fmt"
	"os"
)

// Throwaway starts a cluster in a temporary directory for tests, and gives a function
// that stops it and leaves nothing behind.
func Throwaway(ctx context.Context) (*Cluster, func() error, error) {
	dir, err := os.MkdirTemp("", "grandledger-test-")
	if err != nil {
		return nil, nil, err
	}
	if err := os.Chmod(dir, 0o711); err != nil {
		return nil, nil, err
	}
	c, err := Start(ctx, dir)
	if err != nil {
		os.RemoveAll(dir)
		return nil, nil, fmt.Errorf("starting a cluster for the tests: %w", err)
	}
	return c, func() error {
		if err := c.Stop(); err != nil {
			return err
		}
		return os.RemoveAll(dir)
	}, nil
}
