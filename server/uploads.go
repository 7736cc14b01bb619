package server

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"maps"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/google/renameio/v2"
	"github.com/tus/tusd/v2/pkg/filestore"
	"github.com/tus/tusd/v2/pkg/handler"
	"github.com/tus/tusd/v2/pkg/memorylocker"
	"golang.org/x/exp/slog"
	"golang.org/x/sync/singleflight"

	"ivypocket/access"
	"ivypocket/media"
	"ivypocket/media/disk"
	"ivypocket/store"
)

// Uploads go on where they broke off, by the tus protocol 1.0. Each is written
// to a folder of its own and hashed on the way; when its last byte is there it
// is checked and kept, and the answer to its last request says as what.
type uploads struct {
	handler http.Handler
	dir     string
	sums    sums
	// taking is who takes in an upload that is whole: whoever else asks for it
	// waits for the same answer.
	taking singleflight.Group
	take   func(ctx context.Context, up handler.FileInfo) (ending, bool)
}

// ending is how an upload ended, as it is kept beside where it was.
type ending struct {
	Status int    `json:"status"`
	Body   string `json:"body"`
	Size   int64  `json:"size"`
	By     string `json:"by,omitempty"` // whose upload it was
}

const uploadsPath = "/api/uploads/"

// abandoned is the age at which an upload that nobody went on with is removed.
const abandoned = 48 * time.Hour

func (s *Server) newUploads() (*uploads, error) {
	u := &uploads{dir: filepath.Join(s.store.Dir(), "uploads"), sums: sums{by: map[string]*sum{}}}
	u.take = s.adopt
	files := filestore.New(u.dir)
	c := handler.NewStoreComposer()
	hashed := hashingStore{files, s.store, u}
	c.UseCore(hashed)
	c.UseTerminater(hashed)
	memorylocker.New().UseIn(c)
	h, err := handler.NewHandler(handler.Config{
		StoreComposer: c, BasePath: uploadsPath, MaxSize: media.MaxBytes, DisableDownload: true, DisableConcatenation: true,
		Cors:   &handler.CorsConfig{Disable: true},
		Logger: slog.New(slog.NewTextHandler(io.Discard, nil)),
		PreUploadCreateCallback: func(e handler.HookEvent) (handler.HTTPResponse, handler.FileInfoChanges, error) {
			if s.store.Room(e.Upload.Size) != nil {
				return handler.HTTPResponse{}, handler.FileInfoChanges{}, tusProblem("disk-full", http.StatusInsufficientStorage,
					fmt.Sprintf("There is no room on the disk for %s, which takes %d kB. Make room and go on.", e.Upload.MetaData["filename"], (e.Upload.Size+1023)>>10))
			}
			// Only who began it goes on with it.
			more := maps.Clone(e.Upload.MetaData)
			if more == nil {
				more = handler.MetaData{}
			}
			more[byMeta] = personOf(e.Context).ID
			return handler.HTTPResponse{}, handler.FileInfoChanges{MetaData: more}, nil
		},
		PreFinishResponseCallback: func(e handler.HookEvent) (handler.HTTPResponse, error) {
			end := u.finish(e.Context, e.Upload)
			return handler.HTTPResponse{StatusCode: end.Status, Body: end.Body, Header: handler.HTTPHeader{"Content-Type": end.kind()}}, nil
		},
		AcquireLockTimeout: 5 * time.Second, GracefulRequestCompletionTimeout: 2 * time.Second, NetworkTimeout: stalled,
	})
	if err != nil {
		return nil, err
	}
	u.handler = http.StripPrefix(uploadsPath, h)
	return u, nil
}

func tusProblem(code string, status int, detail string) handler.Error {
	b, _ := json.Marshal(map[string]any{"title": http.StatusText(status), "status": status, "detail": detail})
	e := handler.NewError(code, detail, status)
	e.HTTPResponse.Body = string(b)
	e.HTTPResponse.Header = handler.HTTPHeader{"Content-Type": "application/problem+json"}
	return e
}

