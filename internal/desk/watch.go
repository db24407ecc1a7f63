package desk

import (
	"cmp"
	"context"
	"crypto/rand"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"inklatch/internal/store"
)

// Event is something a listener hears of one room: a new version, that something was
// said, or who is at which step.
type Event struct {
	// At is the room, as RoomOf reads it; empty where it is about all rooms.
	At      string `json:"at,omitzero"`
	Version int64  `json:"version,omitzero"`
	// Talk is set where something was said of the page, or arranged.
	Talk bool `json:"talk,omitzero"`
	// Here are windows that have come, moved or left; with All, the ones that are there.
	Here []Presence `json:"here,omitempty"`
	All  bool       `json:"all,omitzero"`
	// Missed asks to read the page again: events may have been lost.
	Missed bool `json:"missed,omitzero"`
	// Out is set where the room may be heard no more.
	Out bool `json:"out,omitzero"`
}

// Presence is a window in a room.
type Presence struct {
	Client string `json:"client"`
	Name   string `json:"name,omitzero"`
	Step   string `json:"step,omitzero"`
	Left   bool   `json:"left,omitzero"`
}

// Room is where people meet: a revision, or the engine sheets of a code.
type Room struct {
	Revision int64
	Code     string
}

// String is the room as it is named in addresses.
func (r Room) String() string {
	if r.Code != "" {
		return "engines/" + r.Code
	}
	return "revisions/" + strconv.FormatInt(r.Revision, 10)
}

// RoomOf reads the name of a room.
func RoomOf(name string) (Room, bool) {
	kind, of, _ := strings.Cut(name, "/")
	switch {
	case kind == "engines" && of != "" && len(of) <= 40:
		return Room{Code: of}, true
	case kind == "revisions":
		id, err := strconv.ParseInt(of, 10, 64)
		return Room{Revision: id}, err == nil && id > 0
	}
	return Room{}, false
}

// Seat is a window's place in a room.
type Seat struct {
	Room   Room
	Client string
}

// How many lines one session and one person may hold open on a server, and how many
// seats a line may have. A browser needs one line for all its windows; where it cannot
// share it, one for each window.
const (
	mostLinesOfSession = 8
	mostLinesOfPerson  = 32
	mostSeats          = 40
)

// mostNamed is how many windows somebody who comes into a room is told of. More than
// that are a crowd.
const mostNamed = 50

// gather is how long arrivals, moves and departures are gathered before they are told,
// once, to everybody in the room and to the other servers.
const gather = 150 * time.Millisecond

// Who is in a room is said again to other servers every sayAgain, and forgotten after
// forgetAfter, so that nobody stays at a page whose server has died.
const (
	sayAgain    = time.Minute
	forgetAfter = 150 * time.Second
)

// Watchers carries events between the people in one draft, on this server and on
// every other on the same database. What one person does costs one event a room and
// server, however many listen.
type Watchers struct {
	lib     *library
	server  string
	mu      sync.Mutex
	rooms   map[Room]*room
	lines   map[*line]struct{}
	persons map[int]func(person int64)
	next    int
	// asks are rooms whose people on other servers are not known yet.
	asks    map[Room]struct{}
	waiting bool
	// echo is closed when this server hears what it has told itself.
	echo chan struct{}
}

type room struct {
	seats map[string]*seat
	// far are the windows on other servers.
	far map[string]far
	// told are windows of which the room is to be told, near those of which the other
	// servers are.
	near, told map[string]struct{}
}

type seat struct {
	line *line
	step string
}

type far struct {
	Presence
	server string
	heard  time.Time
}

// line is one open connection, with the seats that are heard on it.
type line struct {
	out     chan Event
	session string
	person  int64
	name    string
	seats   int
}

func newWatchers(lib *library) *Watchers {
	return &Watchers{
		lib: lib, server: rand.Text()[:10], rooms: map[Room]*room{}, lines: map[*line]struct{}{},
		persons: map[int]func(int64){}, asks: map[Room]struct{}{},
	}
}

func (w *Watchers) room(at Room) *room {
	r := w.rooms[at]
	if r == nil {
		r = &room{seats: map[string]*seat{}, far: map[string]far{}, near: map[string]struct{}{}, told: map[string]struct{}{}}
		w.rooms[at] = r
		w.asks[at] = struct{}{}
	}
	return r
}

// presence is a window as it is now: left where it is not there.
func (r *room) presence(client string) Presence {
	if s := r.seats[client]; s != nil {
		return Presence{Client: client, Name: s.line.name, Step: s.step}
	}
	if f, ok := r.far[client]; ok {
		return f.Presence
	}
	return Presence{Client: client, Left: true}
}

// tell tells everybody in the room.
func (r *room) tell(e Event) {
	for _, s := range r.seats {
		s.line.tell(e)
	}
}

