package main

import (
	"fmt"
	"runtime/debug"

	"github.com/spf13/cobra"

	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/store"
)

// version is what the program was built from: the commit, where the builder knew it.
func version() string {
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return "unknown"
	}
	out, dirty := info.Main.Version, ""
	for _, s := range info.Settings {
		switch {
		case s.Key == "vcs.revision" && len(s.Value) >= 12:
			out = s.Value[:12]
		case s.Key == "vcs.modified" && s.Value == "true":
			dirty = ", changed"
		}
	}
	if out == "" {
		out = "unknown"
	}
	return out + dirty
}

func versionCommand() *cobra.Command {
	return &cobra.Command{
		Use: "version", Short: "What this program was built from, and the schema it writes", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			goes := "unknown"
			if info, ok := debug.ReadBuildInfo(); ok {
				goes = info.GoVersion
			}
			_, err := fmt.Fprintf(cmd.OutOrStdout(), "inklatch %s\nschema %d\nrules of procedures %s, of engine sheets %s\nbuilt with %s\n", version(), store.SchemaVersion(), pageproof.Edition, sheetproof.Edition, goes)
			return err
		},
	}
}
