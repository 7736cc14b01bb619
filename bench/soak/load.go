package main

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"image"
	"image/jpeg"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"
)

// hung is how long an answer may take under any load.
const hung = 20 * time.Second

// took is how long answers of each kind took.
type took struct {
	mu sync.Mutex
	by map[string][]time.Duration
}

func (t *took) note(kind string, d time.Duration) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.by[kind] = append(t.by[kind], d)
}

func (t *took) tell() {
	t.mu.Lock()
	defer t.mu.Unlock()
	var kinds []string
	for k := range t.by {
		kinds = append(kinds, k)
	}
	slices.Sort(kinds)
	for _, k := range kinds {
		all := t.by[k]
		slices.Sort(all)
		fmt.Printf("%-12s %6d answers, median %7.1f ms, 99 of 100 within %8.1f ms, the longest %8.1f ms\n", k, len(all), ms(all[len(all)/2]), ms(all[len(all)*99/100]), ms(all[len(all)-1]))
	}
}

func ms(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }

// kindOf names what a request asks for.
func kindOf(method, path string) string {
	for _, part := range []string{"preview", "operations", "uploads", "thumb", "strip", "poster", "frames", "trial", "renders", "health", "media", "shelf", "pieces"} {
		if strings.Contains(path, part) {
			if part == "frames" && strings.HasPrefix(path, "/frames/") {
				return "frames " + strings.TrimPrefix(filepath.Ext(path), ".")
			}
			return part
		}
	}
	return method + " page"
}

// hold has the program do everything at once for a while: writers, uploads of
// small and large files, previews, frames, thumbnails, trials, three renders at a
// time and streams of news. No answer may take longer than hung; when one does,
// the program is asked what it is at, and that is told.
func (s *soak) hold(end time.Time) error {
	if err := s.seed(); err != nil {
		return err
	}
	s.kept = map[string]string{}
	s.took = &took{by: map[string][]time.Duration{}}
	cmd, url, err := s.start(s.dir)
	if err != nil {
		return err
	}
	s.stuck = sync.OnceFunc(func() { _ = cmd.Process.Signal(syscall.SIGQUIT) })
	if err := s.open(url); err != nil {
		return err
	}
	ctx, stop := context.WithDeadline(context.Background(), end)
	defer stop()
	var wg sync.WaitGroup
	again := func(n int, f func(i int) bool) {
		for i := range n {
			wg.Go(func() {
				for ctx.Err() == nil && f(i) {
				}
			})
		}
	}
	again(writers, func(i int) bool { return s.write(url, s.pieces[i]) })
	again(uploaders, func(int) bool { return s.upload(url) })
	again(viewers, func(int) bool { return s.view(url, rand.IntN(1000)) })
	again(2, func(int) bool { return s.bring(url) })
	again(3, func(i int) bool { return s.play(url, s.pieces[i%len(s.pieces)].id) })
	again(2, func(int) bool { return s.leaf(url) })
	again(12, func(int) bool { return s.listen(ctx, url) })
	again(1, func(int) bool {
		s.ask("POST", url+"/api/pieces/"+s.pieces[0].id+"/trial", nil, nil)
		time.Sleep(2 * time.Second)
		return true
	})
	s.ask("POST", url+"/api/queue", map[string]any{"atOnce": 3}, nil)
	again(1, func(int) bool {
		var queue []struct{ ID, State string }
		s.ask("GET", url+"/api/renders", nil, &queue)
		waits := 0
		for _, r := range queue {
			if r.State == "queued" || r.State == "running" {
				waits++
			}
		}
		for i := waits; i < 5; i++ {
			kind := []string{"mp4", "webm", "png"}[i%3]
			s.ask("POST", url+"/api/renders", map[string]any{"piece": s.pieces[i%len(s.pieces)].id, "format": "landscape", "kind": kind}, nil)
		}
		time.Sleep(500 * time.Millisecond)
		return true
	})
	// Somebody who only looks whether it is there.
	again(1, func(int) bool {
		s.ask("GET", url+"/", nil, nil)
		s.ask("GET", url+"/api/health", nil, nil)
		s.ask("GET", url+"/api/pieces/"+s.pieces[0].id, nil, nil)
		time.Sleep(200 * time.Millisecond)
		return true
	})
	<-ctx.Done()
	wg.Wait()
	s.took.tell()
	s.check(url)
	_ = cmd.Process.Signal(syscall.SIGTERM)
	return cmd.Wait()
}

