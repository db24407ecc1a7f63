package web

import (
	"bytes"
	"context"
	"errors"
	"io"
	"net/http"

	"inklatch/internal/core/latch"
	"inklatch/internal/core/step"
	"inklatch/internal/desk"
	"inklatch/internal/web/api"
)

// The contract, operation by operation. Problems travel as errors and become
// problem details in one place.

// Health answers that the server is there.
func (s *Server) Health(context.Context, api.HealthRequestObject) (api.HealthResponseObject, error) {
	return api.Health200JSONResponse{Ok: true}, nil
}

func personOf(u *desk.User) api.Person {
	p := api.Person{Id: u.ID, Name: u.Name, Email: u.Email, Roles: []string{}, Writes: u.Writes()}
	for _, r := range u.Roles {
		p.Roles = append(p.Roles, string(r))
	}
	return p
}

// WhoAmI is the signed-in person.
func (s *Server) WhoAmI(ctx context.Context, _ api.WhoAmIRequestObject) (api.WhoAmIResponseObject, error) {
	return api.WhoAmI200JSONResponse(personOf(user(ctx))), nil
}

// SignIn signs in and starts a session under a new token.
func (s *Server) SignIn(ctx context.Context, r api.SignInRequestObject) (api.SignInResponseObject, error) {
	if from, _ := ctx.Value(placeKey{}).(string); !s.gate.Allow(from) {
		return nil, &desk.Problem{Status: 429, Title: "Too many attempts from here. Wait half a minute and try again."}
	}
	u, err := s.desk.SignIn(ctx, r.Body.Email, r.Body.Password)
	if err != nil {
		return nil, err
	}
	if err := s.sessions.RenewToken(ctx); err != nil {
		return nil, err
	}
	s.sessions.Put(ctx, "person", u.ID)
	return api.SignIn200JSONResponse(personOf(u)), nil
}

// SignOut ends the session.
func (s *Server) SignOut(ctx context.Context, _ api.SignOutRequestObject) (api.SignOutResponseObject, error) {
	if err := s.sessions.Destroy(ctx); err != nil {
		return nil, err
	}
	return api.SignOut204Response{}, nil
}

// MyDesk is what waits for the person.
func (s *Server) MyDesk(ctx context.Context, _ api.MyDeskRequestObject) (api.MyDeskResponseObject, error) {
	reviews, drafts, err := s.desk.MyDesk(ctx, user(ctx))
	if err != nil {
		return nil, err
	}
	sheets, err := s.desk.SheetsOnDesk(ctx, user(ctx))
	if err != nil {
		return nil, err
	}
	return api.MyDesk200JSONResponse{Reviews: reviews, Drafts: drafts, Sheets: sheets}, nil
}

// ListProcedures lists the procedures.
func (s *Server) ListProcedures(ctx context.Context, _ api.ListProceduresRequestObject) (api.ListProceduresResponseObject, error) {
	rows, err := s.desk.Procedures(ctx, user(ctx))
	if err != nil {
		return nil, err
	}
	return api.ListProcedures200JSONResponse(rows), nil
}

// NewProcedure starts a procedure.
func (s *Server) NewProcedure(ctx context.Context, r api.NewProcedureRequestObject) (api.NewProcedureResponseObject, error) {
	id, err := s.desk.NewProcedure(ctx, user(ctx), r.Body.Engine, r.Body.Title)
	if err != nil {
		return nil, err
	}
	return api.NewProcedure201JSONResponse{Revision: id}, nil
}

// NewDraft starts the next revision.
func (s *Server) NewDraft(ctx context.Context, r api.NewDraftRequestObject) (api.NewDraftResponseObject, error) {
	id, err := s.desk.NewDraft(ctx, user(ctx), r.Procedure, r.Body.Reason)
	if err != nil {
		return nil, err
	}
	return api.NewDraft201JSONResponse{Revision: id}, nil
}

// ImportFile reads a latch file.
func (s *Server) ImportFile(ctx context.Context, r api.ImportFileRequestObject) (api.ImportFileResponseObject, error) {
	if err := desk.MayWrite(user(ctx)); err != nil { // before a large file is taken in
		return nil, err
	}
	b, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, err
	}
	id, err := s.desk.Import(ctx, user(ctx), b)
	if err != nil {
		return nil, err
	}
	return api.ImportFile201JSONResponse{Revision: id}, nil
}