// byMeta is where an upload keeps whose it is: the id of a code.
const byMeta = "code"

func (e ending) kind() string {
	if e.Status == http.StatusOK {
		return "application/json"
	}
	return "application/problem+json"
}

func (u *uploads) path(id, ext string) string { return filepath.Join(u.dir, id+ext) }

// ended returns how an upload ended, for clients that did not hear it.
func (u *uploads) ended(id string) (e ending, ok bool) {
	b, err := os.ReadFile(u.path(id, endExt))
	return e, err == nil && json.Unmarshal(b, &e) == nil && e.Status != 0
}

// endExt is that of files that keep how an upload ended.
const endExt = ".end"

// finish takes in an upload that is whole, or finds how it ended. What may yet
// go otherwise, as on a full disk or when nobody listens any more, is no end:
// the upload stays, and is taken in when it is asked for again.
func (u *uploads) finish(ctx context.Context, up handler.FileInfo) ending {
	v, _, _ := u.taking.Do(up.ID, func() (any, error) {
		if e, ok := u.ended(up.ID); ok {
			return e, nil
		}
		e, final := u.take(ctx, up)
		if !final {
			return e, nil
		}
		b, err := json.Marshal(e)
		if err == nil {
			err = renameio.WriteFile(u.path(up.ID, endExt), b, 0o644, renameio.WithTempDir(u.dir))
		}
		if err == nil {
			err = disk.Sync(u.dir) // before what it speaks of goes
		}
		if err == nil { // else it is taken in once more, to the same end
			u.sums.drop(up.ID)
			_ = os.Remove(u.path(up.ID, ""))
			_ = os.Remove(u.path(up.ID, ".info"))
		}
		return e, nil
	})
	return v.(ending)
}

// whole returns what is known of an upload whose last byte is there.
func (u *uploads) whole(id string) (up handler.FileInfo, ok bool) {
	b, err := os.ReadFile(u.path(id, ".info"))
	if err != nil || json.Unmarshal(b, &up) != nil || up.ID != id {
		return up, false
	}
	st, err := os.Stat(u.path(id, ""))
	return up, err == nil && st.Size() == up.Size
}

// takeWhole takes in all uploads that were received whole and did not come to
// their end, as when the program was stopped in that moment.
func (u *uploads) takeWhole(ctx context.Context) {
	entries, _ := os.ReadDir(u.dir)
	for _, e := range entries {
		id, info := strings.CutSuffix(e.Name(), ".info")
		if up, ok := u.whole(id); info && ok && ctx.Err() == nil {
			u.finish(ctx, up)
		}
	}
}

// adopt checks and keeps a finished upload; final says whether that is its end.
func (s *Server) adopt(ctx context.Context, up handler.FileInfo) (end ending, final bool) {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	defer context.AfterFunc(s.ctx, cancel)()
	end = ending{Status: http.StatusOK, Size: up.Size, By: up.MetaData[byMeta]}
	md, err := s.adoptFile(ctx, up, s.uploads.path(up.ID, ""))
	var b []byte
	if err == nil {
		s.TookIn(md)
		who := access.Person{Role: access.Designer}
		if end.By != "" {
			c, _ := s.store.CodeOf(ctx, end.By) // it may have been withdrawn since
			who = c.Person()
			who.ID = end.By
		}
		s.recordAs(ctx, who, "", "upload", &telling{md.Hash, "Put " + md.Name + " into the store"})
		v, _ := s.mediumView(md.Hash)
		b, _ = json.Marshal(v)
	} else {
		var detail string
		end.Status, detail = s.explain(err)
		b, _ = json.Marshal(map[string]any{"title": http.StatusText(end.Status), "status": end.Status, "detail": detail})
	}
	end.Body = string(b)
	return end, end.Status < http.StatusInternalServerError && ctx.Err() == nil
}

