package store

// Writers is how many connections write at most.
func Writers(s *Store) int { return s.db.w.Stats().MaxOpenConnections }
