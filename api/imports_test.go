package api_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
)

// walk hands over the imports of every Go file of a room that is neither a test nor
// made for tests.
func walk(t *testing.T, room string, look func(file string, imports []string, text string)) {
	t.Helper()
	files := 0
	err := filepath.WalkDir(room, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") || strings.Contains(path, "test/") {
			return err
		}
		text, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		f, err := parser.ParseFile(token.NewFileSet(), path, text, parser.ImportsOnly)
		if err != nil {
			return err
		}
		var imports []string
		for _, imp := range f.Imports {
			name, err := strconv.Unquote(imp.Path.Value)
			if err != nil {
				return err
			}
			imports = append(imports, name)
		}
		files++
		look(path, imports, string(text))
		return nil
	})
	if err != nil || files == 0 {
		t.Fatalf("%s: %d files, %v", room, files, err)
	}
}
