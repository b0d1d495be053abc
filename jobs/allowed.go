package jobs

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"grandledger/core/problem"
)

// allowed are the directories of the server's own disk from which files may be read.
type allowed []string

// open opens a file by its path. The directory is opened first and the rest of the path
// walked inside it, so that no link and no .. leads out of it.
func (a allowed) open(path string) (*os.File, error) {
	if !filepath.IsAbs(path) {
		return nil, problem.New("Write it from the root, like /srv/deliveries/march.csv", "%q is not a whole path", path)
	}
	path = filepath.Clean(path)
	for _, dir := range a {
		rest, inside := strings.CutPrefix(path, strings.TrimSuffix(dir, "/")+"/")
		if !inside {
			continue
		}
		root, err := os.OpenRoot(dir)
		if err != nil {
			return nil, problem.New("Tell the operator", "the directory %s cannot be opened", dir)
		}
		defer root.Close()
		f, err := root.Open(rest)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			return nil, problem.New("Check its spelling", "there is no file %s", path)
		case err != nil:
			return nil, problem.New("Choose another file", "%s cannot be opened: it leads out of %s, or may not be read", path, dir)
		}
		if st, err := f.Stat(); err != nil || !st.Mode().IsRegular() {
			f.Close()
			return nil, problem.New("Choose a file", "%s is not a file", path)
		}
		return f, nil
	}
	remedy := "Start Grand Ledger with --files-from and a directory, then choose a file in it"
	if len(a) > 0 {
		remedy = "Choose one in " + strings.Join(a, " or ")
	}
	return nil, problem.New(remedy, "files of this place may not be read: %s", path)
}

// Allow makes ready to read files from directories of the server's own disk.
func (q *Queue) Allow(directories []string) error {
	q.allowed = nil
	for _, dir := range directories {
		whole, err := filepath.Abs(dir)
		if err != nil {
			return err
		}
		if st, err := os.Stat(whole); err != nil || !st.IsDir() {
			return problem.New("Name one that exists", "%s is not a directory", dir)
		}
		q.allowed = append(q.allowed, whole)
	}
	return nil
}
