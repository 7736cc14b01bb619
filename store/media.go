package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"syscall"
	"time"
	"unicode/utf8"

	"github.com/jmoiron/sqlx"

	"ivypocket/core/timing"
	files "ivypocket/media"
	"ivypocket/media/clip"
	"ivypocket/media/sequence"
)

// Medium is media as kept.
type Medium struct {
	Hash string `json:"hash"`
	Name string `json:"name"`
	// Bytes is the size of the original.
	Bytes   int64      `json:"bytes"`
	Meta    files.Meta `json:"meta"`
	Created string     `json:"created"`
	Used    string     `json:"used"`    // when it was last put into a pocket
	Cleared string     `json:"cleared"` // when it was cleared away; "" is not
}

// media keeps files by the hash of their content. What is known of them is
// held in memory too, since every frame asks for it.
type media struct {
	db   *sqlx.DB
	dir  string
	mu   sync.RWMutex
	byID map[string]Medium
}

type mediaRow struct {
	Hash, Name, Meta, Created, Used, Cleared string
	Bytes                                    int64
}

func (m *media) open(db *sqlx.DB, dir string) error {
	m.db, m.dir, m.byID = db, dir, map[string]Medium{}
	var rows []mediaRow
	if err := db.Select(&rows, `SELECT * FROM media`); err != nil {
		return err
	}
	for _, r := range rows {
		md := Medium{Hash: r.Hash, Name: r.Name, Bytes: r.Bytes, Created: r.Created, Used: r.Used, Cleared: r.Cleared}
		if err := json.Unmarshal([]byte(r.Meta), &md.Meta); err != nil {
			return fmt.Errorf("media %s: %w", r.Hash, err)
		}
		if md.Meta.Version < files.Version || md.Meta.Load(m.Path(md.Hash), m.timesPath(md.Hash)) != nil {
			md = m.again(md)
		}
		m.byID[r.Hash] = md
	}
	return nil
}

// again inspects media anew that an older program took in, or whose times are
// lost. What can't be read any more stays as it was known.
func (m *media) again(md Medium) Medium {
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	defer cancel()
	meta, err := files.Inspect(ctx, m.Path(md.Hash))
	if err != nil {
		return md
	}
	md.Meta = meta
	if m.keepTimes(md) == nil {
		_ = m.keepMeta(ctx, md)
	}
	return md
}

// Path is where an original lies.
func (m *media) Path(hash string) string {
	h := strings.TrimPrefix(hash, "sha256:")
	return filepath.Join(m.dir, "media", h[:2], h)
}

// ProxyPath is where a clip's proxy lies once it has grown.
func (m *media) ProxyPath(hash string) string { return m.beside(hash, ".ivyproxy") }

// timesPath is where the times of an uneven clip lie.
func (m *media) timesPath(hash string) string { return m.beside(hash, ".ivytimes") }

func (m *media) beside(hash, ext string) string {
	return filepath.Join(m.dir, "proxies", strings.TrimPrefix(hash, "sha256:")+ext)
}

// Meta returns what is known of media.
func (m *media) Meta(hash string) (files.Meta, bool) {
	md, ok := m.Medium(hash)
	return md.Meta, ok
}

// Medium returns media by hash.
func (m *media) Medium(hash string) (Medium, bool) {
	m.mu.RLock()
	defer m.mu.RUnlock()
	md, ok := m.byID[hash]
	return md, ok
}

// All lists all media in no order, cleared ones too.
func (m *media) All() []Medium {
	m.mu.RLock()
	defer m.mu.RUnlock()
	out := make([]Medium, 0, len(m.byID))
	for _, md := range m.byID {
		out = append(out, md)
	}
	return out
}

// Put takes in a file: it is written aside, hashed on the way, checked, and
// only then given its name and row. Media that is there already is returned as
// it is. What may not come in is a *media.RefusedError.
func (m *media) Put(ctx context.Context, name string, r io.Reader) (md Medium, err error) {
	f, err := os.CreateTemp(filepath.Join(m.dir, "tmp"), "in-*")
	if err != nil {
		return md, err
	}
	defer os.Remove(f.Name())
	defer f.Close()
	h := sha256.New()
	n, err := io.Copy(io.MultiWriter(f, h), io.LimitReader(r, files.MaxBytes+1))
	if err != nil {
		if errors.Is(err, syscall.ENOSPC) {
			return md, ErrDiskFull
		}
		return md, fmt.Errorf("the upload broke off: %w", err)
	}
	if n > files.MaxBytes {
		return md, &files.RefusedError{Reason: fmt.Sprintf("The file is larger than %d GB.", int64(files.MaxBytes)>>30)}
	}
	return m.Adopt(ctx, name, f.Name(), h.Sum(nil))
}

// ErrDiskFull says that nothing more can be written.
var ErrDiskFull = errors.New("the disk is full; nothing was changed. Make room and try again")

