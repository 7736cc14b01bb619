package edit

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// List is a small table kept with a template: rows to fill a piece from, such as people
// with their pictures.
type List struct {
	// Columns are names for data of entries, each once. What no entry of the template is
	// called stays, for a release that has it again.
	Columns []string `json:"columns"`
	Rows    []Row    `json:"rows"`
}

// Row is a line of a list: its name, and a text for each column.
type Row struct {
	ID    string   `json:"id"`
	Name  string   `json:"name"`
	Cells []string `json:"cells"`
	// Leaves are the columns that it says nothing of, as the file that it came from had none for them: where its cell is empty, what is
	// filled from it leaves their entries as they are.
	Leaves []string `json:"leaves,omitempty" required:"false"`
}

// leaves reports whether a row leaves alone what a column is for.
func (r Row) leaves(column, cell string) bool {
	return strings.TrimSpace(cell) == "" && slices.Contains(r.Leaves, column)
}

// Limits of a list.
const (
	MaxRows    = 2000
	MaxColumns = 100
	MaxCell    = 1000 // bytes
)

// nameColumn heads the names of rows in CSV; "name" does too, where no entry is called so.
const nameColumn = "row"

// Column is a column of a list, and the entry that it is for; nil is none.
type Column struct {
	Data  string
	Entry *template.Entry
}

// ColumnsOf are the entries that a list may have columns for, in the order of the sheet.
func ColumnsOf(d *template.Document) (out []Column) {
	for _, e := range d.Sheet.Entries() {
		if !e.Fixed {
			out = append(out, Column{e.DataName(), e})
		}
	}
	return out
}

func columnOf(d *template.Document, data string) *template.Entry {
	for _, c := range ColumnsOf(d) {
		if c.Data == data {
			return c.Entry
		}
	}
	return nil
}

// Shelf finds media by its hash or by its name; ok is false for what is not there.
type Shelf func(text string) (g Given, ok bool)

// Check says what is wrong with a list itself; what its cells say is told by Cell.
func (l *List) Check() error {
	if len(l.Rows) > MaxRows || len(l.Columns) > MaxColumns {
		return fmt.Errorf("%d rows of %d columns are more than %d of %d", len(l.Rows), len(l.Columns), MaxRows, MaxColumns)
	}
	seen := map[string]bool{}
	for _, c := range l.Columns {
		if strings.TrimSpace(c) == "" || len(c) > MaxName || seen[c] || c == nameColumn {
			return fmt.Errorf("columns: %q is no name for data of its own", c)
		}
		seen[c] = true
	}
	ids := map[string]bool{}
	bytes := 0
	for i, r := range l.Rows {
		bytes += len(r.Name)
		switch {
		case r.ID == "" || len(r.ID) > 64 || ids[r.ID]:
			return fmt.Errorf("rows[%d].id: %q is none of its own", i, r.ID)
		case len(r.Name) > MaxName:
			return fmt.Errorf("rows[%d].name: is longer than %d bytes", i, MaxName)
		case len(r.Cells) != len(l.Columns):
			return fmt.Errorf("rows[%d]: has %d cells for %d columns", i, len(r.Cells), len(l.Columns))
		}
		ids[r.ID] = true
		for j, c := range r.Cells {
			if len(c) > MaxCell || !utf8.ValidString(c) || strings.ContainsRune(c, 0) {
				return fmt.Errorf("rows[%d], %s: is no text of at most %d bytes", i, l.Columns[j], MaxCell)
			}
			bytes += len(c)
		}
	}
	if bytes > MaxCSV {
		return fmt.Errorf("the list has more than %d MB; keep what is not for pieces elsewhere", MaxCSV>>20)
	}
	return nil
}

// Cell is what a cell says to the entry of its column: an operation, and for media what it
// is. An empty one leaves the entry as the template has it.
func Cell(d *template.Document, e *template.Entry, text string, shelf Shelf) (op Op, media *Given, err error) {
	text = strings.TrimSpace(text)
	switch e.Kind {
	case template.MediaEntry:
		op = Op{Kind: "fill", Pocket: e.Pocket}
		if text == "" {
			return op, nil, nil
		}
		g, ok := shelf(text)
		if !ok {
			return op, nil, fmt.Errorf("%s is not in the store; put it in, or choose other media", short(text))
		}
		if p := d.Pocket(e.Pocket); !p.Takes(g.Kind) {
			return op, &g, fmt.Errorf("%s does not take %s", p.Name, g.Name)
		}
		op.Media = g.Hash
		return op, &g, nil
	case template.DurationEntry:
		op = Op{Kind: "frames"}
		if text == "" {
			return op, nil, nil
		}
		if op.Frames, err = readFrames(d, text); err == nil {
			if lo, hi := e.Lengths(d); op.Frames < lo || op.Frames > hi {
				err = fmt.Errorf("%d frames are not %d to %d", op.Frames, lo, hi)
			}
		}
		return op, nil, err
	}
	op = Op{Kind: "entry", Entry: e.ID}
	if text == "" {
		return op, nil, nil
	}
	v, err := e.Reads(text)
	op.Value = &v
	return op, nil, err
}

