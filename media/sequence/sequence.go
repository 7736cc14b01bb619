// Package sequence is the room for numbered pictures that make a clip: which
// of several names belong together, and the list that holds such a clip.
package sequence

import (
	"encoding/json"
	"fmt"
	"path"
	"slices"
	"sort"
	"strconv"
	"strings"

	"ivypocket/core/timing"
	"ivypocket/media/limits"
)

// Limits of a sequence.
const (
	Least     = 2                     // pictures
	MaxFrames = limits.SequenceFrames // numbers from first to last
	maxDigits = 9
)

// Gap is a run of numbers that have no picture, both ends included.
type Gap struct {
	From int64 `json:"from"`
	To   int64 `json:"to"`
}

func (g Gap) String() string {
	if g.From == g.To {
		return strconv.FormatInt(g.From, 10)
	}
	return fmt.Sprintf("%d–%d", g.From, g.To)
}

// Group is pictures whose names differ in their number alone.
type Group struct {
	// Name is what the names have in common, with the range of numbers.
	Name  string   `json:"name"`
	First int64    `json:"first"`
	Last  int64    `json:"last"`
	Files []string `json:"files"` // in the order of their numbers
	Gaps  []Gap    `json:"gaps"`
	// Numbers of the files, in the same order.
	Numbers []int64 `json:"numbers"`
}

// split takes a name apart at its last run of digits.
func split(name string) (stem string, number int64, digits int, suffix string, ok bool) {
	ext := path.Ext(name)
	base := strings.TrimSuffix(name, ext)
	end := len(base)
	for end > 0 && (base[end-1] < '0' || base[end-1] > '9') {
		end--
	}
	start := end
	for start > 0 && base[start-1] >= '0' && base[start-1] <= '9' {
		start--
	}
	if start == end || end-start > maxDigits {
		return "", 0, 0, "", false
	}
	n, err := strconv.ParseInt(base[start:end], 10, 64)
	return base[:start], n, end - start, base[end:] + strings.ToLower(ext), err == nil
}

// Find tells which names belong together; the rest have no number, no fellows,
// or a number that another one has too. Groups come in the order of their
// first name.
func Find(names []string) (groups []Group, rest []string) {
	type member struct {
		name   string
		number int64
		digits int
	}
	type key struct {
		stem, suffix string
		digits       int // when numbers are padded; 0 when they are not
	}
	sets := map[key][]member{}
	padded := map[string]bool{}
	for _, n := range names {
		if stem, num, digits, suffix, ok := split(n); ok && digits > 1 && digits > len(strconv.FormatInt(num, 10)) {
			padded[stem+"\x00"+suffix] = true
		}
	}
	var order []key
	for _, n := range names {
		stem, num, digits, suffix, ok := split(n)
		if !ok {
			continue
		}
		k := key{stem, suffix, 0}
		if padded[stem+"\x00"+suffix] {
			k.digits = digits
		}
		if sets[k] == nil {
			order = append(order, k)
		}
		sets[k] = append(sets[k], member{n, num, digits})
	}
	taken := map[string]bool{}
	for _, k := range order {
		ms := sets[k]
		sort.SliceStable(ms, func(a, b int) bool { return ms[a].number < ms[b].number })
		ms = slices.CompactFunc(ms, func(a, b member) bool { return a.number == b.number })
		span := ms[len(ms)-1].number - ms[0].number + 1
		// Numbers that lie far apart name things, not instants.
		if len(ms) < Least || span > MaxFrames || span > int64(len(ms))*8+8 {
			continue
		}
		g := Group{First: ms[0].number, Last: ms[len(ms)-1].number, Gaps: []Gap{}}
		for i, m := range ms {
			if i > 0 && m.number > ms[i-1].number+1 {
				g.Gaps = append(g.Gaps, Gap{ms[i-1].number + 1, m.number - 1})
			}
			g.Files = append(g.Files, m.name)
			g.Numbers = append(g.Numbers, m.number)
			taken[m.name] = true
		}
		g.Name = fmt.Sprintf("%s[%0*d–%0*d]%s", k.stem, k.digits, g.First, k.digits, g.Last, k.suffix)
		groups = append(groups, g)
	}
	for _, n := range names {
		if !taken[n] {
			rest = append(rest, n)
		}
	}
	return groups, rest
}

// List is a clip of pictures: what the store keeps as its file.
type List struct {
	Version int         `json:"ivysequence"`
	Rate    timing.Rate `json:"rate"`
	Width   int         `json:"width"`
	Height  int         `json:"height"`
	Alpha   bool        `json:"alpha,omitempty"`
	First   int64       `json:"first"` // number of the first picture
	Gaps    []Gap       `json:"gaps,omitempty"`
	// Apart says that the pictures are kept to be used on their own, too.
	Apart bool `json:"apart,omitempty"`
	// Pictures names one picture by its hash for each number; a number without
	// one holds the picture before it.
	Pictures []string `json:"pictures"`
}

// New makes a list of pictures by their numbers, which rise.
func New(rate timing.Rate, numbers []int64, hashes []string) (List, error) {
	l := List{Version: 1, Rate: rate}
	if len(numbers) < Least || len(numbers) != len(hashes) {
		return l, fmt.Errorf("a sequence takes %d numbered pictures or more", Least)
	}
	l.First = numbers[0]
	last := numbers[len(numbers)-1]
	if last < l.First || uint64(last)-uint64(l.First) >= MaxFrames {
		return l, fmt.Errorf("the numbers run from %d to %d; the limit is %d pictures", l.First, last, MaxFrames)
	}
	for i, n := range numbers {
		if i > 0 {
			if n <= numbers[i-1] {
				return l, fmt.Errorf("number %d comes after %d", n, numbers[i-1])
			}
			if n > numbers[i-1]+1 {
				l.Gaps = append(l.Gaps, Gap{numbers[i-1] + 1, n - 1})
			}
			for k := numbers[i-1] + 1; k < n; k++ {
				l.Pictures = append(l.Pictures, hashes[i-1])
			}
		}
		l.Pictures = append(l.Pictures, hashes[i])
	}
	return l, nil
}

// Parse reads a list.
func Parse(b []byte) (List, error) {
	var l List
	if err := json.Unmarshal(b, &l); err != nil {
		return l, fmt.Errorf("the list of the sequence is damaged: %w", err)
	}
	if l.Version != 1 || len(l.Pictures) < Least || len(l.Pictures) > MaxFrames || l.Width < 1 || l.Height < 1 {
		return l, fmt.Errorf("the list of the sequence is damaged")
	}
	return l, nil
}

// Times are the sequence's times.
func (l List) Times() timing.Clip { return timing.Even(l.Rate, int64(len(l.Pictures))) }
