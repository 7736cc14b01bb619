package words

import (
	"bytes"
	"cmp"
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"

	"github.com/go-text/typesetting/font"
	ot "github.com/go-text/typesetting/font/opentype"
	"github.com/go-text/typesetting/font/opentype/tables"
	"github.com/go-text/typesetting/harfbuzz"

	"ivypocket/core/geom"
)

// Limits of font files. They come from anybody.
const (
	MaxFontBytes  = 24 << 20
	maxTableBytes = 64 << 20 // of all tables, unpacked
	maxTables     = 128
	maxAxes       = 16
	maxOutline    = 20000 // points of one glyph
)

// Axis is one along which a variable face changes.
type Axis struct {
	Tag, Name         string
	Least, Rest, Most float64
}

// Rights is what a font file says about its being embedded in documents: the
// lower bits of OS/2.fsType (OpenType specification, OS/2).
type Rights uint8

const (
	MayInstall  Rights = iota // no restriction
	MayEdit                   // in documents that are edited
	MayPrint                  // in documents that are only looked at and printed
	MayNotEmbed               // not without leave of its owner
)

// MayPack reports whether the file may be handed on inside something that is edited where it
// arrives, such as a template packed together with its media.
func (r Rights) MayPack() bool { return r <= MayEdit }

// MayShow reports whether the file may be given to a browser that shows words in it.
func (r Rights) MayShow() bool { return r != MayNotEmbed }

// Font is one font file, read and checked. It is safe for use by many goroutines.
type Font struct {
	// Family and Style are its names, such as "Figtree" and "Bold Italic".
	Family, Style string
	Weight        float64 // of a face that is not variable along it
	Italic        bool
	Axes          []Axis
	Rights        Rights
	// Licence is what it says of it, "" for nothing.
	Licence string

	ft    *font.Font
	sum   [8]byte // the beginning of the hash of its file
	upem  float64
	bent  []tables.SegmentMaps // of the axes: the table avar
	names *tables.Name

	mu        sync.Mutex
	instances map[string]*instance
	turn      int

	// shaping guards what HarfBuzz works with: one for all positions on the axes.
	shaping sync.Mutex
	hb      *harfbuzz.Font
	face    *font.Face // hb's
	buf     *harfbuzz.Buffer
}

// Name is what people know the face by, such as Figtree Bold.
func (f *Font) Name() string {
	switch {
	case f.Family == "":
		return f.Style
	case f.Style == "" || f.Style == "Regular" || f.Axis("wght") != nil: // which is any weight
		return f.Family
	}
	return f.Family + " " + f.Style
}

// maxInstances bounds the positions on its axes in which a face is kept ready.
const maxInstances = 24

// axisNames are those that OpenType registers.
var axisNames = map[string]string{"wght": "Weight", "wdth": "Width", "slnt": "Slant", "ital": "Italic", "opsz": "Optical size"}

// Parse reads a font file: TrueType or OpenType, plain or as WOFF. What is not sound
// is refused with the reason.
func Parse(data []byte) (f *Font, err error) {
	defer func() {
		if r := recover(); r != nil {
			f, err = nil, fmt.Errorf("the font file is damaged")
		}
	}()
	if err := checkFile(data); err != nil {
		return nil, err
	}
	ld, err := ot.NewLoader(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("the font file can't be read: %w", err)
	}
	ft, err := font.NewFont(ld)
	if err != nil {
		return nil, fmt.Errorf("the font file can't be read: %w", err)
	}
	f = &Font{ft: ft, upem: float64(ft.Upem()), instances: map[string]*instance{}}
	if f.upem < 16 || f.upem > 16384 {
		return nil, fmt.Errorf("the font file says that %g units are one em, not 16 to 16384", f.upem)
	}
	sum := sha256.Sum256(data)
	copy(f.sum[:], sum[:])
	d := ft.Describe()
	f.Family, f.Weight, f.Italic = clean(d.Family), float64(d.Aspect.Weight), d.Aspect.Style == font.StyleItalic
	if f.Weight == 0 {
		f.Weight = 400
	}
	f.about(ld)
	err = f.axes(ld)
	if f.names = nil; err != nil {
		return nil, err
	}
	f.ready()
	// A face without outlines would draw nothing.
	for _, r := range "nHo0\u0627\u05d0\u4e00\u3042\u2764" {
		if g, ok := ft.NominalGlyph(r); ok {
			if len(f.at(nil).outline(g)) > 0 {
				return f, nil
			}
		}
	}
	if it := ft.Cmap.Iter(); it != nil {
		for n := 0; it.Next() && n < 2000; n++ {
			if _, g := it.Char(); len(f.at(nil).outline(g)) > 0 {
				return f, nil
			}
		}
	}
	return nil, fmt.Errorf("the font file has no outlines; fonts made of pictures alone can't be used")
}

