package words

import (
	"bufio"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"unicode"
)

// conformance opens a file of the Unicode Character Database that the module for shaping
// ships with its own tests.
func conformance(t *testing.T, name string) *bufio.Scanner {
	t.Helper()
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/go-text/typesetting").Output()
	if err != nil {
		t.Fatal(err)
	}
	f, err := os.Open(filepath.Join(strings.TrimSpace(string(dir)), name))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = f.Close() })
	return bufio.NewScanner(f)
}

func hexRunes(t *testing.T, text string) (out []rune) {
	t.Helper()
	for _, h := range strings.Fields(text) {
		n, err := strconv.ParseUint(h, 16, 32)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, rune(n))
	}
	return out
}

// Levels, the direction of a paragraph and the order from left to right are those of
// Unicode's BidiCharacterTest.txt (UAX #9).
func TestBidiConforms(t *testing.T) {
	in := conformance(t, "bidi/test/BidiCharacterTest.txt")
	n := 0
	for in.Scan() {
		f := strings.Split(in.Text(), ";")
		if len(f) != 5 || strings.HasPrefix(f[0], "#") {
			continue
		}
		runes := hexRunes(t, f[0])
		if slices.ContainsFunc(runes, func(r rune) bool { return r == 0x2029 }) {
			continue // it ends a paragraph, and is shown by none
		}
		n++
		rtl := f[1] == "1" || f[1] == "2" && firstStrong(runes)
		if rtl != (f[2] == "1") {
			t.Fatalf("%s: read from right to left: %t", in.Text(), rtl)
		}
		got := make([]int8, len(runes))
		levels(runes, rtl, got)
		want := strings.Fields(f[3])
		var shown []cluster
		var at []int
		for i, w := range want {
			if w == "x" {
				continue // what is removed by rule X9 has none
			}
			level, _ := strconv.Atoi(w)
			if int8(level) != got[i] && !blankAtEnd(runes[i:]) { // rule L1: our lines end before blanks
				t.Fatalf("%s: letter %d has level %d", in.Text(), i, got[i])
			}
			shown, at = append(shown, cluster{level: int8(level)}), append(at, i)
		}
		var order []string
		for _, i := range visual(shown) {
			order = append(order, strconv.Itoa(at[i]))
		}
		if strings.Join(order, " ") != strings.TrimSpace(f[4]) {
			t.Fatalf("%s: from left to right %v", in.Text(), order)
		}
	}
	if n < 80000 {
		t.Errorf("only %d lines were read", n)
	}
}

// blankAtEnd reports whether a letter is white space, or a separator, after which nothing
// but such and signs without a width comes.
func blankAtEnd(runes []rune) bool {
	if runes[0] == '\t' || runes[0] == 0x1f || runes[0] == 0x0b {
		return true
	}
	for _, r := range runes {
		if r == '\t' || r == 0x1f || r == 0x0b {
			return true
		}
		if !unicode.IsSpace(r) && !ignorable(r) {
			return false
		}
	}
	return true
}

// Lines may break where Unicode's LineBreakTest.txt says (UAX #14), as far as letters can be
// parted there at all.
func TestLinesBreakAsUnicodeSays(t *testing.T) {
	in := conformance(t, "segmenter/test/LineBreakTest.txt")
	fam := &Family{ID: "test", Name: "Test", Fonts: []*Font{testFont(t)}}
	n, off := 0, 0
	for in.Scan() {
		line, _, _ := strings.Cut(in.Text(), "#")
		if strings.TrimSpace(line) == "" {
			continue
		}
		var runes []rune
		var want []int
		for _, f := range strings.Fields(line) {
			switch f {
			case "÷":
				want = append(want, len(runes))
			case "×":
			default:
				runes = append(runes, hexRunes(t, f)...)
			}
		}
		if slices.ContainsFunc(runes, func(r rune) bool {
			return r < ' ' || r == 0x7f || r == 0x85 || r == 0x2028 || r == 0x2029 || r >= 0xd800 && r < 0xe000
		}) {
			continue // they part paragraphs, or show nothing
		}
		n++
		tx := shape(string(runes), Style{Family: fam})
		for i := range tx.paras[0].clusters {
			c := &tx.paras[0].clusters[i]
			if at := tx.origin[c.from]; i > 0 && c.breaks != slices.Contains(want, at) {
				if off++; off < 5 {
					t.Errorf("%s: a break before letter %d: %t", line, at, c.breaks)
				}
			}
		}
	}
	if n < 5000 {
		t.Errorf("only %d lines were read", n)
	}
}

// Letters are grapheme clusters of Unicode's GraphemeBreakTest.txt (UAX #29): none is ever
// parted, though several may be one where the face joins them.
func TestNoGraphemeIsParted(t *testing.T) {
	in := conformance(t, "segmenter/test/GraphemeBreakTest.txt")
	fam := &Family{ID: "test", Name: "Test", Fonts: []*Font{testFont(t)}}
	n := 0
	for in.Scan() {
		line, _, _ := strings.Cut(in.Text(), "#")
		var runes []rune
		var whole []int // where a grapheme may not be parted
		for _, f := range strings.Fields(line) {
			switch f {
			case "×":
				whole = append(whole, len(runes))
			case "÷":
			default:
				runes = append(runes, hexRunes(t, f)...)
			}
		}
		if len(runes) == 0 || slices.ContainsFunc(runes, func(r rune) bool {
			return r < ' ' || r == 0x7f || r == 0x85 || r == 0x2028 || r == 0x2029 || r >= 0xd800 && r < 0xe000
		}) {
			continue
		}
		n++
		tx := shape(string(runes), Style{Family: fam})
		for _, c := range tx.paras[0].clusters {
			if at := tx.origin[c.from]; slices.Contains(whole, at) {
				t.Errorf("%s: parted before letter %d", line, at)
			}
		}
	}
	if n < 300 {
		t.Errorf("only %d lines were read", n)
	}
}
