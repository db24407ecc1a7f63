package web_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/desk"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
	"inklatch/internal/web"
	"inklatch/internal/web/api"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

type site struct {
	*testing.T
	url    string
	router routers.Router
	store  *store.Store
	desk   *desk.Desk
	site   *web.Site
}

func open(t *testing.T) site {
	return openWith(t, func(*store.Config) {}, web.Config{})
}

// openWith is a site with the demo on a database of its own, whose configuration
// may be changed first.
func openWith(t *testing.T, change func(*store.Config), conf web.Config) site {
	t.Parallel()
	c := pgtest.Seeded(t, "demo", demo.Seed)
	change(&c)
	s, err := store.Open(t.Context(), c)
	require.NoError(t, err)
	return serve(t, s, conf)
}

// serve serves a store that is open, until the test ends.
// contractFile is the contract as it is written.
func contractFile() (*openapi3.T, error) {
	return openapi3.NewLoader().LoadFromFile("../../api/openapi.yaml")
}

func serve(t *testing.T, s *store.Store, conf web.Config) site {
	d := desk.New(s)
	idle, err := d.Jobs.Work(context.WithoutCancel(t.Context()))
	require.NoError(t, err)
	w := web.New(d, s, conf)
	srv := httptest.NewServer(w)
	t.Cleanup(func() {
		srv.CloseClientConnections()
		srv.Close()
		last, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		defer cancel()
		idle(last)
		s.Close()
	})
	doc, err := contractFile()
	require.NoError(t, err)
	doc.Servers = openapi3.Servers{{URL: srv.URL}}
	doc.Security = nil
	r, err := gorillamux.NewRouter(doc)
	require.NoError(t, err)
	return site{t, srv.URL, r, s, d, w}
}

// client is a browser signed in as somebody, "" for nobody.
func (s site) client(name string) *http.Client {
	jar, err := cookiejar.New(nil)
	require.NoError(s, err)
	c := &http.Client{Jar: jar, Timeout: 20 * time.Second}
	if name != "" {
		status, _ := s.do(c, "POST", "/api/session", map[string]string{"email": name + "@tarn.example", "password": demo.Password})
		require.Equal(s, 200, status)
	}
	return c
}

// do sends a request, holds the answer against the contract and gives it.
func (s site) do(c *http.Client, method, path string, body any) (int, []byte) {
	var in io.Reader
	kind := "application/json"
	switch b := body.(type) {
	case nil:
	case []byte:
		in, kind = bytes.NewReader(b), "application/octet-stream"
	default:
		raw, err := json.Marshal(b)
		require.NoError(s, err)
		in = bytes.NewReader(raw)
	}
	req, err := http.NewRequestWithContext(s.Context(), method, s.url+path, in)
	require.NoError(s, err)
	if body != nil {
		req.Header.Set("Content-Type", kind)
	}
	res, err := c.Do(req)
	require.NoError(s, err)
	defer res.Body.Close()
	if strings.HasPrefix(res.Header.Get("Content-Type"), "text/event-stream") {
		return res.StatusCode, nil
	}
	out, err := io.ReadAll(res.Body)
	require.NoError(s, err)
	route, params, err := s.router.FindRoute(req)
	if err == nil {
		err = openapi3filter.ValidateResponse(s.Context(), &openapi3filter.ResponseValidationInput{
			RequestValidationInput: &openapi3filter.RequestValidationInput{Request: req, PathParams: params, Route: route},
			Status:                 res.StatusCode, Header: res.Header, Body: io.NopCloser(bytes.NewReader(out)),
			Options: &openapi3filter.Options{IncludeResponseStatus: true},
		})
		assert.NoError(s, err, "%s %s answered %d against the contract: %.300s", method, path, res.StatusCode, out)
	}
	return res.StatusCode, out
}

