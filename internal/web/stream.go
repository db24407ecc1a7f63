package web

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"regexp"
	"slices"
	"time"

	"inklatch/internal/desk"
	"inklatch/internal/web/api"
)

// stream is a text/event-stream answer.
type stream struct {
	s   *Site
	ctx context.Context
	// out are rooms that were refused from the start.
	out    []desk.Room
	events <-chan desk.Event
	leave  func()
	// refused gives the rooms the person may hear no more, all of them once their
	// session is over; moved is told when that may have changed.
	refused func(context.Context) (rooms []desk.Room, over bool)
	moved   <-chan bool
}

// seatName is a window's name and the room it is in.
var seatName = regexp.MustCompile(`^([A-Za-z0-9-]{4,64})@(.+)$`)

// Watch streams events of the rooms that windows of one session are in, until the
// person leaves, signs out, is locked or loses the role, or the server goes.
func (s *Site) Watch(ctx context.Context, r api.WatchRequestObject) (api.WatchResponseObject, error) {
	u := user(ctx)
	var seats []desk.Seat
	for _, at := range r.Params.At {
		m := seatName.FindStringSubmatch(at)
		if m == nil {
			return nil, &desk.Problem{Status: 422, Title: "A window is named as NAME@revisions/8 or NAME@engines/CODE, its name of between 4 and 64 letters and digits.", Field: "at"}
		}
		room, ok := desk.RoomOf(m[2])
		if !ok {
			return nil, &desk.Problem{Status: 422, Title: "A window is at revisions/8 or at engines/CODE.", Field: "at"}
		}
		seats = append(seats, desk.Seat{Room: room, Client: m[1]})
	}
	var out []desk.Room
	var last error
	may := slices.DeleteFunc(slices.Clone(seats), func(t desk.Seat) bool {
		err := s.desk.Drafts.MayWatch(ctx, u, t.Room)
		if err != nil {
			out, last = append(out, t.Room), err
		}
		return err != nil
	})
	if len(may) == 0 && last != nil {
		return nil, last
	}
	session := s.session(ctx)
	events, leave, err := s.desk.Watchers.Join(session, u.ID, u.Name, may...)
	if err != nil {
		return nil, err
	}
	moved := make(chan bool, 1)
	forget := s.desk.Watchers.OnPerson(func(person int64) {
		if person == u.ID || person == 0 {
			select {
			case moved <- person == 0:
			default:
			}
		}
	})
	refused := func(ctx context.Context) ([]desk.Room, bool) {
		lives, err := s.store.Reads(ctx).SessionLives(session)
		if err != nil || !lives {
			return nil, true
		}
		now, err := s.desk.Access.UserByID(ctx, u.ID)
		if err != nil {
			return nil, true
		}
		var gone []desk.Room
		may = slices.DeleteFunc(may, func(t desk.Seat) bool {
			if s.desk.Drafts.MayWatch(ctx, now, t.Room) == nil {
				return false
			}
			s.desk.Watchers.Stand(session, t)
			gone = append(gone, t.Room)
			return true
		})
		return gone, len(may) == 0
	}
	return &stream{s, ctx, out, events, func() { forget(); leave() }, refused, moved}, nil
}

// The times of a line: how often it is looked at whether its person may still hear, and
// within what time many that were cut at once come back, ms.
const (
	lookAgain  = 20 * time.Second
	leastRetry = 1000
	mostRetry  = 6000
)

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
	say := func(text string) bool {
		if _, err := fmt.Fprint(w, text); err != nil {
			return false
		}
		return rc.Flush() == nil
	}
	tell := func(e desk.Event) bool {
		b, err := json.Marshal(e)
		return err == nil && say(fmt.Sprintf("data: %s\n\n", b))
	}
	// still looks whether the person may go on hearing.
	still := func() bool {
		gone, over := st.refused(st.ctx)
		for _, room := range gone {
			if !tell(desk.Event{At: room.String(), Out: true}) {
				return false
			}
		}
		if over {
			say("event: out\ndata: {}\n\n")
		}
		return !over
	}
	if !say(fmt.Sprintf("retry: %d\n: here\n\n", leastRetry+rand.IntN(mostRetry-leastRetry))) {
		return nil
	}
	spread := func(within time.Duration) time.Duration { return time.Duration(rand.Int64N(int64(within))) }
	look := time.NewTimer(lookAgain + spread(lookAgain))
	for _, room := range st.out {
		tell(desk.Event{At: room.String(), Out: true})
	}
	defer look.Stop()
	for {
		select {
		case <-st.ctx.Done():
			return nil
		case <-st.s.leaving:
			say("event: bye\ndata: {}\n\n")
			return nil
		case all := <-st.moved:
			if all { // every line is told at once: they do not all ask at once
				look.Reset(spread(lookAgain / 4))
			} else if !still() {
				return nil
			}
		case e, ok := <-st.events:
			if !ok || !tell(e) {
				return nil
			}
		case <-look.C:
			look.Reset(lookAgain)
			if !still() || !say(": still here\n\n") {
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
	if err := s.desk.Drafts.MayWatch(ctx, user(ctx), room); err != nil {
		return err
	}
	place := or(h.Step)
	if len(place) > 64 {
		return &desk.Problem{Status: 422, Title: "A place has at most 64 letters.", Field: "step"}
	}
	s.desk.Watchers.At(room, h.Client, s.session(ctx), place)
	return nil
}
