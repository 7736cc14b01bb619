package scene

import (
	"context"
	"errors"
	"fmt"
	"math"
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"
	"golang.org/x/sync/errgroup"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
)

// Source gives the pixels of media. It is safe for use by many goroutines.
type Source interface {
	Library
	// Picture returns a picture, or a frame of a clip, upright and at w×h pixels
	// or more, but never more than a picture has; frames of clips may also be
	// somewhat smaller. The surface is shared and must not be changed.
	Picture(ctx context.Context, media string, frame int64, w, h int) (*raster.Surface, error)
	// Vector reports whether a picture may be drawn larger than its own size
	// without loss.
	Vector(media string) bool
	// Fleeting reports whether a frame of a clip holds only until the next one
	// of the same clip is asked for, as when clips are read forwards.
	Fleeting() bool
}

// MaxPictureSide bounds the side of a picture prepared for drawing.
const MaxPictureSide = 8192

// Pictures makes pictures ready in the sizes in which lists draw them and
// keeps them, up to a number of bytes. It is safe for use by many goroutines:
// a picture that several wait for is made once.
type Pictures struct {
	src   Source
	limit int

	mu     sync.Mutex
	lru    *simplelru.LRU[pictureKey, *raster.Surface]
	bytes  int
	coming map[pictureKey]*coming
}

// coming is a picture that somebody is making.
type coming struct {
	done chan struct{}
	s    *raster.Surface
	err  error
}

// NewPictures returns a cache over a source that holds up to limit bytes.
func NewPictures(src Source, limit int) *Pictures {
	c := &Pictures{src: src, limit: limit, coming: map[pictureKey]*coming{}}
	c.lru, _ = simplelru.NewLRU(1<<30, func(_ pictureKey, s *raster.Surface) { c.bytes -= s.Bytes() })
	return c
}

// Ready holds the pictures that a list draws, made ready. Its memory is used
// again by the next list.
type Ready struct {
	draws  []raster.Picture // one for each item; zero for fills
	places []place
	missed []int
}

// atOnce is how many pictures of one list are made side by side.
const atOnce = 4

// Ready makes all pictures of a list ready, so that painting it waits for
// nothing. When all are in the cache it allocates nothing.
func (c *Pictures) Ready(ctx context.Context, l *List, r *Ready) error {
	n := len(l.Items)
	if cap(r.draws) < n {
		r.draws, r.places = make([]raster.Picture, n), make([]place, n)
	}
	r.draws, r.places, r.missed = r.draws[:n], r.places[:n], r.missed[:0]
	for i := range l.Items {
		r.draws[i] = raster.Picture{}
		it := &l.Items[i]
		if it.Kind != PictureItem {
			continue
		}
		p, ok := c.place(it, l.Size)
		if !ok {
			continue // there is nothing to see of it
		}
		r.places[i] = p
		if s := c.have(p.key); s != nil {
			p.lay(&r.draws[i], s, l.Size)
		} else {
			r.missed = append(r.missed, i)
		}
	}
	if len(r.missed) == 0 {
		return ctx.Err()
	}
	return c.makeMissed(ctx, l, r)
}

// makeMissed makes what was not in the cache, side by side.
func (c *Pictures) makeMissed(ctx context.Context, l *List, r *Ready) error {
	g, gctx := errgroup.WithContext(ctx)
	g.SetLimit(atOnce)
	for _, i := range r.missed {
		g.Go(func() error {
			it := &l.Items[i]
			s, err := c.get(gctx, r.places[i].key, it)
			if err != nil {
				return fmt.Errorf("layer %s: %w", it.Layer, err)
			}
			r.places[i].lay(&r.draws[i], s, l.Size)
			return nil
		})
	}
	if err := g.Wait(); err != nil {
		return err
	}
	return ctx.Err()
}

// flat is how many device pixels for one of the picture are nothing to see: the
// largest that comes in is a tenth of a pixel wide then.
const flat = 1e-6

// place is which picture an item draws, and where that picture's pixels go.
type place struct {
	key pictureKey
	// toDevice takes the picture, stretched to key.w×key.h, to the device.
	toDevice geom.Projective
	// region: the picture has exactly the key's pixels.
	region bool
}

