package server

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/tus/tusd/v2/pkg/filestore"
	"github.com/tus/tusd/v2/pkg/handler"
	"github.com/tus/tusd/v2/pkg/memorylocker"
	"golang.org/x/exp/slog"

	"ivypocket/media"
	"ivypocket/store"
)

// Uploads go on where they broke off, by the tus protocol 1.0. Each is written
// to a folder of its own and hashed on the way; when its last byte is there it
// is checked and kept, and the answer to its last request says as what.
type uploads struct {
	handler http.Handler
	dir     string
	sums    sums
	// ended holds the answers of uploads that came to their end, for clients
	// that did not hear them.
	ended *lru.Cache[string, ending]
}

// ending is how an upload ended.
type ending struct {
	status int
	body   string
	size   int64
}

const uploadsPath = "/api/uploads/"

// abandoned is the age at which an upload that nobody went on with is removed.
const abandoned = 48 * time.Hour

func (s *Server) newUploads() (*uploads, error) {
	u := &uploads{dir: filepath.Join(s.store.Dir(), "uploads"), sums: sums{by: map[string]*sum{}}}
	u.ended, _ = lru.New[string, ending](1024)
	files := filestore.New(u.dir)
	c := handler.NewStoreComposer()
	hashed := hashingStore{files, &u.sums}
	c.UseCore(hashed)
	c.UseTerminater(hashed)
	memorylocker.New().UseIn(c)
	h, err := handler.NewHandler(handler.Config{
		StoreComposer: c, BasePath: uploadsPath, MaxSize: media.MaxBytes, DisableDownload: true, DisableConcatenation: true,
		Cors:   &handler.CorsConfig{Disable: true},
		Logger: slog.New(slog.NewTextHandler(io.Discard, nil)),
		PreUploadCreateCallback: func(e handler.HookEvent) (handler.HTTPResponse, handler.FileInfoChanges, error) {
			if free, err := freeBytes(u.dir); err == nil && e.Upload.Size > free-keepFree {
				return handler.HTTPResponse{}, handler.FileInfoChanges{}, tusProblem("disk-full", http.StatusInsufficientStorage,
					fmt.Sprintf("There is no room on the disk for %s, which takes %d MB. Make room and try again.", e.Upload.MetaData["filename"], e.Upload.Size>>20))
			}
			return handler.HTTPResponse{}, handler.FileInfoChanges{}, nil
		},
		PreFinishResponseCallback: func(e handler.HookEvent) (handler.HTTPResponse, error) {
			end := s.adopt(e.Upload)
			u.ended.Add(e.Upload.ID, end)
			return handler.HTTPResponse{StatusCode: end.status, Body: end.body, Header: handler.HTTPHeader{
				"Content-Type": map[bool]string{true: "application/json", false: "application/problem+json"}[end.status == http.StatusOK]}}, nil
		},
		AcquireLockTimeout: 5 * time.Second, GracefulRequestCompletionTimeout: 2 * time.Second,
	})
	if err != nil {
		return nil, err
	}
	u.handler = http.StripPrefix(uploadsPath, h)
	return u, nil
}

// keepFree is the room on the disk that uploads leave to the rest.
const keepFree = 64 << 20

func freeBytes(dir string) (int64, error) {
	var st syscall.Statfs_t
	err := syscall.Statfs(dir, &st)
	return int64(st.Bavail) * st.Bsize, err
}

func tusProblem(code string, status int, detail string) handler.Error {
	b, _ := json.Marshal(map[string]any{"title": http.StatusText(status), "status": status, "detail": detail})
	e := handler.NewError(code, detail, status)
	e.HTTPResponse.Body = string(b)
	e.HTTPResponse.Header = handler.HTTPHeader{"Content-Type": "application/problem+json"}
	return e
}

// adopt checks and keeps a finished upload.
func (s *Server) adopt(up handler.FileInfo) ending {
	u := s.uploads
	path := filepath.Join(u.dir, up.ID)
	defer func() {
		u.sums.drop(up.ID)
		_ = os.Remove(path)
		_ = os.Remove(path + ".info")
	}()
	end := ending{status: http.StatusOK, size: up.Size}
	md, err := s.adoptFile(up, path)
	var b []byte
	if err == nil {
		s.tookIn(md)
		v, _ := s.mediumView(md.Hash)
		b, _ = json.Marshal(v)
	} else {
		var detail string
		end.status, detail = s.explain(err)
		b, _ = json.Marshal(map[string]any{"title": http.StatusText(end.status), "status": end.status, "detail": detail})
	}
	end.body = string(b)
	return end
}