// large is a photograph of 24 megapixels.
var large = sync.OnceValue(func() []byte {
	img := image.NewRGBA(image.Rect(0, 0, 6000, 4000))
	for i := range img.Pix {
		img.Pix[i] = byte(i>>9) ^ byte(i>>3)
	}
	var b bytes.Buffer
	_ = jpeg.Encode(&b, img, nil)
	return b.Bytes()
})

// bring puts in a large photograph or a clip that nobody has put in before, and
// looks at it.
func (s *soak) bring(url string) bool {
	name, data := "large.jpg", slices.Clone(large())
	if rand.IntN(3) == 0 {
		clip, err := os.ReadFile(filepath.Join(s.dir, "demo media", "Kites at noon.mp4"))
		if err != nil {
			s.lose("%v", err)
			return false
		}
		// A box that every reader skips (ISO/IEC 14496-12, 8.1.2).
		box := binary.BigEndian.AppendUint32(nil, 16)
		name, data = "clip.mp4", binary.BigEndian.AppendUint64(append(append(clip, box...), "free"...), rand.Uint64())
	} else {
		// A comment that every reader skips (ITU-T T.81, B.2.4.5), after the start.
		data = slices.Insert(data, 2, append([]byte{0xff, 0xfe, 0, 10}, binary.BigEndian.AppendUint64(nil, rand.Uint64())...)...)
	}
	var md struct{ Hash string }
	status, _ := s.ask("POST", url+"/api/media?name="+name, data, &md)
	if status != 200 {
		return status != 0
	}
	s.ask("GET", url+"/api/media/"+md.Hash+"/thumb?side=320", nil, nil)
	if name == "clip.mp4" {
		s.ask("GET", url+"/api/media/"+md.Hash+"/strip?count=12&side=92", nil, nil)
	}
	s.ask("POST", url+"/api/media/clear", map[string]any{"hashes": []string{md.Hash}}, nil)
	return true
}

// play asks for frames of a window in order, and for one of them without loss.
func (s *soak) play(url, piece string) bool {
	var v struct {
		Addresses []struct{ Address string }
	}
	status, _ := s.ask("GET", url+"/api/pieces/"+piece+"/frames?format=landscape&width=960&height=540&from="+fmt.Sprint(rand.IntN(200))+"&count=24", nil, &v)
	for i, a := range v.Addresses {
		if i == 0 {
			s.ask("GET", url+"/frames/"+a.Address+".png", nil, nil)
		}
		s.ask("GET", url+"/frames/"+a.Address+".jpg", nil, nil)
	}
	return status != 0
}

// leaf goes through lists with their small pictures.
func (s *soak) leaf(url string) bool {
	var list []struct{ Hash, Kind string }
	status, _ := s.ask("GET", url+"/api/media", nil, &list)
	for _, m := range list[:min(len(list), 12)] {
		if m.Kind != "sound" {
			s.ask("GET", url+"/api/media/"+m.Hash+"/thumb?side=160", nil, nil)
		}
	}
	s.ask("GET", url+"/api/pieces", nil, nil)
	return status != 0
}

// listen hears the news for a while, and leaves.
func (s *soak) listen(ctx context.Context, url string) bool {
	ctx, leave := context.WithTimeout(ctx, time.Duration(1+rand.IntN(10))*time.Second)
	defer leave()
	req, err := http.NewRequestWithContext(ctx, "GET", url+"/api/events", nil)
	if err != nil {
		return false
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return true
	}
	_, _ = io.Copy(io.Discard, res.Body)
	res.Body.Close()
	return true
}