// lay makes the picture ready to be drawn.
func (p *place) lay(to *raster.Picture, s *raster.Surface, size Size) {
	m := p.toDevice
	if !p.region {
		m = geom.Scale(float64(p.key.w)/float64(s.W), float64(p.key.h)/float64(s.H)).Flat().Then(m)
	}
	to.Set(s, m, size.W, size.H)
}

// place chooses the size in which a picture is seen, so that shrinking is
// filtered once and drawing samples near 1:1.
//
// Media that keeps its size and covers its box is made for the very pixels it
// falls on at rest: there it is copied, and moved it is shifted. A still is
// filtered for them, in parts of a pixel; a clip is decoded to whole pixels, its
// edges going to the nearest ones. The rest is sampled through its map.
//
// ok is false when nothing of the picture can be seen: it is flat, or seen from
// its edge.
func (c *Pictures) place(it *Item, size Size) (p place, ok bool) {
	way := it.Content.Flat().Then(it.Map)
	mx, my := way.Stretch(geom.Box{W: it.MediaSize.W, H: it.MediaSize.H})
	if !(mx > flat && my > flat) || math.IsInf(mx, 0) || math.IsInf(my, 0) {
		return p, false
	}
	sx, sy := it.Rest.Stretch()
	if sx == 0 || sy == 0 {
		sx, sy = mx, my // nothing is known of rest
	}
	vector := c.src.Vector(it.Media)
	p = place{key: pictureKey{media: it.Media, frame: it.Frame}}
	if it.atRestSize(way) && it.RestBox.W*it.RestBox.H < 4*float64(size.W*size.H) {
		if it.Still {
			p.key.w, p.key.h = prepared(it.MediaSize, sx, sy, vector, size)
			x0, y0 := int(math.Floor(it.RestBox.X)), int(math.Floor(it.RestBox.Y))
			p.key.region = region{x0, y0, int(math.Ceil(it.RestBox.X+it.RestBox.W)) - x0, int(math.Ceil(it.RestBox.Y+it.RestBox.H)) - y0}
			p.key.rest = it.Rest
			p.region = true
			p.toDevice = geom.Translate(float64(x0)+tidy(way.E-it.Rest.E), float64(y0)+tidy(way.F-it.Rest.F)).Flat()
			return p, true
		}
		a, b := it.Rest.Apply(geom.Point{}), it.Rest.Apply(geom.Point{X: it.MediaSize.W, Y: it.MediaSize.H})
		x0, y0, x1, y1 := math.Round(a.X), math.Round(a.Y), math.Round(b.X), math.Round(b.Y)
		w, h := math.Abs(x1-x0), math.Abs(y1-y0)
		if w >= 1 && h >= 1 && w <= it.MediaSize.W && h <= it.MediaSize.H {
			p.key.w, p.key.h = int(w), int(h)
			p.toDevice = geom.Scale((x1-x0)/w, (y1-y0)/h).Then(geom.Translate(x0+tidy(way.E-it.Rest.E), y0+tidy(way.F-it.Rest.F))).Flat()
			return p, true
		}
	}
	// A layer that grows or shrinks is drawn from one of few sizes, each √2
	// times the one before: not one for each frame, and none shrunk so far that
	// sampling would leave pixels out.
	sx *= math.Exp2(math.Ceil(2*math.Log2(mx/sx)-1e-9) / 2)
	sy *= math.Exp2(math.Ceil(2*math.Log2(my/sy)-1e-9) / 2)
	p.key.w, p.key.h = prepared(it.MediaSize, sx, sy, vector, size)
	p.toDevice = geom.Scale(it.MediaSize.W/float64(p.key.w), it.MediaSize.H/float64(p.key.h)).Flat().Then(way)
	return p, true
}

// atRestSize reports whether media that covers its box is moved by motion and
// nothing else.
func (it *Item) atRestSize(way geom.Projective) bool {
	same := func(a, b float64) bool { return math.Abs(a-b) <= 1e-12*math.Max(1, math.Abs(a)) }
	return !it.Edges && way.IsFlat() && way.Upright() && it.Rest.Upright() && it.Rest.A != 0 && same(way.A, it.Rest.A) && same(way.D, it.Rest.D)
}

