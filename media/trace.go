package media

import (
	"context"
	"math"
	"time"

	"ivypocket/core/raster"
)

// traceSide is the longer side of the picture that is traced: finer than an
// edge of a mark can be seen to differ.
const traceSide = 768

// traceTime bounds how long a picture may take to be decoded for tracing.
const traceTime = 20 * time.Second

// Trace finds what is visible of a picture, or of a clip's first frame. It is
// done once for each medium.
func (l *Library) Trace(media string) (*raster.Trace, error) {
	l.mu.Lock()
	t, ok := l.traces.Get(media)
	l.mu.Unlock()
	if ok {
		return t, nil
	}
	m, err := l.meta(media)
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithTimeout(context.Background(), traceTime)
	defer cancel()
	k := math.Min(1, traceSide/float64(max(m.Width, m.Height)))
	w, h := max(1, int(float64(m.Width)*k)), max(1, int(float64(m.Height)*k))
	s, err := l.Stage().Picture(ctx, media, 0, w, h)
	if err != nil {
		return nil, err
	}
	t = raster.NewTrace(s.Resize(w, h))
	l.mu.Lock()
	defer l.mu.Unlock()
	l.traces.Add(media, t)
	return t, nil
}
