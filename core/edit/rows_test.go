package edit

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/internal/sample"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// everyKind is the sample with an entry of each kind on its sheet.
func everyKind(t *testing.T) *template.Document {
	t.Helper()
	return changed(t, func(d *template.Document) {
		n := func(v float64) *float64 { return &v }
		of := func(v scheme.Value) *scheme.Value { return &v }
		d.Sheet.Groups = append(d.Sheet.Groups, template.Group{ID: "more", Label: "More", Entries: []template.Entry{
			{ID: "tilt", Label: "Tilt", Kind: template.AngleEntry, Default: of(scheme.One(0)), Min: n(-90), Max: n(90)},
			{ID: "spot", Label: "Spot", Kind: template.PlaceEntry, Default: of(scheme.Many(0, 0)), Area: &[4]float64{-500, -300, 500, 300}},
			{ID: "shown", Label: "Shown", Kind: template.SwitchEntry, Default: of(scheme.Is(true))},
			{ID: "sail", Label: "Sail", Data: "sailcloth", Kind: template.ChoiceEntry, Default: of(scheme.Says("delta")), Options: []template.Option{{ID: "delta", Label: "Delta kite"}, {ID: "box", Label: "Box kite"}}},
			{ID: "secret", Label: "Secret", Kind: template.SwitchEntry, Default: of(scheme.Is(true)), Fixed: true},
		}})
	})
}

func shelfWith(names ...string) Shelf {
	return func(text string) (Given, bool) {
		if text == mediaA || text == mediaB {
			return Given{Hash: text, Name: text, Kind: template.Picture, Size: geom.Size{W: 10, H: 10}}, true
		}
		if i := slices.Index(names, text); i >= 0 {
			kind := template.Picture
			if strings.HasSuffix(text, ".mp4") {
				kind = template.Footage
			}
			return Given{Hash: []string{mediaA, mediaB}[i%2], Name: text, Kind: kind}, true
		}
		return Given{}, false
	}
}

func numbers() func() string {
	n := 0
	return func() string { n++; return fmt.Sprintf("row-%d", n) }
}

// What tables have in their cells, as people and spreadsheets write it.
func TestCellsAreReadAsPeopleWriteThem(t *testing.T) {
	d := everyKind(t)
	shelf := shelfWith("Kite.jpg", "Kite.mp4")
	for _, c := range []struct {
		entry, text string
		want        any // a value, media, frames; an error's words
	}{
		{"border", "24", scheme.One(24)}, {"border", " 24 px ", scheme.One(24)}, {"border", "24,5", scheme.One(24.5)}, {"border", "24.5px", scheme.One(24.5)},
		{"border", "61", "60"}, {"border", "-1", "0"}, {"border", "many", "not a number"}, {"border", "NaN", "not a number"}, {"border", "1e999", "not a number"}, {"border", "1,000.5", "not a number"},
		{"tilt", "−30°", scheme.One(-30)}, {"tilt", "12", scheme.One(12)},
		{"spot", "120 -40", scheme.Many(120, -40)}, {"spot", "120; -40", scheme.Many(120, -40)}, {"spot", "120", "two numbers"}, {"spot", "600 0", "500"},
		{"shown", "yes", scheme.Is(true)}, {"shown", "Off", scheme.Is(false)}, {"shown", "0", scheme.Is(false)}, {"shown", "maybe", "neither on nor off"},
		{"sail", "box kite", scheme.Says("box")}, {"sail", "delta", scheme.Says("delta")}, {"sail", "sled", "Delta kite, Box kite"},
		{"border-colour", "#1E7383", scheme.Says("#1e7383")}, {"border-colour", "1e7383", scheme.Says("#1e7383")}, {"border-colour", "teal", "teal"},
		{"flood-tide", "Kite.jpg", mediaA}, {"flood-tide", mediaB, mediaB}, {"flood-tide", "Gull.jpg", "not in the store"}, {"mark", "Kite.mp4", "does not take"},
	} {
		e := d.Sheet.Entry(c.entry)
		if e == nil {
			t.Fatalf("no entry %s", c.entry)
		}
		op, _, err := Cell(d, e, c.text, shelf)
		switch want := c.want.(type) {
		case scheme.Value:
			if err != nil || op.Value == nil || !op.Value.Equal(want) {
				t.Errorf("%s %q is %+v, %v", c.entry, c.text, op.Value, err)
			}
		case string:
			if strings.HasPrefix(want, "sha256:") {
				if err != nil || op.Media != want {
					t.Errorf("%s %q is %q, %v", c.entry, c.text, op.Media, err)
				}
			} else if err == nil || !strings.Contains(err.Error(), want) {
				t.Errorf("%s %q: %v, want %q", c.entry, c.text, err, want)
			}
		}
	}
	// Lengths, in frames and in seconds: 4.5 s at 25 are 112.5, so 113.
	for text, want := range map[string]int64{"110": 110, "110 frames": 110, "4 s": 100, "4,5 s": 113, "4.5s": 113, "": 0} {
		if op, _, err := Cell(d, &template.Entry{Kind: template.DurationEntry}, text, shelf); err != nil || op.Frames != want {
			t.Errorf("%q is %d frames: %v", text, op.Frames, err)
		}
	}
	most := 120.0
	if _, _, err := Cell(d, &template.Entry{Kind: template.DurationEntry, Max: &most}, "121", shelf); err == nil || !strings.Contains(err.Error(), "1 to 120") {
		t.Errorf("a length that the sheet does not take: %v", err)
	}
	for _, text := range []string{"0", "-4", "0 s", "long", "1.5"} {
		if _, _, err := Cell(d, &template.Entry{Kind: template.DurationEntry}, text, shelf); err == nil {
			t.Errorf("%q is a length", text)
		}
	}
}

