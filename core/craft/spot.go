package craft

import (
	"fmt"
	"slices"
	"strings"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// spot is what the path of an act names: a layer, a treatment of it, or a mask of one of them.
type spot struct {
	path  string // as the document has it, without the use that it is looked at in
	seen  string // the layer's id with that use
	layer *template.Layer
	node  *template.Node // what is named
	owner *template.Node // of a mask, what it is a mask of; else node
}

// spot finds what a path names, so that it can be worked on.
func (b *bench) spot(path string) (s spot, err error) {
	seg := strings.Split(path, "/")
	if seg[0] != "layers" || len(seg)%2 != 0 {
		return s, fmt.Errorf("path: %q is not one of layers/ID, layers/ID/masks/ID, layers/ID/treatments/ID and layers/ID/treatments/ID/masks/ID", path)
	}
	s.seen = seg[1]
	b.use, seg[1] = cutUse(s.seen)
	s.path = strings.Join(seg, "/")
	y := b.doc.Layer(seg[1])
	if y == nil || b.use != "" && b.motifOf(b.use) == nil {
		return s, fmt.Errorf("path: there is no layer %q any more", seg[1])
	}
	s.layer, s.node, s.owner = y, y, y
	for i := 2; i < len(seg); i += 2 {
		k, part := s.node.Sort().Part(seg[i])
		if part == nil || part.Of != scheme.Masks && part.Of != scheme.Treatments {
			return s, fmt.Errorf("path: a %s has no %q", s.node.Sort().Name, seg[i])
		}
		at := slices.IndexFunc(s.node.Part(k), func(n *template.Node) bool { return n.ID == seg[i+1] })
		if at < 0 {
			return s, fmt.Errorf("path: %s has no %s %q any more", y.Name, part.Of.Name, seg[i+1])
		}
		if s.owner = s.node; part.Of != scheme.Masks {
			s.owner = s.node.Part(k)[at]
		}
		s.node = s.node.Part(k)[at]
	}
	if by := b.lockedBy(y.ID); by != "" {
		return s, fmt.Errorf("%s is pinned down", by)
	}
	return s, nil
}

// calledSpot is what people call a layer, or a treatment of it: "Sun", "the blur of Sun".
func (b *bench) calledSpot(s spot) string {
	if s.owner.Sort() == scheme.Treatments {
		return "the " + strings.ToLower(s.owner.Kind.Label) + " of " + s.layer.Name
	}
	return s.layer.Name
}

// nextID is the first of m1, m2 and so on, for the prefix m, that is not taken.
func nextID(prefix string, taken func(id string) bool) string {
	for n := 1; ; n++ {
		if id := fmt.Sprintf("%s%d", prefix, n); !taken(id) {
			return id
		}
	}
}
