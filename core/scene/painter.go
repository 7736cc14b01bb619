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
	// Picture returns a picture, or a frame of a clip, upright and at w×h pixels
	// or more, but never more than a picture has. The surface is shared and must
	// not be changed.
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

	size  Size
	list  *List
	dst   *raster.Surface
	draws []raster.Picture // one for each item; zero for fills

	// What Repaint has painted last, and where.
	last struct {
		items []Item
		size  Size
		dst   *raster.Surface
	}
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
	return p.draw(ctx, l, dst, 0, l.Size.H)
}

// Repaint draws a list on a surface that nobody but Repaint has changed since
// it last drew on it, and paints only the rows y0 to y1 in which something is
// not as it was. The picture is that of Paint.
func (p *Painter) Repaint(ctx context.Context, l *List, dst *raster.Surface) (y0, y1 int, err error) {
	y0, y1 = 0, l.Size.H
	if p.last.dst == dst && p.last.size == l.Size {
		y0, y1 = changedRows(p.last.items, l.Items, l.Size.H)
	}
	p.last.dst = nil // until it is whole
	if err = p.draw(ctx, l, dst, y0, y1); err == nil {
		p.last.items = append(p.last.items[:0], l.Items...)
		p.last.size, p.last.dst = l.Size, dst
	}
	return
}

// changedRows are the rows reached by items of one list that are not the same
// in the other. The order of layers does not change between frames.
func changedRows(a, b []Item, h int) (y0, y1 int) {
	y0, y1 = h, 0
	reach := func(a, b []Item) {
	next:
		for i := range a {
			for k := range b {
				if a[i] == b[k] {
					continue next
				}
			}
			y0 = min(y0, max(0, int(math.Floor(a[i].Box.Y))-1))
			y1 = max(y1, min(h, int(math.Ceil(a[i].Box.Y+a[i].Box.H))+1))
		}
	}
	reach(a, b)
	reach(b, a)
	return min(y0, y1), y1
}

func (p *Painter) draw(ctx context.Context, l *List, dst *raster.Surface, y0, y1 int) error {
	if l.Size.W < 1 || l.Size.H < 1 {
		return fmt.Errorf("a picture of %d × %d px can't be drawn", l.Size.W, l.Size.H)
	}
	dst.Reset(l.Size.W, l.Size.H)
	p.size = l.Size
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
	for y := y0; y < y1; y += bandRows {
		p.done.Add(1)
		p.jobs <- band{y, min(y+bandRows, y1)}
	}
	p.done.Wait()
	dst.Opaque = covered(l)
	return nil
}

// covered reports whether an opaque fill hides the whole ground, so that the
// picture has no clear pixel.
func covered(l *List) bool {
	for i := range l.Items {
		if l.Items[i].covers(l.Size) {
			return true
		}
	}
	return false
}

// covers reports whether an item alone hides everything below it.
func (it *Item) covers(s Size) bool {
	return it.Kind == FillItem && it.Colour[3] == 255 && it.Opacity >= 1 && it.Radius == 0 &&
		it.Box.X <= 0 && it.Box.Y <= 0 && it.Box.X+it.Box.W >= float64(s.W) && it.Box.Y+it.Box.H >= float64(s.H)
}

func (p *Painter) paint(y0, y1 int) {
	if len(p.list.Items) == 0 || !p.list.Items[0].covers(p.list.Size) {
		p.dst.Clear(y0, y1)
	}
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
// shrinking is filtered once and drawing samples near 1:1.
//
// A still that keeps its size and covers its box is filtered once for the very
// pixels it falls on at rest: there it is copied, and moved it is shifted. The
// rest is filtered to whole pixels and sampled through its map.
func (p *Painter) prepare(ctx context.Context, it *Item, d *raster.Picture) error {
	sx, sy := it.Rest.Stretch()
	if sx == 0 || sy == 0 {
		sx, sy = it.Map.Stretch() // a list made by hand says nothing of rest
	}
	vector := p.src.Vector(it.Media)
	k := pictureKey{media: it.Media, frame: it.Frame}
	*d = raster.Picture{Box: it.Box, Radius: it.Radius, Opacity: it.Opacity, Edges: it.Edges}
	var err error
	if it.atRestSize() && it.RestBox.W*it.RestBox.H < 4*float64(p.size.W*p.size.H) {
		k.w, k.h = prepared(it.MediaSize, sx, sy, vector)
		x0, y0 := int(math.Floor(it.RestBox.X)), int(math.Floor(it.RestBox.Y))
		k.region = region{x0, y0, int(math.Ceil(it.RestBox.X+it.RestBox.W)) - x0, int(math.Ceil(it.RestBox.Y+it.RestBox.H)) - y0}
		k.rest = it.Rest
		if d.Src, err = p.cache.get(ctx, p.src, k, it.MediaSize); err != nil {
			return err
		}
		d.Map = geom.Translate(float64(x0)+tidy(it.Map.E-it.Rest.E), float64(y0)+tidy(it.Map.F-it.Rest.F))
		return nil
	}
	// A layer that grows or shrinks is drawn from one of few sizes, each twice
	// the one before: not one for each frame.
	mx, my := it.Map.Stretch()
	if mx == 0 || my == 0 {
		return fmt.Errorf("its map flattens the picture")
	}
	sx *= math.Exp2(math.Ceil(math.Log2(mx/sx) - 1e-9))
	sy *= math.Exp2(math.Ceil(math.Log2(my/sy) - 1e-9))
	k.w, k.h = prepared(it.MediaSize, sx, sy, vector)
	if d.Src, err = p.cache.get(ctx, p.src, k, it.MediaSize); err != nil {
		return err
	}
	d.Map = geom.Scale(it.MediaSize.W/float64(d.Src.W), it.MediaSize.H/float64(d.Src.H)).Then(it.Map)
	return nil
}

// atRestSize reports whether a still is moved by motion and nothing else.
func (it *Item) atRestSize() bool {
	same := func(a, b float64) bool { return math.Abs(a-b) <= 1e-12*math.Max(1, math.Abs(a)) }
	return it.Still && !it.Edges && it.Map.Upright() && it.Rest.Upright() && same(it.Map.A, it.Rest.A) && same(it.Map.D, it.Rest.D)
}

// tidy takes away what rounding leaves of a shift by whole pixels.
func tidy(v float64) float64 {
	if r := math.Round(v); math.Abs(v-r) < 1e-6 {
		return r
	}
	return v
}

// maxVectorSide bounds a vector drawing made into pixels.
const maxVectorSide = 4096

// prepared is the size in which media stretched by sx and sy is made ready:
// never larger than it is, but for vector drawings.
func prepared(media geom.Size, sx, sy float64, vector bool) (w, h int) {
	if vector {
		k := math.Min(1, maxVectorSide/math.Max(media.W*sx, media.H*sy))
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

func (c *pictures) get(ctx context.Context, src Source, k pictureKey, media geom.Size) (*raster.Surface, error) {
	if s, ok := c.lru.Get(k); ok {
		return s, nil
	}
	s, err := src.Picture(ctx, k.media, k.frame, k.w, k.h)
	if err != nil {
		return nil, err
	}
	if k.region.w > 0 {
		s = s.Region(geom.Scale(media.W/float64(s.W), media.H/float64(s.H)).Then(k.rest), k.region.x, k.region.y, k.region.w, k.region.h)
	} else {
		s = s.Resize(k.w, k.h)
	}
	c.lru.Add(k, s)
	c.bytes += s.Bytes()
	for c.bytes > c.limit && c.lru.Len() > 1 {
		c.lru.RemoveOldest()
	}
	return s, nil
}
