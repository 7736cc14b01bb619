package scene

import (
	"context"
	"fmt"
	"math"
	"runtime"
	"sync"

	"ivypocket/core/raster"
)

// Painter turns draw lists into pictures on all cores. It paints one list at a
// time and is safe for use by one goroutine; the pictures it draws may be
// shared with others.
type Painter struct {
	pictures *Pictures
	jobs     chan band
	done     sync.WaitGroup // bands of the list being painted
	ends     sync.WaitGroup // the workers

	list  *List
	dst   *raster.Surface
	ready Ready // of Paint and Repaint
	draws []raster.Picture

	// What Repaint has painted last, and where.
	last struct {
		items []Item
		size  Size
		dst   *raster.Surface
	}
}

type band struct{ y0, y1 int }

// NewPainter returns a painter of the given pictures, which may be nil for one
// that is handed pictures made ready. Close ends its workers.
func NewPainter(pictures *Pictures) *Painter {
	p := &Painter{pictures: pictures, jobs: make(chan band)}
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
	if err := p.pictures.Ready(ctx, l, &p.ready); err != nil {
		return err
	}
	return p.PaintReady(l, &p.ready, dst)
}

// PaintReady draws a list whose pictures have been made ready.
func (p *Painter) PaintReady(l *List, r *Ready, dst *raster.Surface) error {
	return p.draw(l, r, dst, 0, l.Size.H)
}

// Repaint draws a list on a surface that nobody but Repaint has changed since
// it last drew on it, and paints only the rows y0 to y1 in which something is
// not as it was. The picture is that of Paint.
func (p *Painter) Repaint(ctx context.Context, l *List, dst *raster.Surface) (y0, y1 int, err error) {
	if err = p.pictures.Ready(ctx, l, &p.ready); err != nil {
		p.last.dst = nil
		return
	}
	return p.RepaintReady(l, &p.ready, dst)
}

// RepaintReady is Repaint for a list whose pictures have been made ready.
func (p *Painter) RepaintReady(l *List, r *Ready, dst *raster.Surface) (y0, y1 int, err error) {
	y0, y1 = 0, l.Size.H
	if p.last.dst == dst && p.last.size == l.Size {
		y0, y1 = changedRows(p.last.items, l.Items, l.Size.H)
	}
	p.last.dst = nil // until it is whole
	if err = p.draw(l, r, dst, y0, y1); err == nil {
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

func (p *Painter) draw(l *List, r *Ready, dst *raster.Surface, y0, y1 int) error {
	if l.Size.W < 1 || l.Size.H < 1 {
		return fmt.Errorf("a picture of %d × %d px can't be drawn", l.Size.W, l.Size.H)
	}
	dst.Reset(l.Size.W, l.Size.H)
	p.list, p.dst, p.draws = l, dst, r.draws
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
