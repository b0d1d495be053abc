package server

import (
	"context"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"grandledger/api"
	"grandledger/core/problem"
	"grandledger/formats"
	"grandledger/formats/database"
	"grandledger/store"
)

// sweep removes received files that no upload knows: what a crash or a connection cut
// off left behind.
func (s *Server) sweep(ctx context.Context) error {
	if err := os.MkdirAll(s.uploads, 0o700); err != nil {
		return err
	}
	known, err := s.store.UploadPaths(ctx)
	if err != nil {
		return err
	}
	files, err := os.ReadDir(s.uploads)
	if err != nil {
		return err
	}
	for _, f := range files {
		if path := filepath.Join(s.uploads, f.Name()); !slices.Contains(known, path) {
			if err := os.Remove(path); err != nil {
				return err
			}
		}
	}
	return nil
}

// Upload receives a file. It is written under a name of our own; the name it came with
// is only shown. A body cut off in the middle leaves nothing behind.
func (s *Server) Upload(ctx context.Context, r api.UploadRequestObject) (api.UploadResponseObject, error) {
	if _, err := s.store.Book(ctx, r.Book); err != nil {
		return nil, err
	}
	u := store.Upload{BookID: r.Book, File: shownName(r.Params.Name)}
	up, err := s.receive(ctx, u, func(w io.Writer) (int64, error) { return io.Copy(w, r.Body) })
	return api.Upload201JSONResponse(up), err
}

// receive writes the bytes of an upload and notes it, or leaves nothing behind.
func (s *Server) receive(ctx context.Context, u store.Upload, write func(w io.Writer) (int64, error)) (up api.Upload, err error) {
	f, err := os.CreateTemp(s.uploads, "upload-*")
	if err != nil {
		return up, err
	}
	kept := false
	defer func() {
		f.Close()
		if !kept {
			os.Remove(f.Name())
		}
	}()
	u.Path, u.Own = f.Name(), true
	if u.Bytes, err = write(f); err != nil {
		return up, err
	}
	if err := f.Close(); err != nil {
		return up, err
	}
	preview, err := s.look(ctx, u, nil)
	if err != nil {
		return up, err
	}
	if u, err = s.store.AddUpload(ctx, u); err != nil {
		return up, err
	}
	kept = true
	return uploadOf(u, preview), nil
}

// ChooseDatabase copies a table or the answer to a query out of a database. Its connection
// string is used for that and forgotten.
func (s *Server) ChooseDatabase(ctx context.Context, r api.ChooseDatabaseRequestObject) (api.ChooseDatabaseResponseObject, error) {
	if _, err := s.store.Book(ctx, r.Book); err != nil {
		return nil, err
	}
	name := "query"
	if what := strings.TrimSpace(r.Body.What); !strings.ContainsAny(what, " \t\r\n(") {
		name = shownName(strings.ReplaceAll(what, `"`, ""))
	}
	how, err := json.Marshal(formats.How{Format: formats.Delimited, Text: &database.Dialect})
	if err != nil {
		return nil, err
	}
	u := store.Upload{BookID: r.Book, File: name + ".csv", How: how}
	up, err := s.receive(ctx, u, func(w io.Writer) (int64, error) {
		counted := &counter{w: w}
		_, err := database.Copy(ctx, counted, r.Body.Connection, r.Body.What, MaxUpload)
		return counted.n, err
	})
	return api.ChooseDatabase201JSONResponse(up), err
}

// counter counts the bytes written through it.
type counter struct {
	w io.Writer
	n int64
}

func (c *counter) Write(p []byte) (int, error) {
	n, err := c.w.Write(p)
	c.n += int64(n)
	return n, err
}