// Whatever a piece has been given comes back from a row of it, through CSV as well.
func TestARowIsWhatThePieceWas(t *testing.T) {
	d := everyKind(t)
	r := rand.New(rand.NewPCG(13, 9))
	shelf := shelfWith()
	for range 300 {
		p := Piece{Name: "Piece", Release: 1}
		for _, op := range []Op{{Kind: "fill", Pocket: "flood", Media: mediaA}, {Kind: "fill", Pocket: "ebb", Media: mediaB}, {Kind: "frames", Frames: 200 + r.Int64N(50)},
			{Kind: "entry", Entry: "border", Value: value(scheme.One(float64(r.IntN(6000)) / 100))}, {Kind: "entry", Entry: "border-colour", Value: value(scheme.Says(fmt.Sprintf("#%06x", r.IntN(1<<24))))},
			{Kind: "entry", Entry: "tilt", Value: value(scheme.One(r.Float64()*180 - 90))}, {Kind: "entry", Entry: "spot", Value: value(scheme.Many(r.Float64()*1000-500, r.Float64()*600-300))},
			{Kind: "entry", Entry: "shown", Value: value(scheme.Is(r.IntN(2) == 0))}, {Kind: "entry", Entry: "sail", Value: value(scheme.Says([]string{"delta", "box"}[r.IntN(2)]))}} {
			if r.IntN(3) == 0 {
				continue
			}
			next, _, err := Apply(d, p, op)
			if err != nil {
				t.Fatalf("%+v: %v", op, err)
			}
			p = next
		}
		l := &List{}
		l.Widen(d, p)
		l.Rows = append(l.Rows, RowOf(d, l, p, "one"))
		if err := l.Check(); err != nil {
			t.Fatal(err)
		}
		var b bytes.Buffer
		if err := l.WriteCSV(&b, func(h string) string { return h }); err != nil {
			t.Fatal(err)
		}
		read, err := ReadCSV(d, b.Bytes(), numbers())
		if err != nil || !slices.Equal(read.Columns, l.Columns) || !slices.Equal(read.Rows[0].Cells, l.Rows[0].Cells) || read.Rows[0].Name != "Piece" {
			t.Fatalf("%v: %q\n%s", err, read, b.String())
		}
		op, err := FromRow(d, read, "row-1", shelf)
		if err != nil {
			t.Fatal(err)
		}
		// Whatever was there before gives way.
		was, _, err := Apply(d, Piece{Name: "Piece", Release: 1}, Op{Kind: "batch", Ops: []Op{{Kind: "fill", Pocket: "flood", Media: mediaB}}})
		if err != nil {
			t.Fatal(err)
		}
		got, _, err := Apply(d, was, op)
		a, _ := flatten(got)
		w, _ := flatten(p)
		if err != nil || !reflect.DeepEqual(a, w) {
			t.Fatalf("%v\n%s\n%s\n%s", err, a, w, b.String())
		}
	}
}