func (s *Server) adoptFile(ctx context.Context, up handler.FileInfo, path string) (store.Medium, error) {
	f, err := os.Open(path)
	if err != nil {
		return store.Medium{}, err
	}
	defer f.Close()
	h, err := s.uploads.sums.of(up.ID, up.Size, f)
	if err != nil {
		return store.Medium{}, err
	}
	return s.store.Adopt(ctx, up.MetaData["filename"], path, h)
}

// ServeHTTP speaks tus. A client that asks after an upload whose last answer it
// did not hear is told that all of it is there, and gets the answer by GET, also
// of one that was received whole by a program that was then stopped.
func (u *uploads) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	id := strings.TrimPrefix(r.URL.Path, uploadsPath)
	if id != "" && (strings.ContainsAny(id, "/.\\") || len(id) > 64) {
		problem(w, http.StatusNotFound, "There is no such upload.")
		return
	}
	if id == "" {
		u.handler.ServeHTTP(w, r)
		return
	}
	end, ended := u.ended(id)
	if by, known := u.by(id, end, ended); known && !personOf(r.Context()).Owns(by) {
		problem(w, http.StatusNotFound, "There is no such upload.")
		return
	}
	if !ended && r.Method == http.MethodGet {
		if up, ok := u.whole(id); ok {
			end, ended = u.finish(r.Context(), up), true
		}
	}
	switch {
	case !ended, r.Method != http.MethodHead && r.Method != http.MethodGet:
		u.handler.ServeHTTP(w, r)
	case r.Method == http.MethodHead:
		w.Header().Set("Tus-Resumable", "1.0.0")
		w.Header().Set("Cache-Control", "no-store")
		w.Header().Set("Upload-Offset", strconv.FormatInt(end.Size, 10))
		w.Header().Set("Upload-Length", strconv.FormatInt(end.Size, 10))
	default:
		w.Header().Set("Content-Type", end.kind())
		w.Header().Set("Cache-Control", "no-store")
		w.WriteHeader(end.Status)
		_, _ = io.WriteString(w, end.Body)
	}
}

// by is whose upload it is; known is false for one that is not there.
func (u *uploads) by(id string, end ending, ended bool) (code string, known bool) {
	if ended {
		return end.By, true
	}
	var up handler.FileInfo
	b, err := os.ReadFile(u.path(id, ".info"))
	if err != nil || json.Unmarshal(b, &up) != nil {
		return "", false
	}
	return up.MetaData[byMeta], true
}

// tidy removes uploads that nobody went on with, and endings that nobody will
// ask for any more.
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
	store *store.Store
	u     *uploads
}

type hashingUpload struct {
	handler.Upload
	id string
	hashingStore
}

func (h hashingStore) NewUpload(ctx context.Context, info handler.FileInfo) (handler.Upload, error) {
	up, err := h.FileStore.NewUpload(ctx, info)
	if err != nil {
		return nil, err
	}
	got, err := up.GetInfo(ctx)
	return hashingUpload{up, got.ID, h}, err
}

func (h hashingStore) GetUpload(ctx context.Context, id string) (handler.Upload, error) {
	up, err := h.FileStore.GetUpload(ctx, id)
	if err != nil {
		return nil, err
	}
	return hashingUpload{up, id, h}, nil
}

func (h hashingStore) AsTerminatableUpload(up handler.Upload) handler.TerminatableUpload {
	return h.FileStore.AsTerminatableUpload(up.(hashingUpload).Upload)
}

func (h hashingUpload) WriteChunk(ctx context.Context, offset int64, src io.Reader) (int64, error) {
	n, err := h.Upload.WriteChunk(ctx, offset, h.u.sums.tee(h.id, offset, h.store.Roomy(src)))
	// What a client is told to be here is on the disk.
	if serr := disk.Sync(h.u.path(h.id, "")); err == nil {
		err = serr
	}
	if errors.Is(err, syscall.ENOSPC) || errors.Is(err, store.ErrDiskFull) {
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
