package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"

	"github.com/pressly/goose/v3"

	"ivypocket/core/edit"
	"ivypocket/core/sheet"
)

// toPaths brings what was written for documents of schema 2 up to date: values and
// changes named what stands otherwise by layer and property, not by paths.
// Releases stay as they are; they are upgraded when they are read.
var toPaths = goose.NewGoMigration(3, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	return errors.Join(
		rewrite(ctx, tx, `SELECT id, content FROM pieces`, `UPDATE pieces SET content = ? WHERE id = ?`, withValues),
		rewrite(ctx, tx, `SELECT id, job FROM renders`, `UPDATE renders SET job = ? WHERE id = ?`, withValues),
		rewrite(ctx, tx, `SELECT id, changes FROM operations`, `UPDATE operations SET changes = ? WHERE id = ?`, withPaths))
}}, nil)

// toMembers brings recorded changes up to date: framings, and how clips run, were
// changed as a whole, and are changed member by member.
var toMembers = goose.NewGoMigration(6, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	return rewrite(ctx, tx, `SELECT id, changes FROM operations`, `UPDATE operations SET changes = ? WHERE id = ?`, withMembers)
}}, nil)

// rewrite puts a text of every row through f. One that can't be read stays as it
// is: whoever reads it says so.
func rewrite(ctx context.Context, tx *sql.Tx, query, update string, f func([]byte) ([]byte, error)) error {
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
		if out, err := f([]byte(text)); err == nil && string(out) != text {
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

// withValues upgrades the values in a piece or a render.
func withValues(b []byte) ([]byte, error) {
	var all map[string]json.RawMessage
	if err := json.Unmarshal(b, &all); err != nil {
		return nil, err
	}
	if all["values"] == nil {
		return b, nil
	}
	v, err := sheet.Upgrade(all["values"])
	if err != nil || string(v) == string(all["values"]) {
		return b, err
	}
	all["values"] = v
	return json.Marshal(all)
}

// withPaths upgrades the paths of recorded changes.
func withPaths(b []byte) ([]byte, error) {
	var changes []edit.Change
	if err := json.Unmarshal(b, &changes); err != nil {
		return nil, err
	}
	changed := false
	for i, c := range changes {
		changes[i].Path = edit.UpgradePath(c.Path)
		changed = changed || changes[i].Path != c.Path
	}
	if !changed {
		return b, nil
	}
	return json.Marshal(changes)
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
