package server

import (
	"context"
	"encoding/json"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"ivypocket/core/craft"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/store"
)

// A page that sets an entry of a draft's sheet by example holds the picture at one of the
// entry's values, and says so with all that it asks: "Ivy-Pin: ENTRY=VALUE", the value as
// JSON. All that is told of the draft is told as it is then, and what is done to it becomes
// the entry's ties.

type pinKey struct{}

// A page that tries a draft at another length than its own says so likewise: "Ivy-Length:
// FRAMES". The frames that it speaks of are those of that length.
type lengthKey struct{}

// maxPin bounds the header, in bytes.
const maxPin = 300

// pinned reads a request's pin.
func pinned(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if said := r.Header.Get("Ivy-Pin"); said != "" && len(said) <= maxPin {
			entry, raw, _ := strings.Cut(said, "=")
			var v scheme.Value
			if json.Unmarshal([]byte(raw), &v) == nil {
				r = r.WithContext(context.WithValue(r.Context(), pinKey{}, &craft.Pin{Entry: entry, At: v}))
			}
		}
		if n, err := strconv.ParseInt(r.Header.Get("Ivy-Length"), 10, 64); err == nil && n > 0 {
			r = r.WithContext(context.WithValue(r.Context(), lengthKey{}, n))
		}
		next.ServeHTTP(w, r)
	})
}

// lengthOf is the length at which a request tries a document, and how its time runs then; 0
// is its own, also where it can't be so long.
func lengthOf(ctx context.Context, d *template.Document) (int64, timing.Map) {
	n, _ := ctx.Value(lengthKey{}).(int64)
	if n == d.Frames {
		n = 0
	}
	if lo, hi := d.Lengths(); n != 0 && (n < lo || n > hi) {
		n = 0
	}
	m, err := d.TimeMap(n)
	if err != nil {
		n = 0
		m, _ = d.TimeMap(0)
	}
	return n, m
}

// inOwnTime brings what an act says of the frame that is looked at from the length that the
// draft is tried at to its own.
func inOwnTime(ctx context.Context, d *template.Document, a *craft.Act) {
	if n, m := lengthOf(ctx, d); n != 0 {
		a.Frame = m.At(timing.OutputFrame(min(a.Frame, n-1))).Template.Floor()
		a.Ops = slices.Clone(a.Ops)
		for i := range a.Ops {
			inOwnTime(ctx, d, &a.Ops[i])
		}
	}
}

// pinOf is the pin of a request where the document has the entry, and it may have the
// value; nil for none: an entry that was taken off the sheet meanwhile holds nothing.
func pinOf(ctx context.Context, d *template.Document) *craft.Pin {
	pin, _ := ctx.Value(pinKey{}).(*craft.Pin)
	if pin == nil {
		return nil
	}
	e := d.Sheet.Entry(pin.Entry)
	if e == nil || e.Fixed || !e.Kept() || e.Check(pin.At) != nil {
		return nil
	}
	return pin
}

// as holds a draft at the value of one of its entries, and at the length, that a request asks for.
func (p *pieceState) as(ctx context.Context, d *template.Document) {
	if pin := pinOf(ctx, d); pin != nil {
		p.pinned = pin
		p.piece.Values.Entries = map[string]scheme.Value{pin.Entry: pin.At}
	}
	p.piece.Values.Frames, _ = lengthOf(ctx, d)
}

// pinText tells those apart.
func (p *pieceState) pinText() string {
	text := ""
	if p.row.Kind == store.DraftKind && p.piece.Values.Frames != 0 {
		text = strconv.FormatInt(p.piece.Values.Frames, 10) + " "
	}
	if p.pinned != nil {
		text += p.pinned.Entry + "=" + p.pinned.At.String()
	}
	return text
}
