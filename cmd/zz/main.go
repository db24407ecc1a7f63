package main

import (
	"fmt"
	"os"
	"path/filepath"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/proof"
	"inklatch/internal/core/step"
	"inklatch/internal/format/latchjson"
)

func main() {
	files, _ := filepath.Glob("demo/*.latch.json")
	for _, f := range files {
		b, _ := os.ReadFile(f)
		d, err := latchjson.Decode(b)
		if err != nil {
			fmt.Println(f, err)
			continue
		}
		x := engine.NewIndex(&d.Engine)
		lex := step.NewLexicon(x)
		add := func(after, id, phase, line string, cautions ...engine.Hazard) {
			if d.Procedure.At(step.ID(id)) >= 0 {
				return
			}
			r := step.Read(lex, line)
			if !r.Read() {
				fmt.Println("UNREAD", line, r.Problem)
				return
			}
			s := step.Step{ID: step.ID(id), Phase: step.Phase(phase), Action: r.Action}
			for _, h := range s.Hazards(x) {
				s.Cautions = append(s.Cautions, step.CautionFor(h))
			}
			i := d.Procedure.At(step.ID(after))
			if i < 0 {
				fmt.Println("NO", after)
				return
			}
			d.Procedure.Steps = append(d.Procedure.Steps[:i+1:i+1], append([]step.Step{s}, d.Procedure.Steps[i+1:]...)...)
		}
		prev := func(verb string, n int) string {
			for i := len(d.Procedure.Steps) - 1; i >= 0; i-- {
				if string(d.Procedure.Steps[i].Action.Verb()) == verb {
					return string(d.Procedure.Steps[i-n].ID)
				}
			}
			return ""
		}
		if len(os.Args) > 1 {
			switch d.Engine.Code {
			case "TQ3-10W":
				add(string(d.Procedure.Steps[0].ID), "drain-oil", "prepare", "drain engine oil")
				add(prev("start", 2), "fill-oil", "close", "fill in 3.8 L of engine oil")
				add(string(d.Procedure.Steps[len(d.Procedure.Steps)-1].ID), "reset-counter", "close", "reset belt counter")
			case "TP4-20M":
				add("s7", "paint", "find", "paint marks across balance belt and balance drive and balance")
				add("s20", "swing", "tension", "swing crank 4 deg to and fro")
				add("s21", "copy-paint", "fit", "copy the paint marks to the new balance belt")
				add("s22", "check-paint", "fit", "check that the paint marks stand")
				add(string(d.Procedure.Steps[len(d.Procedure.Steps)-1].ID), "reset-counter", "close", "reset belt counter")
			}
			out, err := latchjson.Encode(d)
			if err != nil {
				fmt.Println(err)
				continue
			}
			_ = os.WriteFile(f, out, 0o644)
		}
		for _, g := range proof.Prove(x, &d.Procedure, proof.DefaultHouse()) {
			fmt.Println(filepath.Base(f), g.Rule, g.Severity, g.What)
		}
		_ = procedure.Edit{}
	}
}
