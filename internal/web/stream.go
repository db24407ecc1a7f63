package web

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"inklatch/internal/desk"
	"inklatch/internal/web/api"
)

// stream is a text/event-stream answer.
type stream struct {
	s      *Site
	ctx    context.Context
	events <-chan desk.Event
	leave  func()
	// still reports whether the person may still hear, moved is told when that
	// may have changed.
	still func(context.Context) bool
	moved <-chan struct{}
}

// Watch streams events of a revision.
func (s *Site) Watch(ctx context.Context, r api.WatchRequestObject) (api.WatchResponseObject, error) {
	st, err := s.streamed(ctx, desk.Room{Revision: r.Revision}, r.Params.Client)
	if err != nil {
		return nil, err
	}
	return st, nil
}

// WatchSheet streams events of the engine sheets of a code.
func (s *Site) WatchSheet(ctx context.Context, r api.WatchSheetRequestObject) (api.WatchSheetResponseObject, error) {
	st, err := s.streamed(ctx, desk.Room{Code: r.Code}, r.Params.Client)
	if err != nil {
		return nil, err
	}
	return st, nil
}

// streamed streams events until the person leaves, signs out, is locked or loses
// the role, or the server goes.
func (s *Site) streamed(ctx context.Context, at desk.Room, client string) (*stream, error) {
	u := user(ctx)
	if err := s.desk.MayWatch(ctx, u, at); err != nil {
		return nil, err
	}
	if n := len(client); n < 4 || n > 64 {
		return nil, &desk.Problem{Status: 422, Title: "A watcher has a name of between 4 and 64 letters.", Field: "client"}
	}
	session := s.session(ctx)
	events, leave, err := s.desk.Watchers.Join(at, client, session, u.Name)
	if err != nil {
		return nil, err
	}
	moved := make(chan struct{}, 1)
	forget := s.desk.Watchers.OnPerson(func(person int64) {
		if person == u.ID || person == 0 {
			select {
			case moved <- struct{}{}:
			default:
			}
		}
	})
	still := func(ctx context.Context) bool {
		lives, err := s.store.Reads(ctx).SessionLives(session)
		if err != nil || !lives {
			return false
		}
		now, err := s.desk.UserByID(ctx, u.ID)
		return err == nil && s.desk.MayWatch(ctx, now, at) == nil
	}
	return &stream{s, ctx, events, func() { forget(); leave() }, still, moved}, nil
}

// VisitWatchSheetResponse writes events as they come.
func (st *stream) VisitWatchSheetResponse(w http.ResponseWriter) error {
	return st.VisitWatchResponse(w)
}

// VisitWatchResponse writes events as they come, and a comment now and then so
// that nothing in between closes the line.
func (st *stream) VisitWatchResponse(w http.ResponseWriter) error {
	defer st.leave()
	st.s.figures.streams.Inc()
	defer st.s.figures.streams.Dec()
	w.Header().Set("Content-Type", "text/event-stream")
	w.WriteHeader(http.StatusOK)
	rc := http.NewResponseController(w)
	_ = rc.SetWriteDeadline(time.Time{})
	tick := time.NewTicker(20 * time.Second)
	defer tick.Stop()
	say := func(text string) bool {
		if _, err := fmt.Fprint(w, text); err != nil {
			return false
		}
		return rc.Flush() == nil
	}
	if !say("retry: 1500\n: here\n\n") {
		return nil
	}
	for {
		select {
		case <-st.ctx.Done():
			return nil
		case <-st.s.leaving:
			say("event: bye\ndata: {}\n\n")
			return nil
		case <-st.moved:
			if !st.still(st.ctx) {
				say("event: out\ndata: {}\n\n")
				return nil
			}
		case e, ok := <-st.events:
			if !ok {
				return nil
			}
			b, err := json.Marshal(e)
			if err != nil {
				return err
			}
			if !say(fmt.Sprintf("data: %s\n\n", b)) {
				return nil
			}
		case <-tick.C:
			if !st.still(st.ctx) || !say(": still here\n\n") {
				return nil
			}
		}
	}
}

// Here says where on a page the person is.
func (s *Site) Here(ctx context.Context, r api.HereRequestObject) (api.HereResponseObject, error) {
	if err := s.at(ctx, desk.Room{Revision: r.Revision}, r.Body); err != nil {
		return nil, err
	}
	return api.Here204Response{}, nil
}

// HereSheet says where on an engine sheet the person is.
func (s *Site) HereSheet(ctx context.Context, r api.HereSheetRequestObject) (api.HereSheetResponseObject, error) {
	if err := s.at(ctx, desk.Room{Code: r.Code}, r.Body); err != nil {
		return nil, err
	}
	return api.HereSheet204Response{}, nil
}

func (s *Site) at(ctx context.Context, room desk.Room, h *api.Here) error {
	if err := s.desk.MayWatch(ctx, user(ctx), room); err != nil {
		return err
	}
	place := or(h.Step)
	if len(place) > 64 {
		return &desk.Problem{Status: 422, Title: "A place has at most 64 letters.", Field: "step"}
	}
	s.desk.Watchers.At(room, h.Client, s.session(ctx), place)
	return nil
}
