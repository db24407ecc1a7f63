package web

import (
	"bytes"
	"context"
	"encoding/json"
	"mime"

	"inklatch/internal/web/api"
)

// given is what somebody sent as house rules.
func given(v any) (json.RawMessage, error) { return json.Marshal(v) }

// GetHouse is the house rules with all that can be chosen.
func (s *Site) GetHouse(ctx context.Context, _ api.GetHouseRequestObject) (api.GetHouseResponseObject, error) {
	v, err := s.desk.House.Rules(ctx, user(ctx))
	if err != nil {
		return nil, err
	}
	return api.GetHouse200JSONResponse(*v), nil
}

// SaveHouse makes other house rules hold.
func (s *Site) SaveHouse(ctx context.Context, r api.SaveHouseRequestObject) (api.SaveHouseResponseObject, error) {
	rules, err := given(r.Body.Rules)
	if err != nil {
		return nil, err
	}
	v, err := s.desk.House.Save(ctx, user(ctx), rules, r.Body.Over, r.Body.Why)
	if err != nil {
		return nil, err
	}
	return api.SaveHouse200JSONResponse{Version: v}, nil
}

// DifferHouse is what other house rules have otherwise.
func (s *Site) DifferHouse(ctx context.Context, r api.DifferHouseRequestObject) (api.DifferHouseResponseObject, error) {
	rules, err := given(r.Body.Rules)
	if err != nil {
		return nil, err
	}
	v, err := s.desk.House.Differ(ctx, user(ctx), rules)
	if err != nil {
		return nil, err
	}
	return api.DifferHouse200JSONResponse(v), nil
}

// TryHouse holds all pages against other house rules in the background.
func (s *Site) TryHouse(ctx context.Context, r api.TryHouseRequestObject) (api.TryHouseResponseObject, error) {
	rules, err := given(r.Body.Rules)
	if err != nil {
		return nil, err
	}
	id, err := s.desk.House.Try(ctx, user(ctx), rules)
	if err != nil {
		return nil, err
	}
	return api.TryHouse202JSONResponse{Id: id}, nil
}

// GetHouseTrial is how far a trial is and what it found.
func (s *Site) GetHouseTrial(ctx context.Context, r api.GetHouseTrialRequestObject) (api.GetHouseTrialResponseObject, error) {
	v, err := s.desk.House.Trial(ctx, user(ctx), r.Trial)
	if err != nil {
		return nil, err
	}
	return api.GetHouseTrial200JSONResponse(*v), nil
}

// CancelHouseTrial stops a trial.
func (s *Site) CancelHouseTrial(ctx context.Context, r api.CancelHouseTrialRequestObject) (api.CancelHouseTrialResponseObject, error) {
	return api.CancelHouseTrial204Response{}, s.desk.House.CancelTrial(ctx, user(ctx), r.Trial)
}

// BesideHouse is a page under the house rules that hold and under others.
func (s *Site) BesideHouse(ctx context.Context, r api.BesideHouseRequestObject) (api.BesideHouseResponseObject, error) {
	rules, err := given(r.Body.Rules)
	if err != nil {
		return nil, err
	}
	v, err := s.desk.House.Beside(ctx, user(ctx), rules, r.Body.Revision)
	if err != nil {
		return nil, err
	}
	return api.BesideHouse200JSONResponse(*v), nil
}

// ExportHouse is house rules as a file.
func (s *Site) ExportHouse(ctx context.Context, r api.ExportHouseRequestObject) (api.ExportHouseResponseObject, error) {
	version := int64(0)
	if r.Params.Version != nil {
		version = *r.Params.Version
	}
	b, name, err := s.desk.House.RulesFile(ctx, user(ctx), version)
	if err != nil {
		return nil, err
	}
	as := mime.FormatMediaType("attachment", map[string]string{"filename": name})
	return api.ExportHouse200ApplicationoctetStreamResponse{Body: bytes.NewReader(b), ContentLength: int64(len(b)), Headers: api.ExportHouse200ResponseHeaders{ContentDisposition: &as}}, nil
}
