package e2e

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"image"
	"image/png"
	"math"
	"testing"
	"time"
)

// still is a frame of the document that is open, without loss: a piece, a template's draft.
func (w walker) still(frame int) image.Image {
	w.Helper()
	raw := eval[string](w.TB, w.Tab, fmt.Sprintf(`(async () => {
		const id = location.pathname.split('/').pop()
		const f = await (await fetch('/api/drafts/' + id + '/frames?format=landscape&width=960&height=540&from=%d&count=1')).json()
		const b = new Uint8Array(await (await fetch('/frames/' + f.addresses[0].address + '.png')).arrayBuffer())
		let s = ''; for (let i = 0; i < b.length; i += 9999) s += String.fromCharCode(...b.subarray(i, i + 9999)); return btoa(s) })()`, frame))
	b, err := base64.StdEncoding.DecodeString(raw)
	w.must(err)
	m, err := png.Decode(bytes.NewReader(b))
	w.must(err)
	return m
}

// apart is how far two pictures are from one another: the mean difference of a channel, in 255ths,
// and the share of pixels that are off by more than 12.
func apart(a, b image.Image) (mean, off float64) {
	r := a.Bounds()
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			p, q := a.At(x, y), b.At(x, y)
			pr, pg, pb, pa := p.RGBA()
			qr, qg, qb, qa := q.RGBA()
			worst := 0.0
			for _, c := range [4][2]uint32{{pr, qr}, {pg, qg}, {pb, qb}, {pa, qa}} {
				d := math.Abs(float64(c[0])-float64(c[1])) / 257
				mean, worst = mean+d/4, math.Max(worst, d)
			}
			if worst > 12 {
				off++
			}
		}
	}
	n := float64(r.Dx() * r.Dy())
	return mean / n, off / n
}

// builder makes layers on the bench by what a designer has there: the tray, the panel, keys.
type builder struct{ walker }

// add draws a box with something of the tray, and gives what comes of it its exact size.
func (b builder) add(swatch string, w, h float64) {
	b.Helper()
	b.click("[data-swatch=" + swatch + "]")
	b.until(`document.querySelector('[data-test=drawing]')`)
	b.revised(func() { b.pull(960-w/2, 540-h/2, w, h) })
	b.until(`document.querySelector('[data-property=size] .field')`)
	b.sets("size", fmt.Sprint(w), fmt.Sprint(h))
	b.sets("place", "0", "0")
}

// find shows a property of the layer that is selected.
func (b builder) find(property string) {
	b.Helper()
	at := fmt.Sprintf(`document.querySelector('[data-property="%s"]')`, property)
	b.until(at)
	eval[bool](b.TB, b.Tab, `(() => { const d = `+at+`.closest('details'); if (d) d.open = true; return true })()`)
}

// sets types numbers into a property's fields, where they are others.
func (b builder) sets(property string, numbers ...string) {
	b.Helper()
	b.find(property)
	for i, n := range numbers {
		if got := eval[string](b.TB, b.Tab, fmt.Sprintf(`document.querySelectorAll('[data-property="%s"] [role=spinbutton]')[%d]?.getAttribute('aria-valuenow') ?? ''`, property, i)); got != n {
			b.revised(func() { b.set(property, i, n) })
		}
	}
}

func (b builder) choose(property, word string) {
	b.Helper()
	b.find(property)
	b.click(fmt.Sprintf(`[data-property="%s"] .n-base-selection`, property))
	b.revised(func() { b.option(".n-base-select-option", word) })
}

func (b builder) paint(property, colour string) {
	b.Helper()
	b.find(property)
	b.click(fmt.Sprintf(`[data-property="%s"] input`, property))
	b.ctrl("a")
	b.revised(func() { b.key(colour + "\r") })
}

func (b builder) reset(property, label string) {
	b.Helper()
	b.revised(func() { b.click(fmt.Sprintf(`[data-property=%q] [aria-label="Reset %s"]`, property, label)) })
}

