package web

import (
	"context"

	"inklatch/internal/core/latch"
	"inklatch/internal/web/api"
)

// MarkRead marks steps as read.
func (s *Site) MarkRead(ctx context.Context, r api.MarkReadRequestObject) (api.MarkReadResponseObject, error) {
	v, err := s.desk.MarkRead(ctx, user(ctx), r.Revision, *r.Body)
	if err != nil {
		return nil, err
	}
	return api.MarkRead200JSONResponse(*v), nil
}

// Say says something of a revision.
func (s *Site) Say(ctx context.Context, r api.SayRequestObject) (api.SayResponseObject, error) {
	v, err := s.desk.Say(ctx, user(ctx), r.Revision, *r.Body)
	if err != nil {
		return nil, err
	}
	return api.Say200JSONResponse(*v), nil
}

// AnswerRemark answers a remark or does something with it.
func (s *Site) AnswerRemark(ctx context.Context, r api.AnswerRemarkRequestObject) (api.AnswerRemarkResponseObject, error) {
	if err := s.desk.AnswerRemark(ctx, user(ctx), r.Remark, *r.Body); err != nil {
		return nil, err
	}
	return api.AnswerRemark204Response{}, nil
}

// ReturnRevision sends a revision back to its author.
func (s *Site) ReturnRevision(ctx context.Context, r api.ReturnRevisionRequestObject) (api.ReturnRevisionResponseObject, error) {
	if err := s.desk.Return(ctx, user(ctx), r.Revision, r.Body.Points); err != nil {
		return nil, err
	}
	return api.ReturnRevision204Response{}, nil
}

// Withdraw takes a release back.
func (s *Site) Withdraw(ctx context.Context, r api.WithdrawRequestObject) (api.WithdrawResponseObject, error) {
	if err := s.desk.Withdraw(ctx, user(ctx), r.Revision, r.Body.Reason); err != nil {
		return nil, err
	}
	return api.Withdraw204Response{}, nil
}

// Arrange sets by when a latch is to close and who closes it.
func (s *Site) Arrange(ctx context.Context, r api.ArrangeRequestObject) (api.ArrangeResponseObject, error) {
	if err := s.desk.Arrange(ctx, user(ctx), r.Revision, latch.Latch(r.Latch), *r.Body); err != nil {
		return nil, err
	}
	return api.Arrange204Response{}, nil
}

// ListColleagues lists those who work on pages.
func (s *Site) ListColleagues(ctx context.Context, _ api.ListColleaguesRequestObject) (api.ListColleaguesResponseObject, error) {
	v, err := s.desk.Colleagues(ctx, user(ctx))
	if err != nil {
		return nil, err
	}
	return api.ListColleagues200JSONResponse(v), nil
}
