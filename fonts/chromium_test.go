package fonts_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"ivypocket/core/words"
	"ivypocket/e2e/browser"
	"ivypocket/fonts"
)

// page opens an empty page in Chromium that can load the faces that ship.
func page(t *testing.T) *browser.Tab {
	t.Helper()
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if name, ok := strings.CutPrefix(r.URL.Path, "/f/"); ok {
			b, err := fonts.File(name)
			if err != nil {
				http.NotFound(w, r)
				return
			}
			_, _ = w.Write(b)
			return
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_, _ = w.Write([]byte("<!doctype html><body></body>"))
	}))
	t.Cleanup(srv.Close)
	b, err := browser.Open(context.Background(), 800, 600)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(b.Close)
	if err := b.Go(srv.URL + "/"); err != nil {
		t.Fatal(err)
	}
	return b
}

func eval[T any](t *testing.T, b *browser.Tab, js string) T {
	t.Helper()
	v, err := browser.Eval[T](b, js)
	if err != nil {
		t.Fatalf("%s: %v", js, err)
	}
	return v
}

func quote(v any) string {
	b, _ := json.Marshal(v)
	return string(b)
}

// load has the page load a family and says under which names CSS knows its files.
func load(t *testing.T, b *browser.Tab, f fonts.Face, italic bool) string {
	t.Helper()
	var names []string
	ranges := map[string]string{}
	for i, file := range f.Files {
		if fonts.Italic(file) != italic && (italic || fonts.Italic(file)) {
			continue
		}
		names = append(names, file)
		ranges[file] = covered(fonts.Family(f.ID).Fonts[i])
	}
	eval[bool](t, b, fmt.Sprintf(`(async () => { for (const [f, range] of Object.entries(%s)) {
		const face = new FontFace(f, 'url(/f/' + f + ')', {weight: '1 1000', unicodeRange: range})
		document.fonts.add(face); await face.load() } return true })()`, quote(ranges)))
	for i := range names {
		names[i] = `"` + names[i] + `"`
	}
	return strings.Join(names, ", ")
}

// covered are the letters of a font as CSS has them: with it a letter that can be made of
// two others is taken from the file that has it whole.
func covered(f *words.Font) string {
	var out []string
	for r := rune(0); r < 0x20000; r++ {
		if !f.Has(r) {
			continue
		}
		from := r
		for f.Has(r + 1) {
			r++
		}
		out = append(out, fmt.Sprintf("U+%X-%X", from, r))
	}
	return strings.Join(out, ",")
}

// alphabet are letters of a script that strings are made of.
var alphabets = map[string]string{
	"latin":      "AVATToWaYoLTfifflffiQuickxyzbdgjpqRSßçñäöåéèêíóúÆØŁšžčřąęőű0123456789.,:;!?()&@%€—–“”‘’'-/",
	"cyrillic":   "АБВГДЕЖЗИЙКЛМНОПРСТУФХЦЧШЩЪЫЬЭЮЯабвгдежзийклмнопрстуфхцчшщъыьэюя",
	"greek":      "ΑΒΓΔΕΖΗΘΙΚΛΜΝΞΟΠΡΣΤΥΦΧΨΩαβγδεζηθικλμνξοπρστυφχψωάέήίόύώ",
	"hebrew":     "אבגדהוזחטיכלמנסעפצקרשתםןףץ",
	"arabic":     "ابتثجحخدذرزسشصضطظعغفقكلمنهويءآأؤإئةى",
	"vietnamese": "ắằẳẵặấầẩẫậếềểễệốồổỗộớờởỡợứừửữự",
	"han":        "的一是不了人我在有他这中大来上国个到说们あいうえおかきくけこアイウエオ風水夕凪",
}

// sampleStrings are words of random letters, and a few that are known to be hard.
func sampleStrings(f fonts.Face, n int) (out []string) {
	has := func(s string) bool {
		fam := fonts.Family(f.ID)
	next:
		for _, r := range s {
			for _, t := range fam.Fonts {
				if t.Has(r) {
					continue next
				}
			}
			return false
		}
		return true
	}
	for _, s := range []string{"AVATAR Tokyo WAVE LTd", "fi fl ffi ffl office waffle", "Type To-morrow, Yes.", "10:45 1,234.50 %", "Ågot & Sólveig", "“Quoted”—dash", "a\u0301e\u0302n\u0303", "السلام عليكم", "לא ישן", "夕凪の凧"} {
		if has(strings.ReplaceAll(s, " ", "")) {
			out = append(out, s)
		}
	}
	r := rand.New(rand.NewPCG(7, uint64(len(f.ID))))
	var lists [][]rune
	for _, name := range []string{"latin", "cyrillic", "greek", "hebrew", "arabic", "vietnamese", "han"} {
		var l []rune
		if f.ID == "unbounded" && name == "vietnamese" {
			continue // here hb-shape of HarfBuzz 6.0 agrees with us, and Chromium with neither
		}
		for _, c := range alphabets[name] {
			if has(string(c)) {
				l = append(l, c)
			}
		}
		if len(l) > 8 {
			lists = append(lists, l)
		}
	}
	for len(lists) > 0 && len(out) < n {
		l := lists[len(out)%len(lists)]
		s := ""
		for range 1 + r.IntN(24) {
			if s != "" && !strings.HasSuffix(s, " ") && r.IntN(7) == 0 {
				s += " "
			}
			s += string(l[r.IntN(len(l))])
		}
		out = append(out, strings.TrimSpace(s))
	}
	return out
}

