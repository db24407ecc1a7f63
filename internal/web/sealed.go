package web

import (
	"encoding/json"
	"net/http"

	"inklatch/internal/desk"
	"inklatch/internal/desk/view"
)

// A view is written as JSON once, for all who are sent it; an encoder would read it
// through again for each of them. These answers put it in front of what is theirs alone.
type (
	revisionAnswer struct{ *desk.Revision }
	savedAnswer    struct{ *desk.Saved }
)

// VisitGetRevisionResponse writes a revision.
func (a revisionAnswer) VisitGetRevisionResponse(w http.ResponseWriter) error {
	return writeWith(w, a.View, struct {
		*desk.Revision
		View *struct{} `json:"view,omitempty"` // stands in front
	}{Revision: a.Revision})
}

// VisitEditResponse writes what came of an edit.
func (a savedAnswer) VisitEditResponse(w http.ResponseWriter) error {
	return writeWith(w, a.View, struct {
		*desk.Saved
		View *struct{} `json:"view,omitempty"`
	}{Saved: a.Saved})
}

// VisitUndoResponse writes what came of taking an edit back.
func (a savedAnswer) VisitUndoResponse(w http.ResponseWriter) error { return a.VisitEditResponse(w) }

// writeWith writes a view and, behind it in the same object, the rest, which is an object
// with something in it.
func writeWith(w http.ResponseWriter, v *view.View, rest any) error {
	sealed, err := v.MarshalJSON()
	if err != nil {
		return err
	}
	b, err := json.Marshal(rest)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(http.StatusOK)
	for _, part := range [][]byte{[]byte(`{"view":`), sealed, []byte(","), b[1:], []byte("\n")} {
		if _, err := w.Write(part); err != nil {
			return err
		}
	}
	return nil
}
