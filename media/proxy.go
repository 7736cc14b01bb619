package media

import (
	"bufio"
	"context"
	"encoding/binary"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"

	"github.com/google/renameio/v2"

	"ivypocket/core/raster"
	"ivypocket/media/turbo"
)

// A proxy is a small intra-only copy of a clip for the stage: JPEG pictures
// one after another, then a table of their offsets (8 bytes each, big-endian,
// one more than there are pictures), then a footer of the number of pictures
// (8 bytes) and the magic text.
const proxyMagic = "ivyproxy1"

const proxyQuality = 90

// proxySize is the size of a proxy's pictures.
func proxySize(w, h int) (int, int) {
	k := math.Min(1, proxySide/float64(max(w, h)))
	return max(1, int(math.Round(float64(w)*k))), max(1, int(math.Round(float64(h)*k)))
}

// buildProxy writes the proxy of a clip; it appears at its path only whole.
// progress is told how many frames are done.
func buildProxy(ctx context.Context, m Meta, path, to string, progress func(done int64)) error {
	w, h := proxySize(m.Width, m.Height)
	dec, err := m.forward(ctx, path, 0, w, h)
	if err != nil {
		return err
	}
	defer dec.close()
	f, err := renameio.NewPendingFile(to, renameio.WithTempDir(filepath.Dir(to)), renameio.WithPermissions(0o644))
	if err != nil {
		return err
	}
	defer f.Cleanup()
	out := bufio.NewWriterSize(f, 1<<20)
	offsets := []uint64{0}
	var buf []byte
	for n := int64(0); n < m.Frames; n++ {
		s, ok, err := dec.frame(n)
		if err != nil {
			return err
		}
		if !ok {
			break
		}
		if buf, err = turbo.Encode(buf, s, proxyQuality, turbo.Half); err != nil {
			return err
		}
		if _, err := out.Write(buf); err != nil {
			return err
		}
		offsets = append(offsets, offsets[len(offsets)-1]+uint64(len(buf)))
		progress(n + 1)
	}
	if err := ctx.Err(); err != nil {
		return err
	}
	if len(offsets) == 1 {
		return fmt.Errorf("no frame of the clip can be decoded")
	}
	if err := binary.Write(out, binary.BigEndian, offsets); err != nil {
		return err
	}
	if err := binary.Write(out, binary.BigEndian, uint64(len(offsets)-1)); err != nil {
		return err
	}
	if _, err := out.WriteString(proxyMagic); err != nil {
		return err
	}
	if err := out.Flush(); err != nil {
		return err
	}
	return f.CloseAtomicallyReplace()
}

// proxy reads the frames of a proxy file.
type proxy struct {
	f       *os.File
	offsets []uint64
}

func openProxy(path string) (*proxy, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	p, err := readProxy(f)
	if err != nil {
		f.Close()
		return nil, fmt.Errorf("proxy %s: %w", path, err)
	}
	return p, nil
}

func readProxy(f *os.File) (*proxy, error) {
	st, err := f.Stat()
	if err != nil {
		return nil, err
	}
	foot := make([]byte, 8+len(proxyMagic))
	end := st.Size() - int64(len(foot))
	if end < 0 {
		return nil, io.ErrUnexpectedEOF
	}
	if _, err := f.ReadAt(foot, end); err != nil {
		return nil, err
	}
	n := binary.BigEndian.Uint64(foot)
	if string(foot[8:]) != proxyMagic || n < 1 || n > MaxClipFrames || int64(n+1)*8 > end {
		return nil, fmt.Errorf("is damaged")
	}
	p := &proxy{f: f, offsets: make([]uint64, n+1)}
	table := io.NewSectionReader(f, end-int64(n+1)*8, int64(n+1)*8)
	if err := binary.Read(table, binary.BigEndian, p.offsets); err != nil {
		return nil, err
	}
	for i := range n {
		if p.offsets[i] >= p.offsets[i+1] || p.offsets[i+1] > uint64(end) {
			return nil, fmt.Errorf("is damaged")
		}
	}
	return p, nil
}

// frame decodes frame n, the last one if the clip is shorter, at w×h.
func (p *proxy) frame(n int64, w, h int) (*raster.Surface, error) {
	n = max(0, min(n, int64(len(p.offsets)-2)))
	b := make([]byte, p.offsets[n+1]-p.offsets[n])
	if _, err := p.f.ReadAt(b, int64(p.offsets[n])); err != nil {
		return nil, err
	}
	s, err := turbo.Decode(b, w, h)
	if err != nil {
		return nil, err
	}
	return s.Resize(w, h), nil
}

func (p *proxy) close() { _ = p.f.Close() }
