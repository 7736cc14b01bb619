package store

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"
	"unicode/utf8"

	"github.com/jmoiron/sqlx"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/core/words"
	files "ivypocket/media"
	"ivypocket/media/clip"
	"ivypocket/media/disk"
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

// knownMedia holds what is known of media in memory too, since every frame asks for
// it. The files are kept by the hash of their content.
type knownMedia struct {
	mu   sync.RWMutex
	byID map[string]Medium
}

type mediaRow struct {
	Hash, Name, Meta, Created, Used, Cleared string
	Bytes                                    int64
}

// openMedia reads what is known of all media. What can't be read, or whose file
// is not as it came in, is noted and does not keep the rest.
func (s *Store) openMedia() error {
	s.byID = map[string]Medium{}
	var rows []mediaRow
	if err := s.db.Select(&rows, `SELECT hash, name, bytes, meta, created, used, cleared FROM media`); err != nil {
		return told(err)
	}
	for _, r := range rows {
		md := Medium{Hash: r.Hash, Name: r.Name, Bytes: r.Bytes, Created: r.Created, Used: r.Used, Cleared: r.Cleared}
		err := json.Unmarshal([]byte(r.Meta), &md.Meta)
		if err != nil {
			md.Meta = files.Meta{}
		}
		if !scheme.ValidHash(r.Hash) {
			s.Note("media "+r.Hash, Trouble{r.Name, "Its name in the database is damaged.", "Put the media in again."})
			continue
		}
		if err != nil || md.Meta.Version < files.Version || md.Meta.Load(s.Path(md.Hash), s.timesPath(md.Hash)) != nil {
			if md = s.again(md); md.Meta.Version == 0 {
				s.Note("media "+r.Hash, Trouble{r.Name, "What was known of it is damaged, and its file can't be read.", "Put the media in again."})
				continue
			}
		}
		s.byID[r.Hash] = md
		if md.Cleared == "" {
			s.Whole(md.Hash)
		}
	}
	return nil
}

// Whole reports whether the file of media is there as long as it was when it
// came in; that it is not is noted.
func (s *Store) Whole(hash string) bool {
	md, ok := s.Medium(hash)
	if !ok {
		return false
	}
	st, err := os.Stat(s.Path(hash))
	if err == nil && st.Size() == md.Bytes {
		s.Settle("media " + hash)
		return true
	}
	tr := Trouble{md.Name, "Its file is gone.", "Put the same file in again; it takes its old places by itself."}
	if err == nil {
		tr.Why = fmt.Sprintf("Its file is damaged: %d bytes of %d are there.", st.Size(), md.Bytes)
	}
	s.Note("media "+hash, tr)
	return false
}

// again inspects media anew that an older program took in, or whose times are
// lost. What can't be read any more stays as it was known.
func (s *Store) again(md Medium) Medium {
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	defer cancel()
	meta, err := files.Inspect(ctx, s.Path(md.Hash))
	if err != nil {
		return md
	}
	md.Meta = meta
	if s.keepTimes(md) == nil {
		_ = s.keepMeta(ctx, md)
	}
	return md
}

// filesOf are the places of all files that media may have: the original, what is
// made of it, and what is known of it.
func (s *Store) filesOf(hash string) []string {
	return []string{s.Path(hash), s.ProxyPath(hash), s.timesPath(hash)}
}

// Path is where an original lies.
func (s *Store) Path(hash string) string {
	h := strings.TrimPrefix(hash, "sha256:")
	return filepath.Join(s.dir, "media", h[:2], h)
}

// ProxyPath is where a clip's proxy lies once it has grown.
func (s *Store) ProxyPath(hash string) string { return s.beside(hash, ".ivyproxy") }

// timesPath is where the times of an uneven clip lie.
func (s *Store) timesPath(hash string) string { return s.beside(hash, ".ivytimes") }

func (s *Store) beside(hash, ext string) string {
	return filepath.Join(s.dir, "proxies", strings.TrimPrefix(hash, "sha256:")+ext)
}

// Meta returns what is known of media.
func (s *Store) Meta(hash string) (files.Meta, bool) {
	md, ok := s.Medium(hash)
	return md.Meta, ok
}

