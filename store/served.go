package store

import "context"

// Served says whether a table answers others as an authority.
func (s *Store) Served(ctx context.Context, id int64) (served bool, err error) {
	if _, err := s.Table(ctx, id); err != nil {
		return false, err
	}
	err = s.Pool.QueryRow(ctx, `select served from stewarded_table where id = $1`, id).Scan(&served)
	return served, err
}

// SetServed opens a table to those who ask, or closes it.
func (s *Store) SetServed(ctx context.Context, id int64, served bool) error {
	if _, err := s.Table(ctx, id); err != nil {
		return err
	}
	_, err := s.Pool.Exec(ctx, `update stewarded_table set served = $2 where id = $1`, id, served)
	return err
}
