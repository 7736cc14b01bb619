package demo

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"image"
	"image/png"
	"io"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"

	"golang.org/x/sync/errgroup"

	"ivypocket/core/raster"
	"ivypocket/core/timing"
	"ivypocket/deliver"
)

// encode runs ffmpeg over what write gives it.
func encode(ctx context.Context, args []string, write func(io.Writer) error) error {
	cmd := exec.CommandContext(ctx, "ffmpeg", args...)
	in, err := cmd.StdinPipe()
	if err != nil {
		return err
	}
	var said bytes.Buffer
	cmd.Stderr = &said
	if err := cmd.Start(); err != nil {
		return err
	}
	err = write(in)
	in.Close()
	if werr := cmd.Wait(); werr != nil {
		return fmt.Errorf("ffmpeg: %w: %s", werr, said.Bytes())
	}
	return err
}

// drawLoneKite draws a kite that comes round to where it was, on nothing.
func drawLoneKite(ctx context.Context, path string) error {
	const w, h, frames = 640, 640, 75
	r := timing.Rate{Rat: timing.Int(25)}
	return encode(ctx, deliver.EncoderArgs(deliver.WebM, true, w, h, r, "pipe:0", path), func(out io.Writer) error {
		planes := make([]byte, raster.YUVA420Size(w, h))
		for n := range frames {
			raster.FromImage(loneKite(w, h, float64(n)/frames)).YUVA420(planes, 0, h)
			if _, err := out.Write(planes); err != nil {
				return err
			}
		}
		return nil
	})
}

// loneKite is a kite at a share of its round.
func loneKite(w, h int, share float64) *image.RGBA {
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	sin, cos := math.Sincos(share * 2 * math.Pi)
	k := kite{x: 0.5 + 0.09*sin, y: 0.38 + 0.06*cos, size: 0.24, lean: 0.28 * sin, a: 0xb4492b, b: 0xf3e3c3}
	k.draw(img, share*2*math.Pi)
	return img
}

// Numbers of the paper kite's pictures; numbers 15 and 16 were lost.
const firstNumber, lastNumber = 1, 24

func drawNumbered(dir string, say func(string)) error {
	if _, err := os.Stat(dir); err == nil {
		return nil
	}
	say("Drawing " + filepath.Base(dir))
	part := dir + ".part"
	if err := os.MkdirAll(part, 0o755); err != nil {
		return err
	}
	var g errgroup.Group
	g.SetLimit(2)
	for n := firstNumber; n <= lastNumber; n++ {
		if n == 15 || n == 16 {
			continue
		}
		g.Go(func() error {
			var b bytes.Buffer
			if err := png.Encode(&b, loneKite(480, 480, float64(n-1)/lastNumber)); err != nil {
				return err
			}
			return os.WriteFile(filepath.Join(part, fmt.Sprintf("paper kite %03d.png", n)), b.Bytes(), 0o644)
		})
	}
	if err := g.Wait(); err != nil {
		return err
	}
	return os.Rename(part, dir)
}

// drawSound makes wind, as noise that swells, and a drum over it.
func drawSound(ctx context.Context, path string) error {
	const rate, seconds = 48000, 8
	args := []string{"-v", "error", "-y", "-f", "s16le", "-ar", fmt.Sprint(rate), "-ac", "1", "-i", "pipe:0", "-f", "flac", path}
	return encode(ctx, args, func(out io.Writer) error {
		rng := rand.New(rand.NewPCG(71, 5))
		buf := make([]byte, 0, rate*seconds*2)
		low := 0.0
		for i := range rate * seconds {
			t := float64(i) / rate
			low += 0.045 * (rng.Float64()*2 - 1 - low)
			v := low * (0.9 + 0.7*math.Sin(t*0.8))
			for _, at := range []float64{0.5, 1.25, 2, 2.375, 3.5, 4.25, 5, 5.375, 6.5, 7.25} {
				if d := t - at; d >= 0 && d < 0.5 {
					v += 0.7 * math.Exp(-d*11) * math.Sin(2*math.Pi*(70*d+40*(1-math.Exp(-d*18))/18))
				}
			}
			buf = binary.LittleEndian.AppendUint16(buf, uint16(int16(math.Max(-1, math.Min(1, v))*32000)))
		}
		_, err := out.Write(buf)
		return err
	})
}