// Medium returns media by hash.
func (s *Store) Medium(hash string) (Medium, bool) {
	s.mu.RLock()
	defer s.mu.RUnlock()
	md, ok := s.byID[hash]
	return md, ok
}

// Faces lists the fonts that people are offered, by their names.
func (s *Store) Faces() (out []words.Named) {
	s.mu.RLock()
	defer s.mu.RUnlock()
	for _, md := range s.byID {
		if f := md.Meta.Face; f != nil && md.Cleared == "" {
			n := words.Named{ID: md.Hash, Name: f.Name, Sort: "Of your own"}
			if n.Name == "" {
				n.Name = md.Name
			}
			out = append(out, n)
		}
	}
	slices.SortFunc(out, func(a, b words.Named) int {
		return cmp.Or(strings.Compare(a.Name, b.Name), strings.Compare(a.ID, b.ID))
	})
	return out
}

// All lists all media in no order, cleared ones too.
func (s *Store) All() []Medium {
	s.mu.RLock()
	defer s.mu.RUnlock()
	out := make([]Medium, 0, len(s.byID))
	for _, md := range s.byID {
		out = append(out, md)
	}
	return out
}

// Put takes in a file: it is written aside, hashed on the way, checked, and
// only then given its name and row. Media that is there already is returned as
// it is. What may not come in is a *RefusedError of the room media.
func (s *Store) Put(ctx context.Context, name string, r io.Reader) (md Medium, err error) {
	f, err := os.CreateTemp(s.scratch.dir, "in-*")
	if err != nil {
		return md, full(err)
	}
	defer os.Remove(f.Name())
	defer f.Close()
	h := sha256.New()
	n, err := io.Copy(io.MultiWriter(f, h), s.Roomy(io.LimitReader(r, files.MaxBytes+1)))
	if err != nil {
		if err = full(err); errors.Is(err, ErrDiskFull) {
			return md, err
		}
		return md, fmt.Errorf("the upload broke off: %w", err)
	}
	if n > files.MaxBytes {
		return md, &files.RefusedError{Reason: fmt.Sprintf("The file is larger than %d GB.", int64(files.MaxBytes)>>30)}
	}
	return s.Adopt(ctx, name, f.Name(), h.Sum(nil))
}

// Adopt is Put for a file that lies on the store's disk and whose SHA-256 is
// known. The file stays where it is too, as a second name of the same bytes, for
// whoever brought it to remove when that is noted: a program that is ended on
// the way can begin again.
func (s *Store) Adopt(ctx context.Context, name, path string, sum []byte) (md Medium, err error) {
	st, err := os.Stat(path)
	if err != nil {
		return md, err
	}
	md = Medium{Hash: "sha256:" + hex.EncodeToString(sum), Name: CleanName(name), Bytes: st.Size(), Created: now()}
	if known, ok := s.Medium(md.Hash); ok && s.Whole(md.Hash) {
		return s.welcome(ctx, known)
	} // a file that was lost or damaged and has come back is taken in like a new one
	// It comes to rest on the disk while it is looked at.
	synced := make(chan error, 1)
	go func() { synced <- disk.Sync(path) }()
	md.Meta, err = files.Inspect(ctx, path)
	if serr := <-synced; err == nil {
		err = full(serr)
	}
	if err != nil {
		return md, err
	}
	return s.keep(ctx, md, path)
}

// PutSequence makes a clip of numbered pictures that are in the store already;
// apart says that they are listed on their own, too.
func (s *Store) PutSequence(ctx context.Context, name string, rate timing.Rate, numbers []int64, hashes []string, apart bool) (md Medium, err error) {
	l, err := sequence.New(rate, numbers, hashes)
	if err != nil {
		return md, &files.RefusedError{Reason: "These pictures make no sequence: " + err.Error() + "."}
	}
	l.Apart = apart
	for i, h := range hashes {
		p, ok := s.Medium(h)
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
	md = Medium{Hash: "sha256:" + hex.EncodeToString(sum[:]), Name: CleanName(name), Bytes: int64(len(b)), Created: now()}
	if known, ok := s.Medium(md.Hash); ok && s.Whole(md.Hash) {
		return s.welcome(ctx, known)
	}
	times := l.Times()
	md.Meta = files.Meta{Version: files.Version, Kind: "footage", Width: l.Width, Height: l.Height, Pictures: len(l.Pictures), Sequence: &l, Times: &times}
	if err := s.Room(int64(len(b))); err != nil {
		return md, err
	}
	f, err := os.CreateTemp(s.scratch.dir, "in-*")
	if err != nil {
		return md, full(err)
	}
	defer os.Remove(f.Name())
	_, err = f.Write(b)
	if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
		return md, full(err)
	}
	return s.keep(ctx, md, f.Name())
}

