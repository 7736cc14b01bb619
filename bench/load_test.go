package bench

import (
	"context"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"ivypocket/core/edit"
	"ivypocket/core/template"
	"ivypocket/store"
)

// What it costs to keep an operation, on the disk before it is acknowledged, and to write
// down who did it, beside writing and syncing 4 kB of a file, which is the least that can cost.
func BenchmarkOperationKept(b *testing.B) {
	h := set(b)
	ctx := context.Background()
	p, err := h.store.NewPiece(ctx, "four-winds", 1, "Bench")
	if err != nil {
		b.Fatal(err)
	}
	f, err := os.Create(filepath.Join(h.dir, "floor"))
	if err != nil {
		b.Fatal(err)
	}
	defer f.Close()
	block := make([]byte, 4096)
	var kept, told, floor []time.Duration
	n := 0
	for b.Loop() {
		n++
		begun := time.Now()
		if _, err := h.store.Do(ctx, p.ID, store.Sent{ID: fmt.Sprintf("bench-%d-%d", b.N, n), Author: "bench", Base: int64(n - 1), Op: edit.Op{Kind: "name", Name: fmt.Sprint(n)}}); err != nil {
			b.Fatal(err)
		}
		kept = append(kept, time.Since(begun))
		begun = time.Now()
		if err := h.store.Record(ctx, store.Deed{Name: "Odalys Fenn", Act: "do", Subject: p.ID, Said: "Four Winds: Rename"}); err != nil {
			b.Fatal(err)
		}
		told = append(told, time.Since(begun))
		begun = time.Now()
		if _, err := f.WriteAt(block, int64(n)*4096); err != nil {
			b.Fatal(err)
		}
		if err := f.Sync(); err != nil {
			b.Fatal(err)
		}
		floor = append(floor, time.Since(begun))
	}
	b.ReportMetric(quantile(kept, 0.5), "ms-p50")
	b.ReportMetric(quantile(kept, 0.95), "ms-p95")
	b.ReportMetric(quantile(kept, 0.5)/quantile(floor, 0.5), "×sync-p50")
	b.ReportMetric(quantile(told, 0.5)/quantile(floor, 0.5), "written-down×sync-p50")
	if _, err := h.store.Delete(ctx, store.PieceKind, []string{p.ID}, false); err != nil {
		b.Fatal(err)
	}
}

// What an operation costs on 60 moving layers of 1800 frames in three formats,
// from the request to the answer, beside the disk's own sync; and opening the
// piece as the page does: all that it shows, and the first window of frames.
func BenchmarkEdit(b *testing.B) {
	h := set(b)
	ctx := context.Background()
	doc, err := template.Parse([]byte(crowded(1800, 3)))
	if err != nil {
		b.Fatal(err)
	}
	if _, err := h.store.Release(ctx, doc); err != nil {
		b.Fatal(err)
	}
	url, _ := front(b, h)
	var p struct{ ID string }
	ask(b, "POST", url+"/api/templates/crowded/open?new=true", nil, &p)
	base, n := 0, 0
	change := func() {
		n++
		op := fmt.Sprintf(`{"id": "edit-%s-%d", "base": %d, "op": {"kind": "entry", "entry": "spot", "value": [%d, 10]}}`, p.ID, n, base, n%900)
		var done struct{ Piece struct{ Revision int } }
		ask(b, "POST", url+"/api/pieces/"+p.ID+"/operations", strings.NewReader(op), &done)
		base = done.Piece.Revision
	}
	b.Run("operation", func(b *testing.B) {
		f, err := os.Create(filepath.Join(h.dir, "floor"))
		if err != nil {
			b.Fatal(err)
		}
		defer f.Close()
		var took, floor []time.Duration
		for b.Loop() {
			begun := time.Now()
			change()
			took = append(took, time.Since(begun))
			begun = time.Now()
			if _, err := f.WriteAt(make([]byte, 4096), 0); err != nil {
				b.Fatal(err)
			}
			if err := f.Sync(); err != nil {
				b.Fatal(err)
			}
			floor = append(floor, time.Since(begun))
		}
		b.ReportMetric(quantile(took, 0.5)-quantile(floor, 0.5), "ms-p50")
		b.ReportMetric(quantile(took, 0.95)-quantile(floor, 0.5), "ms-p95")
	})
	b.Run("opening", func(b *testing.B) {
		var took []time.Duration
		for b.Loop() {
			change() // so that nothing of it is known
			begun := time.Now()
			ask(b, "GET", url+"/api/pieces/"+p.ID, nil, nil)
			ask(b, "GET", url+"/api/pieces/"+p.ID+"/frames?format=vertical&width=540&height=540&from=0&count=256", nil, nil)
			took = append(took, time.Since(begun))
		}
		b.ReportMetric(quantile(took, 0.5), "ms-p50")
		b.ReportMetric(quantile(took, 0.95), "ms-p95")
	})
}

// A person's preview at 960×540 beside 200 connections that ask for previews as
// quickly as they can, and beside none.
func BenchmarkCrowd(b *testing.B) {
	h := set(b)
	url, piece := front(b, h)
	body := `{"format": "landscape", "frame": 60, "width": 960, "height": 540, "op": {"kind": "name", "name": "x"}}`
	preview := func(c *http.Client, window string) int {
		req, err := http.NewRequest("POST", url+"/api/pieces/"+piece+"/preview", strings.NewReader(body))
		if err != nil {
			return 0
		}
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("Ivy-Window", window)
		res, err := c.Do(req)
		if err != nil {
			return 0
		}
		res.Body.Close()
		return res.StatusCode
	}
	for _, crowd := range []struct {
		name    string
		n       int
		windows bool // each in a window of its own
	}{{"alone", 0, false}, {"beside 200 of one client", 200, false}, {"beside 200 windows", 200, true}} {
		b.Run(crowd.name, func(b *testing.B) {
			stop := make(chan struct{})
			var wg sync.WaitGroup
			var served, refused atomic.Int64
			c := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 256}}
			for i := range crowd.n {
				wg.Go(func() {
					window := ""
					if crowd.windows {
						window = fmt.Sprint("crowd ", i)
					}
					for {
						select {
						case <-stop:
							return
						default:
						}
						if preview(c, window) == 200 {
							served.Add(1)
							continue
						}
						refused.Add(1)
						time.Sleep(time.Second) // as Retry-After says
					}
				})
			}
			time.Sleep(500 * time.Millisecond)
			var took []time.Duration
			for b.Loop() {
				begun := time.Now()
				for preview(http.DefaultClient, "person") != 200 {
					time.Sleep(time.Second)
				}
				took = append(took, time.Since(begun))
			}
			b.ReportMetric(quantile(took, 0.5), "ms-p50")
			b.ReportMetric(quantile(took, 0.95), "ms-p95")
			b.ReportMetric(float64(served.Load()), "others")
			b.ReportMetric(float64(refused.Load()), "refused")
			close(stop)
			wg.Wait()
		})
	}
}
