package server

import (
	"context"
	"encoding/json"
	"net/http"
	"strings"

	"ivypocket/core/craft"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// A page that sets an entry of a draft's sheet by example holds the picture at one of the
// entry's values, and says so with all that it asks: "Ivy-Pin: ENTRY=VALUE", the value as
// JSON. All that is told of the draft is told as it is then, and what is done to it becomes
// the entry's ties.

type pinKey struct{}

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
		next.ServeHTTP(w, r)
	})
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

// pin holds a draft at a value of one of its entries.
func (p *pieceState) pin(pin *craft.Pin) {
	if pin == nil {
		return
	}
	p.pinned = pin
	p.piece.Values.Entries = map[string]scheme.Value{pin.Entry: pin.At}
}

// pinText tells pins apart.
func (p *pieceState) pinText() string {
	if p.pinned == nil {
		return ""
	}
	return p.pinned.Entry + "=" + p.pinned.At.String()
}
