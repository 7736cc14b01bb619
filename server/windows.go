package server

import (
	"context"
	"fmt"
	"slices"

	"ivypocket/core/scene"
	"ivypocket/core/timing"
)

// Frames are told by windows: nothing that is asked for costs more for a longer
// piece.

// maxWindow is how many frames are told at one time, keptAddresses how many
// addresses are remembered: far more than any page asks for at one time.
const (
	maxWindow     = 512
	keptAddresses = 40_000
)

type (
	// FramesView is where to get the frames of a window at a size, and what stands
	// where on them; From is the first of them.
	FramesView struct {
		Revision  int64        `json:"revision"`
		Width     int          `json:"width"`
		Height    int          `json:"height"`
		Frames    int64        `json:"frames" doc:"Length of the piece"`
		From      int64        `json:"from"`
		Addresses []AddressRun `json:"addresses"`
		// Outlines may end before the window does, where there are very many: they are
		// told when they are asked for by a window that begins there.
		Outlines []OutlineRun `json:"outlines"`
	}
	// AddressRun is an address that holds for a number of frames.
	AddressRun struct {
		Address string `json:"address"`
		Frames  int64  `json:"frames"`
	}
	// OutlineRun is how the layers stand for a number of frames.
	OutlineRun struct {
		Frames   int64           `json:"frames"`
		Outlines []scene.Outline `json:"outlines"`
	}
)

// mostOutlines bounds how many outlines a window tells: about 4 MB of them. A window of
// 256 frames in which 60 layers move is told whole.
const mostOutlines = 20_000

// window tells count frames of a scene from one on, or as many as there are, and
// remembers what their addresses stand for.
func (s *Server) window(ctx context.Context, sc *scene.Scene, size scene.Size, from, count int64) (FramesView, error) {
	v := FramesView{Width: size.W, Height: size.H, Frames: sc.Frames(), From: from, Addresses: []AddressRun{}, Outlines: []OutlineRun{}}
	if from >= sc.Frames() {
		return v, badRequest{fmt.Errorf("from: %d is not one of the piece's %d frames", from, sc.Frames())}
	}
	var l scene.List
	var last scene.Address
	var buf []scene.Outline
	told := 0
	for f := from; f < min(from+min(count, maxWindow), sc.Frames()); f++ {
		if err := ctx.Err(); err != nil {
			return v, err
		}
		now := sc.Time().At(timing.OutputFrame(f))
		sc.At(&l, now, size)
		if a := l.Address(); f > from && a == last {
			v.Addresses[len(v.Addresses)-1].Frames++
		} else {
			last = a
			s.frames.Add(a, framed{sc, f, size})
			v.Addresses = append(v.Addresses, AddressRun{a.String(), 1})
		}
		if told > mostOutlines {
			continue
		}
		buf = sc.Outlines(buf[:0], now)
		if n := len(v.Outlines); n > 0 && equalOutlines(v.Outlines[n-1].Outlines, buf) {
			v.Outlines[n-1].Frames++
			continue
		}
		told += len(buf)
		v.Outlines = append(v.Outlines, OutlineRun{1, append([]scene.Outline{}, buf...)})
	}
	return v, nil
}

func equalOutlines(a, b []scene.Outline) bool {
	return slices.EqualFunc(a, b, func(x, y scene.Outline) bool {
		return x.Layer == y.Layer && x.Box == y.Box && x.Radius == y.Radius && x.Opacity == y.Opacity && slices.Equal(x.Quad, y.Quad) && x.Cut == y.Cut && x.Cuts == y.Cuts
	})
}