// ready makes the face ready to be shaped with.
//
// The module's filter of the glyphs that a lookup covers forgets the ranges that come
// after it is partly full, and the lookup is then left out for them (set_digest.go,
// addRange, of version 0.3.5). While it is made, the first range of each covers
// everything: the filter lets all through, and the lookup itself looks who is covered.
func (f *Font) ready() {
	type held struct{ at, was *tables.RangeRecord }
	var all []held
	widen := func(c tables.Coverage) {
		if c, ok := c.(tables.Coverage2); ok && len(c.Ranges) > 0 {
			was := c.Ranges[0]
			all = append(all, held{&c.Ranges[0], &was})
		}
	}
	for _, l := range f.ft.GSUB.Lookups {
		for _, t := range l.Subtables {
			widen(t.Cov())
		}
	}
	for _, l := range f.ft.GPOS.Lookups {
		for _, t := range l.Subtables {
			widen(t.Cov())
		}
	}
	for _, h := range all {
		h.at.StartGlyphID, h.at.EndGlyphID = 0, math.MaxUint16
	}
	f.face = font.NewFace(f.ft)
	f.hb = harfbuzz.NewFont(f.face)
	for _, h := range slices.Backward(all) { // one may be shared by several lookups
		*h.at = *h.was
	}
	f.hb.XScale = int32(f.upem) * unit
	f.hb.YScale = f.hb.XScale
	f.buf = harfbuzz.NewBuffer()
}

// checkFile looks at the file's directory before anything is unpacked.
func checkFile(data []byte) error {
	if len(data) > MaxFontBytes {
		return fmt.Errorf("the font file has %d MB, and %d is the most", len(data)>>20, MaxFontBytes>>20)
	}
	if len(data) < 12 {
		return fmt.Errorf("the file is no font file")
	}
	be := binary.BigEndian
	row, at, packed := 16, 12, false
	switch string(data[:4]) {
	case "\x00\x01\x00\x00", "OTTO", "true":
	case "wOFF":
		row, at, packed = 20, 44, true
	case "wOF2":
		return fmt.Errorf("the font file is WOFF2 and has not been unpacked")
	case "ttcf":
		return fmt.Errorf("the file is a collection of fonts; use one of them as a file of its own")
	default:
		return fmt.Errorf("the file is no font file: TTF, OTF, WOFF and WOFF2 are")
	}
	n := int(be.Uint16(data[4:]))
	if packed {
		if len(data) < at {
			return fmt.Errorf("the font file is cut off")
		}
		n = int(be.Uint16(data[12:]))
	}
	if n == 0 || n > maxTables || at+n*row > len(data) {
		return fmt.Errorf("the font file says that it has %d tables", n)
	}
	total := uint64(0)
	for i := range n {
		r := data[at+i*row:]
		from, long := uint64(be.Uint32(r[8:])), uint64(be.Uint32(r[12:]))
		if packed {
			from, long = uint64(be.Uint32(r[4:])), uint64(be.Uint32(r[8:]))
			total += uint64(be.Uint32(r[12:]))
		} else {
			total += long
		}
		if from+long > uint64(len(data)) {
			return fmt.Errorf("the font file is cut off: its table %q ends beyond it", clean(string(r[:4])))
		}
	}
	if total > maxTableBytes {
		return fmt.Errorf("the font file unpacks to %d MB, and %d is the most", total>>20, maxTableBytes>>20)
	}
	return nil
}

