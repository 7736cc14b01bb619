package still_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"testing"
	"time"

	"ivypocket/media/mediatest"
	"ivypocket/media/still"
)

// TestMain is the program that decodes aside when it is asked to be.
func TestMain(m *testing.M) {
	if len(os.Args) == 5 && os.Args[1] == "aside" {
		w, _ := strconv.Atoi(os.Args[2])
		h, _ := strconv.Atoi(os.Args[3])
		if err := still.Aside(os.Stdin, os.Stdout, w, h, os.Args[4] == "true"); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		return
	}
	mediatest.Main(m)
}

// progressive is a JPEG in ten passes, as ImageMagick's and most encoders write
// them; ffmpeg and the Go project write none.
func progressive(t *testing.T, img image.Image) []byte {
	t.Helper()
	if _, err := exec.LookPath("jpegtran"); err != nil {
		t.Fatal("jpegtran is missing; install it with: apt-get install libjpeg-turbo-progs")
	}
	cmd := exec.Command("jpegtran", "-progressive")
	cmd.Stdin = bytes.NewReader(mediatest.JPEG(t, img, 0))
	out, err := cmd.Output()
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// A picture that takes long is decoded by a program that can be ended, to the
// same pixels.
func TestWhatTakesLongIsDecodedAside(t *testing.T) {
	img := mediatest.Quarters(3200, 1800) // × 10 passes
	path := filepath.Join(t.TempDir(), "a.jpg")
	if err := os.WriteFile(path, progressive(t, img), 0o644); err != nil {
		t.Fatal(err)
	}
	ctx := context.Background()
	f, err := still.Inspect(ctx, still.JPEG, path)
	if err != nil {
		t.Fatal(err)
	}
	here, err := still.Decode(ctx, still.JPEG, path, f, 400, 225)
	if err != nil {
		t.Fatal(err)
	}
	still.DecodeAside(os.Args[0], "aside")
	defer still.DecodeAside()
	there, err := still.Decode(ctx, still.JPEG, path, f, 400, 225)
	if err != nil {
		t.Fatal(err)
	}
	if here.W != 400 || there.W != here.W || there.H != here.H || !there.Opaque || !bytes.Equal(here.Pix, there.Pix) {
		t.Errorf("%d × %d here, %d × %d aside, or other pixels", here.W, here.H, there.W, there.H)
	}
	// A program that does not come to an end goes with its context.
	hang := filepath.Join(t.TempDir(), "hang")
	if err := os.WriteFile(hang, []byte("#!/bin/sh\nexec sleep 60\n"), 0o755); err != nil {
		t.Fatal(err)
	}
	still.DecodeAside(hang)
	soon, cancel := context.WithTimeout(ctx, 100*time.Millisecond)
	defer cancel()
	if _, err := still.Decode(soon, still.JPEG, path, f, 400, 225); !errors.Is(err, context.DeadlineExceeded) {
		t.Errorf("%v", err)
	}
}