// welcome returns media that was there already, back if it had been cleared.
func (s *Store) welcome(ctx context.Context, md Medium) (Medium, error) {
	if md.Cleared == "" {
		return md, nil
	}
	err := s.SetCleared(ctx, []string{md.Hash}, false)
	md.Cleared = ""
	return md, err
}

// keep gives a checked file its name, puts that on the disk, and only then
// keeps its row.
func (s *Store) keep(ctx context.Context, md Medium, path string) (Medium, error) {
	to := s.Path(md.Hash)
	folder := filepath.Dir(to)
	if err := os.Mkdir(folder, 0o755); err == nil {
		err = disk.Sync(filepath.Dir(folder))
		if err != nil {
			return md, full(err)
		}
	} else if !errors.Is(err, os.ErrExist) {
		return md, full(err)
	}
	// A second name, which takes the place of whatever may be there, such as a
	// file that was cut short; where there is no such thing, the file is moved.
	second := path + ".named"
	if err := os.Link(path, second); err == nil {
		err = os.Rename(second, to)
		if err != nil {
			return md, full(errors.Join(err, os.Remove(second)))
		}
	} else if err := os.Rename(path, to); err != nil {
		return md, full(err)
	}
	if err := disk.Sync(folder); err != nil {
		return md, full(err)
	}
	if err := s.keepTimes(md); err != nil {
		return md, full(err)
	}
	meta, err := json.Marshal(md.Meta)
	if err != nil {
		return md, err
	}
	if _, err := s.db.exec(ctx, `INSERT INTO media (hash, name, bytes, meta, created) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT (hash) DO UPDATE SET bytes = excluded.bytes, meta = excluded.meta, cleared = ''`, md.Hash, md.Name, md.Bytes, string(meta), md.Created); err != nil {
		return md, err
	}
	kept := md
	kept.Meta.First = nil // is for who took it in
	if old, ok := s.Medium(md.Hash); ok {
		kept.Name, kept.Created, kept.Used = old.Name, old.Created, old.Used
	}
	s.set(kept)
	s.Settle("media " + md.Hash)
	return md, nil
}

func (s *Store) set(md Medium) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.byID[md.Hash] = md
}

// keepTimes keeps the times of an uneven clip beside its proxy.
func (s *Store) keepTimes(md Medium) error {
	if md.Meta.Times == nil || md.Meta.Times.Starts == nil {
		return nil
	}
	to := s.timesPath(md.Hash)
	if err := s.Room(int64(len(md.Meta.Times.Starts)) * 2); err != nil {
		return err
	}
	return errors.Join(clip.WriteTimes(to, *md.Meta.Times), disk.Sync(filepath.Dir(to)))
}

func (s *Store) keepMeta(ctx context.Context, md Medium) error {
	meta, err := json.Marshal(md.Meta)
	if err != nil {
		return err
	}
	_, err = s.db.exec(ctx, `UPDATE media SET meta = ? WHERE hash = ?`, string(meta), md.Hash)
	return err
}

// Learn replaces what is known of media, as when its frames have been counted.
func (s *Store) Learn(ctx context.Context, hash string, meta files.Meta) error {
	md, ok := s.Medium(hash)
	if !ok {
		return ErrNotFound
	}
	md.Meta = meta
	if err := s.keepTimes(md); err != nil {
		return err
	}
	if err := s.keepMeta(ctx, md); err != nil {
		return err
	}
	s.set(md)
	return nil
}

// Touch notes that media was put into a pocket just now.
func (s *Store) Touch(ctx context.Context, hash string) error {
	at := now()
	if _, err := s.db.exec(ctx, `UPDATE media SET used = ?, cleared = '' WHERE hash = ?`, at, hash); err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if md, ok := s.byID[hash]; ok {
		md.Used, md.Cleared = at, ""
		s.byID[hash] = md
	}
	return nil
}

