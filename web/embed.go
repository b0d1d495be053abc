// Package web carries the built pages; npm run build makes them in dist.
package web

import "embed"

// Dist is the built front end. Without a build it holds no index.html.
//
//go:embed all:dist
var Dist embed.FS