// RFC 4180: quotes, commas and line ends in cells, CRLF or LF, the last line ended or not;
// and what spreadsheets do besides: a mark of the byte order, semicolons, tabs, blank lines.
func TestCSVAsSpreadsheetsSaveIt(t *testing.T) {
	d := everyKind(t)
	for _, c := range []struct {
		what, text string
		columns    []string
		rows       []Row
	}{
		{"by names for data", "name,border,sailcloth\r\nMonday,24,Box kite\r\n", []string{"border", "sailcloth"}, []Row{{"row-1", "Monday", []string{"24", "Box kite"}, nil}}},
		{"by labels, in another order", "Sail,Name,Border colour\nBox kite,Monday,#102030", []string{"sailcloth", "border-colour"}, []Row{{"row-1", "Monday", []string{"Box kite", "#102030"}, nil}}},
		{"quotes, commas, line ends", "name,border\r\n\"Fenn, \"\"Odalys\"\"\r\nof Brinewell\",24\r\n", []string{"border"}, []Row{{"row-1", "Fenn, \"Odalys\"\nof Brinewell", []string{"24"}, nil}}},
		{"a mark and semicolons", "\xef\xbb\xbfname;border;colour of day\r\nMonday;24,5;red\r\n", []string{"border", "colour of day"}, []Row{{"row-1", "Monday", []string{"24,5", "red"}, nil}}},
		{"tabs, blank lines, short lines", "name\tborder\tshown\n\nMonday\t24\n\t\t\n\t12\ton\n", []string{"border", "shown"}, []Row{{"row-1", "Monday", []string{"24", ""}, nil}, {"row-2", "Row 2", []string{"12", "on"}, nil}}},
	} {
		l, err := ReadCSV(d, []byte(c.text), numbers())
		if err != nil || !slices.Equal(l.Columns, c.columns) || !reflect.DeepEqual(l.Rows, c.rows) {
			t.Errorf("%s: %v\n%q", c.what, err, l)
		}
	}
	// What else comes: a line that names the separator, UTF-16, line ends of old systems, a quotation mark in a cell.
	for what, text := range map[string]string{
		"a line that names the separator": "sep=;\r\nname;border\r\nMonday;24\r\n",
		"UTF-16, little end first":        "\xff\xfen\x00a\x00m\x00e\x00,\x00b\x00o\x00r\x00d\x00e\x00r\x00\n\x00M\x00o\x00n\x00d\x00a\x00y\x00,\x002\x004\x00",
		"UTF-16, big end first":           "\xfe\xff\x00n\x00a\x00m\x00e\x00;\x00b\x00o\x00r\x00d\x00e\x00r\x00\n\x00M\x00o\x00n\x00d\x00a\x00y\x00;\x002\x004",
		"CR alone":                        "name,border\rMonday,24\r",
	} {
		l, err := ReadCSV(d, []byte(text), numbers())
		if err != nil || !slices.Equal(l.Columns, []string{"border"}) || len(l.Rows) != 1 || l.Rows[0].Name != "Monday" || l.Rows[0].Cells[0] != "24" {
			t.Errorf("%s: %v %+v", what, err, l)
		}
	}
	if l, err := ReadCSV(d, []byte("name,sailcloth\n5\" nail,\"Box, kite\"\n"), numbers()); err != nil || l.Rows[0].Name != "5\" nail" || l.Rows[0].Cells[0] != "Box, kite" {
		t.Errorf("a quotation mark in a cell: %v %+v", err, l)
	}
	// An entry that is called "name" has its column, and the row's name one of its own.
	called := changed(t, func(d *template.Document) {
		e := &d.Sheet.Groups[len(d.Sheet.Groups)-1].Entries[0]
		e.Data = "name"
	})
	if l, err := ReadCSV(called, []byte("row,name\nMonday,#102030\n"), numbers()); err != nil || !slices.Equal(l.Columns, []string{"name"}) || l.Rows[0].Name != "Monday" || l.Rows[0].Cells[0] != "#102030" {
		t.Errorf("%v %+v", err, l)
	}
	for want, text := range map[string]string{
		"empty": "",
		"none of its columns is one of this template's. They are called": "name,tent\nMonday,4\n",

		"twice":                      "border,Border\n1,2\n",
		"there are 2 columns":        "name,border\nMonday,24,9\n",
		"UTF-8":                      "name,border\nM\xfcrz,24\n",
		"a quotation mark is opened": "name,border\n\"Monday,24\n",
		"bytes":                      "name,border\nMonday," + strings.Repeat("9", MaxCell+1) + "\n",
		"rows of":                    "border\n" + strings.Repeat("1\n", MaxRows+1),
	} {
		if _, err := ReadCSV(d, []byte(text), numbers()); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%.40q: %v, want %q", text, err, want)
		}
	}
}