// readFrames reads a length: frames, or seconds with an s after them.
func readFrames(d *template.Document, text string) (int64, error) {
	text = strings.TrimSpace(strings.TrimSuffix(strings.TrimSuffix(text, "frames"), "frame"))
	if s, ok := strings.CutSuffix(text, "s"); ok {
		r, err := timing.ParseRat(strings.Replace(strings.TrimSpace(s), ",", ".", 1))
		if err != nil || r.N <= 0 {
			return 0, fmt.Errorf("%q is no length in seconds", text)
		}
		return r.Mul(d.Seen().Rat).Add(timing.NewRat(1, 2)).Floor(), nil
	}
	n, err := strconv.ParseInt(text, 10, 64)
	if err != nil || n < 1 {
		return 0, fmt.Errorf("%q is no length: frames, or seconds such as 4.5 s", text)
	}
	return n, nil
}

// short is a text for a sentence.
func short(text string) string {
	if r := []rune(text); len(r) > 60 {
		return string(r[:59]) + "…"
	}
	return text
}

// FromRow is the one change that fills a piece from a row: every column of the list, and
// nothing else. A row with a cell that can't be used fills nothing, and says which.
func FromRow(d *template.Document, l *List, id string, shelf Shelf) (Op, error) {
	i := slices.IndexFunc(l.Rows, func(r Row) bool { return r.ID == id })
	if i < 0 {
		return Op{}, errors.New("the list has no such row any more")
	}
	r := l.Rows[i]
	op := Op{Kind: "batch", Name: "Fill from " + short(r.Name)}
	if strings.TrimSpace(r.Name) == "" {
		op.Name = "Fill from the list"
	}
	var wrong []error
	for j, c := range l.Columns {
		e := columnOf(d, c)
		if e == nil {
			continue
		}
		if r.leaves(c, r.Cells[j]) {
			continue
		}
		o, g, err := Cell(d, e, r.Cells[j], shelf)
		if err != nil {
			wrong = append(wrong, fmt.Errorf("%s, %s: %w", r.Name, e.Label, err))
			continue
		}
		op.Ops = append(op.Ops, o)
		if p := d.Pocket(e.Pocket); p != nil && p.Role == template.RoleClip && d.Purpose == template.Frame {
			made := Op{Kind: "measure"} // without a clip it is the template's own
			if g != nil {
				made = MeasureOf(d.Measured(nil), *g)
			}
			op.Ops = append(op.Ops, made)
		}
	}
	if len(op.Ops) == 0 && wrong == nil {
		return op, errors.New("the row says nothing of what the sheet asks for")
	}
	return op, errors.Join(wrong...)
}

// RowChange is what filling a piece from a row does to one entry: the texts of its cell before and after. Without an After the entry is
// the template's own again.
type RowChange struct{ Label, Before, After string }

// RowChanges tells what FromRow would change of a piece, before anything is done.
func RowChanges(d *template.Document, l *List, id string, p Piece) (out []RowChange) {
	i := slices.IndexFunc(l.Rows, func(r Row) bool { return r.ID == id })
	if i < 0 {
		return nil
	}
	r, now := l.Rows[i], RowOf(d, l, p, "")
	for j, c := range l.Columns {
		e := columnOf(d, c)
		if e == nil || r.leaves(c, r.Cells[j]) {
			continue
		}
		after := strings.TrimSpace(r.Cells[j])
		if after != "" && e.Kind != template.MediaEntry && e.Kind != template.DurationEntry {
			if v, err := e.Reads(after); err == nil {
				after = e.Writes(v) // 3.0 is 3
			}
		}
		if after != now.Cells[j] {
			out = append(out, RowChange{e.Label, now.Cells[j], after})
		}
	}
	return out
}