// every operation with a request that works for somebody who may.
var requests = map[string]struct {
	path string
	body any
}{
	"health":         {"/api/health", nil},
	"ready":          {"/api/health/ready", nil},
	"changeOwn":      {"/api/session", map[string]any{"theme": "bench"}},
	"changePassword": {"/api/session/password", map[string]any{"old": "not it", "password": "a lift over the valley"}},
	"listPlaces":     {"/api/session/places", nil},
	"endPlace":       {"/api/session/places?id=none", nil},
	"lookLink":       {"/api/enter/look", map[string]any{"secret": "none"}},
	"enter":          {"/api/enter", map[string]any{"secret": "none", "password": "a lift over the valley"}},
	"listPeople":     {"/api/people", nil},
	"invite":         {"/api/people", map[string]any{"name": "Walk %s", "email": "walk-%s@tarn.example", "roles": []string{"reader"}}},
	"changePerson":   {"/api/people/7", map[string]any{"name": "Pavel Nygaard"}},
	"resetPerson":    {"/api/people/7/link", nil},
	"signOutPerson":  {"/api/people/999/sessions", nil},
	"deleteDraft":    {"/api/revisions/3", nil},
	"bringBack":      {"/api/revisions/3/back", nil},
	"whoAmI":         {"/api/session", nil},
	"signIn":         {"/api/session", map[string]string{"email": "ines@tarn.example", "password": demo.Password}},
	"signOut":        {"/api/session", nil},
	"myDesk":         {"/api/desk", nil},
	"listProcedures": {"/api/procedures", nil},
	"newProcedure":   {"/api/procedures", map[string]string{"engine": "TQ4-18P", "title": "Renew idler"}},
	"newDraft":       {"/api/procedures/2/drafts", map[string]string{"reason": "Field note 7."}},
	"forgotten":      {"/api/session", map[string]any{"email": "nobody@tarn.example"}},
	"importFile":     {"/api/import", []byte("x")},
	"getRevision":    {"/api/revisions/4", nil},
	"look":           {"/api/revisions/4/look", map[string]any{"line": "wait 5 min"}},
	"stepBolts":      {"/api/revisions/4/bolts", map[string]any{"step": map[string]any{"id": "walk", "phase": "close", "verb": "tighten", "fasteners": []any{"crank-bolt"}}}},
	"bringOldPage":   {"/api/revisions/4/old-page?name=page.md", []byte("1. wait 5 min\n")},
	"readLines":      {"/api/revisions/4/read", map[string]any{"text": "wait 5 min"}},
	"edit": {"/api/revisions/4/edits", map[string]any{"batch": "walk-%s-1", "client": "walk", "base": 99, "edits": []any{
		map[string]any{"op": "insert", "step": map[string]any{"id": "walk-%s", "phase": "prepare", "verb": "wait", "for": "5 min"}}}}},
	"undo":            {"/api/revisions/4/undo", map[string]any{"client": "walk", "redo": false}},
	"closeLatch":      {"/api/revisions/4/latches/author", map[string]any{"version": 1}},
	"getRecord":       {"/api/revisions/4/record", nil},
	"getSheet":        {"/api/revisions/4/sheet", nil},
	"getVersions":     {"/api/revisions/4/versions?on=2026-01-31", nil},
	"getRedline":      {"/api/revisions/4/redline", nil},
	"getEngines":      {"/api/revisions/4/redline/engine?against=0", nil},
	"copyPage":        {"/api/revisions/4/copy", map[string]any{"engine": "TV6-27D", "trial": true}},
	"planChange":      {"/api/changes/plan", map[string]any{"from": "crank pin", "to": "crank stop"}},
	"changeOn":        {"/api/changes", map[string]any{"from": "crank pin", "to": "crank stop", "reason": "One name.", "revision": 4, "version": 1000, "places": []string{"s01"}}},
	"markRead":        {"/api/revisions/7/readings", map[string]any{"version": 1, "sheet": 0, "steps": []string{}}},
	"say":             {"/api/revisions/4/remarks", map[string]any{"kind": "question", "place": "page", "body": "Is it?"}},
	"answerRemark":    {"/api/remarks/999/answers", map[string]any{"act": "reply", "body": "It is."}},
	"returnRevision":  {"/api/revisions/4/return", map[string]any{"points": []string{"The title."}}},
	"planRelease":     {"/api/revisions/4/release", nil},
	"releaseRevision": {"/api/revisions/4/release", map[string]any{"version": 1}},
	"reviewSheet":     {"/api/engines/WALK-1/review", nil},
	"markSheet":       {"/api/engines/WALK-1/readings", map[string]any{"version": 999, "things": []string{"loops"}}},
	"saySheet":        {"/api/engines/WALK-1/remarks", map[string]any{"kind": "remark", "place": "page", "body": "Well drawn."}},
	"askSheet":        {"/api/engines/WALK-1/ask", nil},
	"returnSheet":     {"/api/engines/WALK-1/return", map[string]any{"points": []string{"The source of the route."}}},
	"withdraw":        {"/api/revisions/4/withdraw", map[string]any{"reason": "A wrong bolt."}},
	"arrange":         {"/api/revisions/4/reviews/technical", map[string]any{"due": ""}},
	"listColleagues":  {"/api/colleagues", nil},
	"findUses":        {"/api/uses?q=crank+pin", nil},
	"listRecord":      {"/api/record?kind=latches&limit=20", nil},
	"exportRecord":    {"/api/record/export", nil},
	"listFieldNotes":  {"/api/revisions/3/notes", nil},
	"addFieldNote":    {"/api/revisions/3/notes", map[string]any{"step": "s25", "body": "It did not fit."}},
	"addPhoto":        {"/api/notes/999/photo", []byte("x")},
	"getPhoto":        {"/api/notes/999/photo", nil},
	"answerFieldNote": {"/api/notes/999/answer", map[string]any{"state": "answered", "answer": "It does."}},
	"exportFile":      {"/api/revisions/4/export", nil},
	"watch":           {"/api/events?at=walker@revisions/4", nil},
	"here":            {"/api/revisions/4/here", map[string]any{"client": "walker", "step": "s01"}},
	"hereSheet":       {"/api/engines/TQ4-18P/here", map[string]any{"client": "walker", "step": "fasteners"}},
	"listVerbs":       {"/api/verbs", nil},
	"listEngines":     {"/api/engines", nil},
	"listCodes":       {"/api/codes?filter=tarn&sort=findings&down=true&limit=5", nil},
	"listArchetypes":  {"/api/archetypes", nil},
	"getEngine":       {"/api/engines/TQ4-18P", nil},

	"newEngine":         {"/api/engines", map[string]any{"code": "W-%s", "from": "TQ4-18P"}},
	"importEngine":      {"/api/engines/import", []byte("x")},
	"newSheetDraft":     {"/api/engines/TV6-27D/draft", map[string]any{"reason": "New drawing."}},
	"reshapeSheet":      {"/api/engines/WALK-1/reshape", map[string]any{"how": "mirror"}},
	"leadLoop":          {"/api/engines/WALK-1/lead", map[string]any{"kind": "belt", "wheels": []any{"crank-wheel", "inlet-wheel"}}},
	"listSheetFields":   {"/api/sheet-fields", nil},
	"readField":         {"/api/verbs/wait/fields/for", map[string]any{"text": "5 min"}},
	"lookSheet":         {"/api/engines/WALK-1/look", map[string]any{"edits": []any{map[string]any{"path": "wheels/crank-wheel/x", "value": 2}}}},
	"editSheet":         {"/api/engines/WALK-1/edits", map[string]any{"batch": "walk-%s-sheet", "client": "walk", "base": 99, "edits": []any{map[string]any{"path": "wheels/crank-wheel/x", "value": 1}}}},
	"undoSheet":         {"/api/engines/WALK-1/undo", map[string]any{"client": "walk", "redo": false}},
	"releaseSheet":      {"/api/engines/TS1-03/release", map[string]any{"version": 1}},
	"getTouches":        {"/api/engines/WALK-1/touches", nil},
	"getReproof":        {"/api/engines/TQ4-18P/reproof", nil},
	"cancelReproof":     {"/api/engines/TQ4-18P/reproof", nil},
	"resolveCar":        {"/api/engines/TQ3-10W/car", map[string]any{"year": 2022}},
	"drawEngine":        {"/api/engines/TQ4-18P/drawing", nil},
	"getDrill":          {"/api/revisions/4/drill", nil},
	"countDrill":        {"/api/revisions/4/drill/count", nil},
	"filmDrill":         {"/api/revisions/4/drill/film?mistake=lock/cam-bar@s11", nil},
	"exportDrill":       {"/api/revisions/4/drill/worksheet?format=csv", nil},
	"changeDrill":       {"/api/revisions/4/drill/change", nil},
	"pairDrill":         {"/api/revisions/4/drill/pairs", nil},
	"settleDrill":       {"/api/revisions/4/drill/settle", nil},
	"getDrillMends":     {"/api/revisions/4/drill/mends?mistake=lock/cam-bar@s11", nil},
	"getHouse":          {"/api/house", nil},
	"saveHouse":         {"/api/house", map[string]any{"rules": map[string]any{"minTurns": 4}, "over": 99, "why": "We turn four times."}},
	"differHouse":       {"/api/house/changes", map[string]any{"rules": map[string]any{"minTurns": 4}}},
	"tryHouse":          {"/api/house/trials", map[string]any{"rules": map[string]any{"minTurns": 4}}},
	"getHouseTrial":     {"/api/house/trials/999999", nil},
	"cancelHouseTrial":  {"/api/house/trials/999999", nil},
	"besideHouse":       {"/api/house/beside", map[string]any{"rules": map[string]any{"minTurns": 4}, "revision": 4}},
	"exportHouse":       {"/api/house/file", nil},
	"getTurns":          {"/api/revisions/4/turns", nil},
	"drawRevision":      {"/api/revisions/4/drawing?step=3", nil},
	"workRim":           {"/api/arithmetic/rim", map[string]any{"diameter": 200, "degrees": 10}},
	"workTooth":         {"/api/arithmetic/tooth", map[string]any{"teeth": 42, "driver": 21, "count": 1, "playMM": 0.2, "radius": 20}},
	"listSources":       {"/api/sources", nil},
	"listTools":         {"/api/tools", nil},
	"getShelfFile":      {"/api/shelf/file?kind=tool&number=TL-999999", nil},
	"keepShelfFile":     {"/api/shelf/file?kind=tool&number=TL-999999&name=a.png", []byte("x")},
	"takeShelfFileOff":  {"/api/shelf/file?kind=source&number=EL-999999", nil},
	"calibrateTool":     {"/api/tools/calibration?number=TL-999999", map[string]any{"done": "2026-01-02", "months": 12}},
	"workConvert":       {"/api/arithmetic/convert", map[string]any{"value": "39 ±2 N·m"}},
	"workPattern":       {"/api/arithmetic/pattern", map[string]any{"pattern": "crosswise", "places": []any{map[string]any{"x": 0, "y": 0}, map[string]any{"x": 10, "y": 0}}}},
	"getTorques":        {"/api/engines/TQ4-18P/torques", nil},
	"previewTorques":    {"/api/engines/WALK-1/torques", []byte("Fastener,Count\ncrank bolt,1\n")},
	"exportTorques":     {"/api/engines/TQ4-18P/torques/file?format=xlsx", nil},
	"getPageTorques":    {"/api/revisions/4/torques", nil},
	"exportPageTorques": {"/api/revisions/4/torques/file?format=csv", nil},
	"workCourse":        {"/api/arithmetic/course", map[string]any{"fastener": map[string]any{"id": "b", "name": "bolt", "count": 1, "thread": "M10"}, "spec": "39 N·m", "tools": []any{}}},
	"workClamp":         {"/api/arithmetic/clamp", map[string]any{"thread": "M10", "class": "10.9", "lubrication": "dry", "torque": "39 N·m", "across": 0}},
	"workWrench":        {"/api/arithmetic/wrench", map[string]any{"torque": "39 N·m", "length": 400, "reach": 45, "angle": 0, "ratio": 0, "efficiency": 0, "full": 140}},
	"workDrops":         {"/api/arithmetic/drops", map[string]any{"stroke": 85, "rod": 138, "offset": 0, "drop": 5, "before": -25, "after": 25, "dial": 0.02, "wheel": 0.5}},
	"workNote":          {"/api/arithmetic/note", map[string]any{"length": 120, "mass": 92, "frequency": 110, "tolerance": 8, "readings": []float64{108, 110, 111}}},
}