// clean is a name from a file without what is no letter.
func clean(s string) string {
	s = strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f || r == 0xfffd {
			return -1
		}
		return r
	}, s)
	if r := []rune(strings.TrimSpace(s)); len(r) > 80 {
		return string(r[:80])
	} else {
		return string(r)
	}
}

// about reads what a file says of itself.
func (f *Font) about(ld *ot.Loader) {
	if raw, err := ld.RawTable(ot.MustNewTag("OS/2")); err == nil && len(raw) >= 10 {
		// Where more than one bit is set, the least restrictive holds (OS/2, fsType).
		switch bits := binary.BigEndian.Uint16(raw[8:]); {
		case bits&0x200 != 0: // only pictures of its glyphs may be embedded
			f.Rights = MayNotEmbed
		case bits&0x8 != 0:
			f.Rights = MayEdit
		case bits&0x4 != 0:
			f.Rights = MayPrint
		case bits&0x2 != 0:
			f.Rights = MayNotEmbed
		}
	}
	raw, err := ld.RawTable(ot.MustNewTag("name"))
	if err != nil {
		return
	}
	names, _, err := tables.ParseName(raw)
	if err != nil {
		return
	}
	f.names = &names
	say := func(ids ...tables.NameID) string {
		for _, id := range ids {
			if s := clean(names.Name(id)); s != "" {
				return s
			}
		}
		return ""
	}
	if s := say(16, 1); s != "" { // typographic family, family
		f.Family = s
	}
	f.Style = say(17, 2)
	f.Licence = say(13, 14)
}

func (f *Font) axes(ld *ot.Loader) error {
	raw, err := ld.RawTable(ot.MustNewTag("fvar"))
	if err != nil {
		return nil
	}
	fvar, _, err := tables.ParseFvar(raw)
	if err != nil {
		return nil
	}
	if n := len(fvar.Axis); n > maxAxes {
		return fmt.Errorf("the font file has %d axes, and %d is the most", n, maxAxes)
	}
	if raw, err := ld.RawTable(ot.MustNewTag("avar")); err == nil {
		if avar, _, err := tables.ParseAvar(raw); err == nil && len(avar.AxisSegmentMaps) == len(fvar.Axis) {
			f.bent = avar.AxisSegmentMaps
		}
	}
	for i, a := range fvar.Axis {
		tag := a.Tag.String()
		x := Axis{Tag: tag, Name: axisNames[tag], Least: float64(a.Minimum), Rest: float64(a.Default), Most: float64(a.Maximum)}
		if !(x.Least <= x.Rest && x.Rest <= x.Most) {
			return fmt.Errorf("the font file's axis %s goes from %g over %g to %g", clean(tag), x.Least, x.Rest, x.Most)
		}
		if x.Name == "" {
			x.Name = cmp.Or(f.axisName(raw, i), clean(tag))
		}
		f.Axes = append(f.Axes, x)
	}
	return nil
}

// axisName is what the font calls an axis; the module leaves the number of the name out
// (OpenType specification, fvar: axesArrayOffset, axisSize, axisNameID).
func (f *Font) axisName(fvar []byte, i int) string {
	if f.names == nil || len(fvar) < 12 {
		return ""
	}
	be := binary.BigEndian
	at := int(be.Uint16(fvar[4:])) + i*int(be.Uint16(fvar[10:])) + 18
	if at+2 > len(fvar) {
		return ""
	}
	return clean(f.names.Name(tables.NameID(be.Uint16(fvar[at:]))))
}

