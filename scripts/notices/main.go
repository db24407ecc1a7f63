// Command notices writes THIRD-PARTY.md: what the program is built from, with the texts of
// its licences, from the modules that are linked into it and the packages of its screens.
package main

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
)

type part struct {
	name, version, kind, says string
}

func main() {
	if err := write(); err != nil {
		fmt.Fprintln(os.Stderr, "notices:", err)
		os.Exit(1)
	}
}

func write() error {
	goes, err := modules()
	if err != nil {
		return err
	}
	screens, err := packages()
	if err != nil {
		return err
	}
	var b strings.Builder
	b.WriteString("# What Ink Latch is built from\n\nMade by `make notices` from what the binary ships; a test holds it against that. The texts stand below, each once.\n")
	texts, order := map[string]int{}, []string{}
	list := func(title string, parts []part) {
		fmt.Fprintf(&b, "\n## %s\n\n| part | version | licence | text |\n|---|---|---|---|\n", title)
		for _, p := range parts {
			n, ok := texts[p.says]
			if !ok {
				n = len(order) + 1
				texts[p.says] = n
				order = append(order, p.says)
			}
			fmt.Fprintf(&b, "| %s | %s | %s | [%d](#text-%d) |\n", p.name, p.version, p.kind, n, n)
		}
	}
	list("The server", goes)
	list("The screens", screens)
	b.WriteString("\n## Texts\n")
	for i, t := range order {
		fmt.Fprintf(&b, "\n### Text %d\n\n```\n%s\n```\n", i+1, t)
	}
	return os.WriteFile("THIRD-PARTY.md", []byte(b.String()), 0o644)
}

// modules are the Go modules that are linked into the program, and Go itself.
func modules() ([]part, error) {
	raw, err := exec.Command("go", "list", "-deps", "-f", "{{with .Module}}{{if not .Main}}{{.Path}}\t{{.Version}}\t{{.Dir}}{{end}}{{end}}", "./cmd/inklatch").Output()
	if err != nil {
		return nil, err
	}
	lines := strings.Split(strings.TrimSpace(string(raw)), "\n")
	slices.Sort(lines)
	root, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		return nil, err
	}
	says, err := licence(strings.TrimSpace(string(root)))
	if err != nil {
		return nil, err
	}
	out := []part{{"Go, its library and runtime", strings.TrimPrefix(runtime.Version(), "go"), kindOf(says), says}}
	for _, l := range slices.Compact(lines) {
		f := strings.Split(l, "\t")
		if len(f) != 3 {
			continue
		}
		says, err := licence(f[2])
		if err != nil {
			return nil, fmt.Errorf("%s: %w", f[0], err)
		}
		out = append(out, part{f[0], f[1], kindOf(says), says})
	}
	return out, nil
}

// packages are those of the screens that are not for building alone.
func packages() ([]part, error) {
	raw, err := os.ReadFile("web/package-lock.json")
	if err != nil {
		return nil, err
	}
	var lock struct {
		Packages map[string]struct {
			Version       string
			License       string
			Dev, Optional bool
			DevOptional   bool
		}
	}
	if err := json.Unmarshal(raw, &lock); err != nil {
		return nil, err
	}
	var out []part
	for at, p := range lock.Packages {
		if at == "" || p.Dev || p.Optional || p.DevOptional || strings.Contains(at, "@types/") {
			continue
		}
		name := at[strings.LastIndex(at, "node_modules/")+len("node_modules/"):]
		says, err := licence(filepath.Join("web", at))
		if err != nil {
			says = "Licence: " + p.License + " (as its package says; it brings no text)"
		}
		out = append(out, part{name, p.Version, p.License, says})
	}
	slices.SortFunc(out, func(a, b part) int { return strings.Compare(a.name+a.version, b.name+b.version) })
	return slices.Compact(out), nil
}

// licence is the text of the licence in a folder.
func licence(dir string) (string, error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return "", err
	}
	for _, begins := range []string{"licen", "copying", "unlicense"} {
		for _, e := range entries {
			name := strings.ToLower(e.Name())
			if e.IsDir() || !strings.HasPrefix(name, begins) || strings.HasSuffix(name, ".go") {
				continue
			}
			b, err := os.ReadFile(filepath.Join(dir, e.Name()))
			return strings.TrimSpace(strings.ReplaceAll(strings.ReplaceAll(string(b), "\r\n", "\n"), "```", "'''")), err
		}
	}
	return "", fmt.Errorf("no licence in %s", dir)
}

// kindOf names a licence by what it says, or licences where the text has several.
func kindOf(t string) string {
	t = strings.Join(strings.Fields(t), " ")
	var out []string
	for _, k := range []struct{ says, kind string }{
		{"Apache License Version 2.0", "Apache-2.0"}, {"Mozilla Public License", "MPL-2.0"}, {"Permission to use, copy, modify, and/or distribute this software", "ISC"},
		{"Permission to use, copy, modify, and distribute this software for any purpose with or without fee", "ISC"},
		{"Permission is hereby granted, free of charge", "MIT"}, {"Neither the name", "BSD-3-Clause"}, {"nor the names of its contributors", "BSD-3-Clause"},
		{"Redistributions of source code must retain", "BSD-2-Clause"}, {"This is free and unencumbered software", "Unlicense"}, {"Eclipse Public License", "EPL"},
	} {
		if k.kind == "BSD-2-Clause" && slices.Contains(out, "BSD-3-Clause") || slices.Contains(out, k.kind) {
			continue
		}
		if strings.Contains(t, k.says) {
			out = append(out, k.kind)
		}
	}
	if len(out) == 0 {
		return "see the text"
	}
	return strings.Join(out, ", ")
}