// what each role gets where it is not 200, 201 or 204. Somebody who may write
// gets 422 for the nonsense file, and 409 for closing a latch over findings or
// for a clash; those are answers, not refusals.
var (
	writers = map[string]bool{"ines": true, "rosalind": true}
	open200 = map[string]bool{"health": true, "ready": true, "signIn": true, "whoAmI": true}
	// links that were never made are gone for everybody
	links     = map[string]bool{"lookLink": true, "enter": true}
	people    = map[string]bool{"listPeople": true, "invite": true, "changePerson": true, "resetPerson": true, "signOutPerson": true}
	closers   = map[string]bool{"ines": true, "rosalind": true}
	returners = map[string]bool{"mirja": true, "teodor": true, "aiko": true, "rosalind": true}
	releaser  = map[string]bool{"mirja": true, "rosalind": true}
	drafts    = map[string]bool{"getRevision": true, "getHouse": true, "differHouse": true, "getHouseTrial": true, "besideHouse": true, "exportHouse": true, "getDrill": true, "getDrillMends": true, "settleDrill": true, "pairDrill": true, "changeDrill": true, "exportDrill": true, "countDrill": true, "filmDrill": true, "look": true, "readLines": true, "stepBolts": true, "getPageTorques": true, "exportPageTorques": true, "getRecord": true, "getSheet": true, "getRedline": true, "getEngines": true, "getVersions": true, "markRead": true, "say": true, "answerRemark": true, "arrange": true, "listColleagues": true, "listRecord": true, "exportFile": true, "watch": true, "here": true, "hereSheet": true, "getTurns": true, "drawRevision": true, "lookSheet": true, "leadLoop": true, "reshapeSheet": true, "getTouches": true, "getReproof": true, "cancelReproof": true, "planRelease": true, "reviewSheet": true, "markSheet": true, "saySheet": true}
	writing   = map[string]bool{"bringOldPage": true, "newProcedure": true, "newDraft": true, "importFile": true, "edit": true, "undo": true, "newEngine": true, "importEngine": true, "newSheetDraft": true, "editSheet": true, "undoSheet": true, "deleteDraft": true, "bringBack": true, "copyPage": true, "planChange": true, "changeOn": true, "askSheet": true, "previewTorques": true, "keepShelfFile": true, "takeShelfFileOff": true, "calibrateTool": true}
	// ruling are those of what a lead decides for the house.
	ruling = map[string]bool{"saveHouse": true, "tryHouse": true, "cancelHouseTrial": true}
	// shelf are the routes of what the house keeps: nothing of it is kept of what no sheet names.
	shelf = map[string]bool{"getShelfFile": true, "keepShelfFile": true, "takeShelfFileOff": true, "calibrateTool": true}
)

