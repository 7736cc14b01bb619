package server

import (
	"bytes"
	"encoding/json"
	"io"
	"io/fs"
	"net/http"
	"path"
	"strings"

	"github.com/danielgtaylor/huma/v2"
)

func writeJSON(w io.Writer, v any) error { return json.NewEncoder(w).Encode(v) }

// whole is JSON that is made before any of it is sent. That somebody went away while
// it was sent is nobody's fault, and not said: an answer has begun by then, and
// can't become another one.
var whole = huma.Format{
	Marshal: func(w io.Writer, v any) error {
		var b bytes.Buffer
		if err := huma.DefaultJSONFormat.Marshal(&b, v); err != nil {
			return err
		}
		_, _ = w.Write(b.Bytes())
		return nil
	},
	Unmarshal: huma.DefaultJSONFormat.Unmarshal,
}

// webHandler serves the built front end. Paths that are no files are places
// inside the application and get its page.
func webHandler(web fs.FS) http.HandlerFunc {
	files := http.FileServerFS(web)
	return func(w http.ResponseWriter, r *http.Request) {
		name := strings.TrimPrefix(path.Clean(r.URL.Path), "/")
		if strings.HasPrefix(name, "api/") || strings.HasPrefix(name, "frames/") {
			problem(w, http.StatusNotFound, "There is nothing at this address.")
			return
		}
		st, err := fs.Stat(web, name)
		if err != nil || st.IsDir() {
			page, err := fs.ReadFile(web, "index.html")
			if err != nil {
				problem(w, http.StatusServiceUnavailable, "The front end was not built into this program. Build it with: make build")
				return
			}
			w.Header().Set("Content-Type", "text/html; charset=utf-8")
			w.Header().Set("Cache-Control", "no-cache")
			_, _ = w.Write(page)
			return
		}
		if strings.HasPrefix(name, "assets/") {
			w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
		}
		files.ServeHTTP(w, r)
	}
}
