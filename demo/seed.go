package demo

import (
	"context"

	"inklatch/internal/store"
)

// Seed opens an empty database, loads the demo into it and closes it.
func Seed(conf store.Config) error {
	ctx := context.Background()
	s, err := store.Open(ctx, conf)
	if err != nil {
		return err
	}
	defer s.Close()
	return Load(ctx, s)
}