func TestEveryRouteAsEveryRole(t *testing.T) {
	s := open(t)
	status, out := s.do(s.client("ines"), "POST", "/api/engines", map[string]any{"code": "WALK-1", "from": "TQ4-18P"})
	require.Equal(t, 201, status, "%s", out)
	for _, who := range []string{"", "pavel", "ines", "mirja", "teodor", "aiko", "rosalind", "sunniva"} {
		c := s.client(who)
		seen := 0
		doc, err := contractFile()
		require.NoError(t, err)
		for path, item := range doc.Paths.Map() {
			for method, op := range item.Operations() {
				op.OperationID = strings.ToLower(op.OperationID[:1]) + op.OperationID[1:]
				r, ok := requests[op.OperationID]
				require.True(t, ok, "%s %s (%s) is not walked", method, path, op.OperationID)
				seen++
				if op.OperationID == "signOut" || op.OperationID == "signIn" {
					continue
				}
				body := r.body
				if m, ok := body.(map[string]any); ok {
					raw, err := json.Marshal(m)
					require.NoError(t, err)
					var named map[string]any
					require.NoError(t, json.Unmarshal([]byte(strings.ReplaceAll(string(raw), "%s", "as-"+who)), &named))
					body = named
				}
				status, out := s.do(c, method, r.path, body)
				at := fmt.Sprintf("%s as %q: %d %.200s", op.OperationID, who, status, out)
				switch {
				case open200[op.OperationID]:
					assert.Less(t, status, 300, at)
				case op.OperationID == "forgotten":
					assert.Contains(t, []int{204, 409, 429}, status, at) // this house sends no letters
				case links[op.OperationID]:
					assert.Contains(t, []int{410, 429}, status, at)
				case who == "":
					assert.Equal(t, 401, status, at)
				case people[op.OperationID] && who != "sunniva":
					assert.Equal(t, 403, status, at)
				case op.OperationID == "signOutPerson", op.OperationID == "endPlace":
					assert.Equal(t, 404, status, at) // there is nobody, and no such place
				case op.OperationID == "changePassword":
					assert.Contains(t, []int{422, 429}, status, at) // not the old one
				case op.OperationID == "closeLatch" && !closers[who], op.OperationID == "releaseSheet" && !releaser[who]:
					assert.Equal(t, 403, status, at) // roles before state
				case who == "pavel" && drafts[op.OperationID]:
					assert.Equal(t, 403, status, at)
				case ruling[op.OperationID] && who != "rosalind":
					assert.Equal(t, 403, status, at)
				case op.OperationID == "getHouseTrial", op.OperationID == "cancelHouseTrial":
					assert.Equal(t, 404, status, at)
				case op.OperationID == "saveHouse":
					assert.Equal(t, 409, status, at) // another version than the one there is
				case op.OperationID == "tryHouse":
					assert.Equal(t, 202, status, at)
				case writing[op.OperationID] && !writers[who]:
					assert.Equal(t, 403, status, at)
				case op.OperationID == "exportRecord" && who != "sunniva" && who != "rosalind":
					assert.Equal(t, 403, status, at)
				case op.OperationID == "markRead":
					assert.Equal(t, 409, status, at) // another sheet than the one there is
				case op.OperationID == "answerFieldNote" && !writers[who]:
					assert.Equal(t, 403, status, at)
				case op.OperationID == "answerRemark", op.OperationID == "addPhoto", op.OperationID == "getPhoto", shelf[op.OperationID], op.OperationID == "answerFieldNote":
					assert.Equal(t, 404, status, at)
				case op.OperationID == "releaseRevision" && who != "rosalind", op.OperationID == "returnSheet" && !releaser[who]:
					assert.Equal(t, 403, status, at)
				case op.OperationID == "markSheet", op.OperationID == "releaseRevision":
					assert.Equal(t, 409, status, at) // another version, and not every latch is closed
				case op.OperationID == "askSheet":
					assert.Contains(t, []int{204, 409}, status, at) // somebody may have asked already
				case op.OperationID == "returnRevision" && !returners[who], op.OperationID == "withdraw" && !releaser[who], op.OperationID == "arrange" && !writers[who]:
					assert.Equal(t, 403, status, at)
				case op.OperationID == "returnRevision", op.OperationID == "withdraw":
					assert.Equal(t, 409, status, at) // it is a draft
				case op.OperationID == "changeOn":
					assert.Equal(t, 409, status, at) // the page is not at that version
				case op.OperationID == "closeLatch", op.OperationID == "deleteDraft", op.OperationID == "bringBack":
					assert.Equal(t, 409, status, at)
				case op.OperationID == "releaseSheet":
					assert.Equal(t, 409, status, at) // TS1-03 has no draft
				case op.OperationID == "cancelReproof":
					assert.Equal(t, 404, status, at) // nothing is under way
				case op.OperationID == "newSheetDraft" && writers[who], op.OperationID == "undoSheet":
					assert.Contains(t, []int{200, 201, 409}, status, at)
				case op.OperationID == "importFile", op.OperationID == "importEngine":
					assert.Equal(t, 422, status, at)
				case op.OperationID == "newDraft" && who == "rosalind", op.OperationID == "newDraft" && who == "ines", op.OperationID == "undo":
					assert.Contains(t, []int{200, 201, 409}, status, at)
				default:
					assert.Less(t, status, 300, at)
				}
			}
		}
		assert.Equal(t, len(requests), seen)
	}
}

