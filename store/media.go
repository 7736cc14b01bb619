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
	"strings"
	"sync"
	"syscall"
	"unicode/utf8"

	"github.com/jmoiron/sqlx"

	files "ivypocket/media"
)

// Medium is media as kept.
type Medium struct {
	Hash string `json:"hash"`
	Name string `json:"name"`
	// Bytes is the size of the original.
	Bytes int64      `json:"bytes"`
	Meta  files.Meta `json:"meta"`
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
	Hash, Name, Meta, Created string
	Bytes                     int64
}

func (m *media) open(db *sqlx.DB, dir string) error {
	m.db, m.dir, m.byID = db, dir, map[string]Medium{}
	var rows []mediaRow
	if err := db.Select(&rows, `SELECT * FROM media`); err != nil {
		return err
	}
	for _, r := range rows {
		md := Medium{Hash: r.Hash, Name: r.Name, Bytes: r.Bytes}
		if err := json.Unmarshal([]byte(r.Meta), &md.Meta); err != nil {
			return fmt.Errorf("media %s: %w", r.Hash, err)
		}
		m.byID[r.Hash] = md
	}
	return nil
}

// Path is where an original lies.
func (m *media) Path(hash string) string {
	h := strings.TrimPrefix(hash, "sha256:")
	return filepath.Join(m.dir, "media", h[:2], h)
}

// ProxyPath is where a clip's proxy lies once it has grown.
func (m *media) ProxyPath(hash string) string {
	return filepath.Join(m.dir, "proxies", strings.TrimPrefix(hash, "sha256:")+".ivyproxy")
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

// All lists all media in no order.
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
	n, err := io.Copy(io.MultiWriter(f, h), io.LimitReader(r, files.MaxClipBytes+1))
	if err != nil {
		if errors.Is(err, syscall.ENOSPC) {
			return md, errors.New("the disk is full; nothing was changed. Make room and try again")
		}
		return md, fmt.Errorf("the upload broke off: %w", err)
	}
	if n > files.MaxClipBytes {
		return md, &files.RefusedError{Reason: fmt.Sprintf("The file is larger than %d MB.", files.MaxClipBytes>>20)}
	}
	md = Medium{Hash: "sha256:" + hex.EncodeToString(h.Sum(nil)), Name: cleanName(name), Bytes: n}
	if known, ok := m.Medium(md.Hash); ok {
		if _, err := os.Stat(m.Path(md.Hash)); err == nil {
			return known, nil
		}
		// Its file was lost and has come back.
	}
	if md.Meta, err = files.Inspect(ctx, f.Name()); err != nil {
		return md, err
	}
	if err := f.Sync(); err != nil {
		return md, err
	}
	to := m.Path(md.Hash)
	if err := os.MkdirAll(filepath.Dir(to), 0o755); err != nil {
		return md, err
	}
	if err := os.Rename(f.Name(), to); err != nil {
		return md, err
	}
	meta, err := json.Marshal(md.Meta)
	if err != nil {
		return md, err
	}
	if _, err := m.db.ExecContext(ctx, `INSERT INTO media (hash, name, bytes, meta, created) VALUES (?, ?, ?, ?, ?) ON CONFLICT DO NOTHING`,
		md.Hash, md.Name, md.Bytes, string(meta), now()); err != nil {
		return md, err
	}
	m.mu.Lock()
	m.byID[md.Hash] = md
	m.mu.Unlock()
	return md, nil
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
