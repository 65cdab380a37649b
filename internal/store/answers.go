package store

import (
	"context"

	"coldtap/internal/app"
)

// Answer keeps what came of a request.
func (s *Store) Answer(ctx context.Context, a *app.Answer) error {
	return wrap("keep an answer", s.db.WithContext(ctx).Create(a).Error)
}

// Answered finds what came of a request of somebody to a model; nil where nothing did.
func (s *Store) Answered(ctx context.Context, request string, personID uint64, slug string) (*app.Answer, error) {
	var list []app.Answer
	err := s.db.WithContext(ctx).Where("request = ? AND person_id = ? AND slug = ?", request, personID, slug).
		Limit(1).Find(&list).Error
	if err != nil || len(list) == 0 {
		return nil, wrap("answer to a request", err)
	}
	return &list[0], nil
}