// RenameMedium gives media another name.
func (s *Store) RenameMedium(ctx context.Context, hash, name string) error {
	md, ok := s.Medium(hash)
	if !ok {
		return ErrNotFound
	}
	md.Name = CleanName(name)
	if _, err := s.db.exec(ctx, `UPDATE media SET name = ? WHERE hash = ?`, md.Name, hash); err != nil {
		return err
	}
	s.set(md)
	return nil
}

// SetCleared clears media away or brings it back. Files stay.
func (s *Store) SetCleared(ctx context.Context, hashes []string, cleared bool) error {
	at := ""
	if cleared {
		at = now()
	}
	if err := s.makingRoom(ctx, func(tx *sqlx.Tx) error {
		for _, h := range hashes {
			if _, err := tx.ExecContext(ctx, `UPDATE media SET cleared = ? WHERE hash = ?`, at, h); err != nil {
				return err
			}
		}
		return nil
	}); err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, h := range hashes {
		if md, ok := s.byID[h]; ok {
			md.Cleared = at
			s.byID[h] = md
		}
	}
	return nil
}

// Referred returns the hashes of all media that pieces, releases and renders
// still to be made speak of, with history also those that undo would bring
// back. Pictures of sequences among them are among them.
func (s *Store) Referred(ctx context.Context, history bool) (map[string]bool, error) {
	out := map[string]bool{}
	queries := []string{`SELECT content FROM documents`, `SELECT document FROM releases`, `SELECT content FROM kept_lists`, `SELECT content FROM guide_sets`, `SELECT job FROM renders WHERE state IN ('queued', 'running', 'paused')`}
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
			for _, h := range scheme.Hashes(text) {
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
		if err := s.makingRoom(ctx, func(tx *sqlx.Tx) error {
			_, err := tx.ExecContext(ctx, `DELETE FROM media WHERE hash = ?`, md.Hash)
			return err
		}); err != nil {
			return gone, err
		}
		s.mu.Lock()
		delete(s.byID, md.Hash)
		s.mu.Unlock()
		s.Settle("media " + md.Hash)
		for _, p := range s.filesOf(md.Hash) {
			if err := os.Remove(p); err != nil && !errors.Is(err, os.ErrNotExist) {
				return gone, err
			}
		}
		gone = append(gone, md.Hash)
	}
	return gone, s.keepSpare()
}

// strayAge is how long a file without a row is left alone: it may be about to
// get one.
const strayAge = time.Hour

// Sweep removes files that have no row: a program that was ended after it gave a
// file its name and before it kept the row leaves one. Uploads that such a
// program had received whole are still there under their own name.
//
// After a database was put back nothing is removed: another one may know the file.
func (s *Store) Sweep(now time.Time) (swept int, err error) {
	if _, held := HeldSince(s.dir); held {
		return 0, nil
	}
	for _, pattern := range []string{"media/*/*", "proxies/*.ivyproxy", "proxies/*.ivytimes"} {
		found, err := filepath.Glob(filepath.Join(s.dir, pattern))
		if err != nil {
			return swept, err
		}
		for _, path := range found {
			name, _, _ := strings.Cut(filepath.Base(path), ".")
			if _, known := s.Medium("sha256:" + name); known || s.named("sha256:"+name) {
				continue
			}
			// The time of the last change of the name counts, not that of the bytes.
			var st syscall.Stat_t
			if syscall.Stat(path, &st) != nil || now.Sub(time.Unix(st.Ctim.Unix())) < strayAge {
				continue
			}
			if err := os.Remove(path); err != nil {
				return swept, err
			}
			swept++
		}
	}
	return swept, nil
}

// named reports whether there is a row of media, read or not: another program
// may have put it in.
func (s *Store) named(hash string) bool {
	var n int
	err := s.db.Get(&n, `SELECT COUNT(*) FROM media WHERE hash = ?`, hash)
	return err != nil || n > 0
}

// maxName bounds the name of a file, in bytes.
const maxName = 200

// CleanName keeps the last part of a path and what can be shown of it, within
// bounds.
func CleanName(name string) string {
	name = strings.ToValidUTF8(filepath.Base(strings.ReplaceAll(name, `\`, "/")), "")
	name = strings.Map(func(r rune) rune {
		if r < ' ' || template.Unseen(r) {
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
