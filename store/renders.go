package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"
)

// States of a render.
const (
	Queued    = "queued"
	Running   = "running"
	Done      = "done"
	Failed    = "failed"
	Cancelled = "cancelled"
	// Paused renders wait until somebody lets them go on, begun or not.
	Paused = "paused"
)

// Render is one file to be made, or made.
type Render struct {
	ID     string
	Number int64 // order in the queue
	Piece  string
	// Revision is the piece's when it was queued.
	Revision int64
	Single   bool   // one picture, not a film
	Code     string // the id of the code of who asked for it; '' is somebody at this machine
	Job      string // JSON, for deliver
	State    string
	Done     int64 // frames
	Failure  string
	Bytes    int64
	Created  string
	Started  string
	Ended    string
}

// QueueRender adds a render of a piece, as it stands at a revision, to the end of
// the queue; single says that it is one picture, code whose it is.
func (s *Store) QueueRender(ctx context.Context, piece string, revision int64, single bool, code string, job any) (Render, error) {
	b, err := json.Marshal(job)
	if err != nil {
		return Render{}, err
	}
	r := Render{ID: uuid.NewString(), Piece: piece, Revision: revision, Single: single, Code: code, Job: string(b), State: Queued, Created: now()}
	err = s.db.tx(ctx, func(tx *sqlx.Tx) error {
		if err := tx.GetContext(ctx, &r.Number, `SELECT COALESCE(MAX(number), 0) + 1 FROM renders`); err != nil {
			return err
		}
		_, err := tx.NamedExecContext(ctx, `INSERT INTO renders (id, number, piece, revision, single, code, job, state, done, failure, bytes, created, started, ended)
			VALUES (:id, :number, :piece, :revision, :single, :code, :job, :state, :done, :failure, :bytes, :created, :started, :ended)`, r)
		return err
	})
	return r, err
}

// Renders lists all renders, the newest first.
func (s *Store) Renders(ctx context.Context) ([]Render, error) {
	var out []Render
	err := s.db.SelectContext(ctx, &out, `SELECT * FROM renders ORDER BY number DESC`)
	return out, err
}

// Render reads one.
func (s *Store) Render(ctx context.Context, id string) (Render, error) {
	var r Render
	err := s.db.GetContext(ctx, &r, `SELECT * FROM renders WHERE id = ?`, id)
	return r, notFound(err)
}

// RequeueRenders puts renders that a stopped program left running back in
// the queue.
func (s *Store) RequeueRenders(ctx context.Context) error {
	_, err := s.db.exec(ctx, `UPDATE renders SET state = ?, done = 0 WHERE state = ?`, Queued, Running)
	return err
}

// NextRender takes the first film or the first single picture of the queue and
// marks it as running; it is ErrNotFound when none waits.
func (s *Store) NextRender(ctx context.Context, single bool) (Render, error) {
	var r Render
	err := s.db.w.GetContext(ctx, &r, `UPDATE renders SET state = ?, started = ?, done = 0
		WHERE id = (SELECT id FROM renders WHERE state = ? AND single = ? ORDER BY number LIMIT 1) RETURNING *`, Running, now(), Queued, single)
	return r, notFound(told(err))
}

// EndRender notes how a render ended, after how many frames, and at its piece that
// it was rendered. How far one is on the way is not kept: it begins anew after a
// restart.
func (s *Store) EndRender(ctx context.Context, id, state, failure string, done, bytes int64) error {
	at := now()
	return s.db.tx(ctx, func(tx *sqlx.Tx) error {
		var r Render
		err := tx.GetContext(ctx, &r, `UPDATE renders SET state = ?, failure = ?, done = ?, bytes = ?, ended = ? WHERE id = ? RETURNING *`, state, failure, done, bytes, at, id)
		if err == nil && state == Done {
			_, err = tx.ExecContext(ctx, `UPDATE documents SET rendered = ?, rendered_revision = MAX(rendered_revision, ?) WHERE id = ?`, at, r.Revision, r.Piece)
		}
		return notFound(err)
	})
}

// CancelQueued cancels a render that nobody works on; it reports whether it
// did.
func (s *Store) CancelQueued(ctx context.Context, id string) (bool, error) {
	return s.turn(ctx, `UPDATE renders SET state = ?, ended = ? WHERE id = ? AND state IN (?, ?)`, Cancelled, now(), id, Queued, Paused)
}

// PauseRender pauses a render that is queued or running, and reports whether it
// did.
func (s *Store) PauseRender(ctx context.Context, id string) (bool, error) {
	return s.turn(ctx, `UPDATE renders SET state = ? WHERE id = ? AND state IN (?, ?)`, Paused, id, Queued, Running)
}

// ResumeRender lets a paused render go on, as running when somebody still works
// on it and else as queued; it reports whether it was paused.
func (s *Store) ResumeRender(ctx context.Context, id string, begun bool) (bool, error) {
	to := Queued
	if begun {
		to = Running
	}
	return s.turn(ctx, `UPDATE renders SET state = ? WHERE id = ? AND state = ?`, to, id, Paused)
}

