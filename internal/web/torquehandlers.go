package web

import (
	"bytes"
	"context"
	"io"
	"mime"

	"inklatch/internal/desk"
	"inklatch/internal/web/api"
)

// ListTools is the crib.
func (s *Site) ListTools(ctx context.Context, r api.ListToolsRequestObject) (api.ListToolsResponseObject, error) {
	c, err := s.desk.Shelves.Crib(ctx, user(ctx), desk.CribQuery{Filter: or(r.Params.Q), Engine: or(r.Params.Engine), Offset: or(r.Params.Offset), Limit: or(r.Params.Limit)})
	if err != nil {
		return nil, err
	}
	return api.ListTools200JSONResponse(*c), nil
}

// ListSources is the documents of the house.
func (s *Site) ListSources(ctx context.Context, r api.ListSourcesRequestObject) (api.ListSourcesResponseObject, error) {
	l, err := s.desk.Shelves.Sources(ctx, user(ctx), desk.CribQuery{Filter: or(r.Params.Q), Engine: or(r.Params.Engine), Offset: or(r.Params.Offset), Limit: or(r.Params.Limit)})
	if err != nil {
		return nil, err
	}
	return api.ListSources200JSONResponse(*l), nil
}

// GetTorques is the torque table of a code.
func (s *Site) GetTorques(ctx context.Context, r api.GetTorquesRequestObject) (api.GetTorquesResponseObject, error) {
	t, err := s.desk.Shelves.Torques(ctx, user(ctx), r.Code, or(r.Params.Number))
	if err != nil {
		return nil, err
	}
	return api.GetTorques200JSONResponse(*t), nil
}

// PreviewTorques says what a changed torque table would change.
func (s *Site) PreviewTorques(ctx context.Context, r api.PreviewTorquesRequestObject) (api.PreviewTorquesResponseObject, error) {
	if err := desk.MayWrite(user(ctx)); err != nil {
		return nil, err
	}
	b, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, err
	}
	c, err := s.desk.Shelves.TorqueChanges(ctx, user(ctx), r.Code, b)
	if err != nil {
		return nil, err
	}
	return api.PreviewTorques200JSONResponse(*c), nil
}

// ExportTorques is the torque table of a code as a file.
func (s *Site) ExportTorques(ctx context.Context, r api.ExportTorquesRequestObject) (api.ExportTorquesResponseObject, error) {
	t, err := s.desk.Shelves.Torques(ctx, user(ctx), r.Code, or(r.Params.Number))
	if err != nil {
		return nil, err
	}
	b, as, err := torqueFile(t, string(r.Params.Format))
	if err != nil {
		return nil, err
	}
	return api.ExportTorques200ApplicationoctetStreamResponse{Body: bytes.NewReader(b), ContentLength: int64(len(b)), Headers: api.ExportTorques200ResponseHeaders{ContentDisposition: &as}}, nil
}

// GetPageTorques is the torque table of a revision.
func (s *Site) GetPageTorques(ctx context.Context, r api.GetPageTorquesRequestObject) (api.GetPageTorquesResponseObject, error) {
	t, err := s.desk.Drafts.Torques(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.GetPageTorques200JSONResponse(*t), nil
}

// ExportPageTorques is the torque table of a revision as a file.
func (s *Site) ExportPageTorques(ctx context.Context, r api.ExportPageTorquesRequestObject) (api.ExportPageTorquesResponseObject, error) {
	t, err := s.desk.Drafts.Torques(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	b, as, err := torqueFile(t, string(r.Params.Format))
	if err != nil {
		return nil, err
	}
	return api.ExportPageTorques200ApplicationoctetStreamResponse{Body: bytes.NewReader(b), ContentLength: int64(len(b)), Headers: api.ExportPageTorques200ResponseHeaders{ContentDisposition: &as}}, nil
}

// ExportDrill is the worksheet of the mistakes of a revision as a file.
func (s *Site) ExportDrill(ctx context.Context, r api.ExportDrillRequestObject) (api.ExportDrillResponseObject, error) {
	b, name, err := s.desk.Drills.Worksheet(ctx, user(ctx), r.Revision, string(r.Params.Format))
	if err != nil {
		return nil, err
	}
	as := mime.FormatMediaType("attachment", map[string]string{"filename": name})
	return api.ExportDrill200ApplicationoctetStreamResponse{Body: bytes.NewReader(b), ContentLength: int64(len(b)), Headers: api.ExportDrill200ResponseHeaders{ContentDisposition: &as}}, nil
}

// torqueFile is a table as a file, with what it is saved as.
func torqueFile(t *desk.TorqueTable, format string) ([]byte, string, error) {
	b, name, err := t.File(format)
	return b, mime.FormatMediaType("attachment", map[string]string{"filename": name}), err
}

// GetShelfFile is the picture of a tool or the file of a document.
func (s *Site) GetShelfFile(ctx context.Context, r api.GetShelfFileRequestObject) (api.GetShelfFileResponseObject, error) {
	f, err := s.desk.Shelves.File(ctx, user(ctx), desk.ShelfKey{Kind: string(r.Params.Kind), Number: r.Params.Number})
	if err != nil {
		return nil, err
	}
	how := "inline"
	if f.Kind == "source" {
		how = "attachment"
	}
	as := mime.FormatMediaType(how, map[string]string{"filename": f.Name})
	return api.GetShelfFile200AsteriskResponse{Body: bytes.NewReader(f.Body), ContentType: f.Type, ContentLength: int64(len(f.Body)), Headers: api.GetShelfFile200ResponseHeaders{ContentDisposition: &as}}, nil
}

// KeepShelfFile puts a picture to a tool or a file to a document.
func (s *Site) KeepShelfFile(ctx context.Context, r api.KeepShelfFileRequestObject) (api.KeepShelfFileResponseObject, error) {
	if err := desk.MayWrite(user(ctx)); err != nil {
		return nil, err
	}
	b, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, err
	}
	if err := s.desk.Shelves.KeepFile(ctx, user(ctx), desk.ShelfKey{Kind: string(r.Params.Kind), Number: r.Params.Number}, or(r.Params.Name), b); err != nil {
		return nil, err
	}
	return api.KeepShelfFile204Response{}, nil
}

// TakeShelfFileOff takes the file of a tool or a document off.
func (s *Site) TakeShelfFileOff(ctx context.Context, r api.TakeShelfFileOffRequestObject) (api.TakeShelfFileOffResponseObject, error) {
	if err := s.desk.Shelves.TakeFileOff(ctx, user(ctx), desk.ShelfKey{Kind: string(r.Params.Kind), Number: r.Params.Number}); err != nil {
		return nil, err
	}
	return api.TakeShelfFileOff204Response{}, nil
}

// CalibrateTool notes when a tool was calibrated.
func (s *Site) CalibrateTool(ctx context.Context, r api.CalibrateToolRequestObject) (api.CalibrateToolResponseObject, error) {
	if err := s.desk.Shelves.Calibrate(ctx, user(ctx), r.Params.Number, desk.Calibration{Done: r.Body.Done, Months: r.Body.Months}); err != nil {
		return nil, err
	}
	return api.CalibrateTool204Response{}, nil
}