func TestRefusals(t *testing.T) {
	s := open(t)
	c := s.client("ines")
	for _, r := range []struct {
		method, path string
		body         any
		status       int
		says         string
	}{
		{"GET", "/api/revisions/999", nil, 404, "no such revision"},
		{"GET", "/api/revisions/none", nil, 400, ""},
		{"GET", "/api/engines/XX", nil, 404, "no such engine sheet"},
		{"GET", "/api/nothing", nil, 404, ""},
		{"POST", "/api/procedures", map[string]any{"engine": "TQ4-18P", "title": ""}, 422, "needs a title"},
		{"POST", "/api/procedures", map[string]any{"engine": "XX", "title": "x"}, 404, "engine code"},
		{"POST", "/api/procedures/1/drafts", map[string]any{"reason": "x"}, 409, "open revision"},
		{"POST", "/api/procedures/2/drafts", map[string]any{"reason": ""}, 422, "why"},
		{"POST", "/api/revisions/4/edits", map[string]any{"batch": "12345678", "client": "walk", "base": 1, "edits": []any{}}, 422, "between 1 and 500"},
		{"POST", "/api/revisions/4/edits", map[string]any{"batch": "12345678", "client": "walk", "base": 1, "edits": []any{map[string]any{"op": "insert", "step": map[string]any{"id": "q", "phase": "fit", "verb": "yank"}}}}, 422, "no verb"},
		{"POST", "/api/revisions/3/edits", map[string]any{"batch": "12345678", "client": "walk", "base": 99, "edits": []any{map[string]any{"op": "remove", "id": "s01"}}}, 409, "never changes"},
		{"POST", "/api/import", []byte(`{"format":`), 422, "cut off"},
		{"POST", "/api/session", map[string]any{"email": "ines@tarn.example", "password": "wrong"}, 401, "do not belong together"},
	} {
		status, out := s.do(c, r.method, r.path, r.body)
		assert.Equal(t, r.status, status, "%s %s: %s", r.method, r.path, out)
		var p api.Problem
		require.NoError(t, json.Unmarshal(out, &p), "%s", out)
		assert.Equal(t, status, p.Status)
		assert.Contains(t, p.Title+" ", r.says)
	}
	res, err := c.Post(s.url+"/api/session", "application/json", strings.NewReader("{not json"))
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 400, res.StatusCode)
	res, err = c.Post(s.url+"/api/import", "application/octet-stream", io.LimitReader(spaces{}, 70<<20))
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 413, res.StatusCode)
}

