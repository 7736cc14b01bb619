package media

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image/png"
	"os"
	"sync"
	"time"

	"github.com/hashicorp/golang-lru/v2/simplelru"
	"golang.org/x/sync/semaphore"

	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/media/turbo"
)

// Files finds checked media by hash.
type Files interface {
	// Meta returns what is known of media.
	Meta(hash string) (Meta, bool)
	// Path is where the original lies, ProxyPath where its proxy does or would.
	Path(hash string) string
	ProxyPath(hash string) string
}

// Library gives the pixels of stored media. It is safe for use by many
// goroutines.
type Library struct {
	files Files
	admit *semaphore.Weighted

	mu      sync.Mutex
	stills  *simplelru.LRU[string, *raster.Surface] // decoded PNGs at full size
	bytes   int
	proxies map[string]*proxy
}

// stillBytes bounds the pictures kept decoded at full size.
const stillBytes = 256 << 20

// NewLibrary returns a library of the given files.
func NewLibrary(files Files) *Library {
	l := &Library{files: files, admit: semaphore.NewWeighted(decodeBytes), proxies: map[string]*proxy{}}
	l.stills, _ = simplelru.NewLRU(1<<30, func(_ string, s *raster.Surface) { l.bytes -= s.Bytes() })
	return l
}

// Close lets go of open proxies.
func (l *Library) Close() {
	l.mu.Lock()
	defer l.mu.Unlock()
	for _, p := range l.proxies {
		p.close()
	}
	clear(l.proxies)
}

// Info describes media to a scene.
func (l *Library) Info(media string) (scene.Info, bool) {
	m, ok := l.files.Meta(media)
	return m.Info(), ok
}

// Vector reports whether media can be drawn at any size.
func (l *Library) Vector(media string) bool {
	m, ok := l.files.Meta(media)
	return ok && m.Type == SVG
}

// still decodes a picture at w×h or more.
func (l *Library) still(ctx context.Context, media string, m Meta, w, h int) (*raster.Surface, error) {
	need := int64(m.Width) * int64(m.Height) * 4
	if m.Type == JPEG {
		// Decoding shrinks by up to 8 on the way.
		need = min(need, int64(w)*int64(h)*16+4<<20)
	}
	need = min(need, decodeBytes)
	if err := l.admit.Acquire(ctx, need); err != nil {
		return nil, err
	}
	defer l.admit.Release(need)
	switch m.Type {
	case JPEG:
		data, err := l.read(media)
		if err != nil {
			return nil, err
		}
		dw, dh := w, h
		if m.Orientation >= 5 {
			dw, dh = h, w
		}
		s, err := turbo.Decode(data, dw, dh)
		if err != nil {
			return nil, err
		}
		return s.Oriented(m.Orientation), nil
	case SVG:
		data, err := l.read(media)
		if err != nil {
			return nil, err
		}
		return drawSVG(ctx, data, w, h)
	case PNG:
		s, err := l.png(media)
		if err != nil {
			return nil, err
		}
		return s, nil
	}
	return nil, fmt.Errorf("media of type %q can't be drawn", m.Type)
}

// GoneError says that the store knows media whose file is not there.
type GoneError struct{ Media string }

func (e *GoneError) Error() string {
	return "the file of " + e.Media[:min(len(e.Media), 19)] + "… is gone from the store; put the media in again"
}

func (l *Library) read(media string) ([]byte, error) {
	data, err := os.ReadFile(l.files.Path(media))
	if errors.Is(err, os.ErrNotExist) {
		return nil, &GoneError{media}
	}
	return data, err
}

func (l *Library) png(media string) (*raster.Surface, error) {
	l.mu.Lock()
	s, ok := l.stills.Get(media)
	l.mu.Unlock()
	if ok {
		return s, nil
	}
	data, err := l.read(media)
	if err != nil {
		return nil, err
	}
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("the PNG can't be decoded: %w", err)
	}
	s = raster.FromImage(img)
	l.mu.Lock()
	defer l.mu.Unlock()
	if s.Bytes() <= stillBytes && !l.stills.Contains(media) {
		l.stills.Add(media, s)
		l.bytes += s.Bytes()
	}
	for l.bytes > stillBytes && l.stills.Len() > 1 {
		l.stills.RemoveOldest()
	}
	return s, nil
}

// Stage returns a source for the stage: clips come from their proxy once it
// has grown, and frame by frame from the original until then.
func (l *Library) Stage() scene.Source { return stage{l} }

type stage struct{ *Library }

