package desk

import (
	"context"
	"fmt"
	"strings"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/review/adapt"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// CopyAsk is how a page is to be copied to another engine code.
type CopyAsk struct {
	// Engine is the code, Title what the copy is called: as the page where it is empty.
	Engine string `json:"engine"`
	Title  string `json:"title,omitzero"`
	// Answers say what things of the page are on the other engine, by list and id
	// ("locks/crank-pin"): an id of the same list there, or "-" for no such thing.
	Answers map[string]string `json:"answers,omitempty"`
	// Trial only says what would come of it.
	Trial bool `json:"trial,omitzero"`
}

// Copied is what comes of copying a page.
type Copied struct {
	// Revision is the draft, 0 for a trial.
	Revision int64        `json:"revision,omitzero"`
	From     string       `json:"from"`
	Engine   string       `json:"engine"`
	Title    string       `json:"title"`
	Pairs    []adapt.Pair `json:"pairs"`
	// Open is how many of them somebody still has to answer.
	Open int `json:"open"`
	// Steps is how many steps the copy has; Left were left out, Taken come from the other
	// sheet, and Asks become questions at their steps.
	Steps int          `json:"steps"`
	Left  []adapt.Note `json:"left"`
	Taken []adapt.Note `json:"taken"`
	Asks  []adapt.Note `json:"asks"`
	// Findings is how many findings the copy has as it stands, Blocking those that block
	// release.
	Findings int `json:"findings"`
	Blocking int `json:"blocking"`
}

// mostAnswers is how many answers one copy takes.
const mostAnswers = 2000

// Copy copies a page to another engine code as the first draft of a new procedure, or
// tries to. Each thing that the page names has to be matched first; what stands as it
// was said of the first engine becomes a question of whoever copies it, so that the
// author latch stays open until all of them are settled.
func (d *Drafts) Copy(ctx context.Context, u *User, id int64, a CopyAsk) (*Copied, error) {
	if err := MayWrite(u); err != nil {
		return nil, err
	}
	if len(a.Answers) > mostAnswers {
		return nil, &Problem{Status: 422, Title: fmt.Sprintf("A copy takes at most %d answers.", mostAnswers), Field: "answers"}
	}
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	to, err := d.engine(d.store.Reads(ctx), a.Engine)
	if err != nil {
		return nil, err
	}
	if to.sheet.Code == o.p.Engine {
		return nil, &Problem{Status: 422, Title: "This page is of " + to.sheet.Code + " already. Start the next revision from it instead.", Field: "engine"}
	}
	out, page, err := d.copied(o, to, a)
	if err != nil || a.Trial {
		return out, err
	}
	if out.Open > 0 {
		return nil, &Problem{Status: 409, Title: fmt.Sprintf("Not yet: say first what stands for %s on %s.", strings.Join(firstOf(adapt.Open(out.Pairs), 3), ", "), out.Engine), Field: "answers"}
	}
	reason := fmt.Sprintf("Copied from %s, “%s”, revision %d.", o.p.Engine, o.p.Title, o.rev.Number)
	asks := out.Asks
	if len(out.Left) > 0 {
		asks = append([]adapt.Note{{Says: leftOut(out)}}, asks...)
	}
	n := store.NewRevision{Engine: out.Engine, Reason: reason, What: "start copy", Then: func(w *store.Draft) error { return d.askOf(w, u, to, page, asks) }}
	out.Revision, err = d.add(ctx, u, n, the(page))
	return out, err
}

// copied works a copy out.
func (d *Drafts) copied(o *opened, to *known, a CopyAsk) (*Copied, *procedure.Procedure, error) {
	pairs := adapt.Match(o.k.index, to.index, adapt.Things(o.k.index, o.p), a.Answers)
	c, err := adapt.Over(o.k.index, to.index, o.p, pairs)
	if err != nil {
		return nil, nil, err
	}
	if t := strings.TrimSpace(a.Title); t != "" {
		c.Procedure.Title = t
	}
	if err := held(latchjson.CheckProcedure(c.Procedure), ""); err != nil {
		return nil, nil, err
	}
	fs := pageproof.Prove(to.index, c.Procedure, d.house())
	return &Copied{
		From: o.p.Engine, Engine: to.sheet.Code, Title: c.Procedure.Title, Pairs: pairs, Open: len(adapt.Open(pairs)),
		Steps: len(c.Procedure.Steps), Left: c.Left, Taken: c.Taken, Asks: c.Asks, Findings: len(fs), Blocking: pageproof.Blocking(fs),
	}, c.Procedure, nil
}

// leftOut asks about the steps that a copy does not have.
func leftOut(c *Copied) string {
	var b strings.Builder
	fmt.Fprintf(&b, "These steps of %s were left out. What is done in their place on %s?", c.From, c.Engine)
	for _, n := range c.Left {
		fmt.Fprintf(&b, "\n%d. %s %s", n.Number, n.Says, n.Why)
	}
	return b.String()
}

// askOf makes a question at each step of what has to be asked there; what belongs to no
// step is asked of the page.
func (d *Drafts) askOf(w *store.Draft, u *User, to *known, p *procedure.Procedure, asks []adapt.Note) error {
	var order []step.ID
	said := map[step.ID][]string{}
	for i := range asks {
		if said[asks[i].Step] == nil {
			order = append(order, asks[i].Step)
		}
		said[asks[i].Step] = append(said[asks[i].Step], asks[i].Says)
	}
	for _, id := range order {
		m := &store.Remark{Kind: Question, Place: "page", PersonID: u.ID, Body: clip(strings.Join(said[id], "\n"), mostSaid)}
		if at := p.At(id); at >= 0 {
			m.Place, m.StepID, m.Said = "step", string(id), sentence(to, &p.Steps[at])
		}
		if err := w.Say(m, nil); err != nil {
			return err
		}
	}
	return nil
}

// clip shortens a text to so many letters.
func clip(s string, most int) string {
	r := []rune(s)
	if len(r) <= most {
		return s
	}
	return string(r[:most-1]) + "…"
}

func firstOf(all []string, n int) []string {
	if len(all) <= n {
		return all
	}
	return append(append([]string{}, all[:n]...), fmt.Sprintf("and %d more", len(all)-n))
}
