package words

import (
	"slices"
	"strings"
	"unicode"
)

// token is a word of a wording between white space: its letters from one index up to another.
type token struct{ from, to int }

func tokens(runes []rune) (out []token) {
	for i := 0; i < len(runes); i++ {
		if unicode.IsSpace(runes[i]) {
			continue
		}
		j := i
		for j < len(runes) && !unicode.IsSpace(runes[j]) {
			j++
		}
		out = append(out, token{i, j})
		i = j
	}
	return out
}

// Find finds words in a wording that may have changed since they were chosen: a phrase, however its
// blanks and capitals are, of several places the nearest to the word-th word, from 0; where there is
// none, count words from that one on. It tells their first letter and the one after their last, counted
// in code points.
func Find(text, phrase string, word, count int) (from, to int, ok bool) {
	runes := []rune(text)
	all := tokens(runes)
	want := strings.Fields(strings.ToLower(phrase))
	best, far := -1, 0
	var cut [2]int
	for i := range all {
		if len(want) == 0 || i+len(want) > len(all) {
			break
		}
		a, z, same := matches(runes, all[i:i+len(want)], want)
		if d := max(i-word, word-i); same && (best < 0 || d < far) {
			best, far, cut = i, d, [2]int{a, z}
		}
	}
	if best >= 0 {
		return cut[0], cut[1], true
	}
	if word >= len(all) || count < 1 {
		return 0, 0, false
	}
	last := min(len(all), word+count) - 1
	return all[word].from, all[last].to, true
}

// matches compares words with those of a phrase; signs around a word that the phrase does not have, such
// as a comma, are left aside.
func matches(runes []rune, in []token, want []string) (from, to int, same bool) {
	for i, t := range in {
		a, z := t.from, t.to
		w := []rune(want[i])
		low := []rune(strings.ToLower(string(runes[a:z])))
		if len(low) != z-a { // a letter that is longer when it is small
			return 0, 0, string(low) == want[i]
		}
		at := index(low, w)
		if at < 0 || slices.ContainsFunc(slices.Concat(low[:at], low[at+len(w):]), func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }) {
			return 0, 0, false
		}
		if i == 0 {
			from = a + at
		}
		to = a + at + len(w)
	}
	return from, to, true
}

func index(in, of []rune) int {
	for i := 0; i+len(of) <= len(in); i++ {
		if slices.Equal(in[i:i+len(of)], of) {
			return i
		}
	}
	return -1
}

// Place tells which words of a wording some of its letters are in, counted in UTF-16 units as browsers
// do: the first of them, how many they are, and what they say.
func Place(text string, from, to int) (word, count int, phrase string) {
	runes := []rune(text)
	at := func(unit int) int {
		n := 0
		for i, r := range runes {
			if n >= unit {
				return i
			}
			if n++; r > 0xffff {
				n++
			}
		}
		return len(runes)
	}
	a, z := at(min(from, to)), at(max(from, to))
	word = -1
	for i, t := range tokens(runes) {
		if t.to <= a || t.from >= max(z, a+1) {
			continue
		}
		if word < 0 {
			word = i
		}
		count++
	}
	if word < 0 {
		return 0, 0, ""
	}
	all := tokens(runes)
	x, y := all[word].from, all[word+count-1].to
	// What is chosen to the letter is kept so.
	return word, count, strings.Join(strings.Fields(string(runes[max(x, min(a, y)):min(y, max(z, x+1))])), " ")
}