type spaces struct{}

func (spaces) Read(p []byte) (int, error) {
	for i := range p {
		p[i] = ' '
	}
	return len(p), nil
}

func TestRequestsFromAnotherSiteAreNotCarriedOut(t *testing.T) {
	s := open(t)
	c := s.client("ines")
	for _, h := range [][2]string{{"Sec-Fetch-Site", "cross-site"}, {"Origin", "https://elsewhere.example"}} {
		req, err := http.NewRequest("POST", s.url+"/api/procedures", strings.NewReader(`{"engine":"TQ4-18P","title":"x"}`))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set(h[0], h[1])
		res, err := c.Do(req)
		require.NoError(t, err)
		res.Body.Close()
		assert.Equal(t, 403, res.StatusCode, h[0])
	}
}

func TestHeadersAndCookie(t *testing.T) {
	s := open(t)
	res, err := http.Post(s.url+"/api/session", "application/json", strings.NewReader(`{"email":"ines@tarn.example","password":"`+demo.Password+`"}`))
	require.NoError(t, err)
	res.Body.Close()
	require.Len(t, res.Cookies(), 1)
	ck := res.Cookies()[0]
	assert.True(t, ck.HttpOnly)
	assert.Equal(t, http.SameSiteStrictMode, ck.SameSite)
	assert.Contains(t, res.Header.Get("Content-Security-Policy"), "default-src 'none'")
	assert.NotContains(t, res.Header.Get("Content-Security-Policy"), "unsafe")
	assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"))
	assert.Equal(t, "no-store", res.Header.Get("Cache-Control"))
}