// gradient gives the selected layer one, with stops at hundredths of the way.
func (b builder) gradient(kind string, from, to [2]string, stops ...[2]string) {
	b.Helper()
	b.choose("gradient.kind", kind)
	b.sets("gradient.from", from[0], from[1])
	b.sets("gradient.to", to[0], to[1])
	b.until(`document.querySelectorAll('[data-test=own-gradient] .stop').length === 2`)
	for n := 3; n <= len(stops); n++ {
		b.revised(func() { b.click("[data-test=own-gradient] [data-test=stop-add]") })
		b.until(fmt.Sprintf(`document.querySelectorAll('[data-test=own-gradient] .stop').length === %d`, n))
	}
	for i := len(stops) - 1; i >= 0; i-- { // from the end, so that none passes another
		s := stops[i]
		eval[bool](b.TB, b.Tab, fmt.Sprintf(`(document.querySelectorAll('[data-test=own-gradient] .stop')[%d].click(), true)`, i))
		b.until(fmt.Sprintf(`document.querySelectorAll('[data-test=own-gradient] .stop')[%d].classList.contains('on')`, i))
		if got := eval[string](b.TB, b.Tab, `document.querySelector('[data-test=own-gradient] .at [role=spinbutton]').getAttribute('aria-valuenow')`); got != s[0] {
			eval[bool](b.TB, b.Tab, `document.querySelector('[data-test=own-gradient] .at [role=spinbutton]').focus() || true`)
			b.key("\r")
			b.until(`document.querySelector('[data-test=own-gradient] .at input') === document.activeElement`)
			b.revised(func() { b.key(s[0] + "\r") })
		}
		if got := eval[string](b.TB, b.Tab, `document.querySelector('[data-test=own-gradient] .paint input').value`); got != s[1] {
			b.click("[data-test=own-gradient] .paint input")
			b.ctrl("a")
			b.revised(func() { b.key(s[1] + "\r") })
		}
	}
}

// mask adds one as large as the layer and opens it.
func (b builder) mask(id, form string) {
	b.Helper()
	b.exact() // what comes into the panel meanwhile may push the button away from under the pointer
	b.click("[data-test=add-masks]")
	if b.Until(`document.querySelector('.n-dropdown-option-body')`, 3*time.Second) != nil {
		b.click("[data-test=add-masks]")
	}
	b.option(".n-dropdown-option-body", form)
	b.until(`document.querySelector('[data-test=masking]')`)
	b.revised(func() { b.press(960, 540) })
	b.until(`document.querySelector('[data-parts=masks] [data-part=` + id + `].on')`)
}

func (b builder) holds(name string) {
	b.Helper()
	b.key("o")
	b.until(`document.querySelector('[data-pick="` + name + `"]')`)
	b.revised(func() { b.click(`[data-pick="` + name + `"]`) })
	b.until(`!document.querySelector('[data-pick]')`)
}

// shipped is the poster frame of a template of the shelf.
func shipped(b builder, url, template string, frame int) image.Image {
	b.Helper()
	b.must(b.Go(url + "/"))
	b.click("[data-template=" + template + "] [data-test=to-bench]")
	b.until(`document.querySelector('.bench [data-layer]')`)
	b.exact()
	return b.still(frame)
}

