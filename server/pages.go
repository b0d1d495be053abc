package server

import (
	"io/fs"
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"

	"grandledger/api"
	"grandledger/web"
)

// pages serves the built front end; any path that is no file is the application's own,
// which index.html opens.
func pages() gin.HandlerFunc {
	dist, err := fs.Sub(web.Dist, "dist")
	if err != nil {
		panic(err) // the directory is compiled in
	}
	files := http.FileServerFS(dist)
	return func(c *gin.Context) {
		name := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
		if strings.HasPrefix(name, "api/") || c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
			send(c, api.Problem{Title: "Not found", Status: http.StatusNotFound, Detail: "there is nothing at this address"})
			return
		}
		if st, err := fs.Stat(dist, name); err == nil && !st.IsDir() && name != "index.html" {
			if strings.HasPrefix(name, "assets/") { // named by their content
				c.Header("Cache-Control", "public, max-age=31536000, immutable")
			}
			files.ServeHTTP(c.Writer, c.Request)
			return
		}
		index, err := fs.ReadFile(dist, "index.html")
		if err != nil {
			c.String(http.StatusNotFound, "The pages are not built. Run ./start, or npm run build in web")
			return
		}
		c.Header("Cache-Control", "no-cache")
		c.Data(http.StatusOK, "text/html; charset=utf-8", index)
	}
}
