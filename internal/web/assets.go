package web

import (
	"bytes"
	"compress/gzip"
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
	files  fs.FS
	hash   string
	packed map[string][]byte // by name, compressed: what that makes smaller
}

func loadAssets() (*assets, error) {
	files, err := fs.Sub(embedded, "assets")
	if err != nil {
		return nil, err
	}
	sum, packed := sha256.New(), map[string][]byte{}
	err = fs.WalkDir(files, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		data, err := fs.ReadFile(files, name)
		sum.Write([]byte(name))
		sum.Write(data)
		if small := compressed(data); len(small) < len(data)*9/10 {
			packed[name] = small
		}
		return err
	})
	return &assets{files, hex.EncodeToString(sum.Sum(nil)[:6]), packed}, err
}

// compressed is data by gzip (RFC 1952), as small as that makes it.
func compressed(data []byte) []byte {
	var out bytes.Buffer
	w, _ := gzip.NewWriterLevel(&out, gzip.BestCompression)
	_, _ = w.Write(data)
	_ = w.Close()
	return out.Bytes()
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
	c.Header("Vary", "Accept-Encoding")
	if small, ok := a.packed[name]; ok && takesGzip(c) && c.GetHeader("Range") == "" {
		c.Header("Content-Encoding", "gzip")
		c.Data(http.StatusOK, kind, small)
		return
	}
	http.ServeContent(c.Writer, c.Request, name, time.Time{}, bytes.NewReader(data))
}

// takesGzip reports whether a browser takes what is compressed by gzip.
func takesGzip(c *gin.Context) bool { return strings.Contains(c.GetHeader("Accept-Encoding"), "gzip") }

// isPage reports whether an answer is compressed as it goes out: pages are; assets
// have been, files are streamed as they are, and a stream of events is never whole.
func isPage(c *gin.Context) bool {
	path := c.FullPath()
	return takesGzip(c) && !strings.HasPrefix(path, "/assets/") && !strings.HasSuffix(path, "/events") && !strings.Contains(path, "export") && !strings.Contains(path, "file")
}
