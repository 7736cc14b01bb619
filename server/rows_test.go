package server

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"ivypocket/media/mediatest"
)

func (h *house) list(method, path string, body any, status int) (v ListView) {
	h.t.Helper()
	res, b := h.do(method, path, body)
	if res.StatusCode != status {
		h.t.Fatalf("%s %s: %d, want %d: %s", method, path, res.StatusCode, status, b)
	}
	if status == 200 {
		if err := json.Unmarshal(b, &v); err != nil {
			h.t.Fatalf("%s", b)
		}
	}
	return v
}

// A list is kept with a template: from a piece, by hand, by CSV; and fills pieces, one row
// as one change.
func TestAPieceIsFilledFromARow(t *testing.T) {
	h := filled(t)
	const at = "/api/templates/two-tides/list"
	if v := h.list("GET", at, nil, 200); v.Revision != 0 || len(v.Rows) != 0 || len(v.More) != 5 || !slices.Equal(v.More[2].Takes, []string{"logo"}) && len(v.More[2].Takes) == 0 {
		t.Errorf("%+v", v)
	}
	v := h.list("POST", "/api/pieces/"+h.piece+"/keep", map[string]any{"revision": 0, "name": "Monday"}, 200)
	if v.Revision != 1 || len(v.Rows) != 1 || len(v.Columns) != 3 || v.Rows[0].Cells[0].Media == "" || v.Rows[0].Cells[2].Text != "" || len(v.Media) != 2 {
		t.Fatalf("%+v", v)
	}
	// Kept by a list alone, it is not cleared away.
	gull := h.upload("Gull.jpg", mediatest.JPEG(t, mediatest.Quarters(100, 80), 0))
	rows := []map[string]any{{"id": "mon", "name": "Monday", "cells": []string{v.Rows[0].Cells[0].Text, "", "", "20"}}, {"id": "tue", "name": "Tuesday", "cells": []string{gull, "Gull.jpg", "", ""}},
		{"id": "wed", "name": "Wednesday", "cells": []string{"Tern.jpg", "", "", "999"}}}
	v = h.list("PUT", at, map[string]any{"revision": 1, "columns": []string{"flood-tide", "ebb-tide", "mark", "border"}, "rows": rows}, 200)
	if v.Revision != 2 || v.Rows[1].Cells[1].Media != gull || v.Rows[2].Cells[0].Why == "" || v.Rows[2].Cells[3].Why == "" || v.Rows[1].Cells[0].Why != "" {
		t.Errorf("%+v", v.Rows)
	}
	if cleared := h.post("/api/media/clear", map[string]any{"hashes": []string{}}, 200); strings.Contains(strings.Join(anyStrings(cleared["hashes"]), " "), gull) {
		t.Errorf("%v", cleared)
	}
	// Somebody else had it open.
	h.list("PUT", at, map[string]any{"revision": 1, "columns": []string{}, "rows": []any{}}, 409)
	h.list("POST", "/api/pieces/"+h.piece+"/keep", map[string]any{"revision": 0, "name": "Late"}, 409)
	h.list("PUT", at, map[string]any{"revision": 2, "columns": []string{"a", "a"}, "rows": []any{}}, 422)
	h.list("GET", "/api/templates/none/list", nil, 404)

	do := func(id, row string, base int, status int) PieceView {
		t.Helper()
		res, b := h.do("POST", "/api/pieces/"+h.piece+"/row", map[string]any{"id": id, "base": base, "row": row})
		var d DoneView
		if err := json.Unmarshal(b, &d); err != nil || res.StatusCode != status {
			t.Fatalf("%d %s", res.StatusCode, b)
		}
		return d.Piece
	}
	p := do("from-tuesday", "tue", 2, 200)
	if p.Undo != "Fill from Tuesday" || p.Pockets[0].Media != gull || p.Pockets[1].Media != gull || p.Pockets[1].MediaName != "Gull.jpg" {
		t.Errorf("%+v", p.Pockets)
	}
	if _, b := h.do("POST", "/api/pieces/"+h.piece+"/row", map[string]any{"id": "from-wednesday", "base": 3, "row": "wed"}); !strings.Contains(string(b), "Wednesday, Flood tide: Tern.jpg") || !strings.Contains(string(b), "Border") {
		t.Errorf("%s", b)
	}
	p = do("from-monday", "mon", 3, 200)
	if p.Pockets[1].Media == gull || p.Pockets[0].Media == gull {
		t.Errorf("%+v", p.Pockets)
	}
	h.post("/api/pieces/"+h.piece+"/undo", map[string]any{"id": "undo-monday"}, 200)
	_, b := h.do("GET", "/api/pieces/"+h.piece, nil)
	var back PieceView
	if err := json.Unmarshal(b, &back); err != nil || back.Pockets[0].Media != gull {
		t.Errorf("%s", b)
	}

	// A list that is as large as one may be read is changed by hand, too.
	large := []map[string]any{}
	for i := range 1900 {
		large = append(large, map[string]any{"id": fmt.Sprint(i), "name": "Row", "cells": []string{strings.Repeat("x", 990), ""}})
	}
	if v := h.list("PUT", at, map[string]any{"revision": 2, "columns": []string{"one", "border"}, "rows": large}, 200); len(v.Rows) != 1900 {
		t.Errorf("%d rows", len(v.Rows))
	}
	v = h.list("PUT", at, map[string]any{"revision": 3, "columns": []string{"flood-tide", "ebb-tide", "mark", "border"}, "rows": rows}, 200)

	// Out as CSV and in again, in its place and after it.
	res, out := h.do("GET", at+".csv", nil)
	if res.Header.Get("Content-Type") != "text/csv; charset=utf-8; header=present" || !strings.HasPrefix(string(out), "row,flood-tide,ebb-tide,mark,border\r\nMonday,a.jpg,,,20\r\nTuesday,Gull.jpg,Gull.jpg,,\r\n") {
		t.Errorf("%q", out)
	}
	v = h.list("POST", at+".csv?revision=4", out, 200)
	if len(v.Rows) != 3 || v.Revision != 5 || v.Rows[1].Cells[0].Media != gull {
		t.Errorf("%+v", v)
	}
	v = h.list("POST", at+".csv?revision=5&after=true", []byte("Name;Border colour\nSunday;#ff0000\n"), 200)
	if len(v.Rows) != 4 || len(v.Columns) != 5 || v.Rows[3].Cells[4].Text != "#ff0000" || v.Rows[3].Cells[4].Why != "" {
		t.Errorf("%+v", v)
	}
	for _, bad := range []string{"", "name\n", "\xff\xfe"} {
		if res, b := h.do("POST", at+".csv?revision=6", []byte(bad)); res.StatusCode != 422 {
			t.Errorf("%q: %d %s", bad, res.StatusCode, b)
		}
	}
	if res, _ := h.do("POST", at+".csv?revision=6", make([]byte, 5<<20)); res.StatusCode != 422 {
		t.Errorf("%d", res.StatusCode)
	}
	if res, _ := h.do("POST", at+".csv", out); res.StatusCode != 422 {
		t.Errorf("%d", res.StatusCode)
	}
}

func anyStrings(v any) (out []string) {
	list, _ := v.([]any)
	for _, x := range list {
		s, _ := x.(string)
		out = append(out, s)
	}
	return out
}