// A row says nothing of columns that its file did not have: filling from it leaves their entries as they are, where an empty cell of a column
// that it had is the template's own. What it would change is told before.
func TestARowLeavesAloneWhatItDoesNotSpeakOf(t *testing.T) {
	d := everyKind(t)
	l := &List{Columns: []string{"border", "sailcloth"}, Rows: []Row{{ID: "one", Name: "One", Cells: []string{"24", ""}}}}
	read, err := ReadCSV(d, []byte("name,border\nMonday,12\n"), func() string { return "two" })
	if err != nil {
		t.Fatal(err)
	}
	l.Append(read)
	p := Piece{}
	v, err := columnOf(d, "sailcloth").Reads("Box kite")
	if err != nil {
		t.Fatal(err)
	}
	p.Values.Entries = map[string]scheme.Value{columnOf(d, "sailcloth").ID: v}
	changes := func(id string) (said []string) {
		for _, c := range RowChanges(d, l, id, p) {
			said = append(said, c.Label+": "+c.Before+" > "+c.After)
		}
		return said
	}
	kinds := func(id string) (n int) {
		op, err := FromRow(d, l, id, nil)
		if err != nil {
			t.Fatal(err)
		}
		return len(op.Ops)
	}
	if got := changes("two"); len(got) != 1 || kinds("two") != 1 {
		t.Errorf("a row without the column changes %q", got)
	}
	if got := changes("one"); len(got) != 2 || !strings.HasSuffix(got[1], "Box kite > ") || kinds("one") != 2 {
		t.Errorf("a row with an empty cell changes %q", got)
	}
	l.Rows[1].Cells[1] = "Box kite" // somebody typed it
	if kinds("two") != 2 {
		t.Error("what was typed is left out")
	}
	// The other way round: a column that comes with a file is nothing to the rows that were there.
	more, err := ReadCSV(d, []byte("name,border-colour\nTuesday,#102030\n"), func() string { return "three" })
	if err != nil {
		t.Fatal(err)
	}
	l.Append(more)
	if n := kinds("one"); n != 2 {
		t.Errorf("a row that was there before fills %d", n)
	}
}

// A row with a cell that can't be used fills nothing, and says which.
func TestARowThatCantBeUsed(t *testing.T) {
	d := everyKind(t)
	l := &List{Columns: []string{"flood-tide", "border", "gone", "shown"}, Rows: []Row{{"a", "Monday", []string{"Gull.jpg", "99", "x", ""}, nil}, {"b", "Tuesday", []string{"", "", "x", "off"}, nil}}}
	if _, err := FromRow(d, l, "a", shelfWith()); err == nil || !strings.Contains(err.Error(), "Monday, Flood tide: Gull.jpg") || !strings.Contains(err.Error(), "Monday, Border") {
		t.Errorf("%v", err)
	}
	if op, err := FromRow(d, l, "b", shelfWith()); err != nil || len(op.Ops) != 3 || op.Name != "Fill from Tuesday" {
		t.Errorf("%+v %v", op, err)
	}
	if _, err := FromRow(d, l, "c", shelfWith()); err == nil {
		t.Error("a row that is not there")
	}
	if _, err := FromRow(sample.Lasting(t), &List{Columns: []string{"gone"}, Rows: []Row{{"a", "Monday", []string{"x"}, nil}}}, "a", shelfWith()); err == nil {
		t.Error("no column is for anything")
	}
	for _, bad := range []*List{{Columns: []string{"a", "a"}}, {Columns: []string{""}}, {Columns: []string{"row"}}, {Columns: []string{"a"}, Rows: []Row{{"x", "", nil, nil}}},
		{Rows: []Row{{"x", "", nil, nil}, {"x", "", nil, nil}}}, {Rows: []Row{{"", "", nil, nil}}}, {Columns: []string{"a"}, Rows: []Row{{"x", "", []string{"\x00"}, nil}}}} {
		if bad.Check() == nil {
			t.Errorf("%+v is a list", bad)
		}
	}
	wide := &List{Columns: make([]string, 10), Rows: make([]Row, 600)}
	for i := range wide.Columns {
		wide.Columns[i] = fmt.Sprintf("c%d", i)
	}
	for i := range wide.Rows {
		wide.Rows[i] = Row{ID: fmt.Sprint(i), Cells: slices.Repeat([]string{strings.Repeat("x", 800)}, 10)}
	}
	if err := wide.Check(); err == nil || !strings.Contains(err.Error(), "MB") {
		t.Errorf("%v", err)
	}
	// Another list after it keeps each cell in its column.
	l.Append(&List{Columns: []string{"shown", "spot"}, Rows: []Row{{"z", "Sunday", []string{"on", "1 2"}, nil}}})
	if err := l.Check(); err != nil || !slices.Equal(l.Columns, []string{"flood-tide", "border", "gone", "shown", "spot"}) || !slices.Equal(l.Rows[2].Cells, []string{"", "", "", "on", "1 2"}) || len(l.Rows[0].Cells) != 5 {
		t.Errorf("%v %+v", err, l)
	}
}