// RowOf is a piece as a row of a list: what was given, by the texts that Cell reads.
func RowOf(d *template.Document, l *List, p Piece, id string) Row {
	r := Row{ID: id, Name: p.Name, Cells: make([]string, len(l.Columns))}
	for j, c := range l.Columns {
		e := columnOf(d, c)
		if e == nil {
			continue
		}
		switch e.Kind {
		case template.MediaEntry:
			r.Cells[j] = p.Values.Fills[e.Pocket].Media
		case template.DurationEntry:
			if n := p.Values.Frames; n != 0 && p.Values.Measure == nil { // else it is the clip's
				r.Cells[j] = strconv.FormatInt(n, 10)
			}
		default:
			if v, ok := p.Values.Entries[e.ID]; ok {
				r.Cells[j] = e.Writes(v)
			}
		}
	}
	return r
}

// Widen gives a list columns for what a piece gives and it has none for, empty in the rows
// that are there.
func (l *List) Widen(d *template.Document, p Piece) {
	for _, c := range ColumnsOf(d) {
		e := c.Entry
		_, given := p.Values.Entries[e.ID]
		given = given || e.Kind == template.MediaEntry || e.Kind == template.DurationEntry && p.Values.Frames != 0 && p.Values.Measure == nil
		if !given || slices.Contains(l.Columns, c.Data) {
			continue
		}
		l.Columns = append(l.Columns, c.Data)
		for i := range l.Rows {
			l.Rows[i].Cells = append(slices.Clone(l.Rows[i].Cells), "")
			l.Rows[i].Leaves = append(slices.Clone(l.Rows[i].Leaves), c.Data)
		}
	}
}

// Append puts the rows of another list after those that are there, each under the columns
// of its own; columns that are new come after. What a list has no column for its rows leave alone.
func (l *List) Append(o *List) {
	was := l.Columns
	var fresh []string
	for _, c := range o.Columns {
		if !slices.Contains(l.Columns, c) {
			l.Columns = append(slices.Clone(l.Columns), c)
			fresh = append(fresh, c)
		}
	}
	for i := range l.Rows {
		l.Rows[i].Leaves = append(slices.Clone(l.Rows[i].Leaves), fresh...)
		l.Rows[i].Cells = append(slices.Clone(l.Rows[i].Cells), make([]string, len(l.Columns)-len(l.Rows[i].Cells))...)
	}
	for _, r := range o.Rows {
		cells := make([]string, len(l.Columns))
		for i, c := range o.Columns {
			cells[slices.Index(l.Columns, c)] = r.Cells[i]
		}
		r.Cells = cells
		r.Leaves = slices.Clone(r.Leaves)
		for _, c := range was {
			if !slices.Contains(o.Columns, c) {
				r.Leaves = append(r.Leaves, c)
			}
		}
		l.Rows = append(l.Rows, r)
	}
}

// MaxCSV bounds a list that comes in, in bytes.
const MaxCSV = 4 << 20

// ReadCSV reads a list as spreadsheets save it (RFC 4180): a line of names for data, or of
// labels, and a line for each row. Commas, semicolons or tabs are told apart by the first
// line, or by a line sep=; before it. UTF-8 and, by its byte order mark, UTF-16 are read, lines of any system, and a quotation mark
// within a cell that has none around it. Columns that are no entries are kept; a list with none that is one is refused.
func ReadCSV(d *template.Document, b []byte, id func() string) (*List, error) {
	if len(b) > MaxCSV {
		return nil, fmt.Errorf("the file has more than %d MB", MaxCSV>>20)
	}
	// A byte order mark says what it is; without one it is UTF-8.
	b, _, err := transform.Bytes(unicode.BOMOverride(transform.Nop), b)
	if err != nil || !utf8.Valid(b) || bytes.ContainsRune(b, 0) {
		return nil, errors.New("the file can't be read as text: it is neither UTF-8 nor UTF-16. Save it as CSV in UTF-8")
	}
	b = bytes.ReplaceAll(bytes.ReplaceAll(b, []byte("\r\n"), []byte("\n")), []byte("\r"), []byte("\n"))
	comma, above := ',', 0
	head, rest, _ := bytes.Cut(b, []byte("\n"))
	if said, ok := bytes.CutPrefix(bytes.ToLower(bytes.Trim(head, "\" ")), []byte("sep=")); ok && len(said) == 1 && strings.ContainsRune(",;\t|", rune(said[0])) {
		comma, b, above = rune(said[0]), rest, 1
	} else {
		for _, c := range []rune{';', '\t'} {
			if bytes.Count(head, []byte(string(c))) > bytes.Count(head, []byte(string(comma))) {
				comma = c
			}
		}
	}
	l, err := readLines(d, b, comma, false, above, id)
	if errors.Is(err, csv.ErrBareQuote) {
		l, err = readLines(d, b, comma, true, above, id)
	}
	if p := (*csv.ParseError)(nil); errors.As(err, &p) {
		if errors.Is(err, csv.ErrQuote) {
			return nil, fmt.Errorf("line %d: a quotation mark is opened and not closed before the file ends, or something follows where it closes; within quotation marks one is written twice", p.StartLine+above)
		}
		return nil, fmt.Errorf("line %d can't be read as cells", p.Line+above)
	}
	return l, err
}

