// Package icc converts colours by ICC profiles to sRGB, through Little CMS.
package icc

/*
#cgo LDFLAGS: -llcms2
#include <lcms2.h>

// The library's own log would go to standard error.
static void quiet(cmsContext c, cmsUInt32Number code, const char *text) {}
static cmsContext silent(void) {
	cmsContext c = cmsCreateContext(NULL, NULL);
	if (c) cmsSetLogErrorHandlerTHR(c, quiet);
	return c;
}
*/
import "C"

import (
	"errors"
	"math"
	"runtime"
	"sync"
	"unsafe"

	"ivypocket/media/limits"
)

// MaxBytes bounds a profile.
const MaxBytes = limits.ProfileBytes

// Space is the kind of colours a profile is for.
type Space string

const (
	RGB  Space = "RGB"
	Grey Space = "grey"
	CMYK Space = "CMYK"
)

// Transform converts 8-bit colours to sRGB. It is safe for use by many
// goroutines.
type Transform struct {
	Space Space
	// Same is set when the profile's colours are sRGB's to within 1/255, so
	// that nothing needs to be converted.
	Same bool
	t    C.cmsHTRANSFORM
	ctx  C.cmsContext
}

var errProfile = errors.New("the colour profile can't be read")

// Parse reads a profile. Its rendering intent is the relative colorimetric one,
// without black point compensation, or for CMYK the perceptual one: what
// browsers do (common practice, no source).
func Parse(profile []byte) (*Transform, error) {
	if len(profile) < 128 || len(profile) > MaxBytes {
		return nil, errProfile
	}
	ctx := C.silent()
	if ctx == nil {
		return nil, errProfile
	}
	p := C.cmsOpenProfileFromMemTHR(ctx, unsafe.Pointer(&profile[0]), C.cmsUInt32Number(len(profile)))
	if p == nil {
		C.cmsDeleteContext(ctx)
		return nil, errProfile
	}
	return build(ctx, p)
}

// Primaries describes RGB colours by the chromaticities of white, red, green
// and blue and by a gamma; 0 is sRGB's own curve (IEC 61966-2-1).
type Primaries struct {
	White, Red, Green, Blue [2]float64
	Gamma                   float64
}

// Chromaticities of well-known colour spaces.
var (
	BT709  = Primaries{White: d65, Red: [2]float64{0.64, 0.33}, Green: [2]float64{0.30, 0.60}, Blue: [2]float64{0.15, 0.06}}
	P3     = Primaries{White: d65, Red: [2]float64{0.68, 0.32}, Green: [2]float64{0.265, 0.69}, Blue: [2]float64{0.15, 0.06}}     // SMPTE EG 432-1
	BT2020 = Primaries{White: d65, Red: [2]float64{0.708, 0.292}, Green: [2]float64{0.17, 0.797}, Blue: [2]float64{0.131, 0.046}} // ITU-R BT.2020
	d65    = [2]float64{0.3127, 0.3290}
)

// FromPrimaries makes a transform without a profile.
func FromPrimaries(p Primaries) (*Transform, error) {
	for _, c := range [][2]float64{p.White, p.Red, p.Green, p.Blue} {
		if !(c[0] > 0 && c[0] < 1 && c[1] > 0 && c[1] < 1) {
			return nil, errProfile
		}
	}
	ctx := C.silent()
	if ctx == nil {
		return nil, errProfile
	}
	var curve *C.cmsToneCurve
	if p.Gamma > 0 {
		curve = C.cmsBuildGamma(ctx, C.cmsFloat64Number(p.Gamma))
	} else {
		srgb := [5]C.cmsFloat64Number{2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045}
		curve = C.cmsBuildParametricToneCurve(ctx, 4, &srgb[0])
	}
	if curve == nil {
		C.cmsDeleteContext(ctx)
		return nil, errProfile
	}
	defer C.cmsFreeToneCurve(curve)
	at := func(c [2]float64) C.cmsCIExyY {
		return C.cmsCIExyY{C.cmsFloat64Number(c[0]), C.cmsFloat64Number(c[1]), 1}
	}
	white := at(p.White)
	three := C.cmsCIExyYTRIPLE{at(p.Red), at(p.Green), at(p.Blue)}
	curves := [3]*C.cmsToneCurve{curve, curve, curve}
	h := C.cmsCreateRGBProfileTHR(ctx, &white, &three, &curves[0])
	if h == nil {
		C.cmsDeleteContext(ctx)
		return nil, errProfile
	}
	return build(ctx, h)
}

