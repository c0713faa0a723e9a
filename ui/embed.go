// Package ui carries the built interface into the binary. The sources beside
// it are TypeScript; `make ui` builds them into dist.
package ui

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var built embed.FS

// Dist is the built interface; without a build it holds only a marker file.
func Dist() fs.FS {
	sub, err := fs.Sub(built, "dist")
	if err != nil {
		panic(err) // dist is embedded above: it cannot be missing
	}
	return sub
}