func TestSignInIsSlowedAndSignOutEnds(t *testing.T) {
	s := open(t)
	c := s.client("ines")
	status, _ := s.do(c, "DELETE", "/api/session", nil)
	assert.Equal(t, 204, status)
	status, _ = s.do(c, "GET", "/api/session", nil)
	assert.Equal(t, 204, status, "nobody is signed in")
	status, _ = s.do(c, "GET", "/api/desk", nil)
	assert.Equal(t, 401, status)
	// All at once: one after another they take as long as the machine is busy, and in
	// that time as many are let through again.
	var slowed atomic.Int64
	var wg sync.WaitGroup
	for i := range 48 {
		wg.Go(func() {
			if status, _ := s.do(c, "POST", "/api/session", map[string]string{"email": fmt.Sprintf("nobody-%d@tarn.example", i), "password": "x"}); status == 429 {
				slowed.Add(1)
			}
		})
	}
	wg.Wait()
	assert.Positive(t, slowed.Load())
}

func TestTheStreamTellsOfANewVersion(t *testing.T) {
	s := open(t)
	ines, jonas := s.client("ines"), s.client("jonas")
	req, err := http.NewRequestWithContext(t.Context(), "GET", s.url+"/api/events?at=ines-window@revisions/4", nil)
	require.NoError(t, err)
	res, err := ines.Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	heard := make(chan string, 16)
	go func() {
		buf := make([]byte, 4096)
		for {
			n, err := res.Body.Read(buf)
			if err != nil {
				return
			}
			heard <- string(buf[:n])
		}
	}()
	assert.Contains(t, <-heard, "here")
	status, _ := s.do(jonas, "POST", "/api/revisions/4/edits", map[string]any{"batch": "stream-test", "client": "jonas-window", "base": 99, "edits": []any{map[string]any{"op": "remove", "id": "s02"}}})
	require.Equal(t, 200, status)
	end := time.After(10 * time.Second)
	for said := ""; !strings.Contains(said, `"version"`); {
		select {
		case e := <-heard:
			said += e
		case <-end:
			t.Fatal("nothing was heard")
		}
	}
}