// turn carries out an update and reports whether it found anything.
func (s *Store) turn(ctx context.Context, query string, args ...any) (bool, error) {
	res, err := s.db.exec(ctx, query, args...)
	if err != nil {
		return false, err
	}
	n, err := res.RowsAffected()
	return n > 0, err
}

// MoveRender puts a waiting render before all others of its kind that wait, or
// changes places with the one before or after it: films and single pictures
// stand in lines of their own.
func (s *Store) MoveRender(ctx context.Context, id, where string) error {
	return s.db.tx(ctx, func(tx *sqlx.Tx) error {
		var ids []struct {
			ID     string
			Number int64
		}
		if err := tx.SelectContext(ctx, &ids, `SELECT id, number FROM renders
			WHERE state IN (?, ?) AND single = (SELECT single FROM renders WHERE id = ?) ORDER BY number`, Queued, Paused, id); err != nil {
			return err
		}
		at := -1
		for i := range ids {
			if ids[i].ID == id {
				at = i
			}
		}
		if at < 0 {
			return ErrNotFound
		}
		to := map[string]int{"first": 0, "up": max(0, at-1), "down": min(len(ids)-1, at+1)}[where]
		numbers := make([]int64, len(ids))
		for i := range ids {
			numbers[i] = ids[i].Number
		}
		moved := ids[at]
		ids = append(ids[:at], ids[at+1:]...)
		ids = append(ids[:to], append([]struct {
			ID     string
			Number int64
		}{moved}, ids[to:]...)...)
		// Numbers are unique, so they pass through others that nothing has.
		for i := range ids {
			if _, err := tx.ExecContext(ctx, `UPDATE renders SET number = ? WHERE id = ?`, -1-i, ids[i].ID); err != nil {
				return err
			}
		}
		for i := range ids {
			if _, err := tx.ExecContext(ctx, `UPDATE renders SET number = ? WHERE id = ?`, numbers[i], ids[i].ID); err != nil {
				return err
			}
		}
		return nil
	})
}

// Setting reads a setting; otherwise is what it is when nobody set it.
func (s *Store) Setting(ctx context.Context, name, otherwise string) (string, error) {
	var v string
	err := s.db.GetContext(ctx, &v, `SELECT value FROM settings WHERE name = ?`, name)
	if errors.Is(err, sql.ErrNoRows) {
		return otherwise, nil
	}
	return v, err
}

// SetSetting keeps a setting.
func (s *Store) SetSetting(ctx context.Context, name, value string) error {
	_, err := s.db.exec(ctx, `INSERT INTO settings (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value`, name, value)
	return err
}

// RequeueRender puts a render that failed or was cancelled at the end of the
// queue again.
func (s *Store) RequeueRender(ctx context.Context, id string) error {
	_, err := s.db.exec(ctx, `UPDATE renders SET state = ?, done = 0, failure = '', ended = '',
		number = (SELECT MAX(number) + 1 FROM renders) WHERE id = ? AND state IN (?, ?)`, Queued, id, Failed, Cancelled)
	return err
}

// ClearRenders forgets those of some renders that have ended, and returns them.
func (s *Store) ClearRenders(ctx context.Context, ids []string) (gone []Render, err error) {
	err = s.makingRoom(ctx, func(tx *sqlx.Tx) error {
		gone = nil
		for _, id := range ids {
			var r Render
			err := tx.GetContext(ctx, &r, `DELETE FROM renders WHERE id = ? AND state IN (?, ?, ?) RETURNING *`, id, Done, Failed, Cancelled)
			if err == nil {
				gone = append(gone, r)
			} else if !errors.Is(err, sql.ErrNoRows) {
				return err
			}
		}
		return nil
	})
	return gone, err
}

// KeepTrial keeps the report of a trial in place of the piece's older one.
func (s *Store) KeepTrial(ctx context.Context, id, piece, report string) error {
	return s.db.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `DELETE FROM trials WHERE piece = ?`, piece); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO trials (id, piece, report, created) VALUES (?, ?, ?, ?)`, id, piece, report, now())
		return err
	})
}

// Trial reads the last trial of a piece.
func (s *Store) Trial(ctx context.Context, piece string) (id, report string, err error) {
	var row struct{ ID, Report string }
	err = s.db.GetContext(ctx, &row, `SELECT id, report FROM trials WHERE piece = ?`, piece)
	return row.ID, row.Report, notFound(err)
}

// SweepTrials removes the folders of trials that are kept no more.
func (s *Store) SweepTrials(ctx context.Context) error {
	if _, held := HeldSince(s.dir); held {
		return nil
	}
	var ids []string
	if err := s.db.SelectContext(ctx, &ids, `SELECT id FROM trials`); err != nil {
		return err
	}
	kept := map[string]bool{}
	for _, id := range ids {
		kept[id] = true
	}
	dir := filepath.Join(s.dir, "trials")
	entries, err := os.ReadDir(dir)
	if err != nil {
		return err
	}
	for _, e := range entries {
		// A folder that is young may be about to get its row.
		if st, err := e.Info(); err != nil || kept[e.Name()] || time.Since(st.ModTime()) < strayAge {
			continue
		}
		if err := os.RemoveAll(filepath.Join(dir, e.Name())); err != nil {
			return err
		}
	}
	return nil
}