// tidy takes away what rounding leaves of a shift by whole pixels.
func tidy(v float64) float64 {
	if r := math.Round(v); math.Abs(v-r) < 1e-6 {
		return r
	}
	return v
}

// maxVectorSide bounds a vector drawing made into pixels, for a canvas of
// vectorCanvas px or more; a smaller one has smaller drawings, which look as sharp
// on it. One of 4096 × 4096 takes more than a second to be drawn.
const (
	maxVectorSide = 4096
	minVectorSide = 1024
	vectorCanvas  = 1920
)

// vectorSide is the longest side of a vector drawing on a canvas.
func vectorSide(canvas Size) float64 {
	return math.Round(min(max(maxVectorSide*float64(max(canvas.W, canvas.H))/vectorCanvas, minVectorSide), maxVectorSide))
}

// prepared is the size in which media stretched by sx and sy is made ready:
// never larger than it is, but for vector drawings.
func prepared(media geom.Size, sx, sy float64, vector bool, canvas Size) (w, h int) {
	if vector {
		k := math.Min(1, vectorSide(canvas)/math.Max(media.W*sx, media.H*sy))
		sx, sy = sx*k, sy*k
	}
	side := func(n, s float64) int {
		v := math.Round(n * s)
		if !vector {
			v = math.Min(v, n)
		}
		return int(math.Max(1, math.Min(v, MaxPictureSide)))
	}
	return side(media.W, sx), side(media.H, sy)
}

// pictureKey names a picture made ready: filtered to w×h, or, with a region,
// filtered through the map at rest into that region of the device.
type pictureKey struct {
	media  string
	frame  int64
	w, h   int
	region region
	rest   geom.Affine
}

// region is a region of whole pixels: its corner and its size.
type region struct{ x, y, w, h int }

// have returns a picture that is in the cache.
func (c *Pictures) have(k pictureKey) *raster.Surface {
	c.mu.Lock()
	defer c.mu.Unlock()
	s, _ := c.lru.Get(k)
	return s
}

func (c *Pictures) get(ctx context.Context, k pictureKey, it *Item) (*raster.Surface, error) {
	if !it.Still && c.src.Fleeting() {
		return c.make(ctx, k, it)
	}
	for {
		c.mu.Lock()
		if s, ok := c.lru.Get(k); ok {
			c.mu.Unlock()
			return s, nil
		}
		w := c.coming[k]
		if w == nil {
			break // with the lock held
		}
		c.mu.Unlock()
		select {
		case <-w.done:
			if w.err == nil {
				return w.s, nil
			}
			if ctx.Err() == nil && isCancelled(w.err) {
				continue // whoever made it gave up; this one has not
			}
			return nil, w.err
		case <-ctx.Done():
			return nil, ctx.Err()
		}
	}
	w := &coming{done: make(chan struct{})}
	c.coming[k] = w
	c.mu.Unlock()
	w.s, w.err = c.make(ctx, k, it)
	c.mu.Lock()
	defer c.mu.Unlock()
	delete(c.coming, k)
	close(w.done)
	if w.err != nil {
		return nil, w.err
	}
	c.lru.Add(k, w.s)
	c.bytes += w.s.Bytes()
	for c.bytes > c.limit && c.lru.Len() > 1 {
		c.lru.RemoveOldest()
	}
	return w.s, nil
}

func isCancelled(err error) bool {
	return errors.Is(err, context.Canceled) || errors.Is(err, context.DeadlineExceeded)
}

// make asks the source and filters what it gives.
func (c *Pictures) make(ctx context.Context, k pictureKey, it *Item) (*raster.Surface, error) {
	s, err := c.src.Picture(ctx, k.media, k.frame, k.w, k.h)
	switch {
	case err != nil:
		return nil, err
	case k.region.w > 0:
		return s.Region(geom.Scale(it.MediaSize.W/float64(s.W), it.MediaSize.H/float64(s.H)).Then(k.rest), k.region.x, k.region.y, k.region.w, k.region.h), nil
	case it.Still:
		return s.Resize(k.w, k.h), nil
	}
	return s, nil
}

// Forget lets go of every picture of a medium, as when its frames have become
// better known.
func (c *Pictures) Forget(media string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for _, k := range c.lru.Keys() {
		if k.media == media {
			c.lru.Remove(k)
		}
	}
}
