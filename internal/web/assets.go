package web

import (
	"bytes"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"io/fs"
	"net/http"
	"path"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
)

//go:embed assets
var embedded embed.FS

// assets are the files that pages load. They are served under a hash of them
// all, so that modules find each other by relative names and browsers may keep
// them for good.
type assets struct {
	files fs.FS
	hash  string
}

func loadAssets() (*assets, error) {
	files, err := fs.Sub(embedded, "assets")
	if err != nil {
		return nil, err
	}
	sum := sha256.New()
	err = fs.WalkDir(files, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		data, err := fs.ReadFile(files, name)
		sum.Write([]byte(name))
		sum.Write(data)
		return err
	})
	return &assets{files: files, hash: hex.EncodeToString(sum.Sum(nil)[:6])}, err
}

func (a *assets) path(name string) string { return "/assets/" + a.hash + "/" + name }

var types = map[string]string{".css": "text/css; charset=utf-8", ".js": "text/javascript; charset=utf-8", ".svg": "image/svg+xml", ".woff2": "font/woff2"}

func (a *assets) serve(c *gin.Context) {
	name := strings.TrimPrefix(c.Param("path"), "/")
	kind, known := types[path.Ext(name)]
	data, err := fs.ReadFile(a.files, name)
	if err != nil || !known || c.Param("hash") != a.hash {
		c.Status(http.StatusNotFound)
		return
	}
	c.Header("Content-Type", kind)
	c.Header("Cache-Control", "public, max-age=31536000, immutable")
	http.ServeContent(c.Writer, c.Request, name, time.Time{}, bytes.NewReader(data))
}