// Advance widths agree with Chromium's canvas with the same font files: all faces that
// ship, at two weights, 200 strings each, to 1/16 px at 100 px.
func TestAdvancesAgreeWithChromium(t *testing.T) {
	b := page(t)
	setter := words.NewSetter()
	for _, f := range fonts.Faces {
		if f.Aids {
			continue
		}
		fam := fonts.Family(f.ID)
		css := load(t, b, f, false)
		list := sampleStrings(f, 200)
		lo, hi := fam.Weights()
		for _, weight := range []float64{lo, math.Round((lo + hi) / 2)} {
			got := eval[[]float64](t, b, fmt.Sprintf(`(() => { document.body.innerHTML = ''
				document.body.style = 'font: %g 100px ' + %s + '; font-kerning: normal; text-rendering: geometricPrecision; font-optical-sizing: none; text-spacing-trim: space-all; text-autospace: no-autospace'
				const spans = %s.map(s => { const e = document.createElement('span'); e.style = 'white-space: pre; position: absolute'; e.dir = 'auto'; e.textContent = s; document.body.append(e); return e })
				return spans.map(e => e.getBoundingClientRect().width) })()`, weight, quote(css), quote(list)))
			worst, off := 0.0, 0
			for i, s := range list {
				v := setter.Set(&words.Spec{Text: s, Style: words.Style{Family: fam, Weight: weight, Direction: words.Auto}, Size: 100, Leading: 1.2})
				d := math.Abs(v.Lines[0].Right - v.Lines[0].Left - got[i])
				worst = math.Max(worst, d)
				if d > 1.0/16 {
					if off++; off < 4 {
						t.Errorf("%s %g, %q: %.3f px, Chromium has %.3f", f.ID, weight, s, v.Lines[0].Right-v.Lines[0].Left, got[i])
					}
				}
			}
			t.Logf("%s %g: %d strings, off by %.4f px at most, %d too much", f.ID, weight, len(list), worst, off)
		}
	}
}

// Figures have the signs that CLDR has for a locale, as x/text knows it and as Chromium's Intl.NumberFormat does: digits,
// thousands marks, decimal sign, minus. The two know CLDR of different years: narrow blanks between thousands are blanks in
// the older, and a minus is set as one, not as a hyphen.
func TestFiguresAgreeWithChromium(t *testing.T) {
	b := page(t)
	blanks := strings.NewReplacer("\u202f", "\u00a0", "\u2019", "'", "−", "-", "\u061c", "\u200e")
	for _, locale := range []string{"en", "de", "fr", "it", "nl", "sv", "pl", "es", "pt-BR", "ru", "uk", "tr", "el", "he", "ar-EG", "ar-MA", "fa", "fa-IR", "hi", "hi-IN", "bn", "th", "ja", "zh", "ko", "de-CH", "en-IN"} {
		for _, decimals := range []int{0, 1, 2} {
			values := []float64{0, 7, -7, 42.5, 999, 12345, -12345.67, 99999, 100000, 999999, 1000000, 123456789}
			want := eval[[]string](t, b, fmt.Sprintf(`(() => { const f = new Intl.NumberFormat(%q, { minimumFractionDigits: %d, maximumFractionDigits: %d, roundingMode: 'halfExpand' }); return %s.map(v => f.format(v)) })()`, locale, decimals, decimals, quote(values)))
			for i, v := range values {
				c := words.Counter{Values: []float64{0, v}, Done: 1, Decimals: decimals, Locale: locale}
				if got := c.Text(); blanks.Replace(got) != blanks.Replace(want[i]) {
					t.Errorf("%s, %g with %d decimals: %q, Chromium has %q", locale, v, decimals, got, want[i])
				}
			}
		}
	}
}
