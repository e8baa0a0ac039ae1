// Package console embeds the web console, built by Vite, into the binary.
package console

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// Site is the built console; it has no index.html where the binary was built without it.
func Site() fs.FS {
	site, err := fs.Sub(dist, "dist/site")
	if err != nil {
		panic(err) // the path is a valid one
	}
	return site
}
