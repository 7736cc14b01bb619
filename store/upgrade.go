package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"log/slog"
	"maps"
	"slices"
	"strings"

	"github.com/pressly/goose/v3"

	"ivypocket/core/edit"
)

// toPaths was about values of layers in pieces, which toOffered takes away. Its number
// stays, for databases that know it.
var toPaths = goose.NewGoMigration(3, nil, nil)

// toMembers brings recorded changes up to date: framings, and how clips run, were
// changed as a whole, and are changed member by member.
var toMembers = goose.NewGoMigration(6, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	return rewrite(ctx, tx, `SELECT id, changes FROM operations`, `UPDATE operations SET changes = ? WHERE id = ?`, func(_ string, text []byte) ([]byte, error) { return withMembers(text) })
}}, nil)

// toOffered takes away what an editor can set no longer: values of layers, which pieces
// kept beside the sheet's, and the operations that set nothing else. What went is told.
var toOffered = goose.NewGoMigration(11, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	told := func(id string, text []byte) ([]byte, error) {
		out, went, err := withoutLayers(text)
		if len(went) > 0 {
			slog.Warn("values of layers are the template's alone; what a piece had of its own went", "id", id, "values", strings.Join(went, ", "))
		}
		return out, err
	}
	return errors.Join(
		rewrite(ctx, tx, `SELECT id, content FROM documents WHERE kind = 'piece'`, `UPDATE documents SET content = ? WHERE id = ?`, told),
		rewrite(ctx, tx, `SELECT id, job FROM renders`, `UPDATE renders SET job = ? WHERE id = ?`, told),
		rewrite(ctx, tx, `SELECT o.id, o.changes FROM operations o JOIN documents d ON d.id = o.document WHERE d.kind = 'piece'`, `UPDATE operations SET changes = ? WHERE id = ?`,
			func(_ string, text []byte) ([]byte, error) { return withoutLayerChanges(text) }),
		// What is empty now would be undone without a sign of it.
		run(ctx, tx, `UPDATE operations SET state = 'gone' WHERE changes IN ('[]', 'null') AND state IN ('done', 'undone')`))
}}, nil)

func run(ctx context.Context, tx *sql.Tx, query string) error {
	_, err := tx.ExecContext(ctx, query)
	return err
}

// rewrite puts a text of every row through f. One that can't be read stays as it
// is: whoever reads it says so.
func rewrite(ctx context.Context, tx *sql.Tx, query, update string, f func(id string, text []byte) ([]byte, error)) error {
	rows, err := tx.QueryContext(ctx, query)
	if err != nil {
		return err
	}
	defer rows.Close()
	texts := map[string]string{}
	for rows.Next() {
		var id, text string
		if err := rows.Scan(&id, &text); err != nil {
			return err
		}
		if out, err := f(id, []byte(text)); err == nil && string(out) != text {
			texts[id] = string(out)
		}
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for id, text := range texts {
		if _, err := tx.ExecContext(ctx, update, text, id); err != nil {
			return err
		}
	}
	return nil
}

// withoutLayers takes the values of layers out of a piece or a render, and tells which
// there were.
func withoutLayers(b []byte) (out []byte, went []string, err error) {
	var all, values map[string]json.RawMessage
	if err := json.Unmarshal(b, &all); err != nil {
		return nil, nil, err
	}
	if all["values"] == nil {
		return b, nil, nil
	}
	if err := json.Unmarshal(all["values"], &values); err != nil {
		return nil, nil, err
	}
	var rest map[string]any
	var formats map[string]map[string]any
	_ = json.Unmarshal(values["rest"], &rest)
	_ = json.Unmarshal(values["formats"], &formats)
	went = slices.Sorted(maps.Keys(rest))
	for _, format := range slices.Sorted(maps.Keys(formats)) {
		for _, path := range slices.Sorted(maps.Keys(formats[format])) {
			went = append(went, path+" in "+format)
		}
	}
	delete(values, "rest")
	delete(values, "formats")
	if len(went) == 0 {
		return b, nil, nil
	}
	if all["values"], err = json.Marshal(values); err != nil {
		return nil, nil, err
	}
	out, err = json.Marshal(all)
	return out, went, err
}

// withoutLayerChanges leaves out recorded changes of values of layers.
func withoutLayerChanges(b []byte) ([]byte, error) {
	var changes []edit.Change
	if err := json.Unmarshal(b, &changes); err != nil {
		return nil, err
	}
	left := slices.DeleteFunc(slices.Clone(changes), func(c edit.Change) bool {
		return strings.HasPrefix(c.Path, "rest/") || strings.HasPrefix(c.Path, "formats/")
	})
	if len(left) == len(changes) {
		return b, nil
	}
	return json.Marshal(left)
}

// withMembers turns changes of whole framings into changes of their members.
func withMembers(b []byte) ([]byte, error) {
	var changes, out []edit.Change
	if err := json.Unmarshal(b, &changes); err != nil {
		return nil, err
	}
	for _, c := range changes {
		out = append(out, edit.UpgradeChange(c)...)
	}
	return json.Marshal(out)
}