// Axis finds an axis, nil for none.
func (f *Font) Axis(tag string) *Axis {
	if i := slices.IndexFunc(f.Axes, func(a Axis) bool { return a.Tag == tag }); i >= 0 {
		return &f.Axes[i]
	}
	return nil
}

// Has reports whether the face has a glyph for a letter.
func (f *Font) Has(r rune) bool {
	_, ok := f.ft.NominalGlyph(r)
	return ok
}

// instance is a face at one position on its axes. Its mu guards what making outlines
// writes to.
type instance struct {
	of   *Font
	mu   sync.Mutex
	face *font.Face
	// paths are outlines in ems, y downwards; edges those of what they enclose.
	paths, edges map[font.GID][]geom.Path
	// ascent, descent (below 0 is above the baseline: both are positive), capital
	// height in ems.
	ascent, descent, capitals float64
	turn                      int
	key                       string
	digit                     float64 // advance of the widest digit, in ems; 0 is not known yet
	// rounding is what brings a glyph's advance to whole units of the font, guarded by
	// the font's shaping: browsers take them so, of variable faces, too.
	rounding map[font.GID]float64
}

// round is what brings a glyph's advance to whole units.
func (in *instance) round(g font.GID) float64 {
	if len(in.of.Axes) == 0 {
		return 0
	}
	v, ok := in.rounding[g]
	if !ok {
		a := float64(in.of.face.HorizontalAdvance(g))
		v = math.Floor(a+0.5) - a
		if in.rounding == nil {
			in.rounding = map[font.GID]float64{}
		}
		in.rounding[g] = v
	}
	return v
}

