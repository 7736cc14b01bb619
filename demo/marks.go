package demo

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
)

// The festival's mark: a kite that is an ivy leaf, its tail a tendril.
const festivalMark = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 400 400" width="400" height="400">
  <path fill="#2E6B4E" d="M200 18 C232 62 262 84 318 92 C300 126 302 158 338 196 C292 204 262 226 244 262 C232 286 216 302 200 312 C184 302 168 286 156 262 C138 226 108 204 62 196 C98 158 100 126 82 92 C138 84 168 62 200 18 Z"/>
  <g fill="none" stroke="#F5F2EA" stroke-width="9" stroke-linecap="round">
    <path d="M200 64 V300"/><path d="M200 178 C176 150 146 128 112 112"/><path d="M200 178 C224 150 254 128 288 112"/>
    <path d="M200 236 C176 216 146 204 112 198"/><path d="M200 236 C224 216 254 204 288 198"/>
  </g>
  <path fill="none" stroke="#B4492B" stroke-width="10" stroke-linecap="round" d="M200 312 C170 336 232 352 204 372 C190 382 178 384 168 388"/>
</svg>
`

// Brinewell Rope: three strands laid around each other.
const ropeMark = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 640 240">
  <g fill="none" stroke-width="26" stroke-linecap="round">
    <path stroke="#B9821F" d="M40 84 C120 20 180 20 250 84 S 390 148 460 84 S 560 40 600 60"/>
    <path stroke="#4C5F73" d="M40 120 C120 184 180 184 250 120 S 390 56 460 120 S 560 170 600 150"/>
    <path stroke="#7B3F66" d="M40 156 C120 100 180 100 250 156 S 390 220 460 156 S 560 110 600 130"/>
  </g>
</svg>
`

// drawTern draws the mark of Tern & Tiller Sailcloth: two wings over a sail,
// as a PNG with a clear ground.
func drawTern() ([]byte, error) {
	img := image.NewRGBA(image.Rect(0, 0, 700, 460))
	navy, sail := color.RGBA{0x1c, 0x35, 0x4a, 255}, color.RGBA{0xd9, 0x8d, 0x1c, 255}
	p := newPen(img)
	p.move(350, 190)
	p.cube(280, 70, 160, 40, 30, 70)
	p.cube(130, 80, 230, 130, 300, 230)
	p.cube(320, 250, 380, 250, 400, 230)
	p.cube(470, 130, 570, 80, 670, 70)
	p.cube(540, 40, 420, 70, 350, 190)
	p.fill(navy)
	p = newPen(img)
	p.move(360, 270)
	p.cube(430, 320, 470, 370, 490, 430)
	p.line(360, 430)
	p.fill(sail)
	p = newPen(img)
	p.move(340, 270)
	p.line(340, 430)
	p.line(220, 430)
	p.cube(250, 370, 290, 310, 340, 270)
	p.fill(navy)
	var b bytes.Buffer
	err := png.Encode(&b, img)
	return b.Bytes(), err
}