// tell never waits: a line nobody reads is told to read again as soon as somebody does.
func (l *line) tell(e Event) {
	select {
	case l.out <- e:
	default:
		select { // make room for the one event that makes up for all others
		case <-l.out:
		default:
		}
		select {
		case l.out <- Event{Missed: true}:
		default:
		}
	}
}

// hear takes in an event of any server, this one's own along.
func (w *Watchers) hear(e store.Event) {
	w.mu.Lock()
	at := Room{e.Revision, e.Code}
	switch {
	case e.Missed:
		for l := range w.lines {
			l.tell(Event{Missed: true})
		}
		for at := range w.rooms {
			w.asks[at] = struct{}{}
		}
		w.soon()
	case e.From == w.server:
		if e.Echo != "" && w.echo != nil {
			close(w.echo)
			w.echo = nil
		}
	case e.From != "":
		w.hearOf(e)
	case at != Room{}:
		if r := w.rooms[at]; r != nil {
			r.tell(Event{At: at.String(), Version: e.Version, Talk: e.Talk})
		}
	}
	var told []func(int64)
	if e.Person != 0 || e.Missed {
		told = slices.Collect(maps.Values(w.persons))
	}
	w.mu.Unlock()
	if e.House != 0 || e.Missed {
		_, err := w.lib.readRules(context.Background())
		w.lib.tell("reading the house rules", err)
	}
	for _, f := range told {
		f(e.Person)
	}
}

// hearOf takes in who is where on another server.
func (w *Watchers) hearOf(e store.Event) {
	for _, p := range e.Here {
		r := w.rooms[Room{p.Revision, p.Code}]
		if r == nil || r.seats[p.Client] != nil {
			continue
		}
		was, known := r.far[p.Client]
		now := Presence{Client: p.Client, Name: p.Name, Step: p.Step, Left: p.Left}
		switch {
		case p.Left && known && was.server == e.From:
			delete(r.far, p.Client)
		case p.Left:
			continue
		default:
			r.far[p.Client] = far{now, e.From, store.Now()}
		}
		if now != was.Presence {
			r.told[p.Client] = struct{}{}
		}
	}
	for _, p := range e.Ask {
		if r := w.rooms[Room{p.Revision, p.Code}]; r != nil {
			r.sayAll()
		}
	}
	w.soon()
}

// sayAll has the people of a room told to the other servers.
func (r *room) sayAll() {
	for c := range r.seats {
		if r.near[c] = struct{}{}; len(r.near) >= mostNamed {
			break
		}
	}
}

// soon has what is gathered told in a moment. The lock is held.
func (w *Watchers) soon() {
	if !w.waiting {
		w.waiting = true
		time.AfterFunc(gather, w.flush)
	}
}

// flush tells what was gathered: here at once, to other servers in as few words as it
// takes.
func (w *Watchers) flush() {
	w.mu.Lock()
	w.waiting = false
	var here []store.Presence
	for at, r := range w.rooms {
		var news []Presence
		for c := range r.told {
			news = append(news, r.presence(c))
		}
		if len(news) > 0 {
			r.tell(Event{At: at.String(), Here: news})
		}
		for c := range r.near {
			p := r.presence(c)
			here = append(here, store.Presence{Revision: at.Revision, Code: at.Code, Client: c, Name: p.Name, Step: p.Step, Left: p.Left})
		}
		clear(r.told)
		clear(r.near)
		if len(r.seats) == 0 {
			delete(w.rooms, at)
			delete(w.asks, at)
		}
	}
	var asks []store.Presence
	for at := range w.asks {
		asks = append(asks, store.Presence{Revision: at.Revision, Code: at.Code})
	}
	clear(w.asks)
	w.mu.Unlock()
	// That somebody is at a step may get lost; it is said again.
	ctx, cancel := context.WithTimeout(context.Background(), store.LockLimit)
	defer cancel()
	if err := w.lib.store.TellPresences(ctx, w.server, here, asks); err != nil {
		w.lib.log.Warn("telling who is where", "error", err)
	}
}

// heard reports whether notices arrive: this server tells itself something and listens for
// it. Through what hands connections out by the transaction it never comes.
func (w *Watchers) heard(ctx context.Context, within time.Duration) bool {
	back := make(chan struct{})
	w.mu.Lock()
	w.echo = back
	w.mu.Unlock()
	if w.lib.store.Tell(ctx, store.Event{From: w.server, Echo: w.server}) != nil {
		return false
	}
	select {
	case <-back:
		return true
	case <-ctx.Done():
	case <-time.After(within):
	}
	return false
}

// refresh says again who is here, and forgets whom nobody has spoken of for long.
func (w *Watchers) refresh(context.Context) {
	w.mu.Lock()
	defer w.mu.Unlock()
	for _, r := range w.rooms {
		r.sayAll()
		for c, f := range r.far {
			if store.Now().Sub(f.heard) > forgetAfter {
				delete(r.far, c)
				r.told[c] = struct{}{}
			}
		}
	}
	if len(w.rooms) > 0 {
		w.soon()
	}
}