// Adopt is Put for a file that lies on the store's disk and whose SHA-256 is
// known; it is moved.
func (m *media) Adopt(ctx context.Context, name, path string, sum []byte) (md Medium, err error) {
	st, err := os.Stat(path)
	if err != nil {
		return md, err
	}
	md = Medium{Hash: "sha256:" + hex.EncodeToString(sum), Name: cleanName(name), Bytes: st.Size(), Created: now()}
	if known, ok := m.Medium(md.Hash); ok {
		if _, err := os.Stat(m.Path(md.Hash)); err == nil {
			return m.welcome(ctx, known)
		}
		// Its file was lost and has come back.
	}
	// It comes to rest on the disk while it is looked at.
	synced := make(chan error, 1)
	go func() { synced <- syncFile(path) }()
	md.Meta, err = files.Inspect(ctx, path)
	if serr := <-synced; err == nil {
		err = full(serr)
	}
	if err != nil {
		return md, err
	}
	return m.keep(ctx, md, path)
}

func syncFile(path string) error {
	f, err := os.OpenFile(path, os.O_RDWR, 0)
	if err != nil {
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}

// PutSequence makes a clip of numbered pictures that are in the store already.
func (m *media) PutSequence(ctx context.Context, name string, rate timing.Rate, numbers []int64, hashes []string) (md Medium, err error) {
	l, err := sequence.New(rate, numbers, hashes)
	if err != nil {
		return md, &files.RefusedError{Reason: "These pictures make no sequence: " + err.Error() + "."}
	}
	for i, h := range hashes {
		p, ok := m.Medium(h)
		if !ok || p.Meta.Still == nil {
			return md, &files.RefusedError{Reason: fmt.Sprintf("Picture %d of the sequence is not a picture in the store.", numbers[i])}
		}
		if i == 0 {
			l.Width, l.Height = p.Meta.Width, p.Meta.Height
		} else if p.Meta.Width != l.Width || p.Meta.Height != l.Height {
			return md, &files.RefusedError{Reason: fmt.Sprintf("Picture %d of the sequence is %d × %d px; those before it are %d × %d. All must be of one size.", numbers[i], p.Meta.Width, p.Meta.Height, l.Width, l.Height)}
		}
		l.Alpha = l.Alpha || p.Meta.Still.Alpha
	}
	b, err := json.Marshal(l)
	if err != nil {
		return md, err
	}
	sum := sha256.Sum256(b)
	md = Medium{Hash: "sha256:" + hex.EncodeToString(sum[:]), Name: cleanName(name), Bytes: int64(len(b)), Created: now()}
	if known, ok := m.Medium(md.Hash); ok {
		return m.welcome(ctx, known)
	}
	times := l.Times()
	md.Meta = files.Meta{Version: files.Version, Kind: "footage", Width: l.Width, Height: l.Height, Pictures: len(l.Pictures), Sequence: &l, Times: &times}
	f, err := os.CreateTemp(filepath.Join(m.dir, "tmp"), "in-*")
	if err != nil {
		return md, err
	}
	defer os.Remove(f.Name())
	_, err = f.Write(b)
	if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
		return md, err
	}
	return m.keep(ctx, md, f.Name())
}

// welcome returns media that was there already, back if it had been cleared.
func (m *media) welcome(ctx context.Context, md Medium) (Medium, error) {
	if md.Cleared == "" {
		return md, nil
	}
	err := m.SetCleared(ctx, []string{md.Hash}, false)
	md.Cleared = ""
	return md, err
}

// keep gives a checked file its name, and its row after that.
func (m *media) keep(ctx context.Context, md Medium, path string) (Medium, error) {
	to := m.Path(md.Hash)
	if err := os.MkdirAll(filepath.Dir(to), 0o755); err != nil {
		return md, full(err)
	}
	if err := os.Rename(path, to); err != nil {
		return md, full(err)
	}
	if err := m.keepTimes(md); err != nil {
		return md, full(err)
	}
	meta, err := json.Marshal(md.Meta)
	if err != nil {
		return md, err
	}
	if _, err := m.db.ExecContext(ctx, `INSERT INTO media (hash, name, bytes, meta, created) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT (hash) DO UPDATE SET meta = excluded.meta, cleared = ''`, md.Hash, md.Name, md.Bytes, string(meta), md.Created); err != nil {
		return md, err
	}
	kept := md
	kept.Meta.First = nil // is for who took it in
	m.set(kept)
	return md, nil
}

func full(err error) error {
	if errors.Is(err, syscall.ENOSPC) {
		return ErrDiskFull
	}
	return err
}

func (m *media) set(md Medium) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.byID[md.Hash] = md
}

// keepTimes keeps the times of an uneven clip beside its proxy.
func (m *media) keepTimes(md Medium) error {
	if md.Meta.Times == nil || md.Meta.Times.Starts == nil {
		return nil
	}
	return clip.WriteTimes(m.timesPath(md.Hash), *md.Meta.Times)
}

func (m *media) keepMeta(ctx context.Context, md Medium) error {
	meta, err := json.Marshal(md.Meta)
	if err != nil {
		return err
	}
	_, err = m.db.ExecContext(ctx, `UPDATE media SET meta = ? WHERE hash = ?`, string(meta), md.Hash)
	return err
}