// The picture of Telescope is built anew from a blank canvas, by hand alone, and is the one that
// ships: rings in conic, linear and radial gradients, a stroke of dashes, a soft round pocket, a
// drop shadow, a glint with a bite taken out of it, multiplied and screened.
func TestTelescopeIsBuiltByHand(t *testing.T) {
	t.Parallel()
	w, url, _ := atBench(t, t.TempDir(), "Spyglass")
	b := builder{w}
	b.add("ellipse", 752, 752)
	b.paint("fill", "#07100e")
	b.revised(func() {
		b.click("[data-test=add-treatments]")
		b.option(".n-dropdown-option-body", "Drop shadow")
	})
	b.click("[data-part=shadow] .name")
	b.sets("treatments/shadow/radius", "46")
	b.sets("treatments/shadow/offset", "20", "44")
	b.paint("treatments/shadow/colour", "#07100e")
	b.sets("treatments/shadow/opacity", "75")
	b.add("ellipse", 760, 760)
	b.sets("turn", "-0.56")
	b.gradient("conic", [2]string{"50", "50"}, [2]string{"50", "0"}, [2]string{"0", "#8a6a2c"}, [2]string{"10", "#f6e2a0"}, [2]string{"24", "#a87c2f"}, [2]string{"38", "#5f4316"}, [2]string{"50", "#c9a24e"},
		[2]string{"61", "#fff3c4"}, [2]string{"74", "#8f6a2a"}, [2]string{"88", "#5a3f14"}, [2]string{"100", "#8a6a2c"})
	b.add("ellipse", 716, 716)
	b.paint("stroke.colour", "#3b2a0f")
	b.sets("stroke.width", "18")
	b.find("stroke.dash")
	b.revised(func() { b.click(`[data-property="stroke.dash"] [data-test=list-more]`) })
	b.sets("stroke.dash", "4", "27.2418")
	b.reset("fill", "Fill")
	b.sets("opacity", "80")
	b.sets("turn", "16.503")
	b.add("ellipse", 684, 684)
	b.gradient("linear", [2]string{"20", "0"}, [2]string{"80", "100"}, [2]string{"0", "#4a3512"}, [2]string{"50", "#b58f45"}, [2]string{"100", "#fbe9b4"})
	b.add("ellipse", 662, 662)
	b.paint("fill", "#17130c")
	b.add("pocket", 640, 640)
	b.holds("Kites at noon.mp4")
	b.mask("m1", "Ellipse")
	b.sets("masks/m1/feather", "6")
	b.choose("masks/m1/soft", "inwards")
	b.sets("content.zoom", "112.851")
	b.sets("content.turn", "-0.145")
	b.add("ellipse", 640, 640)
	b.choose("blend", "multiply")
	b.gradient("radial", [2]string{"50", "50"}, [2]string{"100", "50"}, [2]string{"0", "#ffffff"}, [2]string{"62", "#f4efe6"}, [2]string{"90", "#6d6658"}, [2]string{"100", "#1a1710"})
	b.add("rectangle", 600, 600)
	b.choose("blend", "screen")
	b.sets("opacity", "38")
	b.gradient("linear", [2]string{"12", "5"}, [2]string{"60", "62"}, [2]string{"0", "#ffffff"}, [2]string{"55", "#ffffff50"}, [2]string{"100", "#ffffff00"})
	b.mask("m1", "Ellipse")
	b.sets("masks/m1/size", "592", "592")
	b.sets("masks/m1/feather", "10")
	b.mask("m2", "Ellipse")
	b.choose("masks/m2/mode", "subtract")
	b.sets("masks/m2/size", "600", "600")
	b.sets("masks/m2/place", "64", "70")
	b.sets("masks/m2/feather", "24")
	// They blend among themselves alone.
	b.click(".tree [data-layer]")
	b.ctrl("a")
	b.revised(func() { b.ctrl("g") })
	b.find("isolated")
	b.revised(func() { b.click("[data-property=isolated] [role=switch]") })
	got := b.still(96)
	if mean, off := apart(got, shipped(b, url, "telescope", 96)); mean > 0.5 || off > 0.005 {
		t.Errorf("built by hand it is %.2f of 255 off on average, and %.2f %% of it is another picture", mean, 100*off)
	}
}

// The picture of Sail Window's second sail: a mark cut out of cloth, through which weather is seen.
func TestSailWindowIsBuiltByHand(t *testing.T) {
	t.Parallel()
	w, url, _ := atBench(t, t.TempDir(), "Sail")
	b := builder{w}
	b.revised(func() { b.click("[data-swatch=ground]") })
	b.paint("fill", "#1d5560")
	b.revised(func() { b.click("[data-swatch=ground]") })
	b.choose("blend", "multiply")
	b.gradient("linear", [2]string{"100", "0"}, [2]string{"0", "100"}, [2]string{"0", "#ffffff"}, [2]string{"48", "#e4eeee"}, [2]string{"52", "#c3d4d4"}, [2]string{"100", "#ffffff"})
	b.add("rectangle", 1800, 980)
	b.sets("radius", "24")
	b.paint("stroke.colour", "#8fc1bd")
	b.sets("stroke.width", "6")
	b.choose("stroke.cap", "round")
	b.find("stroke.dash")
	b.revised(func() { b.click(`[data-property="stroke.dash"] [data-test=list-more]`) })
	b.sets("stroke.dash", "26", "20")
	b.reset("fill", "Fill")
	b.add("mark", 1120, 760)
	b.holds("Tern & Tiller Sailcloth.png")
	b.sets("scale", "102.0526")
	b.revised(func() { b.key("h") }) // it is seen by what it cuts
	b.add("pocket", 1920, 1080)
	b.holds("Last kites at dusk.mp4")
	b.find("matte.layer")
	b.click(`[data-point="matte.layer"]`)
	b.until(`document.querySelector('[data-test=pointing]')`)
	b.revised(func() { b.click(".tree [data-layer=mark]") })
	got := b.still(112) // 25 frames a second here, 30 there
	if mean, off := apart(got, shipped(b, url, "sail-window", 140)); mean > 0.5 || off > 0.005 {
		t.Errorf("built by hand it is %.2f of 255 off on average, and %.2f %% of it is another picture", mean, 100*off)
	}
}
