package e2e

import (
	"encoding/base64"
	"fmt"
	"image"
	"math"
	"testing"

	"ivypocket/core/words"
	"ivypocket/fonts"
)

// Words are painted as Chromium's canvas paints them with the same font file: at small, usual and large sizes, at
// places between pixels, upright and turned. What may differ is how edges are made soft; a letter that is missing,
// moved by a quarter of a pixel or bolder by as much differs by more than is allowed.
func TestWordsAgreeWithChromium(t *testing.T) {
	t.Parallel()
	b := tab(t, 1000, 400)
	for _, c := range []struct {
		face, file, text string
		size, x, y, turn float64
	}{
		{"figtree", "figtree-latin", "Wind from the west, until 8", 17, 0, 0, 0},
		{"figtree", "figtree-latin", "Kites & AVATAR, fi", 60, 0.37, 0.61, 0},
		{"fraunces", "fraunces-latin", "Mirembe Achen", 110, 3.5, 2.25, 0},
		{"bitter", "bitter-latin", "Saltmarsh Kite Week 2027", 44, 0.5, 0.5, -6},
		{"sofia-sans-extra-condensed", "sofia-sans-extra-condensed-latin", "A fresh wind from the west", 76, 0, 0.5, 0},
		{"unbounded", "unbounded-latin", "1,284.5 m", 90, 0.25, 0, 0},
		{"caveat", "caveat-latin", "with love, Sólveig", 70, 0, 0.2, 4},
		{"stardos-stencil", "stardos-stencil-400", "TENT No. 4", 80, 0.7, 0, 0},
		{"cairo", "cairo-arabic", "مهرجان الطائرات", 64, 0, 0, 0},
		{"noto-sans-sc", "noto-sans-sc-500", "夕凪的风", 100, 0, 0.4, 0},
	} {
		w, h := 900, 240
		if c.size < 40 {
			w, h = 260, 50
		}
		got := composed(t, w, h, fmt.Sprintf(onWhite+`, {"id": "w", "name": "W", "kind": "words", "text": %q, "face": %q, "type": {"size": %g, "weight": 400, "stand": "top", "align": "start", "leading": 1.2}, "fit": {"first": "nothing", "second": "nothing"},
			"fill": "#000000", "size": [%d, %d], "place": [%g, %g], "turn": %g}`, c.text, c.face, c.size, w, h, c.x, c.y, c.turn), nil)
		file, err := fonts.File(c.file)
		if err != nil {
			t.Fatal(err)
		}
		// Where its baseline is, and that Chromium's letters are those of one file alone, is known from here.
		v := words.NewSetter().Set(&words.Spec{Text: c.text, Style: words.Style{Family: fonts.Family(c.face), Weight: 400}, Size: c.size, Leading: 1.2, W: float64(w), H: float64(h), Stand: words.Top})
		optical := 14.0
		if a := fonts.Family(c.face).Fonts[0].Axis("opsz"); a != nil {
			optical = a.Rest
		}
		// Drawn as large as Chromium draws letters as paths, and averaged: no hinting, and no edges that are made
		// bolder for small letters on screens.
		k := int(math.Ceil(260 / c.size))
		pix := eval[string](t, b, fmt.Sprintf(`(async () => { const f = new FontFace('one', Uint8Array.from(atob(%q), c => c.charCodeAt(0)), {weight: '1 1000', variationSettings: '"opsz" %g'}); await f.load(); document.fonts.clear(); document.fonts.add(f)
			const k = %d, w = %d, h = %d, x = new OffscreenCanvas(w * k, h * k).getContext('2d', {willReadFrequently: true}); x.fillStyle = '#fff'; x.fillRect(0, 0, w * k, h * k); x.fillStyle = '#000'
			x.scale(k, k); x.translate(w / 2 + %g, h / 2 + %g); x.rotate(%g * Math.PI / 180); x.translate(-w / 2, -h / 2); x.scale(1 / k, 1 / k)
			x.font = '400 ' + %g * k + 'px one'; x.textRendering = 'geometricPrecision'; x.fontKerning = 'normal'; x.textAlign = 'left'; x.direction = 'ltr'; x.fillText(%q, %g * k, %g * k)
			const d = x.getImageData(0, 0, w * k, h * k).data; let s = ''
			for (let v = 0; v < h; v++) for (let u = 0; u < w; u++) { let n = 0; for (let j = 0; j < k; j++) for (let i = 0; i < k; i++) n += d[4 * ((v * k + j) * w * k + u * k + i)]; s += String.fromCharCode(Math.round(n / k / k)) }
			return btoa(s) })()`, base64.StdEncoding.EncodeToString(file), optical, k, w, h, c.x, c.y, c.turn, c.size, c.text, v.Lines[0].Left, v.Lines[0].Baseline))
		raw, err := base64.StdEncoding.DecodeString(pix)
		if err != nil || len(raw) != w*h {
			t.Fatalf("%d pixels: %v", len(raw), err)
		}
		want := &image.Gray{Pix: raw, Stride: w, Rect: image.Rect(0, 0, w, h)}
		// Of all pixels those count that either has inked.
		ink := 0
		for i, p := range raw {
			if p < 250 || got.Pix[4*i] < 250 {
				ink++
			}
		}
		r := judge(got, want, func(x, y int) bool { return want.Pix[y*w+x] >= 250 && got.Pix[4*(y*w+x)] >= 250 })
		// Where outlines of a letter overlap, edges that cross in one pixel count for both.
		if ink < 300 || r.mean > 2 || r.far > 0.01 {
			t.Errorf("%s at %g, %q: %v", c.face, c.size, c.text, r)
		}
	}
}