// Learn replaces what is known of media, as when its frames have been counted.
func (m *media) Learn(ctx context.Context, hash string, meta files.Meta) error {
	md, ok := m.Medium(hash)
	if !ok {
		return ErrNotFound
	}
	md.Meta = meta
	if err := m.keepTimes(md); err != nil {
		return err
	}
	if err := m.keepMeta(ctx, md); err != nil {
		return err
	}
	m.set(md)
	return nil
}

// Touch notes that media was put into a pocket just now.
func (m *media) Touch(ctx context.Context, hash string) error {
	at := now()
	if _, err := m.db.ExecContext(ctx, `UPDATE media SET used = ?, cleared = '' WHERE hash = ?`, at, hash); err != nil {
		return err
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	if md, ok := m.byID[hash]; ok {
		md.Used, md.Cleared = at, ""
		m.byID[hash] = md
	}
	return nil
}

// RenameMedium gives media another name.
func (m *media) RenameMedium(ctx context.Context, hash, name string) error {
	md, ok := m.Medium(hash)
	if !ok {
		return ErrNotFound
	}
	md.Name = cleanName(name)
	if _, err := m.db.ExecContext(ctx, `UPDATE media SET name = ? WHERE hash = ?`, md.Name, hash); err != nil {
		return err
	}
	m.set(md)
	return nil
}

// SetCleared clears media away or brings it back. Files stay.
func (m *media) SetCleared(ctx context.Context, hashes []string, cleared bool) error {
	at := ""
	if cleared {
		at = now()
	}
	for _, h := range hashes {
		if _, err := m.db.ExecContext(ctx, `UPDATE media SET cleared = ? WHERE hash = ?`, at, h); err != nil {
			return err
		}
		m.mu.Lock()
		if md, ok := m.byID[h]; ok {
			md.Cleared = at
			m.byID[h] = md
		}
		m.mu.Unlock()
	}
	return nil
}

var hashForm = regexp.MustCompile(`sha256:[0-9a-f]{64}`)

// Referred returns the hashes of all media that pieces, releases and renders
// still to be made speak of, with history also those that undo would bring
// back. Pictures of sequences among them are among them.
func (s *Store) Referred(ctx context.Context, history bool) (map[string]bool, error) {
	out := map[string]bool{}
	queries := []string{`SELECT content FROM pieces`, `SELECT document FROM releases`, `SELECT job FROM renders WHERE state IN ('queued', 'running', 'paused')`}
	if history {
		queries = append(queries, `SELECT changes FROM operations WHERE state IN ('done', 'undone')`)
	}
	for _, q := range queries {
		rows, err := s.db.QueryContext(ctx, q)
		if err != nil {
			return nil, err
		}
		for rows.Next() {
			var text string
			if err := rows.Scan(&text); err != nil {
				rows.Close()
				return nil, err
			}
			for _, h := range hashForm.FindAllString(text, -1) {
				out[h] = true
			}
		}
		if err := rows.Close(); err != nil {
			return nil, err
		}
	}
	for _, md := range s.All() {
		if md.Meta.Sequence != nil && (out[md.Hash] || md.Cleared == "") {
			for _, p := range md.Meta.Sequence.Pictures {
				out[p] = true
			}
		}
	}
	return out, nil
}

// Purge removes the files of media that was cleared before an instant and that
// nothing speaks of any more, undo included, and returns their hashes.
func (s *Store) Purge(ctx context.Context, before time.Time) ([]string, error) {
	kept, err := s.Referred(ctx, true)
	if err != nil {
		return nil, err
	}
	var gone []string
	for _, md := range s.All() {
		at, err := time.Parse(time.RFC3339Nano, md.Cleared)
		if md.Cleared == "" || err != nil || at.After(before) || kept[md.Hash] {
			continue
		}
		if _, err := s.db.ExecContext(ctx, `DELETE FROM media WHERE hash = ?`, md.Hash); err != nil {
			return gone, err
		}
		s.mu.Lock()
		delete(s.byID, md.Hash)
		s.mu.Unlock()
		for _, p := range []string{s.Path(md.Hash), s.ProxyPath(md.Hash), s.timesPath(md.Hash)} {
			if err := os.Remove(p); err != nil && !errors.Is(err, os.ErrNotExist) {
				return gone, err
			}
		}
		gone = append(gone, md.Hash)
	}
	return gone, nil
}

// maxName bounds the name of a file, in bytes.
const maxName = 200

// cleanName keeps the last part of a path and what can be shown of it.
func cleanName(name string) string {
	name = strings.ToValidUTF8(filepath.Base(strings.ReplaceAll(name, `\`, "/")), "")
	name = strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f || r >= 0x202a && r <= 0x202e || r >= 0x2066 && r <= 0x2069 {
			return -1
		}
		return r
	}, name)
	for len(name) > maxName {
		_, n := utf8.DecodeLastRuneInString(name)
		name = name[:len(name)-n]
	}
	if strings.Trim(name, "./") == "" {
		return "unnamed"
	}
	return name
}
