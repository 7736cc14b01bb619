package scene

import (
	"context"
	"fmt"
	"math"
	"runtime"
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
)

// Source gives the pixels of media.
type Source interface {
	Library
	// Picture returns a picture, or a frame of a clip, upright and at exactly
	// w×h pixels. The surface is shared and must not be changed.
	Picture(ctx context.Context, media string, frame int64, w, h int) (*raster.Surface, error)
	// Vector reports whether a picture may be drawn larger than its own size
	// without loss.
	Vector(media string) bool
}

// MaxPictureSide bounds the side of a picture prepared for drawing.
const MaxPictureSide = 8192

// Painter turns draw lists into pictures on all cores. It keeps pictures in
// the sizes in which they were last drawn, up to a number of bytes. It paints
// one list at a time and is safe for use by one goroutine.
type Painter struct {
	src   Source
	cache *pictures
	jobs  chan band
	done  sync.WaitGroup // bands of the list being painted
	ends  sync.WaitGroup // the workers

	list  *List
	dst   *raster.Surface
	draws []raster.Picture // one for each item; zero for fills
}

type band struct{ y0, y1 int }

// NewPainter returns a painter whose cache of pictures holds up to limit
// bytes. Close ends its workers.
func NewPainter(src Source, limit int) *Painter {
	p := &Painter{src: src, cache: newPictures(limit), jobs: make(chan band)}
	for range runtime.GOMAXPROCS(0) {
		p.ends.Go(func() {
			for b := range p.jobs {
				p.paint(b.y0, b.y1)
				p.done.Done()
			}
		})
	}
	return p
}

// Close ends the workers.
func (p *Painter) Close() {
	close(p.jobs)
	p.ends.Wait()
}

// bandRows is the height of a band: small enough to share the work evenly,
// large enough that handing it over costs nothing.
const bandRows = 32

// Paint draws a list on dst, which is resized to the list's size. In the
// steady state, when all pictures are in the cache, it allocates nothing.
func (p *Painter) Paint(ctx context.Context, l *List, dst *raster.Surface) error {
	if l.Size.W < 1 || l.Size.H < 1 {
		return fmt.Errorf("a picture of %d × %d px can't be drawn", l.Size.W, l.Size.H)
	}
	dst.Reset(l.Size.W, l.Size.H)
	if cap(p.draws) < len(l.Items) {
		p.draws = make([]raster.Picture, len(l.Items))
	}
	p.draws = p.draws[:len(l.Items)]
	for i := range l.Items {
		p.draws[i] = raster.Picture{}
		if l.Items[i].Kind == PictureItem {
			if err := p.prepare(ctx, &l.Items[i], &p.draws[i]); err != nil {
				return fmt.Errorf("layer %s: %w", l.Items[i].Layer, err)
			}
		}
	}
	if err := ctx.Err(); err != nil {
		return err
	}
	p.list, p.dst = l, dst
	n := (l.Size.H + bandRows - 1) / bandRows
	p.done.Add(n)
	for i := range n {
		p.jobs <- band{i * bandRows, min((i+1)*bandRows, l.Size.H)}
	}
	p.done.Wait()
	dst.Opaque = covered(l)
	return nil
}

// covered reports whether one opaque fill hides the whole ground, so that the
// picture has no clear pixel.
func covered(l *List) bool {
	for i := range l.Items {
		it := &l.Items[i]
		if it.Kind == FillItem && it.Colour[3] == 255 && it.Opacity >= 1 && it.Radius == 0 &&
			it.Box.X <= 0 && it.Box.Y <= 0 && it.Box.X+it.Box.W >= float64(l.Size.W) && it.Box.Y+it.Box.H >= float64(l.Size.H) {
			return true
		}
	}
	return false
}

func (p *Painter) paint(y0, y1 int) {
	p.dst.Clear(y0, y1)
	for i := range p.list.Items {
		it := &p.list.Items[i]
		switch it.Kind {
		case FillItem:
			p.dst.Fill(y0, y1, it.Box, it.Radius, it.Colour, it.Opacity)
		case PictureItem:
			p.dst.Draw(y0, y1, &p.draws[i])
		}
	}
}

// prepare finds or makes the picture at the size in which it is seen, so that
// shrinking is filtered once and drawing samples near 1:1. A picture is never
// prepared larger than it is, but for vector drawings.
func (p *Painter) prepare(ctx context.Context, it *Item, d *raster.Picture) error {
	sx, sy := it.Map.Stretch()
	w, h := prepared(it.MediaSize, sx, sy, p.src.Vector(it.Media))
	s, err := p.cache.get(ctx, p.src, pictureKey{it.Media, it.Frame, w, h})
	if err != nil {
		return err
	}
	*d = raster.Picture{
		Src: s, Box: it.Box, Radius: it.Radius, Opacity: it.Opacity, Edges: it.Edges,
		Map: geom.Scale(it.MediaSize.W/float64(s.W), it.MediaSize.H/float64(s.H)).Then(it.Map),
	}
	return nil
}

// prepared is the size in which media stretched by sx and sy is made ready.
func prepared(media geom.Size, sx, sy float64, vector bool) (w, h int) {
	side := func(n, s float64) int {
		v := math.Round(n * s)
		if !vector {
			v = math.Min(v, n)
		}
		return int(math.Max(1, math.Min(v, MaxPictureSide)))
	}
	return side(media.W, sx), side(media.H, sy)
}

type pictureKey struct {
	media string
	frame int64
	w, h  int
}

// pictures is a cache of surfaces bounded by bytes.
type pictures struct {
	lru   *simplelru.LRU[pictureKey, *raster.Surface]
	bytes int
	limit int
}

func newPictures(limit int) *pictures {
	c := &pictures{limit: limit}
	c.lru, _ = simplelru.NewLRU(1<<30, func(_ pictureKey, s *raster.Surface) { c.bytes -= s.Bytes() })
	return c
}

func (c *pictures) get(ctx context.Context, src Source, k pictureKey) (*raster.Surface, error) {
	if s, ok := c.lru.Get(k); ok {
		return s, nil
	}
	s, err := src.Picture(ctx, k.media, k.frame, k.w, k.h)
	if err != nil {
		return nil, err
	}
	c.lru.Add(k, s)
	c.bytes += s.Bytes()
	for c.bytes > c.limit && c.lru.Len() > 1 {
		c.lru.RemoveOldest()
	}
	return s, nil
}