// shownName keeps the last part of a file name and nothing that could be a path.
func shownName(name string) string {
	name = strings.Map(func(r rune) rune {
		if r < ' ' {
			return -1
		}
		return r
	}, name)
	if at := strings.LastIndexAny(name, `/\`); at >= 0 {
		name = name[at+1:]
	}
	if name == "" {
		return "unnamed file"
	}
	return name[:min(len(name), 200)]
}

// ChoosePath takes a file on the server's own disk.
func (s *Server) ChoosePath(ctx context.Context, r api.ChoosePathRequestObject) (api.ChoosePathResponseObject, error) {
	if _, err := s.store.Book(ctx, r.Book); err != nil {
		return nil, err
	}
	u := store.Upload{BookID: r.Book, File: filepath.Base(r.Body.Path), Path: r.Body.Path}
	src, f, err := s.queue.Open(u)
	if err != nil {
		return nil, err
	}
	u.Bytes = src.Size
	f.Close()
	preview, err := s.look(ctx, u, nil)
	if err != nil {
		return nil, err
	}
	if u, err = s.store.AddUpload(ctx, u); err != nil {
		return nil, err
	}
	return api.ChoosePath201JSONResponse(uploadOf(u, preview)), nil
}

func (s *Server) look(ctx context.Context, u store.Upload, how *formats.How) (*formats.Preview, error) {
	src, f, err := s.queue.Open(u)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	if how == nil && u.How != nil {
		if err := json.Unmarshal(u.How, &how); err != nil {
			return nil, err
		}
	}
	return formats.Look(ctx, src, how)
}

func uploadOf(u store.Upload, p *formats.Preview) api.Upload {
	suggested := u.File
	for _, packed := range []string{".gz", ".zst", ".zip"} {
		suggested = strings.TrimSuffix(suggested, packed)
	}
	suggested = strings.TrimSuffix(suggested, filepath.Ext(suggested))
	suggested = strings.Join(strings.FieldsFunc(suggested, func(r rune) bool { return r == '_' || r == '-' || r == ' ' }), " ")
	if suggested != "" {
		suggested = strings.ToUpper(suggested[:1]) + suggested[1:]
	}
	return api.Upload{Id: u.ID, BookId: u.BookID, File: u.File, Bytes: u.Bytes, SuggestedName: suggested, Preview: *cutPreview(p)}
}

// cutPreview cuts long cells; the whole ones are in the file.
func cutPreview(p *formats.Preview) *formats.Preview {
	for _, row := range p.Rows {
		for i, cell := range row {
			row[i], _ = cutCell(cell)
		}
	}
	return p
}

// GetUpload gives a received file and how it reads.
func (s *Server) GetUpload(ctx context.Context, r api.GetUploadRequestObject) (api.GetUploadResponseObject, error) {
	u, err := s.store.Upload(ctx, r.Upload)
	if err != nil {
		return nil, err
	}
	p, err := s.look(ctx, u, nil)
	if err != nil {
		return nil, err
	}
	return api.GetUpload200JSONResponse(uploadOf(u, p)), nil
}

// DiscardUpload forgets a received file.
func (s *Server) DiscardUpload(ctx context.Context, r api.DiscardUploadRequestObject) (api.DiscardUploadResponseObject, error) {
	return api.DiscardUpload204Response{}, s.queue.Discard(ctx, r.Upload)
}

// PreviewUpload reads the first rows in another dialect.
func (s *Server) PreviewUpload(ctx context.Context, r api.PreviewUploadRequestObject) (api.PreviewUploadResponseObject, error) {
	u, err := s.store.Upload(ctx, r.Upload)
	if err != nil {
		return nil, err
	}
	p, err := s.look(ctx, u, r.Body)
	if err != nil {
		return nil, err
	}
	return api.PreviewUpload200JSONResponse(*cutPreview(p)), nil
}

// BringIn queues the reading of received files.
func (s *Server) BringIn(ctx context.Context, r api.BringInRequestObject) (api.BringInResponseObject, error) {
	for i := range *r.Body {
		args := &(*r.Body)[i]
		if args.Name = strings.TrimSpace(args.Name); args.Name == "" {
			return nil, problem.New("Type a name for it", "a table has no name")
		}
		if len(args.Uploads) == 0 {
			return nil, problem.New("Choose a file", "the table %q has no file", args.Name)
		}
	}
	made, err := s.queue.BringIn(ctx, r.Book, *r.Body)
	out := api.BringIn202JSONResponse{}
	for _, j := range made {
		out = append(out, jobOf(j))
	}
	return out, err
}
