package trial

import (
	"fmt"
	"image"
	"image/color"
	"image/draw"

	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
)

// Colours of the contact sheet: linen paper, ink, and rust where something
// was found.
var (
	paper = color.RGBA{0xf5, 0xf2, 0xea, 255}
	ink   = color.RGBA{0x22, 0x30, 0x2a, 255}
	rust  = color.RGBA{0xb4, 0x49, 0x2b, 255}
)

// ContactSheet puts the tiles of a format on one page, six across, each over
// its caption. It returns nil when the format has no tiles.
func ContactSheet(tiles []Tile, format string) (*image.RGBA, error) {
	const columns, gap, caption = 6, 16, 26
	var mine []Tile
	w, h := 0, 0
	for _, t := range tiles {
		if t.Format == format {
			mine = append(mine, t)
			w, h = max(w, t.Picture.W), max(h, t.Picture.H)
		}
	}
	if mine == nil {
		return nil, nil
	}
	parsed, err := opentype.Parse(goregular.TTF)
	if err != nil {
		return nil, err
	}
	face, err := opentype.NewFace(parsed, &opentype.FaceOptions{Size: 13, DPI: 72, Hinting: font.HintingFull})
	if err != nil {
		return nil, err
	}
	cols := min(columns, len(mine))
	rows := (len(mine) + columns - 1) / columns
	page := image.NewRGBA(image.Rect(0, 0, gap+cols*(w+gap), gap+rows*(h+caption+gap)))
	draw.Draw(page, page.Rect, image.NewUniform(paper), image.Point{}, draw.Src)
	for i, t := range mine {
		x, y := gap+i%columns*(w+gap), gap+i/columns*(h+caption+gap)
		if t.Findings > 0 {
			draw.Draw(page, image.Rect(x-3, y-3, x+t.Picture.W+3, y+t.Picture.H+3), image.NewUniform(rust), image.Point{}, draw.Src)
		}
		draw.Draw(page, image.Rect(x, y, x+t.Picture.W, y+t.Picture.H), t.Picture.Image(), image.Point{}, draw.Src)
		text, c := t.Case, ink
		if t.Findings > 0 {
			text, c = fmt.Sprintf("%s: %d found", t.Case, t.Findings), rust
		}
		d := font.Drawer{Dst: page, Src: image.NewUniform(c), Face: face, Dot: fixed.P(x, y+t.Picture.H+18)}
		for d.MeasureString(text) > fixed.I(w) && len(text) > 1 {
			text = text[:len(text)-1]
		}
		d.DrawString(text)
	}
	return page, nil
}