// build makes the transform and lets go of the profile.
func build(ctx C.cmsContext, p C.cmsHPROFILE) (*Transform, error) {
	t := &Transform{ctx: ctx}
	var in C.cmsUInt32Number
	intent, flags := C.cmsUInt32Number(C.INTENT_RELATIVE_COLORIMETRIC), C.cmsUInt32Number(C.cmsFLAGS_NOCACHE)
	out := typeRGBA
	switch C.cmsGetColorSpace(p) {
	case C.cmsSigRgbData:
		t.Space, in = RGB, typeRGBA
		flags |= C.cmsFLAGS_COPY_ALPHA
	case C.cmsSigGrayData:
		t.Space, in = Grey, typeGrey
	case C.cmsSigCmykData:
		t.Space, in, intent = CMYK, typeCMYKInverted, C.INTENT_PERCEPTUAL
		flags |= C.cmsFLAGS_NOOPTIMIZE // a resampled table would be off in the shadows
	}
	if in != 0 {
		srgb := C.cmsCreate_sRGBProfileTHR(ctx)
		t.t = C.cmsCreateTransformTHR(ctx, p, in, srgb, out, intent, flags)
		C.cmsCloseProfile(srgb)
	}
	C.cmsCloseProfile(p)
	if t.t == nil {
		C.cmsDeleteContext(ctx)
		return nil, errProfile
	}
	runtime.SetFinalizer(t, func(t *Transform) {
		C.cmsDeleteTransform(t.t)
		C.cmsDeleteContext(t.ctx)
	})
	if t.Space == RGB {
		t.Same = t.same()
	}
	return t, nil
}

// Formats of pixels, as lcms2.h composes them from bits.
const (
	typeRGBA         = C.cmsUInt32Number(C.PT_RGB<<16 | 1<<7 | 3<<3 | 1)
	typeGrey         = C.cmsUInt32Number(C.PT_GRAY<<16 | 1<<3 | 1)
	typeCMYKInverted = C.cmsUInt32Number(C.PT_CMYK<<16 | 1<<13 | 4<<3 | 1)
)

// same tries a grid of colours.
func (t *Transform) same() bool { return t.most() <= 1 }

// Slight reports whether colours change by so little that it is not seen, such as
// between sRGB's curve and a plain power of 2.2.
func (t *Transform) Slight() bool { return t.Space == RGB && t.most() <= slight }

// slight is the largest change, of 255, that is not seen: what sRGB's own curve and a
// power of 2.2 differ by at most, in the darkest shadows, and some rounding.
const slight = 10

// most is the largest change of a channel over a lattice of colours, of 255.
func (t *Transform) most() float64 {
	var grid [6 * 6 * 6 * 4]byte
	for i := range 6 * 6 * 6 {
		grid[i*4], grid[i*4+1], grid[i*4+2], grid[i*4+3] = byte(i%6*51), byte(i/6%6*51), byte(i/36*51), 255
	}
	was := grid
	t.Convert(grid[:], grid[:])
	most := 0.0
	for i := range grid {
		most = math.Max(most, math.Abs(float64(grid[i])-float64(was[i])))
	}
	return most
}

// Convert writes RGBA for the colours of src: RGBA with straight alpha, which
// is kept (dst may be src); one byte of grey each; or four bytes of CMYK each,
// inverted as JPEG files hold them. Alpha of grey and CMYK becomes 255.
func (t *Transform) Convert(dst, src []byte) {
	n := len(dst) / 4
	if n == 0 || len(src) < n || t.Space != Grey && len(src) < n*4 {
		return
	}
	stride := 4
	if t.Space == Grey {
		stride = 1
	}
	// Two halves side by side.
	half := n / 2
	part := func(a, b int) {
		if a < b {
			C.cmsDoTransform(t.t, unsafe.Pointer(&src[a*stride]), unsafe.Pointer(&dst[a*4]), C.cmsUInt32Number(b-a))
			if t.Space != RGB {
				for i := a*4 + 3; i < b*4; i += 4 {
					dst[i] = 255
				}
			}
		}
	}
	if n < 1<<14 {
		part(0, n)
	} else {
		var wg sync.WaitGroup
		wg.Go(func() { part(0, half) })
		part(half, n)
		wg.Wait()
	}
	runtime.KeepAlive(t)
}
