package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"

	"ivypocket/core/guides"
)

// KeptGuides is a set of guides that was made here, as it was at a revision; 0 is of one that
// is not kept.
type KeptGuides struct {
	guides.Set
	Revision int64
}

type guideRow struct {
	Revision int64
	Content  string
}

func (r guideRow) kept() (k KeptGuides, err error) {
	k.Revision = r.Revision
	return k, json.Unmarshal([]byte(r.Content), &k.Set)
}

// GuideSets lists the sets that were made here, the first one first.
func (s *Store) GuideSets(ctx context.Context) ([]KeptGuides, error) {
	var rows []guideRow
	if err := s.db.SelectContext(ctx, &rows, `SELECT revision, content FROM guide_sets ORDER BY made, id`); err != nil {
		return nil, err
	}
	out := make([]KeptGuides, 0, len(rows))
	for _, r := range rows {
		k, err := r.kept()
		if err != nil {
			return nil, err
		}
		out = append(out, k)
	}
	return out, nil
}

// KeepGuides keeps a set in the place of the one of its id that stood at a revision, 0 where
// there was none. When it was changed since, that is a *StaleError and nothing is kept.
func (s *Store) KeepGuides(ctx context.Context, set guides.Set, base int64) (k KeptGuides, err error) {
	err = s.db.tx(ctx, func(tx *sqlx.Tx) error {
		if err := guidesAt(ctx, tx, set.ID, base); err != nil {
			return err
		}
		if base == 0 {
			var n int
			if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM guide_sets`); err != nil {
				return err
			}
			if n >= guides.MaxSets {
				return &UnfitError{fmt.Errorf("there are %d sets of guides; remove one first", n)}
			}
		}
		b, err := json.Marshal(set)
		if err != nil {
			return err
		}
		k = KeptGuides{set, base + 1}
		_, err = tx.ExecContext(ctx, `INSERT INTO guide_sets (id, revision, content, made, changed) VALUES (?, ?, ?, ?, ?)
			ON CONFLICT (id) DO UPDATE SET revision = excluded.revision, content = excluded.content, changed = excluded.changed`, set.ID, k.Revision, string(b), now(), now())
		return err
	})
	return k, err
}

// DropGuides removes a set that stood at a revision.
func (s *Store) DropGuides(ctx context.Context, id string, base int64) error {
	return s.db.tx(ctx, func(tx *sqlx.Tx) error {
		if err := guidesAt(ctx, tx, id, base); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `DELETE FROM guide_sets WHERE id = ?`, id)
		return err
	})
}

// guidesAt says whether a set stands at a revision.
func guidesAt(ctx context.Context, tx *sqlx.Tx, id string, base int64) error {
	var r guideRow
	err := notFound(tx.GetContext(ctx, &r, `SELECT revision, content FROM guide_sets WHERE id = ?`, id))
	switch {
	case errors.Is(err, ErrNotFound) && base == 0:
		return nil
	case err != nil:
		return err
	case r.Revision != base:
		return &StaleError{fmt.Sprintf("These guides were changed meanwhile, and are at revision %d, not %d. Look at them again, and repeat what you did.", r.Revision, base)}
	}
	return nil
}