// Picture returns a picture or the proxy's frame of a clip.
func (s stage) Picture(ctx context.Context, media string, frame int64, w, h int) (*raster.Surface, error) {
	m, ok := s.files.Meta(media)
	if !ok {
		return nil, fmt.Errorf("media %s is not in the store", media)
	}
	if m.Rate == nil {
		return s.still(ctx, media, m, w, h)
	}
	if p := s.proxy(media); p != nil {
		return p.frame(frame, w, h)
	}
	return m.decodeFrame(ctx, s.files.Path(media), frame, w, h)
}

func (l *Library) proxy(media string) *proxy {
	l.mu.Lock()
	defer l.mu.Unlock()
	if p := l.proxies[media]; p != nil {
		return p
	}
	p, err := openProxy(l.files.ProxyPath(media))
	if err != nil {
		return nil
	}
	l.proxies[media] = p
	return p
}

// HasProxy reports whether a clip's proxy has grown.
func (l *Library) HasProxy(media string) bool { return l.proxy(media) != nil }

// Originals is a source that decodes originals. It reads clips forwards, so
// it is at its best when frames are asked for in order. It is for use by one
// goroutine; Close ends its decoders.
type Originals struct {
	*Library
	ctx     context.Context
	readers map[readerKey]*reader
}

type readerKey struct {
	media string
	w, h  int
}

type reader struct {
	*forward
	used time.Time
}

// maxReaders bounds the decoders open at one time.
const maxReaders = 8

// Originals returns a source of originals whose decoders live until Close, at
// most as long as ctx.
func (l *Library) Originals(ctx context.Context) *Originals {
	return &Originals{Library: l, ctx: ctx, readers: map[readerKey]*reader{}}
}

// Close ends all decoders.
func (o *Originals) Close() {
	for k, r := range o.readers {
		r.close()
		delete(o.readers, k)
	}
}

// Picture returns a picture or a frame decoded from the original clip.
func (o *Originals) Picture(ctx context.Context, media string, frame int64, w, h int) (*raster.Surface, error) {
	m, ok := o.files.Meta(media)
	if !ok {
		return nil, fmt.Errorf("media %s is not in the store", media)
	}
	if m.Rate == nil {
		return o.still(ctx, media, m, w, h)
	}
	frame = max(0, min(frame, m.Frames-1))
	k := readerKey{media, w, h}
	r := o.readers[k]
	for try := 0; try < 2; try++ {
		if r == nil {
			o.makeRoom()
			f, err := m.forward(o.ctx, o.files.Path(media), frame, w, h)
			if err != nil {
				return nil, err
			}
			r = &reader{forward: f}
			o.readers[k] = r
		}
		r.used = time.Now()
		s, ok, err := r.frame(frame)
		if err != nil {
			return nil, err
		}
		if ok {
			return s, nil
		}
		if r.last != nil && frame >= r.next && frame >= m.Frames-2 {
			return r.last, nil // the container promised a frame more than there is
		}
		r.close()
		delete(o.readers, k)
		r = nil
	}
	return nil, fmt.Errorf("frame %d of the clip can't be decoded", frame)
}

func (o *Originals) makeRoom() {
	for len(o.readers) >= maxReaders {
		var oldest readerKey
		var when time.Time
		for k, r := range o.readers {
			if when.IsZero() || r.used.Before(when) {
				oldest, when = k, r.used
			}
		}
		o.readers[oldest].close()
		delete(o.readers, oldest)
	}
}

// Still is a source like Originals that decodes each frame of a clip on its
// own, for frames looked at in any order.
func (l *Library) Still() scene.Source { return still{l} }

type still struct{ *Library }

// Picture returns a picture or a frame decoded from the original clip.
func (s still) Picture(ctx context.Context, media string, frame int64, w, h int) (*raster.Surface, error) {
	m, ok := s.files.Meta(media)
	if !ok {
		return nil, fmt.Errorf("media %s is not in the store", media)
	}
	if m.Rate == nil {
		return s.still(ctx, media, m, w, h)
	}
	return m.decodeFrame(ctx, s.files.Path(media), max(0, min(frame, m.Frames-1)), w, h)
}

// Growth is a proxy on its way.
type Growth struct{ Done, Frames int64 }

// GrowProxy builds the proxy of a clip unless it is there already.
func (l *Library) GrowProxy(ctx context.Context, media string, progress func(Growth)) error {
	m, ok := l.files.Meta(media)
	if !ok || m.Rate == nil || l.HasProxy(media) {
		return nil
	}
	return buildProxy(ctx, m, l.files.Path(media), l.files.ProxyPath(media), func(done int64) {
		if progress != nil {
			progress(Growth{done, m.Frames})
		}
	})
}