func (s *Server) adoptFile(up handler.FileInfo, path string) (store.Medium, error) {
	f, err := os.Open(path)
	if err != nil {
		return store.Medium{}, err
	}
	defer f.Close()
	h, err := s.uploads.sums.of(up.ID, up.Size, f)
	if err != nil {
		return store.Medium{}, err
	}
	return s.store.Adopt(s.ctx, up.MetaData["filename"], path, h)
}

// ServeHTTP speaks tus. A client that asks after an upload whose last answer it
// did not hear is told that all of it is there, and gets the answer by GET.
func (u *uploads) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	id := strings.TrimPrefix(r.URL.Path, uploadsPath)
	if end, ok := u.ended.Get(id); ok {
		switch r.Method {
		case http.MethodHead:
			w.Header().Set("Tus-Resumable", "1.0.0")
			w.Header().Set("Cache-Control", "no-store")
			w.Header().Set("Upload-Offset", strconv.FormatInt(end.size, 10))
			w.Header().Set("Upload-Length", strconv.FormatInt(end.size, 10))
			return
		case http.MethodGet:
			w.Header().Set("Content-Type", "application/json")
			w.Header().Set("Cache-Control", "no-store")
			w.WriteHeader(end.status)
			_, _ = io.WriteString(w, end.body)
			return
		}
	}
	if id != "" && (strings.ContainsAny(id, "/.\\") || len(id) > 64) {
		problem(w, http.StatusNotFound, "There is no such upload.")
		return
	}
	u.handler.ServeHTTP(w, r)
}

// tidy removes uploads that nobody went on with.
func (u *uploads) tidy(now time.Time) {
	entries, err := os.ReadDir(u.dir)
	if err != nil {
		return
	}
	for _, e := range entries {
		if st, err := e.Info(); err == nil && now.Sub(st.ModTime()) > abandoned {
			_ = os.Remove(filepath.Join(u.dir, e.Name()))
		}
	}
}

// hashingStore is tusd's store of files with a sum taken of what is written.
type hashingStore struct {
	filestore.FileStore
	sums *sums
}

type hashingUpload struct {
	handler.Upload
	id   string
	sums *sums
}

func (h hashingStore) NewUpload(ctx context.Context, info handler.FileInfo) (handler.Upload, error) {
	up, err := h.FileStore.NewUpload(ctx, info)
	if err != nil {
		return nil, err
	}
	got, err := up.GetInfo(ctx)
	return hashingUpload{up, got.ID, h.sums}, err
}

func (h hashingStore) GetUpload(ctx context.Context, id string) (handler.Upload, error) {
	up, err := h.FileStore.GetUpload(ctx, id)
	if err != nil {
		return nil, err
	}
	return hashingUpload{up, id, h.sums}, nil
}

func (h hashingStore) AsTerminatableUpload(up handler.Upload) handler.TerminatableUpload {
	return h.FileStore.AsTerminatableUpload(up.(hashingUpload).Upload)
}

func (h hashingUpload) WriteChunk(ctx context.Context, offset int64, src io.Reader) (int64, error) {
	n, err := h.Upload.WriteChunk(ctx, offset, h.sums.tee(h.id, offset, src))
	if errors.Is(err, syscall.ENOSPC) {
		return n, tusProblem("disk-full", http.StatusInsufficientStorage, store.ErrDiskFull.Error())
	}
	return n, err
}

// sums are the hashes of uploads that are on their way. One that was begun
// before this program was is taken from the file at the end.
type sums struct {
	mu sync.Mutex
	by map[string]*sum
}

type sum struct {
	h  hash.Hash
	at int64
}

// tee feeds what is read from an offset on to the upload's sum, which is given
// up when bytes are missing before it.
func (s *sums) tee(id string, offset int64, src io.Reader) io.Reader {
	s.mu.Lock()
	defer s.mu.Unlock()
	t := s.by[id]
	if t == nil && offset == 0 {
		t = &sum{h: sha256.New()}
		s.by[id] = t
	}
	if t == nil || t.at != offset {
		delete(s.by, id)
		return src
	}
	return io.TeeReader(src, t)
}

func (t *sum) Write(p []byte) (int, error) {
	t.at += int64(len(p))
	return t.h.Write(p)
}

// of returns an upload's sum.
func (s *sums) of(id string, size int64, f io.Reader) ([]byte, error) {
	s.mu.Lock()
	t := s.by[id]
	s.mu.Unlock()
	if t != nil && t.at == size {
		return t.h.Sum(nil), nil
	}
	h := sha256.New()
	if _, err := io.Copy(h, f); err != nil {
		return nil, err
	}
	return h.Sum(nil), nil
}

func (s *sums) drop(id string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	delete(s.by, id)
}
