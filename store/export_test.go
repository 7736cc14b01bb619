package store

import "context"

// Writers is how many connections write at most.
func Writers(s *Store) int { return s.db.w.Stats().MaxOpenConnections }

// Tamper changes a row as no part of the program does.
func Tamper(s *Store, query string, args ...any) error {
	_, err := s.db.exec(context.Background(), query, args...)
	return err
}

// Count is how many rows a table has.
func Count(s *Store, table string) (n int, err error) {
	return n, s.db.GetContext(context.Background(), &n, `SELECT COUNT(*) FROM `+table)
}