// OnPerson calls f, until forget, whenever somebody has changed or a session of
// theirs has ended; with 0 when that may have been missed.
func (w *Watchers) OnPerson(f func(person int64)) (forget func()) {
	w.mu.Lock()
	defer w.mu.Unlock()
	n := w.next
	w.next++
	w.persons[n] = f
	return func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		delete(w.persons, n)
	}
}

// Join opens a line on which a session hears of the rooms it has seats in. A window's
// name belongs to the session that took it; a seat that the session has on another
// line moves to this one. Call leave when done. With too many lines open it is refused.
func (w *Watchers) Join(session string, person int64, name string, seats ...Seat) (events <-chan Event, leave func(), err error) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if len(seats) == 0 || len(seats) > mostSeats {
		return nil, nil, &Problem{Status: 422, Title: fmt.Sprintf("A line is for 1 to %d windows.", mostSeats), Field: "at"}
	}
	for _, s := range seats {
		if r := w.rooms[s.Room]; r != nil && r.seats[s.Client] != nil && r.seats[s.Client].line.session != session {
			return nil, nil, problem(409, "Somebody else is here under that name.")
		}
	}
	me := &line{out: make(chan Event, 64), session: session, person: person, name: name}
	w.lines[me] = struct{}{}
	for _, s := range seats {
		r := w.room(s.Room)
		old := r.seats[s.Client]
		if old != nil && old.line == me {
			continue
		}
		now := &seat{line: me}
		if old != nil { // the same window, come back or moved to another line
			now.step = old.step
			if old.line.seats--; old.line.seats == 0 {
				w.drop(old.line)
			}
		}
		me.seats++
		r.seats[s.Client] = now
		delete(r.far, s.Client)
		if old == nil {
			r.near[s.Client], r.told[s.Client] = struct{}{}, struct{}{}
		}
	}
	if err := w.tooMany(me); err != nil {
		w.leave(me)
		return nil, nil, err
	}
	met := map[Room]bool{}
	for _, s := range seats {
		if !met[s.Room] {
			me.tell(Event{At: s.Room.String(), Here: w.rooms[s.Room].all(), All: true})
		}
		met[s.Room] = true
	}
	w.soon()
	return me.out, func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		w.leave(me)
	}, nil
}

// all are the windows in a room, as many as are named.
func (r *room) all() []Presence {
	out := []Presence{}
	for c := range r.far {
		out = append(out, r.presence(c))
	}
	for c := range r.seats {
		out = append(out, r.presence(c))
	}
	slices.SortFunc(out, func(a, b Presence) int { return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.Client, b.Client)) })
	return out[:min(len(out), mostNamed)]
}

// tooMany refuses a line beyond what a session or a person may hold.
func (w *Watchers) tooMany(me *line) error {
	session, person := 0, 0
	for l := range w.lines {
		if l.session == me.session {
			session++
		}
		if l.person == me.person {
			person++
		}
	}
	if session > mostLinesOfSession || person > mostLinesOfPerson {
		return problem(429, "Too many of your windows listen for news at once. Close some of them; this one shows what is new when it is loaded again.")
	}
	return nil
}

// drop ends a line that has no seats any more, or whose seats go with it. The lock is held.
func (w *Watchers) drop(l *line) {
	delete(w.lines, l)
	close(l.out)
}

// leave gives up a line and its seats. The lock is held.
func (w *Watchers) leave(l *line) {
	if _, ok := w.lines[l]; !ok {
		return
	}
	w.drop(l)
	for _, r := range w.rooms {
		for c, s := range r.seats {
			if s.line == l {
				delete(r.seats, c)
				r.near[c], r.told[c] = struct{}{}, struct{}{}
			}
		}
	}
	w.soon()
}

// Stand gives up one seat of a session.
func (w *Watchers) Stand(session string, at Seat) {
	w.mu.Lock()
	defer w.mu.Unlock()
	r := w.rooms[at.Room]
	if r == nil || r.seats[at.Client] == nil || r.seats[at.Client].line.session != session {
		return
	}
	r.seats[at.Client].line.seats--
	delete(r.seats, at.Client)
	r.near[at.Client], r.told[at.Client] = struct{}{}, struct{}{}
	w.soon()
}

// At says which step a client of the session is at; nothing happens where that
// session has no such client.
func (w *Watchers) At(at Room, client, session, step string) {
	w.mu.Lock()
	defer w.mu.Unlock()
	r := w.rooms[at]
	if r == nil {
		return
	}
	me := r.seats[client]
	if me == nil || me.line.session != session || me.step == step {
		return
	}
	me.step = step
	r.near[client], r.told[client] = struct{}{}, struct{}{}
	w.soon()
}