// GetRevision opens a revision.
func (s *Server) GetRevision(ctx context.Context, r api.GetRevisionRequestObject) (api.GetRevisionResponseObject, error) {
	rev, err := s.desk.Revision(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.GetRevision200JSONResponse(*rev), nil
}

// Look runs a revision with edits not saved yet.
func (s *Server) Look(ctx context.Context, r api.LookRequestObject) (api.LookResponseObject, error) {
	line := ""
	if r.Body.Line != nil {
		line = *r.Body.Line
	}
	var edits []api.Edit
	if r.Body.Edits != nil {
		edits = *r.Body.Edits
	}
	v, reading, completions, err := s.desk.Look(ctx, user(ctx), r.Revision, edits, line, (*step.ID)(r.Body.After))
	if err != nil {
		return nil, err
	}
	if completions == nil {
		completions = []step.Completion{}
	}
	return api.Look200JSONResponse{View: v, Reading: reading, Completions: completions}, nil
}

// ReadLines turns lines into steps.
func (s *Server) ReadLines(ctx context.Context, r api.ReadLinesRequestObject) (api.ReadLinesResponseObject, error) {
	var here step.Phase
	if r.Body.Phase != nil {
		here = step.Phase(*r.Body.Phase)
	}
	out, err := s.desk.Read(ctx, user(ctx), r.Revision, r.Body.Text, here)
	if err != nil {
		return nil, err
	}
	return api.ReadLines200JSONResponse(out), nil
}

// Edit saves edits.
func (s *Server) Edit(ctx context.Context, r api.EditRequestObject) (api.EditResponseObject, error) {
	if n := len(r.Body.Edits); n == 0 || n > 500 || len(r.Body.Batch) < 8 || len(r.Body.Batch) > 64 || len(r.Body.Client) < 4 || len(r.Body.Client) > 64 {
		return nil, &desk.Problem{Status: 422, Title: "A batch has a name, a client and between 1 and 500 edits."}
	}
	saved, err := s.desk.Save(ctx, user(ctx), r.Revision, desk.Batch{Name: r.Body.Batch, Client: r.Body.Client, Base: r.Body.Base, Edits: r.Body.Edits})
	var clash *desk.Clash
	if errors.As(err, &clash) {
		return api.Edit409JSONResponse{Title: clash.Error(), Version: clash.Version, Steps: clash.Steps}, nil
	}
	if err != nil {
		return nil, err
	}
	return api.Edit200JSONResponse(*saved), nil
}

// Undo takes back the last edit.
func (s *Server) Undo(ctx context.Context, r api.UndoRequestObject) (api.UndoResponseObject, error) {
	saved, err := s.desk.Undo(ctx, user(ctx), r.Revision, r.Body.Client, r.Body.Redo)
	if err != nil {
		return nil, err
	}
	return api.Undo200JSONResponse(*saved), nil
}

// CloseLatch closes a latch.
func (s *Server) CloseLatch(ctx context.Context, r api.CloseLatchRequestObject) (api.CloseLatchResponseObject, error) {
	m, err := s.desk.CloseLatch(ctx, user(ctx), r.Revision, latch.Latch(r.Latch))
	if err != nil {
		return nil, err
	}
	return api.CloseLatch200JSONResponse(*m), nil
}

// GetRecord lists what was done.
func (s *Server) GetRecord(ctx context.Context, r api.GetRecordRequestObject) (api.GetRecordResponseObject, error) {
	out, err := s.desk.Record(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.GetRecord200JSONResponse(out), nil
}

// GetSheet is the printed sheet.
func (s *Server) GetSheet(ctx context.Context, r api.GetSheetRequestObject) (api.GetSheetResponseObject, error) {
	sheet, err := s.desk.Sheet(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	return api.GetSheet200JSONResponse(*sheet), nil
}

// ExportFile is the revision as a file.
func (s *Server) ExportFile(ctx context.Context, r api.ExportFileRequestObject) (api.ExportFileResponseObject, error) {
	b, name, err := s.desk.Export(ctx, user(ctx), r.Revision)
	if err != nil {
		return nil, err
	}
	disposition := `attachment; filename="` + name + `"`
	return api.ExportFile200ApplicationoctetStreamResponse{
		Body: bytes.NewReader(b), ContentLength: int64(len(b)),
		Headers: api.ExportFile200ResponseHeaders{ContentDisposition: &disposition},
	}, nil
}

// Here says where the person is.
func (s *Server) Here(ctx context.Context, r api.HereRequestObject) (api.HereResponseObject, error) {
	if err := s.desk.MayWatch(ctx, user(ctx), r.Revision); err != nil {
		return nil, err
	}
	at := ""
	if r.Body.Step != nil {
		at = *r.Body.Step
	}
	s.desk.Watchers.At(r.Revision, r.Body.Client, at)
	return api.Here204Response{}, nil
}

// ListVerbs is the catalogue of verbs and phases.
func (s *Server) ListVerbs(context.Context, api.ListVerbsRequestObject) (api.ListVerbsResponseObject, error) {
	out := api.ListVerbs200JSONResponse{}
	for _, v := range step.Specs {
		out.Verbs = append(out.Verbs, *v)
	}
	for _, p := range step.Phases {
		out.Phases = append(out.Phases, struct {
			Id   string `json:"id"`
			Name string `json:"name"`
		}{string(p.Phase), p.Name})
	}
	return out, nil
}

// stream is a text/event-stream answer.
type stream struct {
	ctx    context.Context
	events <-chan desk.Event
	leave  func()
}

// Watch streams events until the person leaves.
func (s *Server) Watch(ctx context.Context, r api.WatchRequestObject) (api.WatchResponseObject, error) {
	if err := s.desk.MayWatch(ctx, user(ctx), r.Revision); err != nil {
		return nil, err
	}
	if n := len(r.Params.Client); n < 4 || n > 64 {
		return nil, &desk.Problem{Status: 422, Title: "A watcher has a name of between 4 and 64 letters.", Field: "client"}
	}
	events, leave := s.desk.Watchers.Join(r.Revision, r.Params.Client, user(ctx).Name)
	return stream{ctx, events, leave}, nil
}

// VisitWatchResponse writes events as they come, and a comment now and then so
// that nothing in between closes the line.
func (st stream) VisitWatchResponse(w http.ResponseWriter) error {
	defer st.leave()
	return pump(st.ctx, w, st.events)
}