// readLines reads the lines of a list, of which above stood before. Lazy lets quotation marks stand within cells.
func readLines(d *template.Document, b []byte, comma rune, lazy bool, above int, id func() string) (*List, error) {
	r := csv.NewReader(bytes.NewReader(b))
	r.Comma, r.LazyQuotes = comma, lazy
	r.FieldsPerRecord, r.TrimLeadingSpace = -1, comma != '\t'
	names, err := r.Read()
	if errors.Is(err, io.EOF) {
		return nil, errors.New("the file is empty; its first line names the columns")
	}
	if err != nil {
		return nil, err
	}
	l := &List{Rows: []Row{}, Columns: []string{}}
	nameAt := -1
	columns := make([]int, len(names)) // where each goes; -1 is nowhere
	for i, n := range names {
		columns[i] = -1
		n = strings.TrimSpace(n)
		data := n
		for _, c := range ColumnsOf(d) {
			if strings.EqualFold(c.Data, n) || strings.EqualFold(c.Entry.Label, n) {
				data = c.Data
			}
		}
		switch {
		case n == "":
			continue
		case nameAt < 0 && columnOf(d, data) == nil && (strings.EqualFold(n, nameColumn) || strings.EqualFold(n, "name")):
			nameAt = i
			continue
		case slices.Contains(l.Columns, data):
			return nil, fmt.Errorf("line %d: the column %s is there twice", 1+above, n)
		}
		columns[i] = len(l.Columns)
		l.Columns = append(l.Columns, data)
	}
	if !slices.ContainsFunc(l.Columns, func(c string) bool { return columnOf(d, c) != nil }) {
		var has []string
		for _, c := range ColumnsOf(d) {
			has = append(has, c.Data)
		}
		if len(has) == 0 {
			return nil, errors.New("the template's sheet asks for nothing that a list could fill")
		}
		return nil, fmt.Errorf("line %d: none of its columns is one of this template's. They are called %s, or by their labels", 1+above, short(strings.Join(has, ", ")))
	}
	for {
		fields, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, err
		}
		line, _ := r.FieldPos(0)
		if len(fields) > len(names) {
			return nil, fmt.Errorf("line %d has %d cells, and there are %d columns", line+above, len(fields), len(names))
		}
		row := Row{Cells: make([]string, len(l.Columns))}
		for i, f := range fields {
			if i == nameAt {
				row.Name = strings.TrimSpace(f)
			} else if columns[i] >= 0 {
				row.Cells[columns[i]] = strings.TrimSpace(f)
			}
		}
		if row.Name == "" && !slices.ContainsFunc(row.Cells, func(c string) bool { return c != "" }) {
			continue // a line with nothing in it
		}
		if row.Name == "" {
			row.Name = fmt.Sprintf("Row %d", len(l.Rows)+1)
		}
		row.ID = id()
		l.Rows = append(l.Rows, row)
	}
	return l, l.Check()
}

// WriteCSV writes a list as ReadCSV reads it; called is what media is called, by its hash.
func (l *List) WriteCSV(w io.Writer, called func(hash string) string) error {
	c := csv.NewWriter(w)
	c.UseCRLF = true // RFC 4180, 2
	if err := c.Write(append([]string{nameColumn}, l.Columns...)); err != nil {
		return err
	}
	for _, r := range l.Rows {
		line := []string{r.Name}
		for _, cell := range r.Cells {
			if scheme.ValidHash(cell) {
				cell = called(cell)
			}
			line = append(line, cell)
		}
		if err := c.Write(line); err != nil {
			return err
		}
	}
	c.Flush()
	return c.Error()
}