// at returns the face at a position; axes that it does not have are left out, values
// are drawn back to where they end.
func (f *Font) at(axes []AxisValue) *instance {
	var coords []font.VarCoord
	key := ""
	for i, a := range f.Axes {
		v := a.Rest
		for _, x := range axes {
			if x.Tag == a.Tag {
				v = x.Value
			}
		}
		v = math.Round(math.Max(a.Least, math.Min(a.Most, v))*64) / 64
		coords = append(coords, f.coord(i, v))
		key += fmt.Sprintf("%s%g ", a.Tag, v)
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	f.turn++
	if in := f.instances[key]; in != nil {
		in.turn = f.turn
		return in
	}
	if len(f.instances) >= maxInstances {
		oldest := ""
		for k, in := range f.instances {
			if oldest == "" || in.turn < f.instances[oldest].turn {
				oldest = k
			}
		}
		delete(f.instances, oldest)
	}
	in := &instance{of: f, face: font.NewFace(f.ft), paths: map[font.GID][]geom.Path{}, edges: map[font.GID][]geom.Path{}, turn: f.turn, key: key}
	if len(coords) > 0 {
		in.face.SetCoords(coords)
	}
	if e, ok := in.face.FontHExtents(); ok {
		in.ascent, in.descent = float64(e.Ascender)/f.upem, -float64(e.Descender)/f.upem
	} else {
		in.ascent, in.descent = 0.8, 0.2
	}
	if in.capitals = float64(in.face.LineMetric(font.CapHeight)) / f.upem; in.capitals <= 0 || in.capitals > 2 {
		in.capitals = 0.7
	}
	f.instances[key] = in
	return in
}

// coord is a value on an axis as its distance from rest, in 1/16384 of the way to the
// end, bent as avar says: rounded once, as browsers do it.
func (f *Font) coord(axis int, v float64) font.VarCoord {
	const one = 1 << 14
	a := f.Axes[axis]
	switch {
	case v < a.Rest:
		v = -(a.Rest - v) / (a.Rest - a.Least)
	case v > a.Rest:
		v = (v - a.Rest) / (a.Most - a.Rest)
	default:
		v = 0
	}
	if f.bent != nil {
		l := f.bent[axis].AxisValueMaps
		for i := 1; i < len(l); i++ {
			from, to := float64(l[i-1].FromCoordinate)/one, float64(l[i].FromCoordinate)/one
			if v >= from && v <= to && to > from {
				x, y := float64(l[i-1].ToCoordinate)/one, float64(l[i].ToCoordinate)/one
				v = x + (y-x)*(v-from)/(to-from)
				break
			}
		}
	}
	return font.VarCoord(math.Floor(math.Max(-1, math.Min(1, v))*one + 0.5))
}

// unit is how many steps of shaping a unit of a font has, so that advances between
// those of variable faces are not rounded.
const unit = 64

// outline returns a glyph's outline in ems, y downwards. It is not to be changed.
func (in *instance) outline(g font.GID) (out []geom.Path) {
	in.mu.Lock()
	defer in.mu.Unlock()
	if p, ok := in.paths[g]; ok {
		return p
	}
	defer func() {
		if recover() != nil {
			out = nil // a glyph that is damaged draws nothing
		}
		in.paths[g] = out
	}()
	data, ok := in.face.GlyphDataOutline(g)
	if !ok || len(data.Segments) > maxOutline {
		return nil
	}
	return pathsOf(data.Segments, 1/in.of.upem)
}

// edge returns the edge of what a glyph's outline encloses, in ems: strokes of variable
// faces overlap. It is not to be changed.
func (in *instance) edge(g font.GID) []geom.Path {
	paths := in.outline(g)
	in.mu.Lock()
	defer in.mu.Unlock()
	p, ok := in.edges[g]
	if !ok {
		p = geom.Edge(paths, 1)
		in.edges[g] = p
	}
	return p
}

// pathsOf makes closed paths of a glyph's segments. A quadratic curve is the cubic
// one whose handles reach two thirds of the way to its control point.
func pathsOf(segments []ot.Segment, k float64) (out []geom.Path) {
	var p geom.Path
	point := func(a ot.SegmentPoint) geom.Point { return geom.Point{X: float64(a.X) * k, Y: -float64(a.Y) * k} }
	var at geom.Point
	end := func() {
		n := len(p.Nodes)
		if n > 1 && p.Nodes[0].X == p.Nodes[n-1].X && p.Nodes[0].Y == p.Nodes[n-1].Y {
			p.Nodes[0].InX, p.Nodes[0].InY = p.Nodes[n-1].InX, p.Nodes[n-1].InY
			p.Nodes = p.Nodes[:n-1]
		}
		if len(p.Nodes) > 1 {
			p.Closed = true
			out = append(out, p)
		}
		p = geom.Path{}
	}
	curve := func(c1, c2, to geom.Point) {
		last := &p.Nodes[len(p.Nodes)-1]
		last.OutX, last.OutY = c1.X-at.X, c1.Y-at.Y
		p.Nodes = append(p.Nodes, geom.Node{X: to.X, Y: to.Y, InX: c2.X - to.X, InY: c2.Y - to.Y})
		at = to
	}
	for _, s := range segments {
		if s.Op != ot.SegmentOpMoveTo && len(p.Nodes) == 0 {
			continue
		}
		switch s.Op {
		case ot.SegmentOpMoveTo:
			end()
			at = point(s.Args[0])
			p.Nodes = append(p.Nodes, geom.Node{X: at.X, Y: at.Y})
		case ot.SegmentOpLineTo:
			at = point(s.Args[0])
			p.Nodes = append(p.Nodes, geom.Node{X: at.X, Y: at.Y})
		case ot.SegmentOpQuadTo:
			c, to := point(s.Args[0]), point(s.Args[1])
			curve(geom.Point{X: at.X + (c.X-at.X)*2/3, Y: at.Y + (c.Y-at.Y)*2/3}, geom.Point{X: to.X + (c.X-to.X)*2/3, Y: to.Y + (c.Y-to.Y)*2/3}, to)
		case ot.SegmentOpCubeTo:
			curve(point(s.Args[0]), point(s.Args[1]), point(s.Args[2]))
		}
	}
	end()
	return out
}
