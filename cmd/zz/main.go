package main

import (
	"fmt"
	"os"
	"slices"

	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/proof"
	"inklatch/internal/core/step"
	"inklatch/internal/format/latchjson"
)

func main() {
	b, _ := os.ReadFile("demo/renew-timing-belt-r3.latch.json")
	d, err := latchjson.Decode(b)
	if err != nil {
		panic(err)
	}
	x := engine.NewIndex(&d.Engine)
	p := d.Procedure
	cut := slices.IndexFunc(p.Steps, func(s step.Step) bool { return s.Action.Verb() == "take-off" }) + 1
	for cut < len(p.Steps) && p.Steps[cut].Action.Verb() == "remove" {
		cut++
	}
	t := bench.Run(x, &p)
	mid := bench.StandingOf(x, t.Before(cut))
	strip, build := p, p
	strip.Steps, build.Steps = p.Steps[:cut:cut], p.Steps[cut:]
	strip.Title, build.Title = "Open the timing drive for work on the head", "Close the timing drive after work on the head"
	strip.Ends, build.Begins = mid, mid
	strip.Before, build.After = build.Title, strip.Title
	for _, q := range []*procedure.Procedure{&strip, &build} {
		fmt.Println("==", q.Title)
		for _, f := range proof.Prove(x, q, proof.DefaultHouse()) {
			fmt.Println(f.Severity, f.Rule, f.What, f.Steps)
		}
	}
	fmt.Println(mid)
}
